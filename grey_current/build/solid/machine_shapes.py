"""What machines look like, in few solids: enough to be told apart, and no maker's shape.

Local axes: x across the machine, y away from where one stands, z up from its foot; m.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import lru_cache

from grey_current.build.solid.mesh import Mesh, cuboid, cylinder, tube
from grey_current.build.solid.tones import Tone
from grey_current.shop.machines import MachineBody

# m: a table's plate, a leg, how thick a fence is and how high it stands. Allowances.
PLATE, LEG, FENCE, FENCE_HIGH = 0.04, 0.06, 0.03, 0.09
Shape = Iterator[tuple[Tone, Mesh]]


class _Body:
    """A machine's own measures, and boxes in shares of its ground plan."""

    def __init__(self, machine: MachineBody) -> None:
        self.wide, self.deep = machine.width, machine.depth
        self.table = min(machine.table_height, 5.0)
        self.top = max(machine.height or 0.0, self.table)
        self.under = min(machine.under, max(self.table - PLATE, 0.0))

    def box(self, x: tuple[float, float], y: tuple[float, float], z: tuple[float, float]) -> Mesh:
        """A box: x and y in shares of width and depth (-0.5 to 0.5), z in m."""
        low, high = z if z[1] - z[0] > 1e-3 else (z[0], z[0] + 1e-3)
        return cuboid(
            (x[0] * self.wide, y[0] * self.deep, low), (x[1] * self.wide, y[1] * self.deep, high)
        )

    def plate(self, share: float = 1.0) -> Mesh:
        """The table's plate."""
        half = share / 2
        return self.box((-0.5, 0.5), (-half, half), (max(self.table - PLATE, 0.0), self.table))

    def legs(self, upto: float) -> Shape:
        """Four legs under the corners."""
        wide, deep = self.wide / 2, self.deep / 2
        leg = min(LEG, wide, deep)
        for x in (-wide, wide - leg):
            for y in (-deep, deep - leg):
                yield "machine", cuboid((x, y, 0.0), (x + leg, y + leg, max(upto, 0.01)))

    def cabinet(self, wide: float = 0.7, deep: float = 0.75) -> Shape:
        """What stands under the table: a cabinet, or legs where there is room below."""
        upto = max(self.table - PLATE, 0.02)
        if self.under > 0:
            yield from self.legs(self.under)
        yield (
            "machine",
            self.box((-wide / 2, wide / 2), (-deep / 2, deep / 2), (min(self.under, upto), upto)),
        )


def _table_saw(it: _Body) -> Shape:
    yield from it.cabinet(min(0.55, 0.62 / it.wide))
    yield "table", it.plate()
    yield "steel", it.box((0.14, 0.17), (-0.5, 0.5), (it.table, it.table + FENCE_HIGH * 0.8))
    at, over = it.table, 0.12
    yield "blade", tube([(-0.002, 0, at), (0.002, 0, at)], over, sides=24)
    yield "steel", it.box((-0.004 / it.wide, 0.004 / it.wide), (0.16, 0.3), (at, at + over))


def _bench_saw(it: _Body) -> Shape:
    """A saw that is pulled across the work: stand, fence at the back, head over it."""
    yield from it.cabinet(0.8)
    yield "table", it.plate()
    yield "steel", it.box((-0.5, 0.5), (0.06, 0.1), (it.table, it.table + FENCE_HIGH))
    high, size = it.table + 0.24, min(0.15, it.wide / 4)
    yield "blade", tube([(-0.01, -0.05, high), (0.01, -0.05, high)], size, sides=24)
    yield "machine", cuboid((0.01, -0.12, high - 0.06), (0.16, 0.0, high + 0.08))
    yield "machine", cuboid((-0.03, -0.04, high), (0.03, it.deep * 0.4, high + 0.05))
    yield "machine", it.box((-0.03, 0.03), (0.34, 0.42), (it.table, high + 0.05))


def _bandsaw(it: _Body) -> Shape:
    gap = min(max((it.top - it.table) * 0.45, 0.1), 0.35)
    yield "machine", it.box((-0.5, 0.42), (-0.32, 0.32), (0.0, max(it.table - 0.16, 0.1)))
    yield "machine", it.box((-0.5, -0.26), (-0.22, 0.22), (max(it.table - 0.16, 0.1), it.top))
    yield "machine", it.box((-0.5, 0.42), (-0.26, 0.26), (it.table + gap, it.top))
    yield "table", it.box((-0.2, 0.5), (-0.5, 0.5), (it.table - PLATE, it.table))
    yield "steel", it.box((0.1, 0.14), (-0.06, 0.06), (it.table + 0.08, it.table + gap))
    yield (
        "blade",
        cuboid((0.118 * it.wide, -0.008, it.table), (0.122 * it.wide, 0.008, it.table + 0.09)),
    )


