"""What the Keep stage asks about files: readings and logbook as CSV, another copy's logbook."""

from __future__ import annotations

import datetime
import random
from collections.abc import Callable
from pathlib import Path

from PyQt6.QtWidgets import QDialog, QDialogButtonBox, QFileDialog, QFormLayout, QSpinBox, QWidget

from grey_current.desk.choice_box import ChoiceBox
from grey_current.desk.plain import plain_label
from grey_current.desk.shell.logbook import LogbookWindow
from grey_current.desk.theme import Palette
from grey_current.errors import GreyCurrentError, InputError
from grey_current.files import project_file
from grey_current.files.keep_report import read_readings, readings_csv
from grey_current.files.log_report import book_csv
from grey_current.files.safe_write import write_export
from grey_current.keep.lessons import lesson_of, lessons
from grey_current.keep.log import merged
from grey_current.keep.monthly import Monthly
from grey_current.keep.practice import LEVELS, begun
from grey_current.shop.demo_shops import demo_path
from grey_current.shop.keep_edits import with_readings
from grey_current.shop.model import Project
from grey_current.shop.names import lower_first
from grey_current.workspace.workspace import Workspace

KINDS = "Tables (*.csv)"
PAGES = "PDF (*.pdf)"
PROJECTS = "Projects (*.json);;All files (*)"


class KeepDialogs:
    """Asks the user about files, in dialogs of a window. Its methods raise the sentences that may
    be refused.
    """

    def __init__(self, window: QWidget, workspace: Workspace, tell: Callable[[str], None]) -> None:
        self.window, self.workspace, self._tell = window, workspace, tell
        self.logbook: LogbookWindow | None = None
        workspace.show_logbook = self.show_logbook
        workspace.save_sticker = self.save_sticker

    def show_logbook(self) -> None:
        """Open the logbook beside the window, or bring it to the front."""
        if self.logbook is None:
            self.logbook = LogbookWindow(self.window, self.workspace)
        self.logbook.show_workspace()
        self.logbook.show()
        self.logbook.activateWindow()

    def save_sticker(self, found: Monthly) -> None:
        """Ask for a file and write the sticker of the monthly reading; what cannot be is told."""
        named = self.workspace.file_name("-sticker.pdf")
        chosen, _ = QFileDialog.getSaveFileName(self.window, "Save the sticker", named, PAGES)
        if not chosen:
            return
        # Fonts for paper are slow to load: only where one is wanted.
        from grey_current.desk.papers.painting import save_pdf  # noqa: PLC0415
        from grey_current.desk.papers.sticker_page import sticker_page  # noqa: PLC0415

        page = sticker_page(self.workspace.project, found)
        try:
            self._tell(f"{save_pdf([page], Path(chosen), 'Monthly reading')}.")
        except GreyCurrentError as problem:
            self._tell(str(problem))

    def show_workspace(self) -> None:
        """Show the workspace as it is now, where the logbook is open."""
        if self.logbook is not None and self.logbook.isVisible():
            self.logbook.show_workspace()

    def save_readings(self) -> None:
        """Ask for a file and write the readings into it. Raises `FileError`."""
        named = self.workspace.file_name("-readings.csv")
        chosen, _ = QFileDialog.getSaveFileName(self.window, "Save the readings", named, KINDS)
        if chosen:
            self._tell(f"{write_export(readings_csv(self.workspace.project), Path(chosen))}.")

    def read_readings(self) -> None:
        """Ask for a file and put its readings behind the others. Raises `FileError` or
        `InputError`.
        """
        chosen, _ = QFileDialog.getOpenFileName(self.window, "Read readings", "", KINDS)
        if not chosen:
            return
        found = read_readings(Path(chosen), self.workspace.project)
        if not found:
            raise InputError(
                "readings", Path(chosen).name, "write a line for each reading under the heading"
            )
        self.workspace.edit("Read readings", lambda p: with_readings(p, found))

    def save_logbook(self) -> None:
        """Ask for a file and write the whole logbook into it. Raises `FileError`."""
        named = self.workspace.file_name("-logbook.csv")
        chosen, _ = QFileDialog.getSaveFileName(self.window, "Save the logbook", named, KINDS)
        if chosen:
            self._tell(f"{write_export(book_csv(self.workspace.project), Path(chosen))}.")

    def merge_logbook(self) -> str:
        """Ask for another copy of the file, put in what only it has in its logbook, and say so.

        Raises `FileError` for no project, `InputError` for a copy of another shop.
        """
        chosen, _ = QFileDialog.getOpenFileName(
            self.window, "Another copy of this file", "", PROJECTS
        )
        if not chosen:
            return ""
        theirs = project_file.load(Path(chosen))
        found = merged(self.workspace.project, theirs)
        if found.readings or found.entries:
            self.workspace.edit("Merge a logbook", lambda p: merged(p, theirs).project)
        return (
            f"{found.readings} readings and {found.entries} other lines came from "
            f"{Path(chosen).name}."
        )

    def guess(self, palette: Palette) -> None:
        """Play the pressure game with the shop that is open."""
        from grey_current.desk.shell.guess_dialog import GuessDialog  # noqa: PLC0415

        GuessDialog(self.window, self.workspace, palette, random.randrange(1_000_000)).exec()

    def practise(self) -> Project | int | None:
        """Ask for a lesson, or for a shop, a level and a number, and make a shop with hidden faults
        of these; None for none wanted.
        """
        lesson = lesson_of(self.workspace.project)
        dialog = PracticeDialog(self.window, lesson.number if lesson is not None else 0)
        if dialog.exec() != QDialog.DialogCode.Accepted:
            return None
        number: int = dialog.what.currentData()
        return number or dialog.shop()


