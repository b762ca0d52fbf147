"""The shops opened lately, each with a picture of its plan, drawn when it is its turn."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime
from pathlib import Path

from PyQt6.QtCore import QRectF, QSize, Qt, QTimer
from PyQt6.QtGui import QIcon, QPainter, QPixmap
from PyQt6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QListWidget,
    QListWidgetItem,
    QVBoxLayout,
    QWidget,
)

from grey_current.desk.floor.building_paint import paint_building
from grey_current.desk.floor.paint import everywhere, paint_floor
from grey_current.desk.floor.scene import plain_scene
from grey_current.desk.floor.view import View
from grey_current.desk.plain import plain_label, resize_on_screen
from grey_current.desk.theme import SPACE, Palette
from grey_current.errors import GreyCurrentError
from grey_current.files import project_file
from grey_current.files.project_file import SUFFIX
from grey_current.shop.model import Project

WIDE, HIGH = 560, 520
# Pixels of a plan's picture, of the edge it keeps free, and pixels to the metre at least and most.
PLAN, EDGE, SCALES = QSize(132, 88), 6.0, (0.5, 200.0)
WHERE = Qt.ItemDataRole.UserRole


class RecentDialog(QDialog):
    """The list, the latest first. `open_path` is called with the one that is chosen."""

    def __init__(
        self,
        parent: QWidget,
        paths: list[Path],
        palette: Palette,
        open_path: Callable[[Path], object],
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("Open recent")
        self.colours, self._open_path = palette, open_path
        self.list = QListWidget()
        self.list.setAccessibleName("Recent shops")
        self.list.setIconSize(PLAN)
        self.list.setSpacing(2)
        self.list.setUniformItemSizes(True)
        self.list.itemActivated.connect(self.on_taken)
        self.list.itemClicked.connect(self.on_taken)
        blank = QPixmap(PLAN)
        blank.fill(palette.bench)
        for path in paths:
            row = QListWidgetItem(QIcon(blank), _words(path))
            row.setData(WHERE, str(path))
            row.setToolTip(str(path))
            self.list.addItem(row)
        self.list.setCurrentRow(0)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        buttons.rejected.connect(self.reject)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(SPACE, SPACE, SPACE, SPACE)
        words = "Click a shop to open it." if paths else "No shop was opened or saved yet."
        layout.addWidget(plain_label(words, "soft"))
        layout.addWidget(self.list)
        layout.addWidget(buttons)
        resize_on_screen(self, parent, WIDE, HIGH)
        # One picture each time that Qt has nothing else to do: the list is there at once.
        self._next = 0
        self._timer = QTimer(self)
        self._timer.timeout.connect(self.on_turn)
        self._timer.start(0)

    def on_turn(self) -> None:
        """Draw the next picture, or say why there is none."""
        row = self.list.item(self._next)
        if row is None:
            self._timer.stop()
            return
        self._next += 1
        try:
            project = project_file.load(Path(row.data(WHERE)))
            row.setIcon(QIcon(plan_picture(project, PLAN, self.devicePixelRatioF(), self.colours)))
            row.setText(f"{project.name}\n{row.text()}")
        except GreyCurrentError as problem:
            row.setText(f"{row.text()}\n{problem}")
            row.setForeground(self.colours.soft)

    def on_taken(self, row: QListWidgetItem) -> None:
        """Open a shop; the dialog goes away."""
        self.accept()
        self._open_path(Path(row.data(WHERE)))


def _words(path: Path) -> str:
    """Its name, where it lies and when it was saved."""
    folder = str(path.parent).replace(str(Path.home()), "~", 1)
    try:
        saved = datetime.fromtimestamp(path.stat().st_mtime).astimezone()
    except OSError:
        return f"{path.name.removesuffix(SUFFIX)}\n{folder}"
    return f"{path.name.removesuffix(SUFFIX)}\n{folder}, {saved:%d %b %Y, %H:%M}"


def plan_picture(project: Project, size: QSize, ratio: float, palette: Palette) -> QPixmap:
    """A small picture of a shop's plan, without words. Raises `DuctworkError` for ducts that
    cannot be traced.
    """
    picture = QPixmap(size * ratio)
    picture.setDevicePixelRatio(ratio)
    picture.fill(palette.bench)
    scene = plain_scene(project)
    view = View.fitted(project.corners, size.width(), size.height(), EDGE, SCALES)
    painter = QPainter(picture)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    paint_building(painter, project, view, palette, ())
    whole = QRectF(0, 0, size.width(), size.height())
    paint_floor(painter, scene, view, palette, (), "air", whole, [], everywhere)
    painter.end()
    return picture
