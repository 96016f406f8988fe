"""The calculator: a process of its own for what computes long, so that pages of other jobs stay quick meanwhile.

It is given a function of the core by its name and values as arguments, and gives a value back. One
computation at a time: while it is busy, who asks computes in place instead of waiting.
Not here: what is kept of its results (cache), or when they are asked for (keeper).
"""

import importlib
import logging
import os
import pickle
import subprocess
import sys
from collections.abc import Callable, Sequence
from contextlib import suppress
from threading import Lock
from typing import IO, Any, TypeVar

from amber_gable.services.app.machine.memory import give_back, hold_little

log = logging.getLogger(__name__)
_T = TypeVar("_T")
_LENGTH_BYTES = 8
# What nearly every question needs, and what takes longest to import.
_IMPORTS = (
    "amber_gable.core.windows.run",
    "amber_gable.core.windows.chances",
    "amber_gable.core.wall.balance",
    "pvlib.irradiance",
    "pvlib.location",
)


class Calculator:
    """A child process that computes; started at the first question, and anew where it died."""

    def __init__(self) -> None:
        self._lock = Lock()
        self._process: subprocess.Popen[bytes] | None = None
        self._is_closed = False

    def start(self) -> None:
        """Start the process now, so that its imports are done when the first question comes."""
        with self._lock:
            if self._process is None and not self._is_closed:
                self._process = _begun(at_once=True)

    def run(self, function: Callable[..., _T], *arguments: Any, waits: bool = False) -> _T:
        """Return `function(*arguments)`.

        Parameters
        ----------
        function : callable
            A function of a module, found again by its name.
        *arguments
            Values that can be pickled.
        waits : bool
            Wait for the process while it is busy, instead of computing in place.

        Raises
        ------
        Exception
            What the function raises.
        """
        if not self._lock.acquire(blocking=waits):
            return function(*arguments)
        try:
            if self._is_closed:
                return function(*arguments)
            try:
                is_fine, answer = self._ask((function.__module__, function.__qualname__, arguments))
            except (OSError, EOFError, pickle.PickleError) as fault:
                # It was killed, or the machine has no room for it: the page is answered all the same.
                log.warning("the calculator did not answer (%s); computed in place", fault)
                self._end()
                return function(*arguments)
        finally:
            self._lock.release()
        if not is_fine:
            raise answer
        result: _T = answer
        return result

    def _ask(self, question: tuple[str, str, tuple[Any, ...]]) -> tuple[bool, Any]:
        if self._process is not None and self._process.poll() is not None:
            self._end()
        if self._process is None:
            self._process = _begun(at_once=False)
        assert self._process.stdin is not None
        assert self._process.stdout is not None
        send(self._process.stdin, question)
        is_fine, answer = receive(self._process.stdout)
        return bool(is_fine), answer

    def _end(self) -> None:
        if self._process is not None:
            with suppress(OSError):
                self._process.kill()
            self._process.wait(timeout=10)
            for pipe in (self._process.stdin, self._process.stdout):
                with suppress(OSError):
                    assert pipe is not None
                    pipe.close()
            self._process = None

    def close(self) -> None:
        """End the process; later questions are computed in place."""
        self._is_closed = True
        with self._lock:
            self._end()


def _begun(*, at_once: bool) -> "subprocess.Popen[bytes]":
    return begin("amber_gable.services.app.calculator", "serve", f"{_IMPORTS if at_once else ()}")


def begin(module: str, function: str, argument: str = "") -> "subprocess.Popen[bytes]":
    """Begin a process that runs a function of a module and is spoken to by its standard input and output."""
    # -c and no file: nothing of the parent's main module is run again. Its own group, so that Ctrl-C ends the parent first.
    command = [sys.executable, "-c", f"from {module} import {function}; {function}({argument})"]
    return subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, start_new_session=True)


def send(pipe: IO[bytes], value: Any) -> None:
    """Write a value to a pipe."""
    content = pickle.dumps(value, protocol=pickle.HIGHEST_PROTOCOL)
    pipe.write(len(content).to_bytes(_LENGTH_BYTES, "big"))
    pipe.write(content)
    pipe.flush()


def receive(pipe: IO[bytes]) -> Any:
    """Read a value from a pipe.

    Raises
    ------
    EOFError
        If the other side is gone.
    """
    head = pipe.read(_LENGTH_BYTES)
    if len(head) < _LENGTH_BYTES:
        raise EOFError("it ended")
    content = pipe.read(int.from_bytes(head, "big"))
    return pickle.loads(content)


def serve(imports: Sequence[str]) -> None:
    """Answer questions until the parent is gone; the process's own loop. Modules that are named are imported before any comes."""
    # Results go out by the real standard output; what a library prints must not come between.
    answers = os.fdopen(os.dup(1), "wb")
    os.dup2(2, 1)
    hold_little()
    with suppress(OSError):
        os.nice(5)
    for name in imports:
        importlib.import_module(name)
    while True:
        try:
            module, function, arguments = receive(sys.stdin.buffer)
        except EOFError:
            return
        try:
            answer: tuple[bool, Any] = (True, getattr(importlib.import_module(module), function)(*arguments))
            content = answer
        except Exception as fault:
            content = (False, fault)
        with suppress(BrokenPipeError):
            send(answers, content)
        # A plan of thirty jobs is a quarter of a gigabyte of hours; nothing of it is needed for the next question.
        del module, function, arguments, content
        give_back()
