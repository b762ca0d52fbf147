"""Every committed edit goes into a journal, in the background; the next start offers what was not
saved. No Qt.

All journals lie in one folder of the user's state. One that was left behind is never taken away
unread, and never before what was brought back from it is in the next one.
"""

from __future__ import annotations

import contextlib
import os
import queue
import threading
import time
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

import platformdirs

from grey_current.errors import GreyCurrentError
from grey_current.files import journal, project_file
from grey_current.files.journal import Journal, JournalBusy, Record
from grey_current.files.safe_write import moved
from grey_current.shop.differences import differences
from grey_current.shop.model import Project
from grey_current.workspace.open_project import ProjectChanged
from grey_current.workspace.workspace import Workspace

# Folder of all journals, in the folder of the user's state.
UNSAVED = "unsaved"
# Seconds without an edit after which it is looked whether the journal is still there.
LOOKED_AFTER = 0.5


@dataclass(frozen=True)
class Left:
    """Work that a program which ended before saving left behind, and what of it the file does not
    have.

    `file_is` says what became of its file: whether it is "there", "gone", "unreadable" as it is
    now, or never was ("none").
    """

    place: Path
    record: Record
    project: Project
    differs: tuple[str, ...]
    file_is: Literal["there", "gone", "unreadable", "none"] = "there"


def in_use(path: Path, folder: Path | None = None) -> bool:
    """Whether another window of this program has a file open; `folder` is that of the user's
    state.
    """
    state = folder or Path(platformdirs.user_state_dir("grey-current"))
    return journal.held_by_another(journal.place_for(path, state / UNSAVED))


