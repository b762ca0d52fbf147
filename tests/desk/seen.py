"""What can be seen of a window: whether widgets lie in their parents, and their words in them."""

from __future__ import annotations

import itertools
from collections.abc import Iterator
from xml.etree import ElementTree

from PyQt6.QtCore import QBuffer, QPoint, QRect, QRectF
from PyQt6.QtGui import QFont, QFontMetricsF, QPainter, QRegion, QTransform
from PyQt6.QtSvg import QSvgGenerator
from PyQt6.QtWidgets import (
    QAbstractButton,
    QAbstractScrollArea,
    QAbstractSlider,
    QApplication,
    QComboBox,
    QLabel,
    QLineEdit,
    QScrollArea,
    QScrollBar,
    QWidget,
)

from grey_current.desk.plain import FIGURE, PER

TARGET = 24
SLACK = 1
"""Pixels that a widget may stand out: frames are drawn over one another."""


def out_of_sight(root: QWidget) -> list[str]:
    """Everything under a widget that is cut off, or whose words are, each with what it says."""
    return [said for child in root.findChildren(QWidget) for said in _troubles(child)]


def too_small(root: QWidget) -> list[str]:
    """Everything that is clicked and smaller than a finger finds (24 px: W3C, WCAG 2.2, 2.5.8)."""
    clicked = (QAbstractButton, QLineEdit, QComboBox, QAbstractSlider)
    return [
        f"{type(child).__name__} {_words(child)[:40]!r} is {child.width()} by {child.height()}"
        for child in root.findChildren(QWidget)
        if isinstance(child, clicked)
        and not isinstance(child, QScrollBar)
        and child.isVisible()
        and min(child.width(), child.height()) < TARGET
    ]


def _troubles(widget: QWidget) -> Iterator[str]:
    parent = widget.parentWidget()
    if not widget.isVisible() or parent is None or widget.isWindow() or not widget.width():
        return
    named = f"{type(widget).__name__} {_words(widget)[:60]!r}"
    if not _scrolls(parent):
        inside = parent.rect().adjusted(-SLACK, -SLACK, SLACK, SLACK)
        if not inside.contains(widget.geometry()):
            yield f"{named} stands out of its {type(parent).__name__}"
    if isinstance(widget, QLabel) and widget.text() and widget.pixmap().isNull():
        yield from _label_troubles(widget, named)
    elif isinstance(widget, QAbstractButton) and widget.text():
        wanted = widget.fontMetrics().horizontalAdvance(widget.text().replace("&", ""))
        if wanted > widget.width() and not widget.toolTip():
            yield f"{named} is cut off: {wanted} px in {widget.width()}"
    elif isinstance(widget, QComboBox) and not widget.toolTip():
        wanted = widget.fontMetrics().horizontalAdvance(widget.currentText())
        yield from [f"{named} is cut off"] * (wanted > widget.width())


def _label_troubles(label: QLabel, named: str) -> Iterator[str]:
    if label.wordWrap():
        high = label.heightForWidth(label.width())
        if high > label.height() + SLACK:
            yield f"{named} wants {high} px of height and has {label.height()}"
        # What Qt has, not what the label says that it was given.
        if FIGURE.search(QLabel.text(label)) or PER.search(QLabel.text(label)):
            yield f"{named} may part a figure from its unit"
    elif label.sizeHint().width() > label.width() + SLACK and not label.toolTip():
        yield f"{named} wants {label.sizeHint().width()} px and has {label.width()}"


def _scrolls(parent: QWidget) -> bool:
    """Whether what is larger than a parent is reached by scrolling."""
    area = parent.parentWidget()
    return isinstance(area, QAbstractScrollArea) and area.viewport() is parent


def _words(widget: QWidget) -> str:
    if isinstance(widget, QLabel | QAbstractButton | QLineEdit):
        return widget.text()
    return widget.currentText() if isinstance(widget, QComboBox) else widget.objectName()


def visible_part(widget: QWidget, root: QWidget) -> QRect:
    """The part of a widget that is in sight, in the root's pixels: cut by every parent."""
    box = QRect(widget.mapTo(root, QPoint(0, 0)), widget.size())
    parent = widget.parentWidget()
    while parent is not None and parent is not root:
        box &= QRect(parent.mapTo(root, QPoint(0, 0)), parent.size())
        parent = parent.parentWidget()
    return box & root.rect() if widget.isVisible() else QRect()


def inks(widget: QWidget) -> int:
    """How many colours a widget is painted in: one or two is an empty box."""
    QApplication.processEvents()
    picture = widget.grab().toImage()
    return len(
        {
            picture.pixel(x, y)
            for x in range(0, picture.width(), 2)
            for y in range(0, picture.height(), 2)
        }
    )


def painted_words(widget: QWidget) -> list[tuple[str, QRectF]]:
    """The words that a widget paints itself, each with its box in the widget's pixels."""
    sheet, device = QBuffer(), QSvgGenerator()
    device.setOutputDevice(sheet)
    device.setSize(widget.size())
    painter = QPainter(device)
    widget.render(painter, QPoint(), QRegion(), QWidget.RenderFlag(0))
    painter.end()
    found = []
    for group in ElementTree.fromstring(bytes(sheet.data())).iter():
        for text in (child for child in group if child.tag.endswith("}text")):
            size = float(text.attrib["font-size"])
            font = QFont(text.attrib["font-family"])
            font.setPixelSize(max(round(size), 1))
            font.setBold(int(text.attrib["font-weight"]) > 500)
            words = (text.text or "").strip()
            box = QFontMetricsF(font).tightBoundingRect(words)
            box.translate(float(text.attrib["x"]), float(text.attrib["y"]))
            numbers = group.attrib["transform"].removeprefix("matrix(").removesuffix(")")
            a, b, c, d, x, y = map(float, numbers.split(","))
            found += [(words, QTransform(a, b, c, d, x, y).mapRect(box))] * bool(words)
    return found


def badly_painted(root: QWidget) -> list[str]:
    """The words under a widget that are painted over one another, or beyond what they are in."""
    troubles = []
    for widget in (root, *root.findChildren(QWidget)):
        ours = type(widget).__module__.startswith("grey_current")
        # What is longer than a field is scrolled in it.
        field = isinstance(widget, QLineEdit)
        if not ours or field or not widget.isVisible() or not widget.width():
            continue
        words, room = painted_words(widget), QRectF(widget.rect()).adjusted(-2, -2, 2, 2)
        named = type(widget).__name__
        troubles += [f"{named} cuts off {text!r}" for text, box in words if not room.contains(box)]
        troubles += [
            f"{named} paints {one!r} over {other!r}"
            for (one, box), (other, second) in itertools.combinations(words, 2)
            if box.adjusted(1, 1, -1, -1).intersects(second.adjusted(1, 1, -1, -1))
        ]
    return troubles


def scrolled_into(area: QScrollArea, widget: QWidget) -> None:
    """Scroll until a widget is in sight."""
    area.ensureWidgetVisible(widget)
    QApplication.processEvents()