class PracticeDialog(QDialog):
    """Which lesson, or in which shop to practise, how hard, and its number: the same number hides
    the same. After the lesson numbered `last` the next one is offered.
    """

    def __init__(self, parent: QWidget, last: int = 0) -> None:
        super().__init__(parent)
        self.setWindowTitle("Fault-finding practice")
        self.what = ChoiceBox()
        self.shops, self.levels, self.number = ChoiceBox(), ChoiceBox(), QSpinBox()
        for lesson in lessons():
            self.what.addItem(f"Lesson {lesson.number}: {lower_first(lesson.title)}", lesson.number)
        self.what.addItem("A shop with hidden faults", 0)
        self.what.setCurrentIndex(min(last, len(lessons())))
        self.shops.addItem("The Net Loft: ducts and gates", "loft")
        self.shops.addItem("The Allotment Shed: one hose", "allotment")
        for level, words in LEVELS.items():
            self.levels.addItem(f"{level}: {words}", level)
        self.number.setRange(0, 999_999)
        self.number.setMinimumHeight(self.shops.sizeHint().height())
        self.number.setValue(random.randrange(1_000_000))
        form = QFormLayout(self)
        form.addRow(
            plain_label(
                "Seven short lessons first; then shops in which something is wrong: measure, look "
                "and mend.",
                "soft",
            )
        )
        for words, field in (
            ("Practise", self.what),
            ("Shop", self.shops),
            ("How hard", self.levels),
            ("Number", self.number),
        ):
            form.addRow(words, field)
            field.setAccessibleName(words)
        kinds = QDialogButtonBox.StandardButton
        buttons = QDialogButtonBox(kinds.Ok | kinds.Cancel)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        form.addRow(buttons)
        self.what.currentIndexChanged.connect(self.on_what_chosen)
        self.on_what_chosen()

    def on_what_chosen(self) -> None:
        """A lesson has its own shop."""
        free = self.what.currentData() == 0
        for field in (self.shops, self.levels, self.number):
            field.setEnabled(free)

    def shop(self) -> Project:
        """The practice shop that is asked for."""
        plain = project_file.load(demo_path(self.shops.currentData()))
        return begun(plain, self.number.value(), self.levels.currentData(), datetime.date.today())
