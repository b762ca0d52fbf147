"""What the Work stage asks about files: the cards as PDF, the chores as a calendar; and the card in
large.

What prints is imported when it is asked for, so that the window is up sooner.
"""

from __future__ import annotations

import datetime
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtWidgets import QFileDialog, QWidget

from grey_current.errors import RefusedEdit
from grey_current.files.safe_write import write_export
from grey_current.workspace.workspace import Workspace

if TYPE_CHECKING:
    from grey_current.desk.shell.at_machine import AtMachine
    from grey_current.desk.shell.switch_panel import SwitchPanel
    from grey_current.desk.theme import Palette


class WorkDialogs:
    """Asks the user about files, in dialogs of a window. Its methods raise the sentences that may
    be refused.
    """

    def __init__(self, window: QWidget, workspace: Workspace, tell: Callable[[str], None]) -> None:
        self.window, self.workspace, self._tell = window, workspace, tell
        self.card: AtMachine | None = None
        self.panel: SwitchPanel | None = None

    def save_cards(self) -> None:
        """Ask for a file and write the cards into it. Raises `FileError`."""
        from grey_current.desk.papers.card_pages import card_pages  # noqa: PLC0415
        from grey_current.desk.papers.painting import save_pdf  # noqa: PLC0415
        from grey_current.work.cards import cards  # noqa: PLC0415

        project = self.workspace.project
        chosen, _ = QFileDialog.getSaveFileName(
            self.window, "Save the cards", self.workspace.file_name("-cards.pdf"), "PDF (*.pdf)"
        )
        if chosen:
            size = "Letter" if project.settings.units == "us" else "A4"
            made = cards(self.workspace.assessment.counted, self.workspace.space)
            pages = card_pages(made, project.name, datetime.date.today(), size)
            self._tell(f"{save_pdf(pages, Path(chosen), f'Cards of {project.name}', size)}.")

    def save_chores(self) -> None:
        """Ask for a file and write the chores into it as a calendar. Raises `FileError`."""
        from grey_current.files.ics import calendar  # noqa: PLC0415
        from grey_current.work.chores import chores  # noqa: PLC0415

        project = self.workspace.project
        kinds = "Calendars (*.ics)"
        chosen, _ = QFileDialog.getSaveFileName(
            self.window, "Save the chores", self.workspace.file_name("-chores.ics"), kinds
        )
        if chosen:
            found = self.workspace.computed.doubt
            due = found.due if found is not None and found.project == project else ()
            text = calendar(chores(project), project.name, datetime.date.today(), due)
            self._tell(f"{write_export(text, Path(chosen))}.")

    def at_machine(self, palette: Palette) -> None:
        """Show a machine's card over the whole screen. Raises `RefusedEdit` in a shop without
        machines.
        """
        from grey_current.desk.shell.at_machine import AtMachine  # noqa: PLC0415
        from grey_current.work.cards import cards  # noqa: PLC0415

        made = cards(self.workspace.assessment.counted, self.workspace.space)
        if not made:
            raise RefusedEdit("a card", "showing one", "put a machine in first (stage 2)")
        self.card = AtMachine(self.window, self.workspace, made, palette)
        self.card.showFullScreen()

    def follow(self) -> None:
        """Let the card in large follow the tool that has just been started."""
        if self.card is not None and self.card.isVisible():
            self.card.follow()

    def switch_panel(self) -> None:
        """Show the panel of simulated tools and switches."""
        from grey_current.desk.shell.switch_panel import SwitchPanel  # noqa: PLC0415

        self.panel = SwitchPanel(self.window, self.workspace)
        self.panel.show()
