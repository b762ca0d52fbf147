"""The plan as a drawing: building, machines, ducts at their true width, piece numbers, heights and
dimensions.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator, Mapping

from grey_current.build.drawing import (
    NUMBER_RING,
    SMALL,
    TEXT,
    Circle,
    Dimension,
    Drawing,
    Item,
    Path,
    Text,
    dimension_text,
    paper,
    readable,
    text_width,
)
from grey_current.build.lettering import Free
from grey_current.build.plan_parts import Window
from grey_current.design.parts.straights import Straight
from grey_current.design.parts.takeoffs import is_hose
from grey_current.shop.ducts import Run
from grey_current.shop.model import Project
from grey_current.shop.places import XY, all_bodies, bounds, footprint, position
from grey_current.shop.roofs import roof_lines
from grey_current.shop.room import FLAT, walls
from grey_current.shop.stacking import host_of, relation
from grey_current.units import Display

# m of height within which a run is level.
LEVEL = 0.05
# mm on paper that a run must be long to be lettered with size and height.
LEAST_LABEL = 14.0


def plan_drawing(
    project: Project,
    pieces: list[Straight],
    numbers: Mapping[str, int],
    scale: float,
    window: Window | None = None,
) -> Drawing:
    """The plan, or a part of it, at a scale of 1 to `scale`, with the numbers of the cutting list
    on its pieces. Raises nothing.
    """
    items = _items(project, pieces, numbers, scale, window)
    return Drawing("Plan", tuple(window.clipped(items) if window else items), scale)


def overview_drawing(project: Project, scale: float) -> Drawing:
    """The whole plan without numbers, for a shop that is drawn in parts. Raises nothing."""
    free = Free(scale)
    items = [*_building(project, free), *_outlines(project)]
    for run in project.runs:
        items += _duct(project, run)
    return Drawing("Plan, whole", tuple(items), scale)


def _items(
    project: Project,
    pieces: list[Straight],
    numbers: Mapping[str, int],
    scale: float,
    window: Window | None,
) -> Iterator[Item]:
    free = Free(scale)
    yield from _building(project, free)
    for run in project.runs:
        yield from _duct(project, run)
    yield from _gates(project, scale)
    # Numbers first, for they stand on their pipes; all else keeps off numbers and pipes.
    yield from _numbers(project, pieces, numbers, free, window)
    for run in project.runs:
        _take_place(project, run, free)
    yield from _outlines(project)
    yield from _names(project, free, window)
    yield from _features(project, free, window)
    yield from _lettering(project, free, window)
    yield from _lengths(project, free, window)


def _take_place(project: Project, run: Run, free: Free) -> None:
    """Keep lettering off a run: small boxes all along it."""
    (ax, ay, _), (bx, by, _) = position(project, run.start), position(project, run.end)
    count = max(round(math.hypot(bx - ax, by - ay) / run.diameter), 1)
    high = run.diameter * 1000 / free.scale
    for n in range(count + 1):
        at = (ax + (bx - ax) * n / count, ay + (by - ay) * n / count - run.diameter / 2)
        free.takes(Text(at, "x", high, "middle"), always=True)


def _building(project: Project, free: Free) -> Iterator[Item]:
    display = Display(project.settings.units)
    for room in project.rooms:
        yield Path(room.outline, "walls", closed=True)
        for a, b in walls(room.outline):
            if math.dist(a, b) >= 0.3:
                wall = Dimension(a, b, display.about(math.dist(a, b)), -7.0)
                yield free.dimension(wall, -4.0)
        for line in roof_lines(room):
            yield Path(line, "hidden")
    for opening in project.openings:
        yield from _opening(opening.start, opening.end, free.scale)
    for beam in project.beams:
        (ax, ay), (bx, by) = beam.start, beam.end
        far = math.dist(beam.start, beam.end)
        nx, ny = -(by - ay) / far * beam.width / 2, (bx - ax) / far * beam.width / 2
        yield Path(((ax + nx, ay + ny), (bx + nx, by + ny)), "beams")
        yield Path(((ax - nx, ay - ny), (bx - nx, by - ny)), "beams")


def _features(project: Project, free: Free, window: Window | None) -> Iterator[Item]:
    for feature in project.features:
        yield Path(feature.outline, "hidden" if feature.kind in FLAT else "machines", closed=True)
        xs, ys = zip(*feature.outline, strict=True)
        lettering = Text(((min(xs) + max(xs)) / 2, (min(ys) + max(ys)) / 2), feature.name, SMALL)
        if not _seen(lettering.at, window):
            continue
        # Only where the name fits into the thing and covers nothing.
        if max(xs) - min(xs) > paper(text_width(feature.name, SMALL), free.scale) and free.takes(
            lettering
        ):
            yield lettering


def _opening(a: XY, b: XY, scale: float) -> Iterator[Item]:
    """A hole in the wall: two strokes across it, and a thin line between."""
    far = math.dist(a, b)
    nx, ny = -(b[1] - a[1]) / far * paper(1.5, scale), (b[0] - a[0]) / far * paper(1.5, scale)
    for x, y in (a, b):
        yield Path(((x - nx, y - ny), (x + nx, y + ny)), "walls")
    yield Path(((a[0] + nx, a[1] + ny), (b[0] + nx, b[1] + ny)), "machines")
    yield Path(((a[0] - nx, a[1] - ny), (b[0] - nx, b[1] - ny)), "machines")


def _seen(at: XY, window: Window | None) -> bool:
    """Whether a place is on the sheet."""
    return window is None or window.holds(at)


def _outlines(project: Project) -> Iterator[Item]:
    for item in all_bodies(project):
        host = host_of(project, item)
        seen = host is None or relation(host, item) == "on"
        yield Path(footprint(item), "machines" if seen else "hidden", closed=True)


def _names(project: Project, free: Free, window: Window | None) -> Iterator[Item]:
    for item in all_bodies(project):
        if not _seen((item.x, item.y), window):
            continue
        left, low, right, high = bounds(footprint(item))
        beside = paper(1.2, free.scale)
        ys = (
            item.y,
            low + beside,
            high - beside - paper(TEXT, free.scale),
            low - beside - paper(TEXT, free.scale),
        )
        # In the middle, else at an edge inside, else outside: the first that is free.
        places = [Text(((left + right) / 2, y), item.name, TEXT) for y in (*ys, high + beside)]
        yield from free.name(places, ((left + right) / 2, (low + high) / 2))
    for ref, (_, pickup) in project.pickup.items():
        x, y, _ = position(project, ref)
        if _seen((x, y), window):
            yield Circle((x, y), pickup.port / 2, "machines")


def _duct(project: Project, run: Run) -> Iterator[Item]:
    (ax, ay, _), (bx, by, _) = position(project, run.start), position(project, run.end)
    flat = math.hypot(bx - ax, by - ay)
    layer = "hoses" if is_hose(run) else "ducts"
    if flat < run.diameter / 2:
        yield Circle((ax, ay), run.diameter / 2, layer)
        return
    nx, ny = -(by - ay) / flat * run.diameter / 2, (bx - ax) / flat * run.diameter / 2
    yield Path(((ax + nx, ay + ny), (bx + nx, by + ny)), layer)
    yield Path(((ax - nx, ay - ny), (bx - nx, by - ny)), layer)
    yield Path(((ax, ay), (bx, by)), "centre lines")


def _gates(project: Project, scale: float) -> Iterator[Item]:
    for gate in project.gates:
        run = project.run[gate.run]
        (ax, ay, _), (bx, by, _) = position(project, run.start), position(project, run.end)
        flat = math.hypot(bx - ax, by - ay)
        x, y = ax + (bx - ax) * gate.at, ay + (by - ay) * gate.at
        half = run.diameter / 2 + paper(1.0, scale)
        if flat < run.diameter / 2:
            yield Path(((x - half, y - half), (x + half, y + half)), "gates")
            yield Path(((x - half, y + half), (x + half, y - half)), "gates")
            continue
        nx, ny = -(by - ay) / flat * half, (bx - ax) / flat * half
        yield Path(((x - nx, y - ny), (x + nx, y + ny)), "gates")


def _numbers(
    project: Project,
    pieces: list[Straight],
    numbers: Mapping[str, int],
    free: Free,
    window: Window | None,
) -> Iterator[Item]:
    """The number of every piece in a ring; those of an upright run stand side by side, the lowest
    first.
    """
    radius = paper(NUMBER_RING, free.scale)
    for run, group in itertools.groupby(
        (p for p in pieces if p.id in numbers), key=lambda piece: piece.run
    ):
        found = list(group)
        start, end = (
            position(project, project.run[run].start),
            position(project, project.run[run].end),
        )
        length = math.dist(start, end) or 1.0
        flat = math.dist(start[:2], end[:2])
        for count, piece in enumerate(found):
            share = (piece.starts + piece.centre_line / 2) / length
            x, y = (p + (q - p) * share for p, q in zip(start[:2], end[:2], strict=True))
            # An upright run is one dot in plan: its pieces' rings stand beside it.
            if flat < 0.1:
                x, y = (
                    x + project.run[run].diameter / 2 + radius * (1.2 + 2.1 * count),
                    y + radius * 1.2,
                )
            if _seen((x, y), window):
                yield from free.ring((x, y), f"{numbers[piece.id]}", radius, SMALL)


def _lettering(project: Project, free: Free, window: Window | None) -> Iterator[Item]:
    """Size and height of the runs that are long enough on paper, and heights where drops end."""
    display, scale = Display(project.settings.units), free.scale
    for run in sorted(project.runs, key=lambda item: -item.diameter):
        a, b = position(project, run.start), position(project, run.end)
        flat = math.dist(a[:2], b[:2])
        middle = ((a[0] + b[0]) / 2, (a[1] + b[1]) / 2)
        if flat * 1000 / scale < LEAST_LABEL or not _seen(middle, window):
            continue
        level = abs(a[2] - b[2]) < LEVEL
        height = f", middle {display.about(a[2])} up" if level else ""
        text = f"{display.diameter(run.diameter)}{' hose' if is_hose(run) else ''}{height}"
        found = free.first(_beside(a[:2], b[:2], text, run.diameter / 2, scale))
        if found is not None:
            yield found


def _beside(a: XY, b: XY, text: str, half: float, scale: float) -> Iterator[Text]:
    """Places for lettering along a line: over it and under it, in the middle and at the thirds."""
    turn = readable(a, b)
    up = math.radians(turn + 90)
    for share in (0.5, 0.3, 0.7):
        x, y = a[0] + (b[0] - a[0]) * share, a[1] + (b[1] - a[1]) * share
        for lift in (half + paper(0.8, scale), -half - paper(0.8 + SMALL, scale)):
            yield Text(
                (x + math.cos(up) * lift, y + math.sin(up) * lift), text, SMALL, "middle", turn
            )


def _lengths(project: Project, free: Free, window: Window | None) -> Iterator[Item]:
    """Centre-line dimensions of level rigid runs, from joint to joint, where there is room for the
    figure.
    """
    display, scale = Display(project.settings.units), free.scale
    for run in project.runs:
        a, b = position(project, run.start), position(project, run.end)
        flat = math.dist(a[:2], b[:2])
        text = display.about(flat)
        if not _seen(((a[0] + b[0]) / 2, (a[1] + b[1]) / 2), window):
            continue
        if is_hose(run) or flat * 1000 / scale < max(9.0, len(text) * SMALL * 0.6):
            continue
        clear = run.diameter / 2 * 1000 / scale + 3.5
        # To one side of the duct or the other; where neither is free it is left out.
        for offset in (clear, -clear):
            made = Dimension(a[:2], b[:2], text, offset)
            if free.takes(dimension_text(made, scale)):
                yield made
                break
