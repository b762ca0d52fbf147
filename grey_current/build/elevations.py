"""Elevations as drawings: the main unrolled along its length, and each drop with its heights from
the floor.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass

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
    text_width,
)
from grey_current.build.lettering import Free
from grey_current.design.parts.straights import Straight
from grey_current.design.parts.takeoffs import is_hose
from grey_current.shop.duct_graph import AirPaths, far_end
from grey_current.shop.ducts import Run
from grey_current.shop.model import Project
from grey_current.shop.names import Names, capital
from grey_current.shop.places import XY, position
from grey_current.units import Display

# m along or up within which two joints are not measured apart.
LEAST_STEP = 0.02
# m of an unrolled main that are still read well on one sheet.
LONGEST_PART = 9.0


@dataclass(frozen=True)
class _Unrolled:
    """A chain of runs laid out flat: each run with both ends as (along, height) in m, and the
    joints between.
    """

    runs: tuple[tuple[Run, XY, XY], ...]
    joints: tuple[tuple[str, XY], ...]


def main_drawings(
    project: Project,
    collector: str,
    pieces: list[Straight],
    numbers: Mapping[str, int],
    scale: float,
) -> list[Drawing]:
    """The main of a collector unrolled, from its inlet to its farthest end, a long one in parts;
    none where it has no ducts.
    """
    paths = AirPaths(project)
    chain = _longest(project, paths, collector)
    if not chain:
        return []
    name = f"The main of the {project.collector[collector].name.lower()}, unrolled"
    parts = list(_parted(_unrolled(project, chain, collector)))
    made = []
    for number, laid in enumerate(parts, 1):
        free = Free(scale)
        items = [
            *_pipes(project, laid, scale),
            *_main_marks(project, laid, paths, free),
            *_numbers(project, laid, pieces, numbers, free),
        ]
        title = f"{name}, part {number} of {len(parts)}" if len(parts) > 1 else name
        made.append(Drawing(title, tuple(items), scale))
    return made


def _parted(laid: _Unrolled) -> Iterator[_Unrolled]:
    """A chain in parts of about the same length, none much longer than a sheet shows well; each
    begins at a joint, at 0 along.
    """
    whole = laid.joints[-1][1][0]
    # At least one; a single long run is never parted.
    share = whole / max(math.ceil(whole / LONGEST_PART), 1)
    first = 0
    for number in range(1, len(laid.joints)):
        begins, ends = laid.joints[first][1][0], laid.joints[number][1][0]
        if ends - begins < share - LEAST_STEP and number < len(laid.joints) - 1:
            continue
        yield _Unrolled(
            tuple(
                (run, (a[0] - begins, a[1]), (b[0] - begins, b[1]))
                for run, a, b in laid.runs[first:number]
            ),
            tuple((ref, (x - begins, y)) for ref, (x, y) in laid.joints[first : number + 1]),
        )
        first = number


def drop_drawings(
    project: Project, pieces: list[Straight], numbers: Mapping[str, int], scale: float
) -> list[Drawing]:
    """A sketch for every pickup that has a duct: from its port up to the main."""
    paths, names = AirPaths(project), Names(project)
    made = []
    for ref in project.pickup:
        own = next((run for run in project.runs if ref in run.ends), None)
        if own is None:
            continue
        chain = _own_runs(project, paths, own)
        laid = _unrolled(project, chain, ref)
        free = Free(scale)
        items = [
            *_pipes(project, laid, scale),
            *_drop_marks(project, laid, free),
            *_numbers(project, laid, pieces, numbers, free),
        ]
        made.append(Drawing(capital(names.of(ref).removeprefix("the ")), tuple(items), scale))
    return made


# -- which runs


def _longest(project: Project, paths: AirPaths, collector: str) -> list[Run]:
    """The rigid runs from a collector's inlet to the farthest end, the collector's first."""

    def walk(near: str, done: frozenset[str]) -> tuple[float, list[Run]]:
        best: tuple[float, list[Run]] = (0.0, [])
        for run in paths.at.get(near, []):
            if run.id in done or paths.down.get(run.id) != near:
                continue
            a, b = position(project, run.start), position(project, run.end)
            here = math.dist(a, b) * (run.diameter**2) * (0.2 if is_hose(run) else 1.0)
            far, rest = walk(far_end(run, near), done | {run.id})
            if here + far > best[0]:
                best = (here + far, [run, *rest])
        return best

    return walk(collector, frozenset())[1]


def _own_runs(project: Project, paths: AirPaths, first: Run) -> list[Run]:
    """The runs from a pickup up to the first wye where the main takes its air, or the collector."""
    chain = []
    served = 1
    # As far as its air is its own: where a wider main goes on, or a third pickup joins.
    for ident in paths.onward(first.id):
        run = project.run[ident]
        ahead = paths.down.get(ident, "")
        chain.append(run)
        meeting = len(paths.at.get(ahead, []))
        served += max(meeting - 2, 0)
        if (
            meeting > 2
            and project.run[ident].diameter < max(r.diameter for r in paths.at[ahead]) - 1e-3
        ):
            break
        if meeting > 2 and served > 2:
            break
    return chain or [first]


# -- laying flat


def _unrolled(project: Project, chain: list[Run], start: str) -> _Unrolled:
    """A chain of runs side by side by its level length. `start` is the end that it begins at."""
    here, x = start, 0.0
    runs, joints = [], [(start, (0.0, position(project, start)[2]))]
    for run in chain:
        near = here if here in run.ends else run.start
        far = far_end(run, near)
        a, b = position(project, near), position(project, far)
        step = math.dist(a[:2], b[:2])
        runs.append((run, (x, a[2]), (x + step, b[2])))
        x += step
        joints.append((far, (x, b[2])))
        here = far
    return _Unrolled(tuple(runs), tuple(joints))


# -- drawing


def _pipes(project: Project, laid: _Unrolled, scale: float) -> Iterator[Item]:
    """The pipes of a chain at their true width, with gates, over the line of the floor."""
    right = laid.joints[-1][1][0]
    yield Path(((-paper(4, scale), 0.0), (right + paper(4, scale), 0.0)), "walls")
    for run, a, b in laid.runs:
        yield from _pipe(run, a, b)
        # The drawing runs from the inlet outwards; a run may be drawn the other way.
        start, end = (a, b) if _begins_at(run, a, laid) else (b, a)
        for gate in project.gates:
            if gate.run == run.id:
                x, y = (p + (q - p) * gate.at for p, q in zip(start, end, strict=True))
                half = run.diameter / 2 + paper(1.0, scale)
                nx, ny = _across(a, b, half)
                yield Path(((x - nx, y - ny), (x + nx, y + ny)), "gates")


def _numbers(
    project: Project,
    laid: _Unrolled,
    pieces: list[Straight],
    numbers: Mapping[str, int],
    free: Free,
) -> Iterator[Item]:
    """The number of every piece of a chain in a ring on its middle, or beside it."""
    radius = paper(NUMBER_RING, free.scale)
    for run, a, b in laid.runs:
        start, end = (a, b) if _begins_at(run, a, laid) else (b, a)
        length = math.dist(position(project, run.start), position(project, run.end)) or 1.0
        for piece in pieces:
            if piece.run == run.id and piece.id in numbers:
                share = (piece.starts + piece.centre_line / 2) / length
                x, y = (p + (q - p) * share for p, q in zip(start, end, strict=True))
                yield from free.ring((x, y), f"{numbers[piece.id]}", radius, SMALL)


def _begins_at(run: Run, a: XY, laid: _Unrolled) -> bool:
    """Whether a run's own start lies at place `a` of the unrolled chain."""
    return any(ref == run.start and place == a for ref, place in laid.joints)


