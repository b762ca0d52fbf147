"""Edits of the ductwork: runs drawn on from where they are, runs split by a new point. Pure
functions.
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

from grey_current.air.fittings import INLET_DIAMETERS
from grey_current.errors import InputError, RefusedEdit
from grey_current.shop.catalogue import materials, pipe_sizes
from grey_current.shop.collectors import Collector
from grey_current.shop.ducts import Gate, Point, Run
from grey_current.shop.edits import added, changed, changed_all, checked, fresh_id
from grey_current.shop.model import Design, Project
from grey_current.shop.names import called
from grey_current.shop.places import inlet_of, outwards, position
from grey_current.shop.room import walls

# m between a main and the beam or ceiling above it.
UNDER = 0.05
LEAST_RUN = 0.05
# m up or down within which a duct is level.
SAME_HEIGHT = 0.01
# m of a change of height under which a duct just goes on.
LEAST_RISE = 0.15
# m of floor boards over a duct that lies under them. Allowance.
FLOOR = 0.03
# Degrees that fittings turn by.
FITTING_TURNS = (0.0, 30.0, 45.0, 60.0, 90.0)
Level = Literal[
    "as it goes on", "under the beams", "at a height", "on the floor", "under the floor"
]
DEFAULT_MATERIAL = "spiral-steel"


def split(project: Project, run: str, share: float) -> tuple[Project, str]:
    """The project with a rigid run split at a share of its way from its start, and the new point's
    id.

    The run keeps its id up to the point; a new run goes on from there. Gates stay where they sit.
    Raises `RefusedEdit` for a hose or a share at its ends.
    """
    joint, runs, gates = parted(project, run, share)
    return project.replaced(points=(*project.points, joint), runs=runs, gates=gates), joint.id


def parted(
    project: Project, run: str, share: float
) -> tuple[Point, tuple[Run, ...], tuple[Gate, ...]]:
    """The point that splits a run as `split` does, all runs with the new one as the last, and all
    gates.
    """
    old = project.run[run]
    if materials()[old.material].hose or not 0 < share < 1:
        raise RefusedEdit(
            called(project, run), "splitting it", "choose a place in the middle of a rigid duct"
        )
    a, b = position(project, old.start), position(project, old.end)
    x, y, height = (round(p + (q - p) * share, 4) for p, q in zip(a, b, strict=True))
    point = Point(id=fresh_id(project, f"{run}-joint"), x=x, y=y, height=height)
    # The upstream half keeps its id, so that what refers to it stays true.
    second = old.replaced(id=fresh_id(project, run, [point.id]), start=point.id)
    first = old.replaced(end=point.id)
    runs = (*(first if item.id == run else item for item in project.runs), second)
    return point, runs, tuple(_moved_gate(g, run, second.id, share) for g in project.gates)


def _moved_gate(gate: Gate, run: str, second: str, share: float) -> Gate:
    if gate.run != run:
        return gate
    if gate.at <= share:
        return gate.replaced(at=gate.at / share)
    return gate.replaced(run=second, at=(gate.at - share) / (1 - share))


def main_height(project: Project, diameter: float) -> float:
    """Height (m) of a main's centre line close under the lowest beam or ceiling."""
    lids = [beam.underside for beam in project.beams] + [room.ceiling for room in project.rooms]
    return round(min(lids) - UNDER - diameter / 2, 3)


@dataclass(frozen=True)
class Drawing:
    """How a duct is drawn on: at which height, in what size and material, and whether at any angle.

    `height` is the centre line's height in m where `level` is "at a height". "As it goes on" keeps
    the height of what it goes on from, and leads a collector's first duct up under the beams. None
    for size and material: those of what it goes on from, or of the collector's inlet.
    """

    level: Level = "as it goes on"
    height: float = 1.2192
    diameter: float | None = None
    material: str | None = None
    free: bool = False

    def centre(self, project: Project, diameter: float) -> float:
        """Height (m) of the centre line of a duct of a diameter (m)."""
        lying = diameter / 2 + UNDER
        heights = {
            "as it goes on": main_height(project, diameter),
            "under the beams": main_height(project, diameter),
            "at a height": self.height,
            "on the floor": lying,
            "under the floor": -lying - FLOOR,
        }
        return round(heights[self.level], 4)


AS_IT_GOES = Drawing()


def drawn_on(
    project: Project, start: str, x: float, y: float, how: Drawing = AS_IT_GOES
) -> tuple[Project, str]:
    """The project with a duct drawn on from a point or a collector's free inlet to a place, and the
    new point's id.

    From a collector: first straight out of the inlet, then up (or down) to the height, then to the
    place. From a point at another height than asked for: first up or down there. Its far end is
    capped. Raises `InputError` when it cannot begin there or would be too short.
    """
    if start in project.collector:
        project, start = _led_out(project, project.collector[start], (x, y), how)
    elif start not in project.point:
        raise RefusedEdit(
            "a duct",
            f"beginning it at {called(project, start)}",
            "begin at a collector's inlet or at a duct",
        )
    origin = position(project, start)
    if math.dist(origin[:2], (x, y)) < LEAST_RUN:
        raise RefusedEdit(
            "the duct", "a corner on the same place", "click where the duct goes next"
        )
    # It goes on as it began, where nothing else was chosen.
    pattern = next(run for run in project.runs if start in run.ends)
    diameter, material = how.diameter or pattern.diameter, how.material or pattern.material
    height = drawn_height(project, start, how, diameter)
    # Ducts go upright or level, never aslant: up first, then along.
    if abs(height - origin[2]) >= LEAST_RISE:
        project, start = _with_run(
            project, start, (*origin[:2], height), diameter, material, "riser"
        )
    return _with_run(project, start, (x, y, height), diameter, material, "main")


