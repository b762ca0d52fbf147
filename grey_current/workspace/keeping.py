"""What is kept when something goes wrong: a copy of the work, a log with the last steps, and the
way back. No Qt.
"""

from __future__ import annotations

import traceback
from collections.abc import Iterator
from datetime import datetime
from importlib.metadata import version
from pathlib import Path

import platformdirs

from grey_current.errors import FileError
from grey_current.files import project_file
from grey_current.files.safe_write import name_for
from grey_current.shop.model import Project
from grey_current.workspace.open_project import ProjectChanged
from grey_current.workspace.workspace import Workspace

# Bytes of the log beyond which it is begun anew.
MOST_LOG = 1_000_000
LAST_STEPS = 12
# Folder of the copies, in the folder of the user's state.
KEPT = "kept"


class Keeper:
    """Watches a workspace: knows the last project that was shown without fault, and keeps copies
    and a log.
    """

    def __init__(self, workspace: Workspace, folder: Path | None = None) -> None:
        self.workspace = workspace
        self.folder = folder or Path(platformdirs.user_state_dir("grey-current"))
        # The last project that was shown and painted.
        self.good: Project = workspace.project
        self._steps: list[str] = []
        # Faults of which there is a copy and a line in the log.
        self._known: set[tuple[object, ...]] = set()
        workspace.listen(self._hear)

    def _hear(self, notice: ProjectChanged) -> None:
        if notice.project:
            self._steps = [
                *self._steps[-LAST_STEPS + 1 :],
                self.workspace.undo_label or "a gesture",
            ]

    def shown(self) -> None:
        """The project as it is has been shown without fault."""
        if not self.workspace.in_gesture:
            self.good = self.workspace.project

    def caught(self, problem: BaseException) -> str:
        """Keep a copy and a line in the log, go back to the last project that was good, and say so
        in a sentence.

        A fault that comes again is kept once.
        """
        new = _place_of(problem) not in self._known
        copy = self.keep_copy() if new else None
        log = self.log(problem)
        back = self._go_back()
        where = f" A copy of your work is {copy}." if copy else ""
        done = "the last step was taken back" if back else "the window goes on as it was"
        return f"Something in this program went wrong; {done}.{where}" + (
            f" Details: {log}." if log else ""
        )

    def _go_back(self) -> bool:
        """Show the last good project again, if it is one of this shop's; whether another one is
        shown now.
        """
        present = self.workspace.project
        try:
            self.workspace.go_to(self.good)
        except Exception as problem:
            self.log(problem)
        return self.workspace.project is not present

    def keep_copy(self) -> Path | None:
        """A copy of the last good state of work that is not saved; None when none is needed or can
        be kept.

        Of a shop that was opened just now, and has no good state yet, what is open.
        """
        if not self.workspace.dirty:
            return None
        # Every copy has a name of its own: none writes over another.
        stamp = datetime.now().strftime("%Y-%m-%d %H-%M-%S")
        name = self.workspace.path.name.split(".")[0] if self.workspace.path else "unsaved"
        path = self.folder / KEPT / name_for(name, f" {stamp}{project_file.SUFFIX}")
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
            project_file.save(
                self.good if self.workspace.knows(self.good) else self.workspace.project, path
            )
        except (OSError, FileError):
            return None
        return path

    def copies(self) -> Iterator[Path]:
        """Copies that were kept, the latest first."""
        try:
            yield from sorted(
                (self.folder / KEPT).glob("*.greycurrent.json"),
                reverse=True,
                key=lambda p: p.name[-36:],
            )
        except OSError:
            return

    def log(self, problem: BaseException) -> Path | None:
        """Write a fault into the log with the last steps, once; returned is where, None where that
        cannot be.
        """
        path = self.folder / "faults.log"
        # Once for each place in the code: a fault in painting comes sixty times a second.
        if _place_of(problem) in self._known:
            return path if path.exists() else None
        self._known.add(_place_of(problem))
        last = self.workspace.undo_label
        steps = self._steps if last in self._steps[-1:] or last is None else [*self._steps, last]
        lines = [
            f"== {datetime.now():%Y-%m-%d %H:%M:%S}, version {version('grey-current')}",
            f"last steps: {'; '.join(steps) or 'none'}",
            "".join(traceback.format_exception(problem)),
        ]
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
            begin = path.exists() and path.stat().st_size > MOST_LOG
            with path.open("w" if begin else "a", encoding="utf-8") as log:
                log.write("\n".join(lines))
        except OSError:
            return None
        return path


def _place_of(problem: BaseException) -> tuple[object, ...]:
    """What makes two faults the same: their kind, and the line of the program where they came
    up.
    """
    frames = traceback.extract_tb(problem.__traceback__)
    last = (frames[-1].filename, frames[-1].lineno) if frames else ()
    return (type(problem), *last)
