"""What helpers are asked to do in tests: something easy, and everything that may go wrong with
it."""

from __future__ import annotations

import os
import sys
import time

from grey_current.workers.pool import Crew


class Times:
    """Part n is n times what was sent; how many it has made of its kind before, too."""

    def __init__(self, sent: int, last: Times | None) -> None:
        self.sent = sent
        self.before: int = last.before + 1 if last else 0

    def part(self, number: int) -> tuple[int, int]:
        time.sleep(0.002)
        return self.sent * number, self.before


class Amiss(Times):
    """The same with something amiss, which `sent` says."""

    def __init__(self, sent: str, last: object) -> None:
        if sent == "refuses":
            raise LookupError(sent)
        self.what = sent

    def part(self, number: int) -> tuple[int, int]:
        time.sleep(0.002)
        if self.what == "fails" and number % 3 == 0:
            raise ValueError(number)
        if self.what == "ends" and number < 50:
            os._exit(3)
        if self.what == "cannot be sent":
            return lambda: number  # type: ignore[return-value]
        if self.what == "prints":
            sys.stdout.write("something that is no answer\n")
            sys.stdout.flush()
        return 7 * number, 0


def slowly(number: int) -> tuple[int, int]:
    """A part done by the program itself."""
    time.sleep(0.002)
    return 7 * number, -1


def unable() -> None:
    """Cannot be made ready."""
    raise RuntimeError


if __name__ == "__main__":  # a program with a helper, which is killed in the middle of its work
    crew = Crew(1)
    crew.wait()
    sys.stdout.write(f"{crew.helpers[0].process.pid}\n")
    sys.stdout.flush()
    crew.share(Times, 7, 3000, slowly)