def drawn_height(project: Project, start: str, how: Drawing, diameter: float) -> float:
    """Height (m) of the centre line of a duct that is drawn on from a point or a collector."""
    if how.level == "as it goes on" and start in project.point:
        return project.point[start].height
    return how.centre(project, diameter)


def _with_run(
    project: Project,
    end: str,
    place: tuple[float, float, float],
    diameter: float,
    material: str,
    name: str,
) -> tuple[Project, str]:
    x, y, height = (round(v, 4) for v in place)
    point = Point(id=fresh_id(project, f"{name}-corner"), x=x, y=y, height=height, end="cap")
    project = added(project, point)
    run = Run(
        id=fresh_id(project, name), start=point.id, end=end, diameter=diameter, material=material
    )
    return added(project, run), point.id


def _led_out(
    project: Project, collector: Collector, towards: tuple[float, float], how: Drawing
) -> tuple[Project, str]:
    """Straight out of an inlet as far as it wants, then up or down to the height that is asked
    for.
    """
    if any(collector.id in run.ends for run in project.runs):
        raise RefusedEdit(
            collector.name, "a second duct on its inlet", "begin at the duct that is there"
        )
    bore, material = first_bore(project, collector, how), how.material or DEFAULT_MATERIAL
    inlet = inlet_of(collector)
    foot = (*first_corner(project, collector, how, towards), inlet[2])
    project, point = _with_run(project, collector.id, foot, bore, material, "inlet")
    height = how.centre(project, bore)
    if abs(height - inlet[2]) < LEAST_RISE:
        return project, point
    return _with_run(project, point, (foot[0], foot[1], height), bore, material, "riser")


def first_bore(project: Project, collector: Collector, how: Drawing) -> float:
    """Bore (m) of a collector's first duct: that asked for, or the widest that is sold and goes on
    its inlet.
    """
    sold = next(
        (s for s in reversed(pipe_sizes(project)) if s <= collector.duct_inlet + 1e-3),
        collector.duct_inlet,
    )
    return how.diameter or sold


def first_corner(
    project: Project, collector: Collector, how: Drawing, towards: tuple[float, float]
) -> tuple[float, float]:
    """Where (m) a collector's first duct may first turn: straight out of its inlet as far as that
    wants.
    """
    x, y, _ = inlet_of(collector)
    ahead = outwards(collector)
    if ahead is None:
        length = math.dist((x, y), towards) or 1.0
        ahead = (towards[0] - x) / length, (towards[1] - y) / length
    reach = INLET_DIAMETERS * first_bore(project, collector, how)
    return x + ahead[0] * reach, y + ahead[1] * reach


def upright_group(project: Project, point: str) -> frozenset[str]:
    """The points that stand over one another with this one: the head and foot of a drop move as
    one.
    """
    # Spreads along upright runs until nothing more is reached.
    found = {point}
    while True:
        more = {
            other
            for run in project.runs
            for mine, other in (run.ends, (run.end, run.start))
            if mine in found
            and other in project.point
            and other not in found
            and upright(project, run)
        }
        if not more:
            return frozenset(found)
        found |= more


def upright(project: Design, run: Run) -> bool:
    """Whether a run is a rigid drop or riser that stands straight up."""
    a, b = position(project, run.start), position(project, run.end)
    return math.dist(a[:2], b[:2]) < 1e-3 and not materials()[run.material].hose


def with_point_moved(project: Project, point: str, dx: float, dy: float) -> Project:
    """The project with a point of the ductwork moved by (dx, dy) m, and what stands over or under
    it with it.

    The runs that meet there follow; fittings are inferred anew. Raises `InputError` for an unknown
    point.
    """
    return with_points_moved(project, {point}, dx, dy)


def with_points_moved(project: Project, chosen: Iterable[str], dx: float, dy: float) -> Project:
    """The same for several points at once. Raises `InputError` for an unknown one."""
    group: set[str] = set()
    for point in chosen:
        if point not in project.point:
            raise InputError("joint", point, "choose a joint of this shop's ducts")
        group |= upright_group(project, point)
    points = tuple(
        checked(p, p.id, {"x": round(p.x + dx, 4), "y": round(p.y + dy, 4)}) if p.id in group else p
        for p in project.points
    )
    return project.replaced(points=points)


