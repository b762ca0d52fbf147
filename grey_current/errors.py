"""The errors that a user may meet. Each one is one clear sentence made from its fields.

Tree by outcome: something typed or read cannot be used (`InputError`), something cannot be done to
an element (`RefusedEdit`), a file cannot be read or written (`FileError`), the ductwork cannot be
computed (`DuctworkError`). Imports only `numerals`.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from grey_current.numerals import in_marks

# Letters of a sentence; names and values that somebody else wrote can have any number.
LONGEST = 400


# Letters of a value that are quoted.
QUOTED = 60


def _capital(text: str) -> str:
    return f"{text[:1].upper()}{text[1:]}"


def _short(text: str) -> str:
    return text if len(text) <= QUOTED else f"{text[: QUOTED - 3]}..."


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

    def __post_init__(self) -> None:
        # What would do is written as figures are read: 2,3 m where a comma is the mark.
        self.rule = in_marks(self.rule)

    @property
    def sentence(self) -> str:
        place = _capital(self.where)
        if self.value is None:
            return f"{place}: {self.rule}."
        shown = repr(self.value) if isinstance(self.value, str) else f"{self.value}"
        return f"{place}: {_short(shown)} cannot be used; {self.rule}."

    def beside(self, typed: str) -> str:
        """The sentence under the field in which something was typed: where it is can be seen, and
        what was typed is quoted as it was.
        """
        if not typed.strip():
            return f"{_capital(self.rule)}."
        return " ".join(f"“{_short(typed.strip())}” cannot be used; {self.rule}.".split())


@dataclass
class DoubtfulInput(InputError):
    """Something typed that may mean either of two things, and how each is written."""

    choices: tuple[str, ...] = ()

    @property
    def sentence(self) -> str:
        return f"{_capital(self.where)}: {self._question}"

    def beside(self, typed: str) -> str:
        del typed
        return self._question

    @property
    def _question(self) -> str:
        return f"'{self.value}' may mean {' or '.join(self.choices)}; {self.rule}."


@dataclass
class ValueRefused(InputError):
    """A value that its model refuses: what the model is, and its own account of what is wrong, to
    be said in units.
    """

    kind: Any = None
    fault: Any = None
    # What it is a value of, where that is known.
    owner: str = ""


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
        return f"{_capital(self.element)}: {self.attempt} is not possible; {self.remedy}."


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
