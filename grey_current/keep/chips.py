"""What to do with the chips in the bin: by the woods that are in it, and what somebody wants them for."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from grey_current.shop.model import Project
from grey_current.work.materials import Wood, woods


@dataclass(frozen=True)
class ChipUse:
    """One thing that chips are good for: its name, whether these are, and why or on what terms."""

    use: str
    good: bool
    words: str


def woods_in_bin(project: Project, collector: str) -> list[str] | None:
    """Woods that went into a collector's bin since it was last emptied, by the logbook; else those of the planned day.

    None where some work had no wood said.
    """
    worked = [e for e in project.keep.entries if e.place == collector and e.kind in ("worked", "bin emptied")]
    worked.sort(key=lambda entry: entry.date)
    last = max((n for n, e in enumerate(worked) if e.kind == "bin emptied"), default=-1)
    since = worked[last + 1 :]
    if not since:
        return _all_said([(job.wood,) if job.wood else () for job in project.work.day])
    return _all_said([entry.woods for entry in since])


def _all_said(lists: Iterable[Iterable[str]]) -> list[str] | None:
    found: dict[str, None] = {}
    for names in lists:
        mine = list(names)
        if not mine:
            return None
        found |= dict.fromkeys(mine)
    return list(found)


def chip_uses(names: Iterable[str] | None) -> list[ChipUse]:
    """What chips of some woods are good for; of woods that are not known (None) only what is always right."""
    if names is None:
        return [ChipUse("Chips", False, "not every wood was said: for animals or compost only when you know them all.")]
    known = [woods()[name] for name in names if name in woods()]
    if not known:
        return []
    glued, animals, plants = (_named(w for w in known if test(w)) for test in (_glued, _animals, _plants))
    return [
        ChipUse(
            "Bedding",
            not animals,
            f"not with {animals} among them."
            if animals
            else "chips without the fine dust; ask a vet about the animal.",
        ),
        ChipUse(
            "Compost",
            not plants,
            f"not with {plants} among them." if plants else "a little at a time, with green stuff; they rot slowly.",
        ),
        ChipUse(
            "Stove",
            not glued,
            f"not with {glued} among them: glue makes poisonous smoke."
            if glued
            else "pressed or damp and by the handful; dry dust thrown in flashes. Local rules decide.",
        ),
        ChipUse("Tip", True, "in a tied bag, cold, with no glowing bits."),
    ]


def _glued(wood: Wood) -> bool:
    return wood.glued


def _animals(wood: Wood) -> bool:
    return wood.harms_animals or wood.glued


def _plants(wood: Wood) -> bool:
    return wood.harms_plants or wood.glued


def _named(found: Iterable[Wood]) -> str:
    return " and ".join(wood.name.replace("-", " ") for wood in found)
