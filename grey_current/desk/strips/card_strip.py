"""The strips of things to put down: cards that are dragged onto the floor, or clicked and then put
down.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import cache

from PyQt6.QtCore import QEvent, QMimeData, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QDrag, QEnterEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import (
    QAbstractButton,
    QFrame,
    QHBoxLayout,
    QLineEdit,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from grey_current.desk.floor.building_paint import paint_feed
from grey_current.desk.plain import OneLine, tip
from grey_current.desk.strips.panel import StripPanel
from grey_current.desk.theme import SPACE, Palette, faded, font
from grey_current.shop.catalogue import MachineModel, catalogue, local_body
from grey_current.shop.room import HOT
from grey_current.spelling import localised, spelled
from grey_current.units import Display, System
from grey_current.workspace.library import Library
from grey_current.workspace.placing import SHOP_THINGS, Placeable, copies_of, sized
from grey_current.workspace.workspace import Workspace

CARD = QSize(118, 132)
MIME = "application/x-grey-current-thing"
# Kinds of things of which there may be several, and where one less and one more are clicked.
COUNTED = ("machine", "collector", "opening", "feature")
LESS, MORE = QRectF(4, 4, 24, 24), QRectF(CARD.width() - 28, 4, 24, 24)


class Card(QAbstractButton):
    """One thing, and how many of it there are; a screen reader presses it as a button. Signals:
    `taken` (it was clicked or a drag began), `put` (one more, where it had better be),
    `taken_back` (one less).
    """

    taken = pyqtSignal(object)
    put = pyqtSignal(object)
    taken_back = pyqtSignal(object)

    def __init__(self, placing: Placeable, palette: Palette, system: System) -> None:
        super().__init__()
        self.placing, self.colours, self.system = placing, palette, system
        self.in_hand = False
        self.count = 0
        # While the guide is open a click puts the thing in at once.
        self.puts_at_once = False
        self._pressed: QPointF | None = None
        self.setFixedSize(CARD)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.OpenHandCursor)
        self.setAccessibleName(placing.title)
        self.clicked.connect(self._put_in)
        self.setToolTip(
            tip(
                f"{placing.title}. {placing.about}\nDrag it onto the floor, or click it and "
                "then the floor. + puts one where it had better be, - deletes the last one."
            )
        )

    def show_state(self, in_hand: bool, count: int, puts_at_once: bool) -> None:
        """Show whether it is in hand, and how many there are."""
        self.puts_at_once = puts_at_once
        if (in_hand, count) != (self.in_hand, self.count):
            self.in_hand, self.count = in_hand, count
            self.setAccessibleName(self.placing.title + (f", {count} here" if count else ""))
            self.update()

    @property
    def counted(self) -> bool:
        """Whether there can be a number of it."""
        return self.placing.kind in COUNTED

    def paintEvent(self, event: QPaintEvent | None) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        paint_card(
            painter,
            QRectF(self.rect()),
            self.placing,
            self.colours,
            self.system,
            self.in_hand,
            self.hasFocus(),
        )
        if self.counted and (self.count or self.underMouse() or self.hasFocus()):
            _paint_count(painter, self.count, self.colours)
        painter.end()

    def _put_in(self) -> None:
        """Put one in where it had better be; a tape is taken in hand."""
        (self.taken if self.placing.kind == "tape" else self.put).emit(self.placing)

    def enterEvent(self, event: QEnterEvent | None) -> None:
        del event
        self.update()

    def leaveEvent(self, event: QEvent | None) -> None:
        del event
        self.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self._pressed = event.position() if event else None

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self._pressed is None or self.placing.kind == "tape":
            return
        moved = event.position() - self._pressed
        # Less is a click by a hand that is not quite still.
        if math.hypot(moved.x(), moved.y()) < 8:
            return
        self._pressed = None
        self.taken.emit(self.placing)
        drag = QDrag(self)
        data = QMimeData()
        data.setData(MIME, self.placing.title.encode())
        drag.setMimeData(data)
        drag.setPixmap(self.grab())
        drag.exec(Qt.DropAction.CopyAction)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        pressed, self._pressed = self._pressed, None
        if pressed is None or event is None:
            return
        if self.counted and LESS.contains(pressed) and self.count:
            self.taken_back.emit(self.placing)
        # The guide asks for machines, not for places: there a click is enough.
        elif self.counted and (self.puts_at_once or MORE.contains(pressed)):
            self.put.emit(self.placing)
        else:
            self.taken.emit(None if self.in_hand else self.placing)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() in (
            Qt.Key.Key_Return,
            Qt.Key.Key_Enter,
            Qt.Key.Key_Space,
        ):
            self._put_in()
        elif event is not None and self.counted and event.text() in ("+", "-"):
            (self.put if event.text() == "+" else self.taken_back).emit(self.placing)
        elif event is not None and event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            self.focusNextPrevChild(event.key() == Qt.Key.Key_Right)
        else:
            super().keyPressEvent(event)


def _paint_count(painter: QPainter, count: int, p: Palette) -> None:
    """One less, how many, one more, along the card's top."""
    for box, sign in ((LESS, "−"), (MORE, "+")):
        if sign == "+" or count:
            painter.setPen(QPen(p.rule, 1))
            painter.setBrush(p.sheet)
            painter.drawEllipse(box.adjusted(3, 3, -3, -3))
            painter.setPen(p.ink)
            painter.setFont(font("name"))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, sign)
    if count:
        painter.setFont(font("small", bold=True))
        painter.setPen(p.accent)
        middle = QRectF(LESS.right(), 4, MORE.left() - LESS.right(), 24)
        painter.drawText(middle, Qt.AlignmentFlag.AlignCenter, f"{count} here")


