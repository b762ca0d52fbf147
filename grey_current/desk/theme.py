"""Palette, type and spacing of the desk, in one place; nothing else names a colour or a font."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from string import Template

from PyQt6.QtGui import QColor, QFont, QFontDatabase

FAMILY = "Lato"
# Pixels; every margin is a multiple or half of it.
SPACE = 8


@dataclass(frozen=True)
class Palette:
    """Colours by what they mean. Greys of a workshop, ink lines, one family of flow colours."""

    name: str
    # Behind everything.
    bench: QColor
    # Panels and the floor's paper.
    sheet: QColor
    # Fields and rows under the pointer.
    raised: QColor
    # Hairlines between things.
    rule: QColor
    ink: QColor
    # Second-rank text.
    soft: QColor
    # Grid, beams, things far away.
    faint: QColor
    # Selection and focus.
    accent: QColor
    good: QColor
    short: QColor
    starved: QColor
    fast: QColor
    settled: QColor
    # A still duct near the floor; `idle_high` one under the ceiling.
    idle_low: QColor
    idle_high: QColor
    machine: QColor
    machine_on: QColor
    wall: QColor

    def state(self, word: str) -> QColor:
        """The colour of a state word; soft ink for any other."""
        return {
            "good": self.good,
            "nearly": self.good,
            "carries": self.good,
            "air": self.good,
            "short": self.short,
            "may settle": self.short,
            "starved": self.starved,
            "settles": self.settled,
            "too fast": self.fast,
            "mounted": self.ink,
            "sealed": self.good,
        }.get(word, self.soft)


def _c(text: str) -> QColor:
    return QColor(text)


LIGHT = Palette(
    name="light",
    bench=_c("#dfdfda"),
    sheet=_c("#f4f3ef"),
    raised=_c("#ffffff"),
    rule=_c("#c9c8c1"),
    ink=_c("#22282c"),
    soft=_c("#5b636a"),
    faint=_c("#b4b5af"),
    accent=_c("#0b6e7f"),
    good=_c("#2f7f95"),
    short=_c("#b87a12"),
    starved=_c("#a63a24"),
    fast=_c("#6b4fa0"),
    settled=_c("#7a5a3a"),
    idle_low=_c("#dcdcd6"),
    idle_high=_c("#b3b7b8"),
    machine=_c("#e6e5df"),
    machine_on=_c("#d3e3e6"),
    wall=_c("#6d7478"),
)

DARK = Palette(
    name="dark",
    bench=_c("#16191b"),
    sheet=_c("#1f2427"),
    raised=_c("#2a3034"),
    rule=_c("#3a4247"),
    ink=_c("#e8e7e1"),
    soft=_c("#a7aeb2"),
    faint=_c("#4c555a"),
    accent=_c("#5fc3d3"),
    good=_c("#5cb1c6"),
    short=_c("#e0a63f"),
    starved=_c("#ec7b62"),
    fast=_c("#b39be6"),
    settled=_c("#c79a6b"),
    idle_low=_c("#343b3f"),
    idle_high=_c("#566067"),
    machine=_c("#2b3236"),
    machine_on=_c("#24454d"),
    wall=_c("#8b9499"),
)

# What is printed, and what it is printed on.
INK, PAPER = _c("#22282c"), _c("#ffffff")
PALETTES = {"light": LIGHT, "dark": DARK}

# Type scale in pixels.
SIZES = {"fine": 11, "small": 12, "body": 13, "name": 14, "title": 17, "verdict": 20}


def load_fonts() -> None:
    """Make the shipped typeface known to Qt. Its figures are tabular."""
    folder = files("grey_current.desk") / "fonts"
    for name in ("Lato-Regular.ttf", "Lato-Bold.ttf"):
        QFontDatabase.addApplicationFontFromData((folder / name).read_bytes())


def font(size: str = "body", bold: bool = False) -> QFont:
    """A font of the type scale."""
    made = QFont(FAMILY)
    made.setPixelSize(SIZES[size])
    made.setBold(bold)
    return made


def paper_font(pixels: int, bold: bool = False) -> QFont:
    """The typeface in a size of its own, for paper; without ligatures, which nobody who searches a
    PDF would find.
    """
    made = QFont(FAMILY)
    made.setPixelSize(pixels)
    made.setBold(bold)
    made.setFeature(QFont.Tag("liga"), 0)
    return made


def sized_font(pixels: float, bold: bool = False) -> QFont:
    """The typeface in a size that follows the screen."""
    made = QFont(FAMILY)
    made.setPixelSize(max(round(pixels), 8))
    made.setBold(bold)
    return made


def mixed(a: QColor, b: QColor, share: float) -> QColor:
    """A colour between two: `share` 0 is the first, 1 the second."""
    return QColor(
        *(round(x + (y - x) * share) for x, y in zip(a.getRgb()[:3], b.getRgb()[:3], strict=True))
    )


def faded(colour: QColor, alpha: int) -> QColor:
    """The colour, see-through."""
    made = QColor(colour)
    made.setAlpha(alpha)
    return made


def style_sheet(p: Palette) -> str:
    """Qt style sheet for the standard widgets."""
    n = {name: getattr(p, name).name() for name in p.__dataclass_fields__ if name != "name"}
    n |= {
        "button": mixed(p.machine, p.raised, 0.3).name(),
        "edge": mixed(p.rule, p.ink, 0.15).name(),
        "deep": mixed(p.accent, p.ink, 0.35).name(),
    }
    n |= {f"size_{name}": str(size) for name, size in SIZES.items()}
    return style_template().substitute(n, family=FAMILY)


@cache
def style_template() -> Template:
    """The style sheet with names for its colours and sizes."""
    return Template((files("grey_current.desk") / "style.qss").read_text(encoding="utf-8"))
