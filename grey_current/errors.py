"""The errors that a user may meet. Each one is one clear sentence made from its fields.

Tree by outcome: something typed or read cannot be used (`InputError`), something cannot be done to
an element (`RefusedEdit`), a file cannot be read or written (`FileError`), the ductwork cannot be
computed (`DuctworkError`). Imports nothing.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

# Letters of a sentence; names and values that somebody else wrote can have any number.
LONGEST = 400


@dataclass
class GreyCurrentError(Exception):
    """Base of all errors shown to a user; `str()` of it is the sentence."""

    def __str__(self) -> str:
        """The sentence, on one line and no longer than one reads."""
        line = " ".join(self.sentence.split())
        return line if len(line) <= LONGEST else f"{line[: LONGEST // 2]} … {line[-LONGEST // 2 :]}"

    @property
    def sentence(self) -> str:
        """The one sentence that says what, where and how to mend it."""
        raise NotImplementedError


@dataclass
class InputError(GreyCurrentError):
    """A value that cannot be used: where it stands, what it was (None where only the rule tells),
    what would do.
    """

    where: str
    value: object
    rule: str

    @property
    def sentence(self) -> str:
        if self.value is None:
            return f"{self.where}: {self.rule}."
        shown = repr(self.value) if isinstance(self.value, str) else f"{self.value}"
        if len(shown) > 60:
            shown = shown[:57] + "..."
        return f"{self.where}: {shown} cannot be used; {self.rule}."


@dataclass
class DoubtfulInput(InputError):
    """Something typed that may mean either of two things, and how each is written."""

    choices: tuple[str, ...] = ()

    @property
    def sentence(self) -> str:
        return f"{self.where}: '{self.value}' may mean {' or '.join(self.choices)}; {self.rule}."


@dataclass
class ValueRefused(InputError):
    """A value that its model refuses: what the model is, and its own account of what is wrong, to
    be said in units.
    """

    kind: Any = None
    fault: Any = None


@dataclass
class RefusedEdit(GreyCurrentError):
    """Something that cannot be done to an element: which, what was tried, and what would do
    instead.
    """

    element: str
    attempt: str
    remedy: str

    @property
    def sentence(self) -> str:
        return (
            f"{self.element[:1].upper()}{self.element[1:]}: {self.attempt} is not possible; "
            f"{self.remedy}."
        )


@dataclass
class FileError(GreyCurrentError):
    """A file that cannot be read or written: which, why, and how to mend it."""

    path: str
    problem: str
    remedy: str

    @property
    def sentence(self) -> str:
        return f"{self.path}: {self.problem}; {self.remedy}."


@dataclass
class FileChanged(FileError):
    """A file that is not as this program last read or wrote it."""


@dataclass
class Told(GreyCurrentError):
    """What another program of ours said about its own refusal, passed on as it is."""

    words: str

    @property
    def sentence(self) -> str:
        return self.words


@dataclass
class DuctworkError(GreyCurrentError):
    """Ductwork that makes no sense as a whole: the element, what is wrong, and how to mend it."""

    element: str
    problem: str
    remedy: str

    @property
    def sentence(self) -> str:
        return f"{self.element} {self.problem}; {self.remedy}."
