"""A cause: the one thing behind many findings, what it takes, and the cheapest cure of it."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum
from typing import NamedTuple

from grey_current.design.parts.costs import Cost
from grey_current.shop.edits import Change


class Oddity(Enum):
    """How far out of the ordinary a cause is: what is set wrong, worn or missing, what was built
    wrong, and what could merely be larger or better.

    The value weighs what its cure wins. Allowance: with equal gains one looks at a gate that was
    left open before one rebuilds a main, and rebuilds a main before one buys a collector.
    """

    SET_WRONG = 1.0
    BUILT_WRONG = 0.9
    COULD_BE_BETTER = 0.5


# Every code that a cause may have, with how odd it is.
ODDITY: dict[str, Oddity] = {
    **dict.fromkeys(
        (
            "gate-open",
            "gate-shut",
            "gate-part-open",
            "open-end",
            "filter-loaded",
            "no-gates",
            "duct-leak",
            "own-fan-off",
            "return-opening-small",
            "two-at-once",
        ),
        Oddity.SET_WRONG,
    ),
    **dict.fromkeys(
        (
            "no-collector",
            "not-connected",
            "left-open",
            "separator-lossy",
            "hose-long",
            "port-narrow",
            "main-small",
            "main-large",
            "branch-small",
            "elbow-at-inlet",
            "kind-wrong",
            "own-fan-against",
            "intake-small",
        ),
        Oddity.BUILT_WRONG,
    ),
    **dict.fromkeys(
        (
            "gate-leaky",
            "hose-rough",
            "bends-many",
            "filter-small",
            "machine-far",
            "collector-far",
            "pickups-many",
            "chips-through-fan",
            "collector-small",
        ),
        Oddity.COULD_BE_BETTER,
    ),
}


class Explained(NamedTuple):
    """A finding that a cause explains: its code and the element that it is about."""

    code: str
    element: str


@dataclass(frozen=True)
class Suspect:
    """Something out of the ordinary, before it is known what it takes.

    Attributes:
        code: A key of `ODDITY`.
        elements: The ids of what is out of the ordinary.
        says: What it is, in a clause with a verb: "Seven branches have no gate".
        cures: Changes that would take it away; empty where no single one does.
        own: Codes of findings about these elements that say the same.
        restores: Whether the cures bring back what such a machine usually has: that it then needs
            more air is no harm.
        instead: What to do where no change here is a cure.
        takes: What it takes (m³/s) where that was computed otherwise than by a cure.
        worth: What it holds then, in needs.
    """

    code: str
    elements: tuple[str, ...]
    says: str
    cures: tuple[Change, ...]
    own: tuple[str, ...] = ()
    restores: bool = False
    instead: str = ""
    takes: float = 0.0
    worth: float = 0.0

    @property
    def oddity(self) -> Oddity:
        """How far out of the ordinary it is. Raises `KeyError` for an unknown code."""
        return ODDITY[self.code]


@dataclass(frozen=True)
class Cure:
    """The change that takes a cause away, and what it was computed to bring.

    Attributes:
        change: The change, to be made with one click.
        gain: Air (m³/s) that all pickups win together, each machine running on its own.
        towards: The same, but for what is more than a need.
        met_before: Machines that get the air they need as the shop is, `met_after` with the
            change, each running on its own.
        machines: How many there are that have a pickup.
        money: What is to be bought for it; None where no prices are known.
        costs: What gets worse with it, in words.
        left: Share of all that lacks, of air and of chips that are carried, that lacks still; None
            where each has nearly enough.
    """

    change: Change
    gain: float
    towards: float
    met_before: int
    met_after: int
    machines: int
    money: Cost | None
    costs: tuple[str, ...] = ()
    left: float | None = None


@dataclass(frozen=True)
class Cause:
    """One cause.

    Attributes:
        suspect: What is out of the ordinary.
        takes: Air (m³/s) that it takes from all pickups together.
        worth: By how much the shop is better without it; what causes are ordered by.
        cure: None where no single change takes it away.
        explains: Findings that go, or that are half as bad, without it.
        sure: Its share of what all causes hold that were found: how sure it is the one to mend.
    """

    suspect: Suspect
    takes: float
    worth: float
    cure: Cure | None
    explains: tuple[Explained, ...] = ()
    sure: float = 1.0

    @property
    def code(self) -> str:
        """Which cause it is, as the command line has it."""
        return self.suspect.code