def _jointer(it: _Body) -> Shape:
    yield from it.cabinet(0.5, 0.6)
    yield "table", it.box((-0.5, -0.04), (-0.4, 0.4), (it.table - 0.07, it.table - 0.004))
    yield "table", it.box((0.04, 0.5), (-0.4, 0.4), (it.table - 0.07, it.table))
    yield (
        "blade",
        tube([(0, -0.4 * it.deep, it.table - 0.05), (0, 0.4 * it.deep, it.table - 0.05)], 0.045),
    )
    yield "steel", it.box((-0.32, 0.32), (0.3, 0.36), (it.table, it.table + 0.11))


def _planer(it: _Body) -> Shape:
    head = min(it.table + 0.12, it.top - 0.02) if it.top > it.table + 0.05 else it.table - 0.2
    bed = head - 0.12
    yield from it.legs(max(bed - 0.25, 0.05))
    yield "machine", it.box((-0.42, 0.42), (-0.3, 0.3), (max(bed - 0.25, 0.05), max(bed, 0.08)))
    yield "table", it.box((-0.36, 0.36), (-0.5, 0.5), (max(bed, 0.08), max(bed, 0.08) + PLATE))
    for x in (-0.45, 0.4):
        for y in (-0.28, 0.22):
            yield "steel", it.box((x, x + 0.05), (y, y + 0.06), (max(bed, 0.08), head))
    yield "machine", it.box((-0.5, 0.5), (-0.34, 0.34), (head, max(it.top, head + 0.1)))


def _router_table(it: _Body) -> Shape:
    yield from it.cabinet(0.86)
    yield "table", it.plate()
    yield "steel", it.box((-0.46, -0.05), (0.08, 0.16), (it.table, it.table + FENCE_HIGH))
    yield "steel", it.box((0.05, 0.46), (0.08, 0.16), (it.table, it.table + FENCE_HIGH))
    yield "blade", cylinder(0.0, 0.05, it.table, it.table + 0.05, 0.02)


def _lathe(it: _Body) -> Shape:
    high = max(it.top, it.table + 0.12)
    bed = max(it.table - 0.2, 0.2)
    for x in (-0.46, 0.3):
        yield "machine", it.box((x, x + 0.14), (-0.4, 0.4), (0.0, bed))
    yield "steel", it.box((-0.5, 0.5), (-0.22, 0.22), (bed, bed + 0.07))
    yield "machine", it.box((-0.5, -0.26), (-0.34, 0.34), (bed + 0.07, high))
    yield "machine", it.box((0.3, 0.42), (-0.24, 0.24), (bed + 0.07, it.table + 0.08))
    turned = [(-0.26 * it.wide, 0.0, it.table), (0.3 * it.wide, 0.0, it.table)]
    yield "wood", tube(turned, min(0.05, it.deep / 5))
    yield "steel", it.box((-0.12, 0.1), (-0.3, -0.24), (it.table - 0.05, it.table))


def _drill_press(it: _Body) -> Shape:
    round_ = min(it.wide, it.deep) / 2
    yield "machine", it.box((-0.45, 0.45), (-0.4, 0.5), (0.0, 0.06))
    yield "steel", cylinder(0.0, 0.24 * it.deep, 0.06, it.top - 0.1, min(0.05, round_ / 2))
    yield "machine", it.box((-0.4, 0.4), (-0.42, 0.48), (it.top - 0.32, it.top))
    yield "table", cylinder(0.0, -0.12 * it.deep, it.table - PLATE, it.table, round_ * 0.85)
    yield "blade", cylinder(0.0, -0.12 * it.deep, it.table + 0.1, it.top - 0.3, 0.015)


def _disc_sander(it: _Body) -> Shape:
    high = max(it.top, it.table + 0.1)
    size = min(it.wide * 0.42, (high - it.table) * 1.1, 0.2)
    yield from it.cabinet(0.7, 0.6)
    yield "machine", it.box((-0.3, 0.3), (0.1, 0.5), (it.table - PLATE, high))
    yield (
        "blade",
        tube([(0, 0.06 * it.deep, it.table), (0, 0.1 * it.deep, it.table)], size, sides=24),
    )
    yield "table", it.box((-0.5, 0.5), (-0.5, 0.04), (it.table - PLATE, it.table))


def _belt_sander(it: _Body) -> Shape:
    """A long belt on edge."""
    yield from it.cabinet(0.8, 0.7)
    yield "table", it.plate()
    yield "blade", it.box((-0.46, 0.46), (0.0, 0.16), (it.table, it.table + 0.16))


def _spindle_sander(it: _Body) -> Shape:
    yield from it.cabinet(0.8, 0.8)
    yield "table", it.plate()
    yield "blade", cylinder(0.0, 0.0, it.table, it.table + 0.16, 0.03)


