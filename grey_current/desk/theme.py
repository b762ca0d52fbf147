"""Palette, type and spacing of the desk, in one place; nothing else names a colour or a font."""

from __future__ import annotations

from dataclasses import dataclass
from importlib.resources import files

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
    return f"""
    QWidget {{ color: {n["ink"]}; font-family: "{FAMILY}"; font-size: {SIZES["body"]}px; }}
    QMainWindow, QDialog, QMessageBox {{ background: {n["bench"]}; }}
    QMenuBar {{ background: {n["bench"]}; padding: 2px 4px; }}
    QMenuBar::item {{ padding: 3px 10px; background: transparent; }}
    QMenuBar::item:selected, QMenu::item:selected {{ background: {n["accent"]};
        color: {n["sheet"]}; }}
    QMenu {{ background: {n["sheet"]}; border: 1px solid {n["rule"]}; padding: 4px; }}
    QMenu::item {{ padding: 4px 24px 4px 12px; }}
    QMenu::item:disabled {{ color: {n["faint"]}; }}
    QMenu::separator {{ height: 1px; background: {n["rule"]}; margin: 4px 8px; }}
    QToolTip {{ background: {n["raised"]}; color: {n["ink"]}; border: 1px solid {n["rule"]};
        padding: 4px; }}
    QFrame#panel {{ background: {n["sheet"]}; border: 1px solid {n["rule"]}; border-radius: 3px; }}
    QScrollArea, QScrollArea > QWidget > QWidget {{ background: transparent; border: none; }}
    QScrollBar:vertical {{ background: transparent; width: 9px; margin: 0; }}
    QScrollBar::handle:vertical {{ background: {n["faint"]}; border-radius: 4px;
        min-height: 24px; }}
    QScrollBar:horizontal {{ background: transparent; height: 9px; margin: 0; border: none; }}
    QScrollBar::handle:horizontal {{ background: {n["faint"]}; border-radius: 4px;
        min-width: 24px; }}
    QScrollBar::add-line, QScrollBar::sub-line, QScrollBar::add-page, QScrollBar::sub-page {{
        background: transparent; height: 0; width: 0; border: none; }}
    QLineEdit, QComboBox {{ background: {n["raised"]}; border: 1px solid {n["rule"]};
        border-radius: 3px;
        padding: 3px 6px; min-height: 20px; selection-background-color: {n["accent"]}; }}
    QLineEdit:focus, QComboBox:focus {{ border: 1px solid {n["accent"]}; }}
    QLineEdit[bad="true"] {{ border: 2px solid {n["starved"]}; }}
    QLineEdit:hover, QComboBox:hover {{ border-color: {n["faint"]}; }}
    QComboBox {{ padding-right: 22px; }}
    QComboBox::drop-down {{ border: none; width: 22px; }}
    QComboBox::down-arrow {{ image: none; }}
    QComboBox QAbstractItemView {{ background: {n["raised"]}; border: 1px solid {n["rule"]};
        selection-background-color: {n["accent"]}; selection-color: {n["sheet"]}; outline: none; }}
    QPushButton {{ background: {n["button"]}; border: 1px solid {n["edge"]};
        border-bottom: 2px solid {n["edge"]}; border-radius: 3px;
        padding: 4px 12px 3px 12px; min-height: 20px; }}
    QPushButton:checked {{ background: {n["machine_on"]}; border-color: {n["accent"]}; }}
    QPushButton:hover {{ background: {n["machine_on"]}; }}
    QPushButton:focus {{ border-color: {n["accent"]}; }}
    QPushButton:pressed {{ background: {n["rule"]}; border-bottom-width: 1px;
        padding-bottom: 4px; }}
    QPushButton:disabled {{ background: transparent; border-color: {n["rule"]};
        color: {n["faint"]}; }}
    QPushButton#primary {{ background: {n["accent"]}; border-color: {n["deep"]};
        color: {n["sheet"]}; font-weight: bold; }}
    QPushButton#primary QLabel {{ color: {n["sheet"]}; font-weight: bold; }}
    QPushButton#primary:hover, QPushButton#primary:focus {{ background: {n["deep"]}; }}
    QDialogButtonBox {{ dialogbuttonbox-buttons-have-icons: 0; }}
    QToolButton {{ background: transparent; border: 1px solid transparent; border-radius: 3px;
        padding: 4px; }}
    QToolButton:hover, QToolButton:focus {{ border-color: {n["rule"]}; background: {n["raised"]}; }}
    QToolButton#unit, QToolButton#unit:disabled {{ border: none; background: transparent;
        color: {n["soft"]}; font-size: {SIZES["small"]}px; padding: 0 6px 0 3px; min-width: 15px; }}
    QToolButton#unit:hover {{ color: {n["accent"]}; }}
    QToolButton:checked {{ background: {n["machine_on"]}; }}
    QPushButton#fold, QPushButton#fold:disabled {{ background: transparent; border: none;
        border-top: 1px solid {n["rule"]}; border-radius: 0; padding: 0; text-align: left;
        min-height: 23px; }}
    QToolButton#about {{ border: none; border-top: 1px solid {n["rule"]}; border-radius: 0;
        color: {n["soft"]}; padding: 0; min-width: 24px; min-height: 24px; }}
    QToolButton#about:hover {{ color: {n["accent"]}; }}
    QPushButton#fold:hover {{ background: {n["raised"]}; }}
    QPushButton#fold:focus {{ border-top: 1px solid {n["accent"]}; }}
    QPushButton#small {{ font-size: {SIZES["small"]}px; padding: 1px 8px; min-height: 20px; }}
    QListWidget {{ background: {n["sheet"]}; border: 1px solid {n["rule"]}; outline: none; }}
    QListWidget::item {{ border-left: 3px solid transparent; padding: 2px 5px; }}
    QListWidget::item:selected {{ background: {n["machine_on"]}; color: {n["ink"]};
        border-left: 3px solid {n["accent"]}; }}
    QTableView {{ background: {n["sheet"]}; border: 1px solid {n["rule"]};
        gridline-color: {n["rule"]};
        font-size: {SIZES["small"]}px; }}
    QTableView::item:focus {{ border: 1px solid {n["accent"]}; }}
    QHeaderView, QHeaderView::section, QTableCornerButton::section {{ background: {n["sheet"]};
        border: none;
        color: {n["soft"]}; font-size: {SIZES["small"]}px; padding: 0 5px; }}
    QLabel#soft, QLabel#subtitle {{ color: {n["soft"]}; font-size: {SIZES["small"]}px; }}
    QLabel#head {{ color: {n["soft"]}; font-size: {SIZES["small"]}px; font-weight: bold; }}
    QLabel#answer {{ font-size: {SIZES["name"]}px; }}
    QLabel#title {{ font-size: {SIZES["title"]}px; font-weight: bold; }}
    QLabel#bad {{ color: {n["starved"]}; font-size: {SIZES["small"]}px; }}
    QLabel#verdict {{ font-size: {SIZES["verdict"]}px; font-weight: bold; }}
    QLabel#cause {{ font-size: {SIZES["name"]}px; }}
    QFrame#banner {{ background: {n["raised"]}; border: 1px solid {n["starved"]};
        border-left: 5px solid {n["starved"]}; border-radius: 3px; }}
    QFrame#line {{ background: {n["rule"]}; max-height: 1px; min-height: 1px; border: none; }}
    """