def _across(a: XY, b: XY, half: float) -> XY:
    far = math.dist(a, b) or 1.0
    return -(b[1] - a[1]) / far * half, (b[0] - a[0]) / far * half


def _pipe(run: Run, a: XY, b: XY) -> Iterator[Item]:
    nx, ny = _across(a, b, run.diameter / 2)
    layer = "hoses" if is_hose(run) else "ducts"
    yield Path(((a[0] + nx, a[1] + ny), (b[0] + nx, b[1] + ny)), layer)
    yield Path(((a[0] - nx, a[1] - ny), (b[0] - nx, b[1] - ny)), layer)
    yield Path((a, b), "centre lines")


def _main_marks(project: Project, laid: _Unrolled, paths: AirPaths, free: Free) -> Iterator[Item]:
    """Where branches come in, how far each is along, sizes, and the height of the main."""
    display, names, scale = Display(project.settings.units), Names(project), free.scale
    flags: list[tuple[float, float, str]] = []
    measured = [laid.joints[0][1]]
    on_chain = {run.id for run, _, _ in laid.runs}
    for ref, (x, y) in laid.joints[1:]:
        # Joints closer than that would write over one another.
        if x - measured[-1][0] > LEAST_STEP:
            measured.append((x, y))
        for run in paths.at.get(ref, []):
            if run.id not in on_chain and paths.down.get(run.id) == ref:
                yield Circle((x, y), run.diameter / 2, "ducts")
                words = f"{names.of(ref).removeprefix('the ')}, {display.diameter(run.diameter)}"
                flags.append((x, y + run.diameter / 2, words))
    yield from _flags(flags, free)
    yield from _chain([x for x, _ in measured], display, free)
    yield from _heights(laid, display, free, every=False)
    shown = ""
    for run, a, b in laid.runs:
        size = display.diameter(run.diameter)
        if size != shown and b[0] - a[0] > paper(8, scale):
            shown = size
            y = min(a[1], b[1]) - run.diameter / 2 - paper(1.2 + TEXT, scale)
            middle = (a[0] + b[0]) / 2
            yield from free.name([Text((middle, y), size, TEXT)], (middle, (a[1] + b[1]) / 2))


