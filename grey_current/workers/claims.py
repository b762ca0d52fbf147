"""Who does which part of a piece of work: some memory that several processes see, in which each
part is taken once.
"""

from __future__ import annotations

import fcntl
import mmap
import os
import struct
from collections.abc import Iterator
from contextlib import contextmanager

# Parts that one piece of work may have.
MOST = 4000
# Which piece of work is under way, 0 for none, and how many parts it has; then a byte for each, 1
# when it is taken.
_HEAD = struct.Struct("=ii")


class Claims:
    """The parts of one piece of work after the other. `handle` is an open file that the others
    inherit.
    """

    def __init__(self, handle: int | None = None) -> None:
        self.handle = os.memfd_create("claims") if handle is None else handle
        if handle is None:
            os.ftruncate(self.handle, _HEAD.size + MOST)
        self._memory = mmap.mmap(self.handle, _HEAD.size + MOST)
        self._last = 0

    def begin(self, count: int) -> int:
        """A new piece of work of so many parts, none of them taken; returns its number. Whatever
        went on is over.
        """
        with self._locked():
            self._last += 1
            self._memory[:] = _HEAD.pack(self._last, count) + bytes(MOST)
        return self._last

    def end(self) -> None:
        """Nothing is to be done any more."""
        with self._locked():
            self._memory[: _HEAD.size] = _HEAD.pack(0, 0)

    def going_on(self, work: int) -> bool:
        """Whether a piece of work is the one under way."""
        return bool(_HEAD.unpack_from(self._memory)[0] == work)

    def take(self, work: int, *, first: bool) -> int | None:
        """Take the first or the last part that nobody has; None where there is none, or the work is
        over.
        """
        with self._locked():
            number, count = _HEAD.unpack_from(self._memory)
            if number != work:
                return None
            find = self._memory.find if first else self._memory.rfind
            found = find(b"\0", _HEAD.size, _HEAD.size + count)
            if found < 0:
                return None
            self._memory[found] = 1
        return found - _HEAD.size

    def close(self) -> None:
        """Let go of the memory; those who inherited it keep theirs."""
        self._memory.close()
        os.close(self.handle)

    @contextmanager
    def _locked(self) -> Iterator[None]:
        """Nobody else looks or takes meanwhile; a lock of a process that ends is let go of."""
        fcntl.lockf(self.handle, fcntl.LOCK_EX)
        try:
            yield
        finally:
            fcntl.lockf(self.handle, fcntl.LOCK_UN)
