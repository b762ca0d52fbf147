"""Papers to set out by: every joint with a letter and its distances from two walls, every duct from
letter to letter, and what goes on what.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property

from grey_current.build.drawing import SMALL, TEXT, Anchor, Drawing, Item, Path, Text, paper
from grey_current.build.lettering import Free
from grey_current.build.plan_parts import Window
from grey_current.design.parts.assembly import PlacedPart
from grey_current.design.parts.keys import part_words
from grey_current.design.parts.parts_list import PartsList
from grey_current.design.parts.takeoffs import is_hose
from grey_current.shop.duct_graph import AirPaths, far_end
from grey_current.shop.ducts import Run
from grey_current.shop.model import Project
from grey_current.shop.names import Names, capital
from grey_current.shop.places import XY, all_bodies, distance, footprint, position
from grey_current.shop.room import walls
from grey_current.shop.vectors import dot
from grey_current.units import Display

# m within which two joints stand over one another, and two heights are one.
SAME_PLACE, LEVEL = 0.01, 0.005
# Cosine between two ends of a fitting from which on it goes straight on.
STRAIGHT = 0.999
# Degrees at least between two walls that a joint is measured from.
SPREAD = 30.0
# mm on paper: a letter's ring, and how far a wall's number stands off it.
RING, OFF_WALL = 2.8, 4.5
LETTERS = "ABCDEFGHJKLMNPQRSTUVWXYZ"


@dataclass(frozen=True)
class FromWall:
    """A square distance (m) from a wall, by its number on the plan, and where on it it is taken;
    `beside` where that is on the wall's line beyond its end.
    """

    number: int
    distance: float
    foot: XY
    beside: bool


@dataclass(frozen=True)
class Stand:
    """A joint: where the centre lines of its fitting meet (m), the point it belongs to, the parts
    that stand there, and in words what that is.
    """

    at: tuple[float, float, float]
    point: str
    parts: tuple[str, ...]
    words: str


@dataclass(frozen=True)
class Mark:
    """A place on the floor over which joints stand: its letter, its distances from two walls.

    `stands` are the joints there, the highest first.
    """

    letter: str
    at: XY
    walls: tuple[FromWall, ...]
    stands: tuple[Stand, ...]


class SettingOut:
    """Everything that one sets out by, worked out once for a design."""

    def __init__(self, parts: PartsList, numbers: Mapping[str, int]) -> None:
        self.parts, self.numbers = parts, numbers
        self.project = parts.project
        self.display = Display(parts.project.settings.units)
        self.names = Names(parts.project)
        self.paths = AirPaths(parts.project)

    @cached_property
    def walls(self) -> list[tuple[XY, XY]]:
        """All walls, numbered from 1 in this order."""
        return [wall for room in self.project.rooms for wall in walls(room.outline)]

    @cached_property
    def marks(self) -> list[Mark]:
        """Every place where pipes meet or end, from the collector outwards along the main."""
        places: list[list[Stand]] = []
        for stand in self._stands():
            for place in places:
                if math.dist(stand.at[:2], place[0].at[:2]) < SAME_PLACE:
                    place.append(stand)
                    break
            else:
                places.append([stand])
        marks = []
        for letter, place in zip(_letters(), places, strict=False):
            at = place[0].at[:2]
            high_first = tuple(sorted(place, key=lambda stand: -stand.at[2]))
            marks.append(Mark(letter, at, self._from_walls(at), high_first))
        return marks

    def _stands(self) -> Iterator[Stand]:
        """The joints of every point: a fitting where it stands in space, which is not where it was
        drawn when a wye turns a branch that was drawn at another angle.
        """
        by_point: dict[str, list[PlacedPart]] = {}
        for part in self.parts.assembly.parts:
            if part.kind == "fitting":
                by_point.setdefault(part.id.partition("/")[0], []).append(part)
        for point in self._joints():
            fittings = by_point.get(point, [])
            turning = [part for part in fittings if _centre(part) is not None]
            others = [part for part in fittings if part not in turning]
            if not turning:
                words = self._part_words(others) or self._without_fitting(point)
                ids = tuple(part.id for part in others)
                yield Stand(position(self.project, point), point, ids, words)
            for part in turning:
                beside = others if part is turning[0] else []
                centre = _centre(part)
                assert centre is not None
                ids = tuple(each.id for each in (part, *beside))
                yield Stand(centre, point, ids, self._part_words([part, *beside]))

    def _joints(self) -> Iterator[str]:
        """Points on pipe, in the order in which a main is hung: away from its collector."""
        seen: set[str] = set()
        waiting: list[tuple[str, Run | None]] = [(c.id, None) for c in self.project.collectors]
        while waiting:
            near, came = waiting.pop(0)
            meeting = [run for run in self.paths.at[near] if run is not came]
            # What goes on straight comes before what branches off.
            for run in sorted(meeting, key=lambda r: -r.diameter):
                far = far_end(run, near)
                if far in seen or far not in self.project.point:
                    continue
                seen.add(far)
                if not is_hose(run) or any(not is_hose(r) for r in self.paths.at[far]):
                    yield far
                waiting.append((far, run))
        for run in self.project.runs:
            for end in run.ends:
                if end in self.project.point and end not in seen and not is_hose(run):
                    seen.add(end)
                    yield end

    def _from_walls(self, at: XY) -> tuple[FromWall, ...]:
        """The nearest wall, and the nearest one that stands across it; a wall in whose way nothing
        stands square is measured to its line.
        """
        found: list[tuple[bool, float, FromWall, float]] = []
        for number, (a, b) in enumerate(self.walls, 1):
            foot, share = _foot(at, a, b)
            beside = not -1e-6 <= share <= 1 + 1e-6
            turn = math.degrees(math.atan2(b[1] - a[1], b[0] - a[0])) % 180
            far = math.dist(at, foot)
            found.append((beside, far, FromWall(number, far, foot, beside), turn))
        found.sort(key=lambda each: each[:2])
        first = found[0]
        across = [each for each in found if _between(each[3], first[3]) >= SPREAD]
        return (first[2], *(each[2] for each in across[:1]))

    @cached_property
    def letter(self) -> dict[str, str]:
        """The letter of each joint's point and of each part that stands there."""
        found: dict[str, str] = {}
        for mark in self.marks:
            for stand in mark.stands:
                found.setdefault(stand.point, mark.letter)
                found |= dict.fromkeys(stand.parts, mark.letter)
        return found

    # -- in words

    def joint_rows(self) -> Iterator[tuple[str, ...]]:
        """For each joint: its letter, two distances, the height of its centre, what is there."""
        for mark in self.marks:
            measured = [self._wall_words(wall) for wall in mark.walls]
            for stand in mark.stands:
                first = stand is mark.stands[0]
                yield (
                    mark.letter if first else "",
                    *((measured if first else []) + ["", ""])[:2],
                    self.display.length(stand.at[2]),
                    stand.words,
                )

    def _wall_words(self, wall: FromWall) -> str:
        line = "line of wall" if wall.beside else "wall"
        return f"{line} {wall.number}: {self.display.length(wall.distance)}"

    def _part_words(self, parts: list[PlacedPart]) -> str:
        return "; ".join(part_words(part.key, self.display) for part in parts)

    def _without_fitting(self, point: str) -> str:
        """What is at a joint where no fitting stands."""
        hoses = [run for run in self.paths.at[point] if is_hose(run)]
        if hoses:
            return f"{self.display.diameter(hoses[0].diameter)} hose goes on"
        return "straight on" if len(self.paths.at[point]) > 1 else "end of the pipe"

    def run_rows(self) -> Iterator[tuple[str, ...]]:
        """For each pipe: from letter to letter, its size, centre to centre, how it runs."""
        for run in self.project.runs:
            if is_hose(run):
                continue
            a, b = (position(self.project, end) for end in run.ends)
            yield (
                f"{self._end(run.start)} – {self._end(run.end)}",
                self.names.start(run.id),
                self.display.diameter(run.diameter),
                self.display.length(distance(self.project, run)),
                self._runs(a, b),
            )

    def _end(self, ref: str) -> str:
        """An end's letter, else what is there."""
        return self.letter.get(ref) or capital(self.names.of(ref).removeprefix("the "))

    def _runs(self, a: tuple[float, float, float], b: tuple[float, float, float]) -> str:
        low, high = sorted((a[2], b[2]))
        if high - low < LEVEL:
            return f"level, middle {self.display.length(high)} up"
        says = f"{self.display.length(low)} to {self.display.length(high)} up"
        return f"upright, {says}" if math.dist(a[:2], b[:2]) < SAME_PLACE else f"slopes, {says}"

    def orders(self) -> Iterator[tuple[str, str]]:
        """For each pickup what goes on what, from its port until it joins what stands already."""
        listed: dict[str, str] = {}
        assembly = self.parts.assembly
        for ref, (machine, pickup) in self.project.pickup.items():
            name = machine.name
            if len(machine.pickups) > 1:
                name = f"{machine.name}, {pickup.name.lower()}"
            words: list[str] = []
            for ident in assembly.path(ref):
                part = assembly.part[ident]
                if ident in listed:
                    words.append(f"into {self.part_words(part)}, on the way of the {listed[ident]}")
                    break
                listed[ident] = name[:1].lower() + name[1:]
                words.append(self.part_words(part))
            if words:
                yield name, " – ".join(words)

    def part_words(self, part: PlacedPart) -> str:
        """A part in an order: a piece by its number and length, a fitting by its letter."""
        letter = self.letter.get(part.id, "")
        if part.id in self.numbers and part.length is not None:
            return f"piece {self.numbers[part.id]} ({self.display.length(part.length)})"
        if part.kind == "hose" and part.length is not None:
            return f"{self.display.length(part.length)} of hose"
        words = part_words(part.key, self.display)
        words = words[:1].lower() + words[1:]
        return f"{words} {letter}".rstrip()