def _through_sander(it: _Body) -> Shape:
    """Work goes through it on a band: bed and head."""
    yield from it.cabinet(0.9, 0.6)
    yield "table", it.box((-0.44, 0.44), (-0.5, 0.5), (it.table - PLATE, it.table))
    yield (
        "machine",
        it.box((-0.5, 0.5), (-0.3, 0.3), (it.table + 0.08, max(it.top, it.table + 0.2))),
    )
    yield "machine", it.box((0.44, 0.5), (-0.3, 0.3), (it.table - 0.2, it.table + 0.08))
    yield "machine", it.box((-0.5, -0.44), (-0.3, 0.3), (it.table - 0.2, it.table + 0.08))


def _gantry_router(it: _Body) -> Shape:
    yield from it.legs(max(it.table - 0.12, 0.05))
    yield (
        "machine",
        it.box((-0.5, 0.5), (-0.5, 0.5), (max(it.table - 0.12, 0.05), it.table - PLATE)),
    )
    yield "table", it.plate(0.96)
    high = max(it.top, it.table + 0.2)
    for x in (-0.5, 0.44):
        yield "machine", it.box((x, x + 0.06), (-0.06, 0.06), (it.table, high))
    yield "machine", it.box((-0.5, 0.5), (-0.04, 0.06), (high - 0.14, high))
    yield "steel", it.box((-0.06, 0.06), (-0.1, -0.04), (it.table + 0.08, high - 0.02))


def _scroll_saw(it: _Body) -> Shape:
    yield from it.legs(max(it.table - 0.1, 0.05))
    yield "machine", it.box((-0.3, 0.3), (-0.3, 0.5), (max(it.table - 0.1, 0.05), it.table - PLATE))
    yield "table", it.box((-0.5, 0.5), (-0.5, 0.1), (it.table - PLATE, it.table))
    high = max(it.top, it.table + 0.12)
    yield "machine", it.box((-0.12, 0.12), (0.34, 0.5), (it.table - PLATE, high))
    yield "machine", it.box((-0.12, 0.12), (-0.3, 0.5), (high - 0.07, high))
    yield "blade", cuboid((-0.003, -0.2 * it.deep, it.table), (0.003, -0.17 * it.deep, high - 0.06))


def _floor_sweep(it: _Body) -> Shape:
    yield "machine", it.box((-0.5, 0.5), (-0.5, 0.5), (0.0, max(it.top, 0.02)))


def _hand_tools(it: _Body) -> Shape:
    """A place for tools that are held: a post with a hook."""
    yield "steel", cylinder(0.0, 0.0, 0.0, max(it.table, 0.1), 0.025)
    yield "machine", it.box((-0.5, 0.5), (-0.5, 0.5), (0.0, 0.03))
    yield (
        "table",
        it.box((-0.4, 0.4), (-0.4, 0.4), (max(it.table - 0.06, 0.03), max(it.table, 0.09))),
    )


def _anything(it: _Body) -> Shape:
    """A cabinet with its table, and what stands on it where it is higher."""
    yield from it.cabinet(0.8)
    yield "table", it.plate()
    if it.top > it.table + 0.05:
        yield "machine", it.box((-0.36, 0.36), (0.0, 0.46), (it.table, it.top))


# The first whose words all stand in a machine's kind; the more special stand first.
SHAPES: tuple[tuple[tuple[str, ...], Callable[[_Body], Shape]], ...] = (
    (("floor", "sweep"), _floor_sweep),
    (("hand", "tools"), _hand_tools),
    (("bandsaw",), _bandsaw),
    (("scroll",), _scroll_saw),
    (("mitre",), _bench_saw),
    (("miter",), _bench_saw),
    (("radial",), _bench_saw),
    (("cnc",), _gantry_router),
    (("router",), _router_table),
    (("shaper",), _router_table),
    (("spindle", "sander"), _spindle_sander),
    (("spindle",), _router_table),
    (("disc",), _disc_sander),
    (("edge", "sander"), _belt_sander),
    (("drum", "sander"), _through_sander),
    (("wide", "sander"), _through_sander),
    (("lathe",), _lathe),
    (("drill",), _drill_press),
    (("mortis",), _drill_press),
    (("jointer",), _jointer),
    (("planer-thicknesser",), _jointer),
    (("planer",), _planer),
    (("track", "saw"), _anything),
    (("saw",), _table_saw),
)


@lru_cache(maxsize=512)
def machine_shape(machine: MachineBody) -> tuple[tuple[Tone, Mesh], ...]:
    """The solids of a machine about its own foot, each with what it is painted as. What nobody
    knows the kind of is a cabinet with a table. Raises nothing.
    """
    kind = machine.kind.lower()
    drawn = next((shape for words, shape in SHAPES if all(w in kind for w in words)), _anything)
    return tuple(drawn(_Body(machine)))
