"""Machine list, strip and page around the floor: dragged wider, folded away, as they were at each
stage.
"""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QSplitter, QSplitterHandle, QWidget

from grey_current.desk.plain import tip
from grey_current.desk.theme import SPACE, Palette
from grey_current.workspace.settings import PaneSizes, UserSettings

# How long after the last movement of a handle the sizes are written.
WRITE_AFTER_MS = 400
# Least and usual pixels of each pane; the strip's usual height is the strip's own wish.
LEAST = {"machines": 170, "strip": 150, "page": 250}
USUAL = {"machines": 252, "page": 304}
# The fold keys, for the handles' tooltips; the commands are in `workspace/commands.py`.
KEYS = {"machines": "F6", "strip": "F7", "page": "F8"}
# Qt's own "no limit".
NO_LIMIT = 16_777_215


class _Handle(QSplitterHandle):
    """What lies between two panes: dragged to resize, double-clicked to fold. Signal: `folded`."""

    folded = pyqtSignal()
    palette_shown: Palette | None = None

    def paintEvent(self, event: QPaintEvent | None) -> None:
        del event
        if self.palette_shown is None or not self.isEnabled():
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        hot = self.underMouse()
        painter.setBrush(self.palette_shown.accent if hot else self.palette_shown.soft)
        middle = QPointF(self.rect().center()) + QPointF(0.5, 0.5)
        across = self.orientation() == Qt.Orientation.Vertical
        for step in (-6, 0, 6):
            painter.drawEllipse(
                middle + (QPointF(step, 0) if across else QPointF(0, step)), 1.4, 1.4
            )
        painter.end()

    def sizeHint(self) -> QSize:
        return QSize(SPACE, SPACE)

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        del event
        self.folded.emit()


class _Splitter(QSplitter):
    """A splitter with our handles."""

    def createHandle(self) -> QSplitterHandle:
        return _Handle(self.orientation(), self)

    def our_handle(self, index: int) -> _Handle:
        """The handle before the widget of that index."""
        handle = self.handle(index)
        assert isinstance(handle, _Handle)
        return handle


class Panes(_Splitter):
    """The floor with the panes around it. No signals; what is dragged or folded is remembered."""

    def __init__(
        self,
        machines: QWidget,
        floor: QWidget,
        strip: QWidget,
        page: QWidget,
        settings: UserSettings,
    ) -> None:
        super().__init__(Qt.Orientation.Horizontal)
        self._settings, self._stage, self._room = settings, "", 0
        self._panes = {"machines": machines, "strip": strip, "page": page}
        self._middle = _Splitter(Qt.Orientation.Vertical)
        for splitter, widgets in (
            (self._middle, (floor, strip)),
            (self, (machines, self._middle, page)),
        ):
            splitter.setHandleWidth(SPACE)
            for widget in widgets:
                splitter.addWidget(widget)
        self._middle.setStretchFactor(0, 1)
        self._middle.setCollapsible(0, False)
        self.setStretchFactor(1, 1)
        self.setCollapsible(1, False)
        for name, least in LEAST.items():
            across = name == "strip"
            (self._panes[name].setMinimumHeight if across else self._panes[name].setMinimumWidth)(
                least
            )
        self._handles = {
            "machines": self.our_handle(1),
            "page": self.our_handle(2),
            "strip": self._middle.our_handle(1),
        }
        for name, handle in self._handles.items():
            handle.setToolTip(tip(f"Drag to resize. Double-click to hide or show ({KEYS[name]})."))
            handle.folded.connect(lambda name=name: self.fold(name))
        self.splitterMoved.connect(self.on_moved)
        self._middle.splitterMoved.connect(self.on_moved)
        self._write_timer = QTimer(self)
        self._write_timer.setSingleShot(True)
        self._write_timer.setInterval(WRITE_AFTER_MS)
        self._write_timer.timeout.connect(self.write)
        self._sizes: dict[str, PaneSizes] = settings.panes

    # -- what is asked of it

    def show_palette(self, palette: Palette) -> None:
        """Paint the handles in a palette's colours."""
        for handle in self._handles.values():
            handle.palette_shown = palette
            handle.update()

    def show_stage(self, stage: str, room: int, *, one_line: bool) -> None:
        """Give each pane the size that it has at a stage.

        `room` is the height that the strip would like, in pixels; a strip of one line is exactly
        that tall and cannot be dragged.
        """
        strip, handle = self._panes["strip"], self._handles["strip"]
        handle.setEnabled(not one_line)
        strip.setMinimumHeight(room if one_line else LEAST["strip"])
        strip.setMaximumHeight(room if one_line else NO_LIMIT)
        if (stage, room) != (self._stage, self._room):
            self._stage, self._room = stage, room
            self._apply()

    def is_folded(self, name: str) -> bool:
        """Whether a pane is hidden at this stage."""
        return name in self._now.folded

    def fold(self, name: str) -> None:
        """Hide a pane at this stage, or show it again."""
        self._change(self._now.with_folded(name))
        self._apply()

    def write(self) -> None:
        """Write the sizes into the settings; called a moment after the last movement."""
        self._write_timer.stop()
        self._settings.put_panes(self._sizes)

    # -- within

    @property
    def _now(self) -> PaneSizes:
        """The sizes at the stage that is shown."""
        return self._sizes.get(self._stage, PaneSizes())

    def _change(self, sizes: PaneSizes) -> None:
        self._sizes[self._stage] = sizes
        self._write_timer.start()

    def _apply(self) -> None:
        """Set both splitters to the stage's sizes; the floor takes what is left."""
        sizes = self._now
        wide = {
            name: 0 if name in sizes.folded else sizes.pixels.get(name, USUAL[name])
            for name in USUAL
        }
        tall = 0 if "strip" in sizes.folded else sizes.pixels.get("strip", self._room)
        self.setSizes([wide["machines"], max(self.width() - sum(wide.values()), 1), wide["page"]])
        self._middle.setSizes([max(self.height() - tall, 1), tall])
        self._enable()

    def _enable(self) -> None:
        """What cannot be seen does not take the keyboard."""
        for name, pane in self._panes.items():
            pane.setEnabled(not self.is_folded(name))

    def on_moved(self) -> None:
        """Remember what was dragged; a pane dragged to nothing is folded."""
        now = {
            "machines": self.sizes()[0],
            "strip": self._middle.sizes()[1],
            "page": self.sizes()[2],
        }
        before = self._now
        pixels = dict(before.pixels)
        for name, size in now.items():
            fixed = name == "strip" and not self._handles["strip"].isEnabled()
            usual = self._room if name == "strip" else USUAL[name]
            if size and not fixed and size != before.pixels.get(name, usual):
                pixels[name] = size
        folded = tuple(name for name, size in now.items() if not size)
        self._change(PaneSizes(pixels, folded))
        self._enable()