def _centre(part: PlacedPart) -> tuple[float, float, float] | None:
    """Where the centre lines of a fitting's ends meet; None for one that does not turn."""
    for one, other in itertools.combinations(part.ends, 2):
        along = dot(one.out, other.out)
        if abs(along) < STRAIGHT:
            # Back from the first end until it is nearest to the other end's line.
            apart = (other.at[0] - one.at[0], other.at[1] - one.at[1], other.at[2] - one.at[2])
            back = (dot(apart, one.out) - along * dot(apart, other.out)) / (1 - along * along)
            x, y, z = (p + back * d for p, d in zip(one.at, one.out, strict=True))
            return x, y, z
    return None


def _letters() -> Iterator[str]:
    """A, B, … Z without I and O, then A2, B2, …"""
    for number in itertools.count(1):
        for letter in LETTERS:
            yield letter if number == 1 else f"{letter}{number}"


def _foot(at: XY, a: XY, b: XY) -> tuple[XY, float]:
    """Where a square from a place meets a line, and at which share of the way from a to b."""
    dx, dy = b[0] - a[0], b[1] - a[1]
    share = ((at[0] - a[0]) * dx + (at[1] - a[1]) * dy) / max(dx * dx + dy * dy, 1e-12)
    return (a[0] + dx * share, a[1] + dy * share), share


