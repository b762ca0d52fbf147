"""A plan under the drawing: choose a file, lay it down, scale it by two places."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QBuffer, Qt
from PyQt6.QtGui import QImage, QImageReader
from PyQt6.QtWidgets import QFileDialog, QInputDialog, QWidget

from grey_current.errors import FileError
from grey_current.files import underlay
from grey_current.shop.room import Underlay
from grey_current.shop.underlays import rescaled
from grey_current.units import parse_length
from grey_current.workspace.placing import Placeable
from grey_current.workspace.workspace import Workspace

# A picture is made no larger than this before it is kept in the project's file.
MOST_PIXELS = 1600
# What is read as a picture; an SVG might name other files, and is none.
PICTURES = ("png", "jpeg", "jpg", "bmp", "webp")
# Endings of files that are plans to draw over.
PLANS = frozenset({".dxf", *(f".{name}" for name in PICTURES)})
# m that a picture is laid down across, until it is scaled.
FIRST_WIDTH = 8.0


class UnderlayDialogs:
    """Asks the user about plans, in dialogs of a window. Its methods raise the sentences that may
    be refused.
    """

    def __init__(self, window: QWidget, workspace: Workspace) -> None:
        self.window, self.workspace = window, workspace

    def choose(self) -> None:
        """Ask for a file and lay it down. Raises `FileError`."""
        kinds = "Plans (*.png *.jpg *.jpeg *.dxf);;All files (*)"
        chosen, _ = QFileDialog.getOpenFileName(self.window, "Import a floor plan", "", kinds)
        if chosen:
            self.lay(Path(chosen))

    def lay(self, path: Path) -> None:
        """Lay a DXF plan or a picture under the drawing; a picture asks for its scale. Raises
        `FileError`.
        """
        plan = underlay.from_dxf(path) if path.suffix.lower() == ".dxf" else _from_picture(path)
        self.workspace.edit("Lay a plan underneath", lambda p: p.replaced(underlay=plan))
        self.workspace.go("shop")
        if plan.picture:
            self.begin_scale()

    def begin_scale(self) -> None:
        """Take the scale in hand: the next two clicks are two places on the plan."""
        self.workspace.go("shop")
        self.workspace.arm(Placeable("scale", "scale", "Scale"))

    def begin_move(self) -> None:
        """Take the plan in hand: the next drag on the floor moves it; Esc lets go of it."""
        self.workspace.go("shop")
        self.workspace.arm(Placeable("plan", "plan", "Plan underneath"))

    def scale(self, first: tuple[float, float], second: tuple[float, float]) -> None:
        """Ask how far apart two places are and scale the plan by it. Raises `InputError`."""
        text, given = QInputDialog.getText(
            self.window, "Scale the plan", "How far apart are the two places?"
        )
        plan = self.workspace.project.underlay
        if given and plan is not None:
            distance = parse_length(text, self.workspace.project.settings.units, "Distance")
            new = rescaled(plan, first, second, distance)
            self.workspace.edit("Scale the plan", lambda p: p.replaced(underlay=new))

    def drop(self) -> None:
        """Delete the floor plan."""
        self.workspace.edit("Delete the floor plan", lambda p: p.replaced(underlay=None))


def _from_picture(path: Path) -> Underlay:
    if not path.is_file():
        raise FileError(str(path), "is not an ordinary file", "choose a PNG, a JPEG or a DXF plan")
    reader = QImageReader(str(path))
    reader.setDecideFormatFromContent(True)
    known = reader.format().data().decode("ascii", "replace") in PICTURES
    picture = reader.read() if known else QImage()
    if picture.isNull():
        raise FileError(
            str(path), "is no picture that can be read", "choose a PNG, a JPEG or a DXF plan"
        )
    if max(picture.width(), picture.height()) > MOST_PIXELS:
        keep, smooth = (
            Qt.AspectRatioMode.KeepAspectRatio,
            Qt.TransformationMode.SmoothTransformation,
        )
        picture = picture.scaled(MOST_PIXELS, MOST_PIXELS, keep, smooth)
    data = QBuffer()
    picture.save(data, "PNG")
    return underlay.from_picture(
        path.name, data.data().data(), (picture.width(), picture.height()), FIRST_WIDTH
    )
