"""The strip when nothing runs: for each machine one bar of the fan's pressure, by what takes it;
its air, its chips.
"""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen

from grey_current.design.flow.shop_losses import PARTS, MachineLosses, shop_losses
from grey_current.design.words import state_word, transport_word
from grey_current.desk import glyphs
from grey_current.desk.plain import draw_cut
from grey_current.desk.theme import Palette, font, mixed
from grey_current.units import Display
from grey_current.workspace.workspace import Workspace

HEAD, ROW, FOOT = 28.0, 18.0, 22.0
# Pixels kept for the machine's name on the left and its figures on the right.
NAME, FIGURES = 118.0, 232.0
# A colour of the palette for each part, and how far it is mixed with the paper.
SHADES = {
    "intake": ("short", 0.25),
    "hose": ("settled", 0.15),
    "fittings": ("good", 0.2),
    "straight pipe": ("good", 0.65),
    "separator": ("soft", 0.2),
    "filter": ("soft", 0.5),
    "way back": ("soft", 0.75),
}


@dataclass(frozen=True)
class ShopBars:
    """What the strip shows, and where: rows in the shop's order, the largest pressure that fills a
    bar (Pa).
    """

    rows: tuple[MachineLosses, ...]
    most: float

    def fits(self, height: float) -> int:
        """How many rows there is room for."""
        return max(int((height - HEAD - FOOT) / ROW), 1)

    def bar(self, row: int, width: float) -> QRectF:
        """The whole bar of a row that is shown, in pixels."""
        return QRectF(
            12 + NAME, HEAD + row * ROW + 3, max(width - 24 - NAME - FIGURES, 40.0), ROW - 6
        )

    def shares(self, row: int, line: int, width: float) -> list[tuple[QRectF, str, str]]:
        """The parts of the bar of machine `row`, shown at a line: place, part, and the element that
        takes most.
        """
        box = self.bar(line, width)
        left, found = box.left(), []
        for share in self.rows[row].parts:
            wide = box.width() * share.loss / self.most
            found.append((QRectF(left, box.top(), wide, box.height()), share.part, share.element))
            left += wide
        return found


def shop_bars(workspace: Workspace) -> ShopBars | None:
    """The bars while nothing runs and nothing is selected; None when no machine has air yet."""
    if workspace.running or workspace.selection:
        return None
    rows = shop_losses(workspace.assessment)
    return ShopBars(rows, max(row.total for row in rows)) if rows else None


def told(workspace: Workspace, bars: ShopBars, row: int, part: str) -> str:
    """What a part of a bar is, in a sentence."""
    losses, display = bars.rows[row], Display(workspace.project.settings.units)
    share = next(s for s in losses.parts if s.part == part)
    name = workspace.project.machine[losses.machine].name
    return (
        f"{name}, {part}: {display.pressure(share.loss)}, most of it "
        f"{workspace.computed.names.of(share.element)}"
    )


def figures(workspace: Workspace, losses: MachineLosses) -> str:
    """Got and needed, and how its chips fare."""
    display = Display(workspace.project.settings.units)
    words = (
        f"{display.airflow(losses.pickup.airflow, unit=False)} of "
        f"{display.airflow(losses.pickup.need.airflow)}"
    )
    if losses.slowest is not None:
        words += f", slowest air {losses.slowest:.0%}"
    return words


def paint_bars(
    painter: QPainter,
    box: QRectF,
    workspace: Workspace,
    bars: ShopBars,
    first: int,
    hover: str,
    p: Palette,
) -> None:
    """Paint the head, the rows from `first` on, and what is under the pointer."""
    display = Display(workspace.project.settings.units)
    painter.setFont(font("small", bold=True))
    painter.setPen(p.ink)
    head = (
        "Where the fan's pressure goes, each machine alone; the longest bar is "
        f"{display.pressure(bars.most)}"
    )
    draw_cut(painter, QRectF(12, 4, box.width() - 24, HEAD - 6), head)
    shown = bars.fits(box.height())
    for line, row in enumerate(range(first, min(first + shown, len(bars.rows)))):
        _paint_row(painter, box, workspace, bars, (row, line), p)
    foot = QRectF(12, box.height() - FOOT, box.width() - 24, FOOT - 4)
    if hover:
        painter.setFont(font("fine"))
        painter.setPen(p.ink)
        draw_cut(painter, foot, hover)
    else:
        _paint_legend(painter, foot, p)


def _paint_row(
    painter: QPainter,
    box: QRectF,
    workspace: Workspace,
    bars: ShopBars,
    place: tuple[int, int],
    p: Palette,
) -> None:
    row, line = place
    losses, bar = bars.rows[row], bars.bar(line, box.width())
    painter.setFont(font("fine"))
    painter.setPen(p.ink)
    name = workspace.project.machine[losses.machine].name
    draw_cut(painter, QRectF(12, bar.top() - 3, NAME - 8, ROW), name)
    for rect, part, _ in bars.shares(row, line, box.width()):
        painter.fillRect(rect.adjusted(0, 0, -1, 0), _shade(part, p))
    state = QPointF(bar.right() + 14, bar.center().y())
    glyphs.draw_state(painter, state, 11, state_word(losses.pickup.share), p)
    if losses.slowest is not None:
        chips = QPointF(box.width() - 18, bar.center().y())
        glyphs.draw_state(painter, chips, 11, transport_word(losses.slowest), p)
    painter.setPen(p.soft)
    left = bar.right() + 26
    room = QRectF(left, bar.top() - 3, min(FIGURES - 44, box.width() - 26 - left), ROW)
    draw_cut(painter, room, figures(workspace, losses))


def _paint_legend(painter: QPainter, foot: QRectF, p: Palette) -> None:
    painter.setFont(font("fine"))
    x = foot.left()
    for part in PARTS[:-1]:
        wide = painter.fontMetrics().horizontalAdvance(part)
        if x + 13 + wide > foot.right():
            break  # the parts are told on hover too
        painter.fillRect(QRectF(x, foot.center().y() - 4, 9, 9), _shade(part, p))
        painter.setPen(QPen(p.soft))
        painter.drawText(
            QRectF(x + 13, foot.top(), wide + 4, foot.height()), Qt.AlignmentFlag.AlignVCenter, part
        )
        x += wide + 28


def _shade(part: str, p: Palette) -> QColor:
    name, paler = SHADES[part]
    return mixed(getattr(p, name), p.sheet, paler)