def _between(one: float, other: float) -> float:
    """Degrees between two lines, up to 90."""
    apart = abs(one - other) % 180
    return min(apart, 180 - apart)


def marks_drawing(found: SettingOut, scale: float, window: Window | None = None) -> Drawing:
    """The plan, or a part of it, with nothing but walls, machines, centre lines and letters. Raises
    nothing.
    """
    items = _items(found, scale, window)
    return Drawing("Setting out", tuple(window.clipped(items) if window else items), scale)


def walls_drawing(found: SettingOut, scale: float) -> Drawing:
    """The whole plan with its walls' numbers only. Raises nothing."""
    items = [*_walls(found, Free(scale)), *_lines(found)]
    return Drawing("Setting out, whole", tuple(items), scale)


def _items(found: SettingOut, scale: float, window: Window | None) -> Iterator[Item]:
    free, project = Free(scale), found.project
    yield from _walls(found, free, window)
    yield from _lines(found)
    for mark in found.marks:
        if window is None or window.holds(mark.at):
            yield from free.ring(mark.at, mark.letter, paper(RING, scale), TEXT)
    for item in all_bodies(project):
        if window is None or window.holds((item.x, item.y)):
            name = Text((item.x, item.y - paper(SMALL / 2, scale)), item.name, SMALL)
            yield from free.name([name], (item.x, item.y))


def _walls(found: SettingOut, free: Free, window: Window | None = None) -> Iterator[Item]:
    """The walls with their numbers, each on every sheet that shows a part of it."""
    project, scale = found.project, free.scale
    for room in project.rooms:
        yield Path(room.outline, "walls", closed=True)
    for number, wall in enumerate(found.walls, 1):
        seen = window.of_line(*wall) if window else wall
        if seen is None:
            continue
        a, b = seen
        far = math.dist(a, b)
        # Outside the room, whose corners run anticlockwise or clockwise.
        off = paper(OFF_WALL, scale) * _outward(project, wall)
        nx, ny = (b[1] - a[1]) / far * off, -(b[0] - a[0]) / far * off
        at = (a[0] + b[0]) / 2 + nx, (a[1] + b[1]) / 2 + ny - paper(TEXT / 2, scale)
        anchor: Anchor = "middle"
        if abs(nx) > abs(ny):
            anchor = "left" if nx > 0 else "right"
        lettering = Text(at, f"wall {number}", TEXT, anchor)
        yield from free.name([lettering], lettering.at)


def _lines(found: SettingOut) -> Iterator[Item]:
    project = found.project
    for item in all_bodies(project):
        yield Path(footprint(item), "hidden", closed=True)
    for run in project.runs:
        a, b = (position(project, end)[:2] for end in run.ends)
        if math.dist(a, b) > SAME_PLACE:
            yield Path((a, b), "hoses" if is_hose(run) else "ducts")


def _outward(project: Project, wall: tuple[XY, XY]) -> float:
    """1 where the right-hand side of a wall is outside its room, else -1."""
    for room in project.rooms:
        if wall in walls(room.outline):
            area = sum(a[0] * b[1] - b[0] * a[1] for a, b in walls(room.outline))
            return 1.0 if area > 0 else -1.0
    return 1.0
