"""Small drawings of where to hold an instrument, where to look, and what a lesson is about.

Plain line drawings as values (`build/drawing.py`), in millimetres of a card of `WIDE` by `HIGH`.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable

from grey_current.build.drawing import Anchor, Circle, Drawing, Item, Path, Text, rectangle
from grey_current.shop.places import XY

WIDE, HIGH = 80.0, 40.0
MM = 0.001
LETTERING = 2.8
# How wide a pipe is drawn.
PIPE = 9.0


def picture_of(what: str) -> Drawing:
    """The drawing for a kind of reading, a kind of fault or a lesson. Raises `KeyError` for one
    that there is none of.
    """
    items = [*_PICTURES[what]()]
    # A frame that is not drawn gives every card the same size.
    frame = [Circle((x * MM, y * MM), 0.0, "hidden") for x, y in ((0, 0), (WIDE, HIGH))]
    return Drawing(what, (*frame, *items))


def pictured() -> tuple[str, ...]:
    """Everything that there is a drawing of."""
    return tuple(_PICTURES)


# -- what they are made of, in millimetres


def _line(*points: XY, layer: str = "ducts", closed: bool = False) -> Path:
    return Path(tuple((x * MM, y * MM) for x, y in points), layer, closed)


def _words(x: float, y: float, text: str, anchor: Anchor = "left") -> Text:
    return Text((x * MM, y * MM), text, LETTERING, anchor)


def _box(x: float, y: float, wide: float, high: float, layer: str = "machines") -> Path:
    return rectangle(x * MM, y * MM, wide * MM, high * MM, layer)


def _ring(
    x: float, y: float, radius: float, layer: str = "machines", *, blank: bool = False
) -> Item:
    return Circle((x * MM, y * MM), radius * MM, layer, blank)


def _pipe(x: float, y: float, to_x: float) -> Iterable[Item]:
    """A pipe from left to right, its middle at y."""
    yield _line((x, y + PIPE / 2), (to_x, y + PIPE / 2))
    yield _line((x, y - PIPE / 2), (to_x, y - PIPE / 2))


def _air(x: float, y: float, long: float = 9.0) -> Iterable[Item]:
    """An arrow with the air, to the right."""
    yield _line((x, y), (x + long, y), layer="gates")
    yield _line((x + long - 2, y + 1.2), (x + long, y), (x + long - 2, y - 1.2), layer="gates")


def _gauge(x: float, y: float, angle: float = 120.0, radius: float = 6.0) -> Iterable[Item]:
    """A round gauge with its needle at an angle (degrees from the right)."""
    yield _ring(x, y, radius, blank=True)
    for mark in range(30, 151, 30):
        c, s = math.cos(math.radians(mark)), math.sin(math.radians(mark))
        yield _line(
            (x + 0.8 * radius * c, y + 0.8 * radius * s),
            (x + radius * c, y + radius * s),
            layer="machines",
        )
    c, s = math.cos(math.radians(angle)), math.sin(math.radians(angle))
    yield _line((x, y), (x + 0.7 * radius * c, y + 0.7 * radius * s))


def _lamp(x: float, y: float) -> Iterable[Item]:
    """A torch that shines to the right."""
    yield _box(x - 8, y - 1.3, 6, 2.6)
    yield _line((x - 2, y - 1.3), (x, y - 2.2), (x, y + 2.2), (x - 2, y + 1.3), layer="machines")
    for rise in (-2.5, 0.0, 2.5):
        yield _line((x + 1, y + rise / 2), (x + 7, y + rise * 1.4), layer="hidden")


def _chips(x: float, y: float, wide: float, high: float) -> Iterable[Item]:
    """A heap, or a plug, of chips."""
    for row in range(max(int(high / 1.8), 1)):
        for n in range(max(int(wide / 2.2), 1)):
            at_x, at_y = x + 2.2 * n + (row % 2) * 1.1, y + 1.8 * row
            tilt = 0.8 if (n + row) % 2 else -0.8
            yield _line((at_x, at_y), (at_x + 1.4, at_y + tilt), layer="machines")


def _strip(x: float, y: float, drawn_in: bool = True) -> Iterable[Item]:
    """A strip of paper held over something, its end drawn in."""
    end = (x + 1.5, y - 2.5) if drawn_in else (x + 0.5, y + 2.0)
    yield _line((x, y + 8), (x - 0.6, y + 4), (x + 0.4, y + 1), end, layer="gates")


def _cyclone(x: float, y: float) -> Iterable[Item]:
    """A cyclone over its bin, standing at y."""
    yield _box(x, y, 14, 8)
    yield _line((x, y + 24), (x, y + 31), (x + 14, y + 31), (x + 14, y + 24))
    yield _line((x, y + 24), (x + 5, y + 8))
    yield _line((x + 14, y + 24), (x + 9, y + 8))
    yield _line((x - 8, y + 30), (x, y + 30))
    yield _line((x - 8, y + 26), (x, y + 26))


def _filter(x: float, y: float, high: float = 22.0) -> Iterable[Item]:
    """A pleated filter, standing at y."""
    yield _box(x, y, 16, high)
    for n in range(1, 8):
        yield _line((x + 2 * n, y + 1), (x + 2 * n, y + high - 1), layer="beams")


# -- the drawings


def _static_pressure() -> Iterable[Item]:
    yield from _pipe(4, 10, 76)
    yield from _air(8, 10)
    yield _ring(40, 10 + PIPE / 2, 0.9, "gates", blank=True)
    yield _line((40, 15.5), (40, 21), (46, 27), layer="gates")
    yield from _gauge(51, 30)
    yield _words(4, 22, "small hole,")
    yield _words(4, 18, "no burr inside")
    yield _words(59, 29, "gauge")
    yield _words(59, 10, "to the fan")


def _velocity() -> Iterable[Item]:
    yield _ring(24, 20, 14, "ducts")
    for share in (0.032, 0.135, 0.321, 0.679, 0.865, 0.968):
        yield _ring(24, 6 + 28 * share, 0.7, "gates")
        yield _ring(10 + 28 * share, 20, 0.7, "gates")
    yield _line((24, 38), (24, 34), layer="gates")
    yield _words(42, 27, "six points across,")
    yield _words(42, 22.5, "six up and down;")
    yield _words(42, 15, "the mean of all,")
    yield _words(42, 10.5, "not the middle")


def _airflow() -> Iterable[Item]:
    yield _line((30, 6), (30, 34), (48, 25), (48, 15), (30, 6), layer="ducts")
    yield from _pipe(48, 20, 76)
    yield from _air(58, 20)
    for y in (11, 20, 29):
        yield _ring(25, y, 2.2, "gates")
        yield _line((18, y), (22.5, y), layer="gates")
    yield _words(3, 20, "move it")
    yield _words(3, 15.5, "over the")
    yield _words(3, 11, "opening")
    yield _words(33, 35.5, "hood")


def _filter_drop() -> Iterable[Item]:
    yield from _filter(30, 6)
    yield _box(12, 10, 18, 14)
    yield _line((22, 24), (22, 34), (37, 34), layer="gates")
    yield from _gauge(43, 34, 60, 4.5)
    yield _line((47.5, 34), (60, 34), (60, 20), layer="gates")
    yield _words(2, 4, "dirty side")
    yield _words(50, 14, "clean side:")
    yield _words(50, 9.5, "the open end in")
    yield _words(50, 5, "the room's air")


def _motor_current() -> Iterable[Item]:
    yield _box(4, 12, 12, 16)
    yield _words(4, 30.5, "outlet")
    for y in (23, 20, 17):
        yield _line((16, y), (58, y), layer="machines")
    yield _box(58, 12, 14, 16)
    yield _words(58, 30.5, "motor")
    yield _ring(36, 24.5, 5, "gates")
    yield _line((36, 29.5), (36, 37), layer="gates")
    yield _words(39, 36, "round one wire only")
    yield _words(4, 6, "a split lead: no plug is opened")


def _sound() -> Iterable[Item]:
    yield from _cyclone(16, 4)
    yield _box(60, 18, 5, 9, "gates")
    yield _line((31, 22), (60, 22), layer="dimensions")
    yield _words(45, 24, "same spot", "middle")
    yield _words(36, 12, "machines off,")
    yield _words(36, 7.5, "ears covered")


def _filter_loaded() -> Iterable[Item]:
    yield from _filter(24, 8)
    yield from _lamp(16, 19)
    yield _words(43, 24, "light comes")
    yield _words(43, 19.5, "through if clean;")
    yield _words(43, 12, "brown and dark:")
    yield _words(43, 7.5, "clean it")


def _separator_plugged() -> Iterable[Item]:
    yield from _cyclone(18, 4)
    yield from _chips(23.5, 14, 4, 8)
    yield from _lamp(13, 9)
    yield _words(39, 27, "1  off, unplugged")
    yield _words(39, 20, "2  look into the bin")
    yield _words(39, 13, "3  lamp up the cone")


def _inlet_wrapped() -> Iterable[Item]:
    yield _box(46, 6, 28, 26)
    yield _words(52, 27, "machine")
    yield from _pipe(30, 16, 46)
    yield from _lamp(22, 16)
    for n in range(3):
        yield _ring(39, 16, 1.2 + n * 1.2, "gates")
    yield _words(4, 34, "off, unplugged: a curl, or a chip")
    yield _words(4, 29.5, "that lies across?")


def _hose_collapsed() -> Iterable[Item]:
    upper = [(6 + n * 2.0, 25 + (1.0 if n % 2 else 0.0)) for n in range(34)]
    flat = [(x, y - 4.6 * math.exp(-(((x - 40) / 6) ** 2))) for x, y in upper]
    yield _line(*flat)
    yield _line(*((x, 38 - y) for x, y in flat))
    yield _words(6, 33, "flat, kinked or full of chips?")
    yield _words(6, 3, "off, take it down, look through it")


def _gates_leaking() -> Iterable[Item]:
    yield from _pipe(6, 12, 34)
    yield from _pipe(42, 12, 74)
    yield _box(34, 5, 8, 14)
    yield _line((38, 7), (38, 27), layer="gates")
    yield _box(36, 26, 4, 3, "gates")
    yield from _strip(44, 20)
    yield _words(44, 34.5, "paper is drawn in:")
    yield _words(44, 30, "it leaks")
    yield _words(6, 25, "every shut gate")


def _ducts_leaking() -> Iterable[Item]:
    yield from _pipe(6, 12, 40)
    yield from _pipe(38, 12, 74)
    yield _line((39, 7), (39, 17), layer="gates")
    yield from _strip(39, 17.5)
    yield _words(42, 27, "paper at each joint,")
    yield _words(42, 22.5, "and listen")


def _fan_weak() -> Iterable[Item]:
    yield _ring(18, 18, 13, "ducts")
    yield _ring(18, 18, 3, "gates")
    for n in range(6):
        angle = math.radians(60 * n + 15)
        c, s = math.cos(angle), math.sin(angle)
        yield _line(
            (18 + 3 * c, 18 + 3 * s), (18 + 10 * c - 2 * s, 18 + 10 * s + 2 * c), layer="machines"
        )
    yield _line((6, 33), (12, 36.5), (19, 37), layer="gates")
    yield _line((17, 38.4), (19, 37), (17, 35.6), layer="gates")
    yield _words(36, 28, "off, unplugged,")
    yield _words(36, 23.5, "and it stands still:")
    yield _words(36, 16, "belt, wheel, housing;")
    yield _words(36, 11.5, "which way it turns")


def _gate_open() -> Iterable[Item]:
    yield from _pipe(4, 31, 76)
    for x, is_open in ((10, False), (34, True), (62, False)):
        yield _line((x, 26.5), (x, 6))
        yield _line((x + PIPE, 26.5), (x + PIPE, 6))
        reach = x + (PIPE + 10 if is_open else PIPE + 3)
        start = x + PIPE if is_open else x
        yield _line((start, 18), (reach, 18), layer="walls")
    yield _words(14.5, 2, "shut", "middle")
    yield _words(38.5, 2, "open", "middle")
    yield _words(66.5, 2, "shut", "middle")


def _run_plugged() -> Iterable[Item]:
    yield from _pipe(6, 14, 74)
    yield from _chips(38, 10.2, 14, 8)
    yield _line((24, 34), (30, 22), layer="gates")
    yield _box(28, 19.5, 5, 3, "gates")
    yield _words(36, 30, "knock along it:")
    yield _words(36, 25.5, "dull where it is full")


def _joint_apart() -> Iterable[Item]:
    yield from _pipe(6, 12, 36)
    yield from _pipe(41, 12, 74)
    yield from _strip(38, 17)
    yield _line((38, 1.5), (38.5, 7), layer="gates")
    yield _words(34, 35, "listen and feel along it:")
    yield _words(34, 30.5, "air goes in at the gap")


def _two_at_once() -> Iterable[Item]:
    yield from _pipe(4, 31, 76)
    for x, name in ((16, "saw"), (44, "planer")):
        yield _line((x, 26.5), (x, 13))
        yield _line((x + PIPE, 26.5), (x + PIPE, 13))
        yield _box(x - 4, 4, PIPE + 8, 9)
        yield _words(x + PIPE / 2, 7, name, "middle")
        yield _line((x + PIPE, 20), (x + PIPE + 9, 20), layer="walls")
    yield _words(72, 20, "?")


_PICTURES: dict[str, Callable[[], Iterable[Item]]] = {
    "static pressure": _static_pressure,
    "velocity": _velocity,
    "airflow": _airflow,
    "filter drop": _filter_drop,
    "motor current": _motor_current,
    "sound": _sound,
    "filter loaded": _filter_loaded,
    "separator plugged": _separator_plugged,
    "inlet wrapped": _inlet_wrapped,
    "hose collapsed": _hose_collapsed,
    "gates leaking": _gates_leaking,
    "ducts leaking": _ducts_leaking,
    "fan weak": _fan_weak,
    "gate open": _gate_open,
    "run plugged": _run_plugged,
    "joint apart": _joint_apart,
    "two at once": _two_at_once,
}
