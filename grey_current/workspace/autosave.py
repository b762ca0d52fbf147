"""Every committed edit goes into a journal, in the background; the next start offers what was not saved. No Qt."""

from __future__ import annotations

import contextlib
import os
import queue
import threading
import time
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import platformdirs

from grey_current.errors import GreyCurrentError
from grey_current.files import journal, project_file
from grey_current.files.journal import Journal, JournalBusy, Record
from grey_current.files.safe_write import moved
from grey_current.shop.differences import differences
from grey_current.shop.model import Project
from grey_current.workspace.open_project import Notice
from grey_current.workspace.workspace import Workspace

UNSAVED = "unsaved"
"""Folder of the journals of shops that have no file yet, in the folder of the user's state."""


@dataclass(frozen=True)
class Left:
    """Work that a program which ended before saving left behind, and what of it the file does not have."""

    place: Path
    record: Record
    project: Project
    differs: tuple[str, ...]


class Autosave:
    """Keeps the journal of a workspace. `busy` says that another program has the same file open.

    Nothing here raises: where no journal can be kept, `problem` says why, and the work goes on.
    """

    def __init__(self, workspace: Workspace, folder: Path | None = None) -> None:
        self.workspace = workspace
        self.folder = folder or Path(platformdirs.user_state_dir("grey-current"))
        self.busy = False
        self.problem = ""
        self.found = False
        """Whether work was left behind beside what was opened, and has not been asked about yet."""
        self._journal: Journal | None = None
        self._noted: Project = workspace.project
        self._tasks: queue.Queue[tuple[str, Project | None, Journal] | None] = queue.Queue()
        """What is to be written: the step and the project after it, None when everything is saved; None to end."""
        self._writer = threading.Thread(target=self._write, name="journal", daemon=True)
        self._writer.start()
        self._begin(workspace.path)
        workspace.listen(self._hear)

    def _begin(self, path: Path | None) -> None:
        """Take the journal of a file, or one in the user's own folder where that cannot be had.

        `problem` is then why none can be kept; empty when all is well.
        """
        self.busy, self.problem = False, ""
        own = self._own()
        for place in (*((journal.beside(path),) if path else ()), own):
            try:
                self._set_aside(place)
                self._journal = Journal(place, path)
                self.problem = ""
                break
            except JournalBusy:
                self.busy = True
            except OSError as problem:
                self.problem = str(problem.strerror or problem)
        else:
            self._journal = None

    def _own(self) -> Path:
        """A place of this program's in the user's own folder that nothing has yet."""
        return self.folder / UNSAVED / f"{os.getpid()}-{time.time_ns():x}.journal"

    def _set_aside(self, place: Path) -> None:
        """Move what was left behind at a place to the user's own folder until it is asked about. Raises `OSError`."""
        if left_in(place) is not None:
            aside = self._own()
            aside.parent.mkdir(parents=True, exist_ok=True)
            moved(place, aside)
            self.found = True

    def _hear(self, notice: Notice) -> None:
        space = self.workspace
        held = self._journal.path if self._journal else None
        if notice.file and space.path != held:
            self._end()
            self._begin(space.path)
            self._noted = space.project
        if space.in_gesture or self._journal is None:
            return
        if space.project is self._noted and not notice.file:
            return
        self._noted = space.project
        self._tasks.put((space.undo_label or "an edit", space.project if space.dirty else None, self._journal))

    def _write(self) -> None:
        while (task := self._tasks.get()) is not None:
            step, project, target = task
            try:
                if project is None:
                    target.clear()
                else:
                    target.note(step, project.model_dump_json())
                    self.problem = ""
            except (OSError, ValueError) as problem:
                self.problem = str(getattr(problem, "strerror", None) or problem)
            finally:
                self._tasks.task_done()
        self._tasks.task_done()

    def wait(self) -> None:
        """Wait until everything that was edited is on the disk."""
        self._tasks.join()

    def _end(self, keep: bool = False) -> None:
        self.wait()
        if self._journal is not None:
            self._journal.close(keep)
            self._journal = None

    def close(self, keep: bool = False) -> None:
        """The window closes; unless it is to be kept for the next start, the journal goes away."""
        self._end(keep)
        self._tasks.put(None)
        self._writer.join()

    # -- what was left behind

    def left(self) -> Iterator[Left]:
        """Work left behind: that of the open file first, then of others and of shops without one, the latest first."""
        self.found = False
        places: list[Path] = []
        with contextlib.suppress(OSError):
            places = sorted((self.folder / UNSAVED).glob("*.journal"), key=lambda p: -p.stat().st_mtime)
        found = [left for place in places if (left := left_in(place)) is not None]
        yield from sorted(found, key=lambda left: left.record.path != self.workspace.path)


def left_in(place: Path) -> Left | None:
    """What a journal that nobody holds has to bring back; a journal that has nothing is taken away."""
    record = journal.left_behind(place)
    if record is None:
        return None
    try:
        project = project_file.from_raw(record.project, str(place))
        saved = project_file.load(record.path) if record.path is not None and record.path.exists() else None
    except GreyCurrentError:
        return None
    differs = tuple(differences(saved, project)) if saved is not None else (f"“{project.name}” was never saved",)
    if not differs:
        journal.forget(place)
        return None
    return Left(place, record, project, differs)


def bring_back(workspace: Workspace, left: Left) -> None:
    """Open what was left behind, as one step after what its file holds. Raises `FileError`, `DuctworkError`."""
    path = left.record.path
    if path is not None and path.exists():
        workspace.open(path)
        workspace.edit("Bring back what was not saved", lambda _: left.project)
    else:
        workspace.show_project(left.project, None)
        workspace.unsaved()
