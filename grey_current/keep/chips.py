"""What to do with the chips: by the woods that are in the bin or were just taken out, and what they
are wanted for.
"""

from __future__ import annotations

import datetime
from collections.abc import Callable, Iterable
from dataclasses import dataclass

from grey_current.shop.keep_plan import LogEntry
from grey_current.shop.model import Project
from grey_current.work.materials import UNSAID, Wood, woods


@dataclass(frozen=True)
class ChipUse:
    """One thing that chips are good for: its name, whether these are, and why or on what terms."""

    use: str
    good: bool
    words: str


@dataclass(frozen=True)
class Chips:
    """Chips of one filling of a bin: their woods by name, and when they were taken out; None while
    they are in it.
    """

    woods: tuple[str, ...]
    taken_out: datetime.date | None = None

    @property
    def words(self) -> str:
        """Which chips these are, such as "walnut and ash, in the bin"."""
        where = "in the bin" if self.taken_out is None else f"taken out on {self.taken_out}"
        return (
            f"{_named(woods()[name] for name in self.woods if name in woods()) or UNSAID}, {where}"
        )


def chips_of(project: Project, collector: str) -> Chips | None:
    """The chips in a collector's bin by the logbook; while it is empty, those that were taken out
    last.

    None where the logbook knows of none. What is only planned is not in any bin. Raises nothing.
    """
    fillings: list[list[LogEntry]] = [[]]
    emptied: list[datetime.date] = []
    for entry in project.keep.of_the_bin(collector):
        if entry.kind == "bin emptied":
            emptied.append(entry.date)
            fillings.append([])
        elif entry.woods or entry.litres != 0:
            fillings[-1].append(entry)
    # What lies in the bin now; else what was taken out last, which may stand beside the door.
    if fillings[-1]:
        return Chips(_woods_of(fillings[-1]))
    if emptied and fillings[-2]:
        return Chips(_woods_of(fillings[-2]), emptied[-1])
    return None


def _woods_of(entries: Iterable[LogEntry]) -> tuple[str, ...]:
    """Every wood of some days' work; a day of which none was written down holds an unknown one."""
    return tuple(dict.fromkeys(name for entry in entries for name in entry.woods or (UNSAID,)))


def chip_uses(names: Iterable[str]) -> list[ChipUse]:
    """What chips of some woods are good for; nothing but the tip where one of them is not known.
    Empty without any.
    """
    found = [woods().get(name, woods()[UNSAID]) for name in dict.fromkeys(names)]
    if not found:
        return []
    # One unknown wood spoils the whole bin, for one cannot sort chips.
    if any(wood.name == UNSAID for wood in found):
        return [
            ChipUse(
                "Tip",
                True,
                "not every wood was said, so in a tied bag, cold, with no glowing bits.",
            )
        ]
    tip = ChipUse("Tip", True, "in a tied bag, cold, with no glowing bits.")
    banned = next((wood for wood in found if wood.only_tip), None)
    if banned is not None:
        name = _plain(banned)
        tip = ChipUse("Tip", True, f"{name} is among them, and {banned.only_tip}; {tip.words}")
    animals = _among(found, lambda wood: wood.harms_animals or wood.glued or bool(wood.only_tip))
    plants = _among(found, lambda wood: wood.harms_plants or wood.glued or bool(wood.only_tip))
    stove = _among(found, lambda wood: wood.glued or bool(wood.only_tip))
    uses = [
        ChipUse(
            "Bedding",
            not animals,
            animals or "chips without the fine dust; ask a vet about the animal.",
        ),
        ChipUse(
            "Compost",
            not plants,
            plants or "a little at a time, with green stuff; they rot slowly.",
        ),
        ChipUse(
            "Stove",
            not stove,
            stove
            or "pressed or damp and by the handful; dry dust thrown in flashes. Local rules "
            "decide.",
        ),
    ]
    # What harms anything is for the tip, said before what it may yet be used for.
    return [tip, *uses] if banned is not None or animals else [*uses, tip]


def _among(found: Iterable[Wood], harms: Callable[[Wood], bool]) -> str:
    """Why chips are no good for something, by the woods among them that harm; empty where none
    does.
    """
    names = _named(wood for wood in found if harms(wood))
    return f"not with {names} among them." if names else ""


def _named(found: Iterable[Wood]) -> str:
    return " and ".join(_plain(wood) for wood in found)


def _plain(wood: Wood) -> str:
    """A wood as one says it."""
    name = wood.name.replace("-", " ")
    return f"{name} wood" if name in ("treated", "painted", UNSAID) else name