def paint_card(
    painter: QPainter,
    box: QRectF,
    placing: Placeable,
    p: Palette,
    system: System,
    in_hand: bool,
    focused: bool,
) -> None:
    """A card: the thing drawn from above, its name, its size."""
    painter.setPen(QPen(p.accent if in_hand or focused else p.rule, 2 if in_hand else 1))
    painter.setBrush(p.machine_on if in_hand else p.raised)
    painter.drawRoundedRect(box.adjusted(1, 1, -1, -1), 3, 3)
    drawing = QRectF(box.left() + 14, box.top() + 28, box.width() - 28, 44)
    _paint_thing(painter, drawing, placing, p)
    painter.setPen(p.ink)
    painter.setFont(font("small", bold=True))
    name = QRectF(box.left() + 5, box.top() + 72, box.width() - 10, 32)
    painter.drawText(name, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, placing.title)
    painter.setPen(p.soft)
    painter.setFont(font("fine"))
    text = painter.fontMetrics().elidedText(
        _size_words(placing, system), Qt.TextElideMode.ElideRight, int(box.width() - 10)
    )
    painter.drawText(
        QRectF(box.left() + 5, box.top() + 106, box.width() - 10, 20),
        Qt.AlignmentFlag.AlignCenter,
        text,
    )


def _size_words(placing: Placeable, system: System) -> str:
    display = Display(system)
    if placing.depth:
        return display.body(placing.width, placing.depth)
    return display.body(placing.width) if placing.width else placing.about