class Autosave:
    """Keeps the journal of a workspace. `busy` says that another program has the same file open.

    Nothing here raises: where no journal can be kept, `problem` says why, and the work goes on.
    """

    def __init__(self, workspace: Workspace, folder: Path | None = None) -> None:
        self.workspace = workspace
        self.folder = (folder or Path(platformdirs.user_state_dir("grey-current"))) / UNSAVED
        self.busy = False
        self.problem = ""
        # Whether work was left behind beside what was opened, and has not been asked about yet.
        self.found = False
        self._journal: Journal | None = None
        # The step and the project that the journal holds last; None when everything is saved.
        self._written: tuple[str, str] | None = None
        # Held while the journal is written, looked at, or exchanged for another one.
        self._at_disk = threading.Lock()
        self._noted: Project = workspace.project
        # What is to be written: the step and the project after it, None when everything is saved;
        # None to end.
        self._tasks: queue.Queue[tuple[str, Project | None, Journal] | None] = queue.Queue()
        self._writer = threading.Thread(target=self._write, name="journal", daemon=True)
        self._begin(workspace.path)
        self._writer.start()
        workspace.listen(self._hear)

    def _begin(self, path: Path | None) -> None:
        """Take the journal of a file; one of this program's own where that is held by another.

        `problem` is then why none can be kept; empty when all is well.
        """
        self.busy, self.problem, self._written = False, "", None
        if path:
            self._set_aside(journal.beside(path))  # as earlier versions kept it
        # The file's own journal; where another window holds it, one that is this program's alone.
        for place in (*((journal.place_for(path, self.folder),) if path else ()), self._own()):
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
        """A place of this program's that nothing has yet."""
        return self.folder / f"{os.getpid()}-{time.time_ns():x}{journal.SUFFIX}"

    def _set_aside(self, place: Path) -> None:
        """Move what was left behind at a place out of the way until it is asked about, readable
        here or not.
        """
        if not journal.holds_something(place):
            return
        left = left_in(place)
        if not place.exists():  # the file has all of it
            return
        with contextlib.suppress(OSError):
            self.folder.mkdir(parents=True, exist_ok=True)
            moved(place, self._own())
        self.found = self.found or left is not None

    def _hear(self, notice: ProjectChanged) -> None:
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
        self._tasks.put(
            (space.undo_label or "an edit", space.project if space.dirty else None, self._journal)
        )

    def _write(self) -> None:
        """Carry out what is to be written; when nothing comes for a while, look after the
        journal.
        """
        while True:
            try:
                # With nothing to write it looks whether the journal is still there.
                task = self._tasks.get(timeout=LOOKED_AFTER)
            except queue.Empty:
                self._look_after()
                continue
            try:
                if task is None:
                    return
                with self._at_disk:
                    self._carry_out(*task)
            finally:
                self._tasks.task_done()

    def _carry_out(self, step: str, project: Project | None, target: Journal) -> None:
        try:
            # Somebody took the file away under the window: a new one, whole at once.
            if target.lost:
                target.begin_again()
            if project is None:
                target.clear()
                self._written = None
            else:
                text = project.model_dump_json()
                target.note(step, text)
                self._written = step, text
                self.problem = ""
        except JournalBusy:
            self.problem = "another window has this file's journal"
        except (OSError, ValueError) as problem:
            self.problem = str(getattr(problem, "strerror", None) or problem)

    def _look_after(self) -> None:
        """Begin the journal anew with its last record when its file was taken away under the
        window.
        """
        with self._at_disk:
            target = self._journal
            if target is None or not target.lost:
                return
            try:
                target.begin_again()
                if self._written is not None:
                    target.note(*self._written)
            except (JournalBusy, OSError) as problem:
                self.problem = str(getattr(problem, "strerror", None) or problem)

    def wait(self) -> None:
        """Wait until everything that was edited is on the disk."""
        self._tasks.join()

    @property
    def keeps(self) -> bool:
        """Whether everything that is not saved is in the journal, on the disk."""
        self.wait()
        return self._journal is not None and not self.problem and not self._journal.lost

    def _end(self, keep: bool = False) -> None:
        self.wait()
        with self._at_disk:
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
        """Work left behind: that of the open file first, then of all others, the latest first."""
        self.found = False
        places: list[Path] = []
        with contextlib.suppress(OSError):
            places = sorted(
                self.folder.glob(f"*{journal.SUFFIX}"), key=lambda p: -p.stat().st_mtime
            )
        found = [left for place in places if (left := left_in(place)) is not None]
        yield from sorted(found, key=lambda left: left.record.path != self.workspace.path)

    def bring_back(self, left: Left) -> None:
        """Open what was left behind; it is forgotten only when this window's journal has it on the
        disk.

        Raises `FileError`, `DuctworkError`; what was left behind is then still there.
        """
        aside = self._own()  # its place may be the one that the opened file's journal takes next
        with contextlib.suppress(OSError):
            moved(left.place, aside)
        bring_back(self.workspace, left)
        if self.keeps:
            journal.forget(aside)


def left_in(place: Path) -> Left | None:
    """What a journal that nobody holds has to bring back; one whose file has all of it is taken
    away.
    """
    record = journal.left_behind(place)
    if record is None:
        return None
    try:
        project = project_file.from_raw(record.project, str(place))
    except GreyCurrentError:
        return None
    if record.path is None:
        return Left(place, record, project, (f"“{project.name}” was never saved",), "none")
    if not record.path.exists():
        return Left(place, record, project, (f"Its file {record.path} is gone",), "gone")
    try:
        differs = tuple(differences(project_file.load(record.path), project))
    except GreyCurrentError as problem:
        return Left(
            place,
            record,
            project,
            (f"Its file cannot be read as it is now: {problem}",),
            "unreadable",
        )
    # The file has all of it already: the journal has done its work.
    if not differs:
        journal.forget(place)
        return None
    return Left(place, record, project, differs)


def bring_back(workspace: Workspace, left: Left) -> None:
    """Open what was left behind: as one step after what its file holds, or on its own where that
    cannot be read.

    Raises `FileError`, `DuctworkError`.
    """
    path = left.record.path
    if path is not None and left.file_is == "there":
        workspace.open(path)
        workspace.edit("Bring back what was not saved", lambda _: left.project)
    else:
        workspace.show_project(left.project, None)
        workspace.unsaved()
