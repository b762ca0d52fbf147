"""Paints laid-out pages with Qt: on a PDF, on a printer, or as pictures for the preview."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from PyQt6.QtCore import QBuffer, QMarginsF, QPointF, QRectF, QSizeF, Qt
from PyQt6.QtGui import (
    QColor,
    QFontMetricsF,
    QImage,
    QPageLayout,
    QPageSize,
    QPainter,
    QPdfWriter,
    QPen,
    QPixmap,
    QPolygonF,
)
from PyQt6.QtPrintSupport import QPrinter

from grey_current.build.drawing import (
    DASHED,
    LAYERS,
    Circle,
    Dimension,
    Drawing,
    Text,
    dimension_paths,
    dimension_text,
)
from grey_current.build.drawing import Path as DrawnPath
from grey_current.desk.papers.layout import SIZES, Cutout, Mark, PaperPage, Rule, Shot, Word
from grey_current.desk.theme import INK, PAPER, paper_font
from grey_current.errors import FileError
from grey_current.files.safe_write import write_export
from grey_current.shop.places import XY

DPI = 600
MM = 25.4
# Pixel size of a font over the height of its capitals, as drawings give it.
CAP = 1.35


def save_pdf(pages: Sequence[PaperPage], path: Path, title: str, size: str = "A4") -> str:
    """Write pages into a PDF, text as text; returned is what was saved. Raises `FileError`."""
    return write_export(pdf(pages, title, size), path)


def pdf(pages: Sequence[PaperPage], title: str, size: str = "A4") -> bytes:
    """Pages as a PDF."""
    held = QBuffer()
    held.open(QBuffer.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(held)
    writer.setTitle(title)
    writer.setCreator("Grey Current")
    writer.setResolution(DPI)
    writer.setPageLayout(_layout(size, pages[0].lying))
    painter = QPainter(writer)
    for number, page in enumerate(pages):
        if number:
            writer.setPageLayout(_layout(size, page.lying))
            writer.newPage()
        paint_page(painter, page, DPI)
    painter.end()
    return held.data().data()


def save_picture(picture: QPixmap, path: Path) -> str:
    """Write a picture as PNG; returned is what was saved. Raises `FileError` when it cannot be
    written.
    """
    held = QBuffer()
    held.open(QBuffer.OpenModeFlag.WriteOnly)
    picture.save(held, "PNG")
    return write_export(held.data().data(), path)


def print_pages(pages: Sequence[PaperPage], printer: QPrinter) -> None:
    """Print pages; one that lies on its side is turned, so that every sheet goes through the same
    way.
    """
    printer.setFullPage(True)
    painter = QPainter()
    if not painter.begin(printer):
        raise FileError(
            printer.printerName() or "the printer", "does not answer", "choose another printer"
        )
    for number, page in enumerate(pages):
        if number:
            printer.newPage()
        painter.save()
        if page.lying:
            painter.translate(page.tall * printer.resolution() / MM, 0)
            painter.rotate(90)
        paint_page(painter, page, printer.resolution())
        painter.restore()
    painter.end()


def picture(page: PaperPage, dpi: float) -> QImage:
    """A page as a picture."""
    made = QImage(
        round(page.wide * dpi / MM), round(page.tall * dpi / MM), QImage.Format.Format_RGB32
    )
    made.fill(PAPER)
    painter = QPainter(made)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    paint_page(painter, page, dpi)
    painter.end()
    return made


def _layout(size: str, lying: bool) -> QPageLayout:
    wide, tall = SIZES[size]
    named = QPageSize(
        QSizeF(wide, tall), QPageSize.Unit.Millimeter, size, QPageSize.SizeMatchPolicy.ExactMatch
    )
    way = QPageLayout.Orientation.Landscape if lying else QPageLayout.Orientation.Portrait
    return QPageLayout(named, way, QMarginsF(0, 0, 0, 0), QPageLayout.Unit.Millimeter)


def paint_page(painter: QPainter, page: PaperPage, dpi: float) -> None:
    """Paint everything on a page, at so many pixels an inch."""
    for mark in page.marks:
        _paint(painter, mark, dpi / MM)


def _paint(painter: QPainter, mark: Mark, mm: float) -> None:
    if isinstance(mark, Word):
        _word(
            painter,
            QPointF(mark.x * mm, mark.y * mm),
            mark.text,
            mark.size * mm,
            mark.align,
            bold=mark.bold,
        )
    elif isinstance(mark, Rule):
        painter.setPen(QPen(INK, mark.weight * mm))
        painter.drawLine(QPointF(mark.x * mm, mark.y * mm), QPointF(mark.to_x * mm, mark.to_y * mm))
    elif isinstance(mark, Shot):
        high, wide = mark.picture.shape
        image = QImage(
            mark.picture.tobytes(), wide, high, wide * 4, QImage.Format.Format_RGB32
        ).copy()
        frame = QRectF(mark.x, mark.y, mark.wide, mark.tall)
        painter.drawImage(
            QRectF(frame.topLeft() * mm, frame.bottomRight() * mm), image, QRectF(image.rect())
        )
        painter.setPen(QPen(INK, 0.13 * mm))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(QRectF(frame.topLeft() * mm, frame.bottomRight() * mm))
    elif isinstance(mark, Cutout):
        corner = QPointF(mark.x - mark.bleed, mark.y - mark.bleed) * mm
        far = QPointF(mark.to_x + mark.bleed, mark.to_y + mark.bleed) * mm
        painter.save()
        painter.setClipRect(QRectF(corner, far))
        paint_drawing(painter, mark.drawing, (mark.x, mark.to_y), (mark.left, mark.low), mm)
        painter.restore()
    else:
        left, low, _, _ = mark.drawing.bounds
        paint_drawing(painter, mark.drawing, (mark.x, mark.y), (left, low), mm)


def _word(
    painter: QPainter,
    at: QPointF,
    text: str,
    pixels: float,
    align: str,
    turn: float = 0.0,
    bold: bool = False,
    ink: QColor = INK,
) -> None:
    painter.save()
    painter.setPen(QPen(ink, 0))
    painter.setFont(paper_font(max(round(pixels), 1), bold))
    painter.translate(at)
    painter.rotate(-turn)
    metrics = QFontMetricsF(painter.font(), painter.device())
    wide = metrics.horizontalAdvance(text)
    x = {"left": 0.0, "middle": -wide / 2, "right": -wide}[align]
    # Each on its own: what Qt writes for a space is no space to who searches the PDF.
    for word in text.split(" "):
        painter.drawText(QPointF(x, 0), word)
        x += metrics.horizontalAdvance(f"{word} ")
    painter.restore()


def paint_drawing(
    painter: QPainter,
    drawing: Drawing,
    on_page: XY,
    corner: XY,
    mm: float,
    ink: QColor = INK,
    paper: QColor = PAPER,
) -> None:
    """Paint a drawing, its `corner` (m) at a place on the page (mm); `mm` is in pixels."""
    scale = 1000 / drawing.scale * mm

    def at(x: float, y: float) -> QPointF:
        return QPointF(
            on_page[0] * mm + (x - corner[0]) * scale, on_page[1] * mm - (y - corner[1]) * scale
        )

    for item in drawing.items:
        parts: list[DrawnPath | Circle | Text] = (
            [*dimension_paths(item, drawing.scale), dimension_text(item, drawing.scale)]
            if isinstance(item, Dimension)
            else [item]
        )
        for part in parts:
            if isinstance(part, Text):
                size = part.size * CAP * mm
                _word(painter, at(*part.at), part.text, size, part.anchor, part.turn, ink=ink)
                continue
            pen = QPen(ink, LAYERS[part.layer] * mm)
            if part.layer in DASHED:
                pen.setDashPattern([2.0 / LAYERS[part.layer], 1.2 / LAYERS[part.layer]])
            painter.setPen(pen)
            if isinstance(part, Circle):
                painter.setBrush(paper if part.blank else Qt.BrushStyle.NoBrush)
                radius = part.radius * scale
                middle = at(*part.centre)
                painter.drawEllipse(
                    QRectF(middle.x() - radius, middle.y() - radius, 2 * radius, 2 * radius)
                )
                continue
            line = QPolygonF([at(x, y) for x, y in part.points])
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPolygon(line) if part.closed else painter.drawPolyline(line)
