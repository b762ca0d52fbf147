"""Building step by step: which part goes on what, from the collector outwards, the main before its
branches.
"""

from __future__ import annotations

import math
from collections import deque
from collections.abc import Iterator
from dataclasses import dataclass

from grey_current.build.setting_out import SettingOut
from grey_current.design.parts.assembly import Assembly, EndRef, PlacedPart
from grey_current.design.parts.keys import kind_of
from grey_current.shop.names import capital, lower_first
from grey_current.shop.vectors import dot

# m between the heights of a part's two ends within which it lies level.
LEVEL = 0.05
# How an end goes on its neighbour.
GOES = {"male": "into", "female": "over", "cuff": "over", "plain": "onto"}


@dataclass(frozen=True)
class Step:
    """One part to put up.

    Attributes:
        number: From 1.
        parts: The part with the connectors that go on with it, by their ids.
        words: What it is, with its number or letter and length.
        joint: Onto what it goes, and how.
        height: Where its middle is, in words.
    """

    number: int
    run: str
    parts: tuple[str, ...]
    words: str
    joint: str
    height: str


def build_steps(found: SettingOut) -> tuple[Step, ...]:
    """Every part of the ductwork once, in an order in which each goes on what stands already: from
    each collector's inlet along its main, then the branches, the nearest first. What leads to no
    collector comes last. Raises nothing.
    """
    assembly = found.parts.assembly
    steps: list[Step] = []
    pending: list[PlacedPart] = []
    joint = ""
    for part, onto, end in _in_order(found, assembly):
        if not pending:
            goes = GOES[part.ends[end].gender] if part.ends else "onto"
            joint = f"{goes} {onto}" if onto else "begins on its own"
        pending.append(part)
        ids = tuple(item.id for item in pending)
        # A coupling or stub goes up with what it is for.
        if part.kind == "connector" and _goes_on(assembly, part, ids):
            continue
        words = capital(found.part_words(part))
        besides = " and ".join(found.part_words(item) for item in pending[:-1])
        if besides:
            words = f"{words}, with {besides}"
        height = _height_words(found, part)
        steps.append(Step(len(steps) + 1, part.run, ids, words, joint, height))
        pending = []
    return tuple(steps)


def _goes_on(assembly: Assembly, part: PlacedPart, placed: tuple[str, ...]) -> bool:
    """Whether something goes on a part that is not up yet."""
    joined = (assembly.joins.get((part.id, n)) for n in range(len(part.ends)))
    return any(end is not None and end[0] not in placed for end in joined)


def _in_order(found: SettingOut, assembly: Assembly) -> Iterator[tuple[PlacedPart, str, int]]:
    """Each part with what it goes on, in words, and the number of its end there."""
    seen: set[str] = set()
    for collector in found.project.collectors:
        inlet = f"the inlet of {found.names.of(collector.id)}"
        for end in assembly.ports.get(collector.id, []):
            yield from _outwards(found, assembly, end, inlet, seen)
    for part in assembly.parts:
        if part.id not in seen:
            yield from _outwards(found, assembly, (part.id, 0), "", seen)


def _outwards(
    found: SettingOut, assembly: Assembly, start: EndRef, onto: str, seen: set[str]
) -> Iterator[tuple[PlacedPart, str, int]]:
    """All parts that hang together from an end on: a chain as far as it goes, then what branches
    off it, in the order in which one passes the branches.
    """
    branches: deque[tuple[EndRef, str]] = deque([(start, onto)])
    while branches:
        end, onto = branches.popleft()
        while end is not None and end[0] not in seen:
            part, number = assembly.part[end[0]], end[1]
            seen.add(part.id)
            yield part, onto, number
            onto = _short(found, part)
            ahead = [
                (mine, there)
                for mine in _straightest(part, number)
                if (there := assembly.joins.get((part.id, mine))) is not None
                and there[0] not in seen
            ]
            if not ahead:
                break
            branches += [(there, onto) for _, there in ahead[1:]]
            end = ahead[0][1]


def _straightest(part: PlacedPart, entered: int) -> list[int]:
    """The other ends of a part: the widest first, of equal ones the one straight on."""
    came = part.ends[entered]
    others = [n for n in range(len(part.ends)) if n != entered]
    return sorted(
        others, key=lambda n: (-round(part.ends[n].bore, 3), dot(part.ends[n].out, came.out))
    )


def _short(found: SettingOut, part: PlacedPart) -> str:
    """A part that is up already, as one points at it: "piece 4", "wye C"."""
    if part.id in found.numbers:
        return f"piece {found.numbers[part.id]}"
    if part.kind == "hose":
        return "the hose"
    kind = lower_first(kind_of(part.key).words.split(",")[0])
    letter = found.letter.get(part.id, "")
    return f"{kind} {letter}" if letter else f"the {kind}"


def _height_words(found: SettingOut, part: PlacedPart) -> str:
    heights = [end.at[2] for end in part.ends]
    low, high = min(heights), max(heights)
    say = found.display.length
    if high - low < LEVEL:
        return f"middle {say(math.fsum(heights) / len(heights))} up"
    return f"from {say(low)} to {say(high)} up"


def step_line(step: Step) -> str:
    """A step in one line."""
    return f"{step.number}. {step.words}, {step.joint}; {step.height}."
