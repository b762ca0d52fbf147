"""The program's side: helpers are begun, told what to do, and what they find is put together with
its own share.
"""

from __future__ import annotations

import contextlib
import os
import subprocess
import sys
import threading
from collections.abc import Callable, Sequence
from queue import Empty, SimpleQueue
from typing import Any, Self, TypeVar

from grey_current.workers.claims import MOST, Claims
from grey_current.workers.messages import packed, received
from grey_current.workers.worker import DONE, PART, READY, Task

PartT = TypeVar("PartT")
GONE = "gone"
# s after which one who waits for a helper looks whether its answer is still wanted.
LOOKS = 0.05
# s without a word from a helper after which it is taken to hang.
PATIENCE = 60.0


class Crew:
    """Some helpers that share one piece of work at a time; without any, or while they begin, the
    program does all.

    `prepare` names functions ("module:function") that make a helper ready. Raises nothing: a helper
    that cannot be begun, ends or hangs is done without.
    """

    def __init__(self, count: int, prepare: Sequence[str] = ()) -> None:
        self._claims = Claims() if count else None
        self._lock = threading.Lock()
        self._one_at_a_time = threading.Lock()
        self._told: SimpleQueue[tuple[_Helper, str, int, int, Any]] = SimpleQueue()
        self._now: tuple[int, bytes] | None = None
        self._ready: set[_Helper] = set()
        self._busy: set[_Helper] = set()
        self._begun = threading.Semaphore(0)
        self.helpers: list[_Helper] = []
        if self._claims is not None:
            with contextlib.suppress(OSError):
                while len(self.helpers) < count:
                    self.helpers.append(_Helper(self._claims.handle, prepare, self._heard))

    def __enter__(self) -> Self:
        return self

    def __exit__(self, *_: object) -> None:
        self.stop()

    def wait(self, seconds: float = PATIENCE) -> None:
        """Until every helper is ready, or has gone."""
        for _ in self.helpers:
            self._begun.acquire(timeout=seconds)

    def stop(self) -> None:
        """Send the helpers away."""
        for helper in self.helpers:
            helper.end()
        if self._claims is not None:
            self._claims.close()

    def share(
        self,
        task: type[Task],
        sent: object,
        count: int,
        own: Callable[[int], PartT],
        should_continue: Callable[[], bool] = lambda: True,
    ) -> list[PartT] | None:
        """What all parts of a piece of work come to, in their order; None once `should_continue`
        returns False.

        Parameters
        ----------
        task, sent
            What a helper makes of what it is sent; its `part` answers as `own` does.
        count
            How many parts there are.
        own
            Does one of them here, the first ones first, while helpers do the last.
        should_continue
            Asked before each part and while helpers are waited for.

        Raises
        ------
        What `own` raises.
        """
        found: dict[int, PartT] = {}
        claims = self._claims
        if claims is None or count > MOST or not self._one_at_a_time.acquire(blocking=False):
            return _alone(range(count), found, own, should_continue)
        try:
            work = claims.begin(count)
            self._tell_all(work, packed((work, task, sent)))
            while (number := claims.take(work, first=True)) is not None:
                if not should_continue():
                    return None
                found[number] = own(number)
            if not self._gathered(work, count, found, should_continue):
                return None
            return _alone(range(count), found, own, should_continue)
        finally:
            claims.end()
            with self._lock:
                self._now = None
            self._one_at_a_time.release()

    def _tell_all(self, work: int, message: bytes) -> None:
        with self._lock:
            self._now = work, message
            self._busy = set(self._ready)
            for helper in self._busy:
                helper.tell(message)

    def _gathered(
        self, work: int, count: int, found: dict[int, Any], should_continue: Callable[[], bool]
    ) -> bool:
        """Wait for what helpers have taken; what none of them brings is left out. False when it is
        not wanted.
        """
        quiet = 0.0
        while len(found) < count:
            if not should_continue():
                return False
            try:
                helper, kind, of, number, answer = self._told.get(
                    timeout=LOOKS if self._busy else 0
                )
            except Empty:
                if not self._busy:
                    return True
                quiet += LOOKS
                for hanging in list(self._busy) if quiet > PATIENCE else ():
                    hanging.end()
                continue
            quiet = 0.0
            if kind == PART and of == work:
                found[number] = answer
            elif kind == GONE or (kind == DONE and of == work):
                with self._lock:
                    self._busy.discard(helper)
        return True

    def _heard(self, helper: _Helper, kind: str, work: int, number: int, answer: Any) -> None:
        """A word of a helper, in the thread that listens to it; one that is ready late joins in
        what is under way.
        """
        with self._lock:
            if kind == READY:
                self._ready.add(helper)
                self._begun.release()
                if self._now is not None:
                    self._busy.add(helper)
                    helper.tell(self._now[1])
            elif kind == GONE:
                self._ready.discard(helper)
                self._begun.release()
        self._told.put((helper, kind, work, number, answer))


# Nobody helps.
ALONE = Crew(0)


def _alone(
    numbers: range,
    found: dict[int, PartT],
    own: Callable[[int], PartT],
    should_continue: Callable[[], bool],
) -> list[PartT] | None:
    """All parts, those that are not found yet done here."""
    for number in numbers:
        if number not in found:
            if not should_continue():
                return None
            found[number] = own(number)
    return [found[number] for number in numbers]


class _Helper:
    """One helper's process, a thread that listens to it and one that talks to it, so that nobody
    waits for a pipe.
    """

    def __init__(
        self,
        handle: int,
        prepare: Sequence[str],
        heard: Callable[[_Helper, str, int, int, Any], None],
    ) -> None:
        command = [sys.executable, "-P", "-m", "grey_current.workers.worker", str(handle), *prepare]
        self.process = subprocess.Popen(
            command,
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            # What a helper cannot do the program does itself, and says what is wrong.
            stderr=subprocess.DEVNULL,
            pass_fds=(handle,),
            start_new_session=True,
            env={**os.environ, "OPENBLAS_NUM_THREADS": "1"},
        )
        self._heard = heard
        self._letters: SimpleQueue[bytes | None] = SimpleQueue()
        self._threads = [
            threading.Thread(target=work, name="helper", daemon=True)
            for work in (self._listen, self._talk)
        ]
        for thread in self._threads:
            thread.start()

    def tell(self, message: bytes) -> None:
        """Send something, without waiting for it to be read."""
        self._letters.put(message)

    def end(self) -> None:
        """Send it away, now."""
        self._letters.put(None)
        self.process.kill()
        self.process.wait()
        for thread in self._threads:
            thread.join()

    def _listen(self) -> None:
        pipe = self.process.stdout
        assert pipe is not None
        with pipe, contextlib.suppress(EOFError):
            while True:
                self._heard(self, *received(pipe))
        self._heard(self, GONE, 0, 0, None)

    def _talk(self) -> None:
        pipe = self.process.stdin
        assert pipe is not None
        with contextlib.suppress(BrokenPipeError), pipe:
            while (message := self._letters.get()) is not None:
                pipe.write(message)
                pipe.flush()
