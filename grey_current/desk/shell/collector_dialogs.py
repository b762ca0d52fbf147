"""Collectors of the user's own: kept in the library, their curves read from a file, the match chart
saved.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path

from PyQt6.QtWidgets import QFileDialog, QInputDialog, QWidget

from grey_current.errors import RefusedEdit
from grey_current.files.curve_csv import load_curve
from grey_current.shop.collector_edits import with_curve
from grey_current.workspace import asking
from grey_current.workspace.library import Library
from grey_current.workspace.workspace import Workspace


class CollectorDialogs:
    """Asks the user about files, in dialogs of a window. Its methods raise the sentences that may
    be refused.
    """

    def __init__(
        self, window: QWidget, workspace: Workspace, library: Library, tell: Callable[[str], None]
    ) -> None:
        self.window, self.workspace, self.library, self._tell = window, workspace, library, tell
        workspace.own_models = library.collectors

    def keep(self) -> None:
        """Keep the collector that is looked at in the library. Raises `InputError` and
        `FileError`.
        """
        item = self.workspace.project.collector[asking.sized_collector(self.workspace) or ""]
        self.library.keep_collector(item)
        self.workspace.own_models = self.library.collectors

    def forget(self) -> None:
        """Ask which kept machine or collector to forget. Raises `RefusedEdit` when none is,
        `FileError`.
        """
        kept = list(self.library.kept())
        if not kept:
            raise RefusedEdit("your own list", "deleting from it", "nothing is kept in it yet")
        words, sure = QInputDialog.getItem(
            self.window, "Delete one of mine", "Delete:", kept, 0, False
        )
        if sure:
            self.library.forget(words)
            self.workspace.own_models = self.library.collectors

    def read_curve(self) -> None:
        """Ask for a CSV file and take its curve for the collector that is looked at. Raises
        `FileError`.
        """
        kinds = "Curves (*.csv *.txt);;All files (*)"
        chosen, _ = QFileDialog.getOpenFileName(self.window, "Read a fan curve", "", kinds)
        ident = asking.sized_collector(self.workspace)
        if chosen and ident is not None:
            change = partial(with_curve, collector=ident, points=load_curve(Path(chosen)).points)
            self.workspace.edit("Read a fan curve", change)

    def save_chart(self, chart: QWidget) -> None:
        """Ask for a file and save a picture of the chart. Raises `FileError`."""
        from grey_current.desk.papers.painting import save_picture  # noqa: PLC0415 - not needed for a window

        start = self.workspace.file_name("-match.png")
        chosen, _ = QFileDialog.getSaveFileName(
            self.window, "Save the match chart", start, "Pictures (*.png)"
        )
        if chosen:
            self._tell(f"{save_picture(chart.grab(), Path(chosen))}.")
