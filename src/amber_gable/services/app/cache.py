"""Results of long computations, kept by everything they depend on.

One thread computes a result while others that want the same wait for it; who wants another waits for
nobody. The results used longest ago go first, when all together take more than a number of bytes.
Not here: what is computed, or what a key must hold (the services that call `ResultCache.get`).
"""

import sys
from collections import OrderedDict
from collections.abc import Callable, Hashable
from concurrent.futures import Future
from dataclasses import dataclass
from threading import Lock
from typing import Any, Generic, TypeVar

import numpy as np
from pydantic import BaseModel
from sqlalchemy.orm import DeclarativeBase

_T = TypeVar("_T")


class _Key:
    """A key that is hashed once: it holds whole tables of what a result depends on."""

    __slots__ = ("hash", "of")

    def __init__(self, of: Hashable) -> None:
        self.of = of
        self.hash = hash(of)

    def __hash__(self) -> int:
        return self.hash

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Key) and self.hash == other.hash and self.of == other.of

    def __reduce__(self) -> tuple[type["_Key"], tuple[Hashable]]:
        # Hashes of texts are another process's own.
        return _Key, (self.of,)


# What many results share and none of them owns: rows of the knowledge tables, rows of the database.
_SHARED = (BaseModel, DeclarativeBase, type)
# A result with more parts than this is weighed by those that were looked at.
_MOST_PARTS = 400_000


@dataclass(frozen=True)
class CacheFigures:
    """Figures of a cache: results, bytes held and allowed, hits and misses since the start."""

    results: int
    size_bytes: int
    limit_bytes: int
    hits: int
    misses: int
    evicted: int


class ResultCache:
    """Results by their keys.

    Parameters
    ----------
    limit_bytes : int
        The most that all results together may take. A larger single result is returned and not kept.
    """

    def __init__(self, limit_bytes: int) -> None:
        self.limit_bytes = limit_bytes
        self._lock = Lock()
        self._kept: OrderedDict[_Key, tuple[Any, int]] = OrderedDict()
        self._under_way: dict[_Key, Future[Any]] = {}
        self._size_bytes = self._hits = self._misses = self._evicted = 0

    def get(self, key: Hashable, compute: Callable[[], _T], before_waiting: Callable[[], object] = lambda: None) -> _T:
        """Return what `compute` gives for `key`, computed once however many ask at the same time; the others wait.

        A key holds everything the result depends on, so that nothing stale can be found. An error
        reaches everybody who waits, and is not kept.
        """
        hashed = _Key(key)
        with self._lock:
            if (entry := self._entry(hashed)) is not None:
                kept: _T = entry[0]
                return kept
            waiting = self._under_way.get(hashed)
            if waiting is None:
                self._misses += 1
                own: Future[Any] = Future()
                self._under_way[hashed] = own
        if waiting is not None:
            before_waiting()
            result: _T = waiting.result()
            return result
        try:
            made = compute()
        except BaseException as fault:
            with self._lock:
                del self._under_way[hashed]
            own.set_exception(fault)
            raise
        with self._lock:
            self._keep(hashed, made)
            del self._under_way[hashed]
        own.set_result(made)
        return made

    def peek(self, key: Hashable) -> Any:
        """Return a result that is there; None where it would have to be computed."""
        with self._lock:
            entry = self._entry(_Key(key))
            return None if entry is None else entry[0]

    def _entry(self, key: _Key) -> tuple[Any, int] | None:
        entry = self._kept.get(key)
        if entry is not None:
            self._hits += 1
            self._kept.move_to_end(key)
        return entry

    def _keep(self, key: _Key, value: Any) -> None:
        size = size_bytes(value) + size_bytes(key.of)
        if size > self.limit_bytes:
            return
        self._kept[key] = (value, size)
        self._size_bytes += size
        while self._size_bytes > self.limit_bytes:
            _, (_, oldest) = self._kept.popitem(last=False)
            self._size_bytes -= oldest
            self._evicted += 1

    def clear(self) -> None:
        """Forget everything that was kept."""
        with self._lock:
            self._kept.clear()
            self._size_bytes = 0

    def figures(self) -> CacheFigures:
        with self._lock:
            return CacheFigures(len(self._kept), self._size_bytes, self.limit_bytes, self._hits, self._misses, self._evicted)


class Latest(Generic[_T]):
    """The latest state of some things, each by its revision; those looked at longest ago go first.

    Who is given one only reads it.
    """

    def __init__(self, most: int) -> None:
        self.most = most
        self._lock = Lock()
        self._kept: OrderedDict[str, tuple[int, _T]] = OrderedDict()

    def get(self, key: str, revision: int) -> _T | None:
        """Return what is kept of `key`, if it is of that revision."""
        with self._lock:
            entry = self._kept.get(key)
            if entry is None or entry[0] != revision:
                return None
            self._kept.move_to_end(key)
            return entry[1]

    def keep(self, key: str, revision: int, value: _T) -> None:
        with self._lock:
            self._kept[key] = (revision, value)
            self._kept.move_to_end(key)
            while len(self._kept) > self.most:
                self._kept.popitem(last=False)


def size_bytes(value: Any) -> int:
    """Return about how many bytes a result holds: its arrays and texts, and what it is made of.

    Rows of the tables, which results only point to, are not counted.
    """
    seen: set[int] = set()
    left, total, parts = [value], 0, 0
    while left and parts < _MOST_PARTS:
        one = left.pop()
        of = type(one)
        if of in _SMALL:
            # Most of all parts; where two hold the same one, it is counted twice.
            parts += 1
            total += _SMALL[of]
            continue
        kind = _KINDS.get(of) or _KINDS.setdefault(of, _kind(of))
        if kind == "shared" or id(one) in seen:
            continue
        seen.add(id(one))
        parts += 1
        if kind == "array":
            # A view holds on to the whole it is a part of.
            total += int(one.nbytes if one.base is None else getattr(one.base, "nbytes", one.nbytes))
            continue
        total += sys.getsizeof(one, 64)
        if kind == "dict":
            left += one.keys()
            left += one.values()
        elif kind == "many":
            left += one
        elif kind == "object":
            left += vars(one).values()
    return total


# Numbers and the like, by what one takes at most.
_SMALL: dict[type, int] = {int: 32, float: 24, bool: 0, type(None): 0}
# Asked once a type: some of the classes take long to say what is theirs.
_KINDS: dict[type, str] = {}


def _kind(of: type) -> str:
    """Return how a value of a type is weighed."""
    if issubclass(of, _SHARED) or any("__call__" in vars(base) for base in of.__mro__):
        return "shared"
    if issubclass(of, np.ndarray):
        return "array"
    if issubclass(of, dict):
        return "dict"
    if issubclass(of, list | tuple | set | frozenset):
        return "many"
    return "object" if of.__dictoffset__ else "plain"
