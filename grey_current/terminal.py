"""What a command says, put out whole or not at all, in the letters that the terminal has. No
project is known here.
"""

from __future__ import annotations

import codecs
import contextlib
import io
import os
import sys
from collections.abc import Callable
from typing import TextIO

# What stands in for letters that a terminal may lack.
PLAIN = {
    "³": "3",
    "²": "2",
    "→": "->",
    "−": "-",
    "–": "-",
    "—": "-",
    "×": "x",
    "°": " deg",
    "“": '"',
    "”": '"',
    "’": "'",
    "…": "...",
    "√": "sqrt",
    "ρ": "rho",
    "½": "1/2",
    "¼": "1/4",
    "¾": "3/4",
    "·": "*",
    "•": "-",
}
# Exit status when what was said could not be put out.
BROKEN = 2
# Exit status after Ctrl-C, as shells have it.
INTERRUPTED = 130


def said_plainly(problem: UnicodeError) -> tuple[str, int]:
    """An error handler of the codecs: letters that cannot be written, in plain ones."""
    if not isinstance(problem, UnicodeEncodeError):
        raise problem
    text = problem.object[problem.start : problem.end]
    return "".join(PLAIN.get(letter, "?") for letter in text), problem.end


codecs.register_error("plainly", said_plainly)


class _Said(io.StringIO):
    """What a command has printed and nobody has seen yet, and where it goes."""

    def __init__(self, program: str) -> None:
        super().__init__()
        self.program, self.goes_to = program, sys.stdout

    def put_out(self) -> None:
        """Put out what there is. Raises `SystemExit` when that cannot be written."""
        text = self.getvalue()
        self.seek(0)
        self.truncate(0)
        with contextlib.redirect_stdout(self.goes_to):
            status = _put_out(text, 0, self.program)
        if status:
            raise SystemExit(status)


def now() -> None:
    """Put out what was printed so far: in a conversation the other side waits for it."""
    if isinstance(sys.stdout, _Said):
        sys.stdout.put_out()


def run(command: Callable[[], int], program: str) -> int:
    """Run a command and put out what it printed, when it is done or says `now`; returns its exit
    status.

    A reader that stops reading early is no fault; a full disk is one, and so is Ctrl-C, each said
    in a sentence.
    """
    said = _Said(program)
    try:
        with contextlib.redirect_stdout(said):
            status = command()
    except KeyboardInterrupt:
        complain(program, "stopped by Ctrl-C; nothing was changed.")
        return INTERRUPTED
    return _put_out(said.getvalue(), status, program)


def _put_out(text: str, status: int, program: str) -> int:
    if sys.stdout is None:
        if text:
            complain(
                program,
                "what it says could not be written (its output is closed); open it, or name a "
                "file.",
            )
        return BROKEN if text else status
    try:
        _plainly(sys.stdout).write(text)
        sys.stdout.flush()
    except BrokenPipeError:
        _let_go(sys.stdout)
    except KeyboardInterrupt:
        _let_go(sys.stdout)
        return INTERRUPTED
    except OSError as problem:
        _let_go(sys.stdout)
        why = (problem.strerror or type(problem).__name__).lower()
        complain(
            program,
            f"what it says could not be written ({why}); free some space or choose another place.",
        )
        return BROKEN
    return status


def complain(program: str, sentence: str) -> None:
    """A sentence to whoever watches the terminal; nothing where that was closed."""
    if sys.stderr is None:
        return
    with contextlib.suppress(OSError):
        _plainly(sys.stderr).write(f"{program}: {sentence}\n")
        sys.stderr.flush()


def _plainly(stream: TextIO) -> TextIO:
    """A stream that writes in plain letters what its encoding lacks."""
    if isinstance(stream, io.TextIOWrapper):
        stream.reconfigure(errors="plainly")
    return stream


def _let_go(stream: TextIO) -> None:
    """Nobody reads this any more; keep Python from complaining when it ends."""
    with contextlib.suppress(OSError, ValueError, AttributeError):
        os.dup2(os.open(os.devnull, os.O_WRONLY), stream.fileno())