def _chain(places: list[float], display: Display, free: Free) -> Iterator[Item]:
    """Dimensions along the floor from place to place; a figure that meets another stands lower."""
    for a, b in itertools.pairwise(places):
        yield free.dimension(Dimension((a, 0.0), (b, 0.0), display.length(b - a), -5.0), -4.0)


def _flags(flags: list[tuple[float, float, str]], free: Free) -> Iterator[Item]:
    """Words on staffs over places, each as low as keeps it clear of the others and of their
    staffs.
    """
    scale = free.scale
    staffs: list[tuple[float, float]] = []
    # From the right: words run to the right, over what stands there.
    for x, y, words in sorted(flags, reverse=True):
        ends = x + paper(text_width(words, SMALL) + 2, scale)
        for row in itertools.count():
            top = y + paper(7 + 4 * row, scale)
            crossed = any(
                x < other < ends and top < high + paper(1, scale) for other, high in staffs
            )
            at = (x + paper(0.6, scale), top - paper(SMALL * 0.5, scale))
            lettering = Text(at, words, SMALL, "left")
            if not crossed and free.takes(lettering):
                break
        staffs.append((x, top))
        yield Path(((x, y), (x, top)), "dimensions")
        yield lettering


def _drop_marks(project: Project, laid: _Unrolled, free: Free) -> Iterator[Item]:
    """Heights of every joint from the floor, level lengths between them, sizes, gates' heights."""
    display, scale = Display(project.settings.units), free.scale
    yield from _heights(laid, display, free, every=True)
    measured = [laid.joints[0][1][0]]
    for _, (x, _) in laid.joints[1:]:
        if x - measured[-1] > LEAST_STEP:
            measured.append(x)
    yield from _chain(measured, display, free)
    shown = ""
    for run, a, b in laid.runs:
        size = f"{display.diameter(run.diameter)}{' hose' if is_hose(run) else ''}"
        if size != shown:
            shown = size
            yield from free.name(_along(run, a, b, size, scale), _middle(a, b))
        for gate in project.gates:
            if gate.run == run.id:
                start, end = (a, b) if _begins_at(run, a, laid) else (b, a)
                x, y = (p + (q - p) * gate.at for p, q in zip(start, end, strict=True))
                at = (x - run.diameter / 2 - paper(2, scale), y - paper(0.8, scale))
                words = Text(at, f"gate {display.length(y)}", SMALL, "right")
                yield from free.name([words], (x, y))


def _middle(a: XY, b: XY) -> XY:
    return (a[0] + b[0]) / 2, (a[1] + b[1]) / 2


def _along(run: Run, a: XY, b: XY, words: str, scale: float) -> Iterator[Text]:
    """Places for words beside a pipe: on one side of its middle and on the other."""
    x, y = _middle(a, b)
    off = run.diameter / 2
    if abs(b[1] - a[1]) > abs(b[0] - a[0]):
        yield Text((x + off + paper(1.5, scale), y), words, SMALL, "left")
        yield Text((x - off - paper(1.5, scale), y), words, SMALL, "right")
    else:
        yield Text((x, y + off + paper(1, scale)), words, SMALL)
        yield Text((x, y - off - paper(1 + SMALL, scale)), words, SMALL)


def _heights(laid: _Unrolled, display: Display, free: Free, every: bool) -> Iterator[Item]:
    """Heights over the floor where they change, as dimensions beside the chain, each a step farther
    out.
    """
    right = laid.joints[-1][1][0]
    known: list[float] = []
    for _, (_, y) in laid.joints:
        if any(abs(y - other) < LEAST_STEP for other in known) or y < LEAST_STEP:
            continue
        known.append(y)
        if not every and len(known) > 3:
            break
    out = right
    for y in sorted(known):
        # To the left of its line where the figure is longer than what it measures.
        out += paper(6, free.scale)
        made = Dimension((out, 0.0), (out, y), display.length(y), 0.0)
        while not free.takes(dimension_text(made, free.scale)):
            out += paper(2, free.scale)
            made = Dimension((out, 0.0), (out, y), display.length(y), 0.0)
        yield made