def _paint_thing(painter: QPainter, box: QRectF, placing: Placeable, p: Palette) -> None:
    """The ground plan, to a scale that fits the card."""
    wide, deep = placing.width or 0.6, placing.depth or 0.12
    scale = min(box.width() / wide, box.height() / deep, 46.0)
    plan = QRectF(0, 0, wide * scale, deep * scale)
    plan.moveCenter(box.center())
    painter.setPen(QPen(p.starved if placing.sort in HOT else p.ink, 1.3))
    painter.setBrush(p.machine)
    if placing.kind == "tape":
        painter.drawLine(box.bottomLeft(), box.topRight())
        for end in (box.bottomLeft(), box.topRight()):
            painter.drawEllipse(end, 3, 3)
        return
    if placing.kind == "outlet":
        painter.drawEllipse(box.center(), 9, 9)
        for shift in (-3.0, 3.0):
            painter.drawLine(box.center() + QPointF(shift, -4), box.center() + QPointF(shift, 4))
        return
    painter.drawRect(plan)
    if placing.sort == "door":
        painter.setPen(QPen(p.faint, 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        reach = plan.width() * 0.8
        painter.drawArc(
            QRectF(plan.left() - reach, plan.center().y() - reach, 2 * reach, 2 * reach), 0, 90 * 16
        )
    if placing.kind == "collector":
        painter.drawEllipse(plan.center(), plan.height() * 0.36, plan.height() * 0.36)
    body = placing.body
    if body is None:
        return
    if body.feed is not None:
        turn = math.radians(body.feed)
        paint_feed(
            painter,
            plan.center(),
            (math.cos(turn), math.sin(turn)),
            p,
            min(plan.width(), plan.height(), 40) * 0.36,
        )
    painter.setBrush(faded(p.raised, 230))
    painter.setPen(QPen(p.ink, 1.1))
    for pickup in body.pickups:
        spot = QPointF(plan.center().x() + pickup.dx * scale, plan.center().y() - pickup.dy * scale)
        painter.drawEllipse(
            spot, max(pickup.port * scale / 2, 2.5), max(pickup.port * scale / 2, 2.5)
        )


class CardStrip(StripPanel):
    """A strip of cards with a head line and a search; `things` gives what it holds in a system of
    units.
    """

    def __init__(
        self,
        workspace: Workspace,
        palette: Palette,
        title: str,
        things: Callable[[System], tuple[Placeable, ...]],
    ) -> None:
        super().__init__(workspace, palette)
        self._things = things
        self._shown: object = None
        self.cards: list[Card] = []
        head = OneLine("head")
        head.setText(title)
        self.search = QLineEdit()
        self.search.setPlaceholderText("Find…")
        self.search.setAccessibleName(f"Find among {title.lower()}")
        self.search.setMaximumWidth(180)
        self.search.textChanged.connect(self._show_matching)
        top = QHBoxLayout()
        top.setContentsMargins(12, SPACE, 12, 0)
        top.addWidget(head, 1)
        top.addWidget(self.search)
        self._row = QHBoxLayout()
        self._row.setContentsMargins(12, 4, 12, 4)
        self._row.setSpacing(SPACE)
        inner = QWidget()
        inner.setLayout(self._row)
        scroll = QScrollArea()
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        scroll.setWidgetResizable(True)
        scroll.setFrameShape(QFrame.Shape.NoFrame)
        scroll.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setWidget(inner)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(1, 1, 1, 4)
        layout.setSpacing(0)
        layout.addLayout(top)
        layout.addWidget(scroll, 1)

    def card(self, title: str) -> Card:
        """The card with a title. Raises `StopIteration` for none."""
        return next(card for card in self.cards if card.placing.title == title)

    def show_workspace(self, palette: Palette | None = None) -> None:
        """Show the workspace as it is now: its units, and what is in hand."""
        self.colours = palette or self.colours
        system = self.workspace.project.settings.units
        things = self._things(system)
        # Cards are made anew only where another one is to be seen: there are some sixty.
        if (things, self.colours, system) != self._shown:
            self._shown = (things, self.colours, system)
            self._fill(things, system)
        for card in self.cards:
            card.show_state(
                card.placing == self.workspace.placing,
                len(copies_of(self.workspace.project, card.placing)),
                self.workspace.guiding,
            )

    def _fill(self, things: tuple[Placeable, ...], system: System) -> None:
        while (item := self._row.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                widget.hide()
                widget.deleteLater()
        self.cards = []
        for thing in things:
            card = Card(thing, self.colours, system)
            card.taken.connect(self.workspace.arm)
            card.put.connect(self.put)
            card.taken_back.connect(
                lambda thing: self.attempt(lambda: self.workspace.take_back(thing))
            )
            self._row.addWidget(card)
            self.cards.append(card)
        self._row.addStretch(1)
        self._show_matching(self.search.text())

    def _show_matching(self, text: str) -> None:
        wanted = text.lower().split()
        for card in self.cards:
            words = f"{card.placing.title} {card.placing.sort} {card.placing.about}".lower()
            # Found by either spelling, whatever the shop's own is.
            either = f"{words} {spelled(words, 'us')}"
            card.setVisible(all(word in either for word in wanted))


@cache
def shop_things(system: System) -> tuple[Placeable, ...]:
    """The things of the building, in this system's sizes."""
    return tuple(sized(thing, system) for thing in SHOP_THINGS)


@cache
def machine_things(models: tuple[MachineModel, ...], system: System) -> tuple[Placeable, ...]:
    """The catalogue's machines as things to put down."""
    bodies = [(m, local_body(m.body, system)) for m in models]
    return tuple(
        Placeable(
            "machine",
            f"{m.group} {m.body.kind}",
            own.name,
            own.width,
            own.depth,
            own.height,
            m.body if m.body.note else m.body.replaced(note=localised(m.derived, system)),
            localised(f"{m.body.kind}. {m.derived}", system),
        )
        for m, own in bodies
    )


@cache
def collector_things(system: System) -> tuple[Placeable, ...]:
    """The catalogue's collectors as things to put down."""
    return tuple(
        Placeable(
            "collector",
            m.model,
            localised(m.model, system),
            m.width,
            m.depth,
            m.height,
            about=f"A {m.kind}. {m.curve_note}.",
        )
        for m in catalogue().collectors
    )


def building_strip(workspace: Workspace, palette: Palette, library: Library) -> StripPanel:
    """The strip of the Shop stage."""
    del library
    return CardStrip(workspace, palette, "DOORS, WINDOWS AND FIXTURES", shop_things)


def machine_strip(workspace: Workspace, palette: Palette, library: Library) -> StripPanel:
    """The strip of the Machines stage: the catalogue's and the user's own machines, and
    collectors.
    """

    def things(system: System) -> tuple[Placeable, ...]:
        return (*machine_things(library.all_models(), system), *collector_things(system))

    return CardStrip(workspace, palette, "MACHINES AND COLLECTORS", things)
