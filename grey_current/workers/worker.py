"""A helper: does parts of what the program searches for, the last first, until the program goes.

Run as `python -m grey_current.workers.worker HANDLE MODULE:FUNCTION…`; the functions make it ready.
It is told over its standard input what to do, and answers over its standard output.
"""

from __future__ import annotations

import gc
import importlib
import os
import sys
from typing import IO, Any, Protocol

from grey_current.workers.claims import Claims
from grey_current.workers.messages import packed, received

READY, PART, DONE = "ready", "part", "done"
# How far a helper stands back for what the window does.
NICE = 5


class Task(Protocol):
    """What is shared: made in every helper from what the program sends, which is as it was for
    `last` or similar.
    """

    def __init__(self, sent: Any, last: Any) -> None: ...

    def part(self, number: int) -> object:
        """What one part comes to; it goes through a pipe."""


def main(handle: int, prepare: list[str]) -> None:
    """Work until the program has gone."""
    os.nice(NICE)
    answers = os.fdopen(os.dup(1), "wb")
    os.dup2(2, 1)  # what a library prints must not come between
    claims = Claims(handle)
    for name in prepare:
        module, _, function = name.partition(":")
        getattr(importlib.import_module(module), function)()
    gc.freeze()  # what is there now is there for good
    _tell(answers, packed((READY, 0, 0, None)))
    last: dict[type, Task] = {}
    while True:
        work, kind, sent = received(sys.stdin.buffer)
        try:
            task = last[kind] = kind(sent, last.get(kind))
        except Exception:  # the program does what its helpers cannot, and meets whatever it was
            claims_left = False
        else:
            claims_left = True
        while claims_left and (number := claims.take(work, first=False)) is not None:
            try:
                found = packed((PART, work, number, task.part(number)))
            except Exception:
                break
            _tell(answers, found)
        _tell(answers, packed((DONE, work, 0, None)))


def _tell(answers: IO[bytes], message: bytes) -> None:
    answers.write(message)
    answers.flush()


if __name__ == "__main__":
    try:
        main(int(sys.argv[1]), sys.argv[2:])
    except (EOFError, BrokenPipeError, KeyboardInterrupt):
        os._exit(0)  # the program has gone; there is nobody to say anything to
