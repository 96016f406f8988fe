"""What the C library does with memory that is given back to it.

By itself it keeps a store of memory for each thread, and keeps large blocks once it has met any: a server of twenty threads that
computes with arrays then holds twice what it uses. Not here: what results are kept (services.app.cache).
"""

import ctypes
from contextlib import suppress

# Of glibc's malloc.h: the number of stores, and the size of a block from which on it is the system's own [bytes].
_ARENA_MAX, _MMAP_THRESHOLD = -8, -3
_STORES, _LARGE_BYTES = 2, 256 * 1024


def hold_little() -> None:
    """Let threads share their stores and give large blocks back at once; once for each process, before it begins threads."""
    with suppress(OSError, AttributeError):
        library = ctypes.CDLL(None)
        library.mallopt(_ARENA_MAX, _STORES)
        library.mallopt(_MMAP_THRESHOLD, _LARGE_BYTES)


def give_back() -> None:
    """Give back to the system what is free in between."""
    with suppress(OSError, AttributeError):
        ctypes.CDLL(None).malloc_trim(0)