def with_height_changed(project: Project, run: str, dz: float) -> Project:
    """The project with a duct raised by `dz` m: a level one with all that is level with it and
    joined to it, a drop or slope by its lower end.

    What stands at a machine or a collector stays there. Raises `RefusedEdit` where no joint can
    follow, `InputError` for an unknown run or a height that cannot be.
    """
    if run not in project.run:
        raise InputError("duct", run, "choose a duct of this shop")
    ends = [end for end in project.run[run].ends if end in project.point]
    if not ends:
        raise RefusedEdit(
            called(project, run), "another height", "both its ends are at machines or collectors"
        )
    low = min(ends, key=lambda end: project.point[end].height)
    group = level_with(project, low) if is_level(project, project.run[run]) else {low}
    points = tuple(
        checked(p, p.id, {"height": round(p.height + dz, 4)}) if p.id in group else p
        for p in project.points
    )
    return project.replaced(points=points)


def is_level(project: Project, run: Run) -> bool:
    """Whether a run lies level; one that stands upright does not."""
    a, b = position(project, run.start), position(project, run.end)
    return abs(a[2] - b[2]) < SAME_HEIGHT and not upright(project, run)


def level_with(project: Project, point: str) -> set[str]:
    """The joints that level ducts lead to from a joint, itself among them; none beyond a machine or
    a collector.
    """
    level = [run for run in project.runs if is_level(project, run)]
    found, waiting = {point}, [point]
    while waiting:
        here = waiting.pop()
        for run in level:
            if here in run.ends:
                (other,) = [end for end in run.ends if end != here] or [here]
                if other in project.point and other not in found:
                    found.add(other)
                    waiting.append(other)
    return found


def last_heading(project: Project, point: str) -> tuple[float, float] | None:
    """Unit vector (plan) in which the level duct that ends at a point arrives there; None when none
    does.
    """
    here = position(project, point)
    for run in project.runs:
        if point in run.ends and not upright(project, run):
            other = position(project, run.end if run.start == point else run.start)
            length = math.dist(here[:2], other[:2])
            if length > LEAST_RUN:
                return (here[0] - other[0]) / length, (here[1] - other[1]) / length
    return None


def snapped_heading(
    origin: tuple[float, float],
    place: tuple[float, float],
    along: tuple[float, float] | None = None,
    turn: float = 0.0,
) -> tuple[float, float]:
    """The place moved so that the way to it from an origin turns as fittings do.

    `along` is the heading from which it turns; without one, multiples of 45° count from the
    building's axes, which are turned from the paper's edge by `turn` (radians).
    """
    dx, dy = place[0] - origin[0], place[1] - origin[1]
    wanted = math.degrees(math.atan2(dy, dx))
    base = math.degrees(math.atan2(along[1], along[0]) if along else turn)
    if along:
        turns = [sign * step for step in FITTING_TURNS for sign in (1, -1)]
    else:
        turns = [45.0 * n for n in range(8)]
    best = min((base + step for step in turns), key=lambda h: abs((h - wanted + 180) % 360 - 180))
    turn = math.radians(best)
    # As far along that heading as the place is; never backwards.
    far = max(dx * math.cos(turn) + dy * math.sin(turn), 0.0)
    return origin[0] + math.cos(turn) * far, origin[1] + math.sin(turn) * far


def beside_walls(
    project: Project,
    origin: tuple[float, float],
    place: tuple[float, float],
    diameter: float,
    reach: float,
) -> tuple[float, float]:
    """The place moved along its way from the origin so that a corner there leaves a duct close
    along a wall.

    Only when a wall is so near that the move is within `reach` m.
    """
    length = math.dist(origin, place)
    if length < LEAST_RUN:
        return place
    ux, uy = (place[0] - origin[0]) / length, (place[1] - origin[1]) / length
    gap, best = diameter / 2 + UNDER, reach
    found = place
    for room in project.rooms:
        for (ax, ay), (bx, by) in walls(room.outline):
            side = math.dist((ax, ay), (bx, by))
            nx, ny = -(by - ay) / side, (bx - ax) / side
            across = ux * nx + uy * ny
            along = ((place[0] - ax) * (bx - ax) + (place[1] - ay) * (by - ay)) / side
            # Walls that the way runs along, or that lie elsewhere, do not draw it.
            if abs(across) < 0.2 or not -gap <= along <= side + gap:
                continue
            away = (place[0] - ax) * nx + (place[1] - ay) * ny
            inner = math.copysign(gap, (origin[0] - ax) * nx + (origin[1] - ay) * ny)
            shift = (inner - away) / across
            if abs(shift) < best and length + shift > LEAST_RUN:
                best, found = abs(shift), (place[0] + ux * shift, place[1] + uy * shift)
    return found


def plugged_as(project: Project, run: str, other: str) -> Project:
    """The project with a hose being the very same one as another, plugged in at another port; with
    "" it is one of its own again. Raises `RefusedEdit` for what is no hose.
    """
    item = project.run[run]
    if not other:
        return changed(project, run, one_hose=None)
    twin = project.run.get(other)
    if twin is None or not all(materials()[each.material].hose for each in (item, twin)):
        raise RefusedEdit(called(project, run), "being plugged in elsewhere", "choose two hoses")
    name = twin.one_hose or twin.id
    return changed_all(project, (run, other), one_hose=name)
