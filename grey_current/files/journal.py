"""A journal of the edits of a shop, so that a crash or a power cut loses nothing. No project is
read here.

All journals lie in one folder, which is their index: each names the file that it belongs to, so
that what is in it can be offered at any start, also when that file is gone.

A line a record: a checksum, then JSON. A record that was not written to its end fails its checksum
and does not count. The file is locked while its program lives, so that another one knows whether it
was left behind.
"""

from __future__ import annotations

import contextlib
import errno
import fcntl
import json
import os
import zlib
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import Any

from grey_current.files.safe_write import sync_folder

FORMAT = "grey-current/journal/1"
# Bytes after which a journal is begun anew with its last record.
LARGEST = 8_000_000
SUFFIX = ".journal"
# Letters of a file's name that stand in the name of its journal.
LONGEST_STEM = 60
# Records that are to have room on the disk besides: a file is saved with a temporary one and a
# backup.
ROOM = 8


@dataclass(frozen=True)
class Record:
    """What a journal holds last: when, what the last step was called, and the raw project; `path`
    is its file's.
    """

    when: datetime
    step: str
    path: Path | None
    project: dict[str, Any]


class JournalBusy(Exception):
    """Another program holds this journal."""


class Journal:
    """One program's journal, locked. Raises `JournalBusy` when another has it, `OSError` when it
    cannot be made.
    """

    def __init__(self, place: Path, path: Path | None) -> None:
        self.place, self.path = place, path
        place.parent.mkdir(parents=True, exist_ok=True)
        self._handle = _locked(place)
        # Whether its own name was seen to the disk: with the first record, and not while a file is
        # opened.
        self._named = False
        # Where the last whole record begins.
        self._last = 0

    @property
    def lost(self) -> bool:
        """Whether its file was taken away, or another one put in its place, while it is held."""
        try:
            return not os.path.samestat(os.fstat(self._handle), self.place.stat())
        except OSError:
            return True

    def begin_again(self) -> None:
        """Take the place once more when its file was lost. Raises `JournalBusy`, `OSError`."""
        self.place.parent.mkdir(parents=True, exist_ok=True)
        handle = _locked(self.place)
        os.close(self._handle)
        self._handle, self._named, self._last = handle, False, 0

    def note(self, step: str, project: str) -> None:
        """Append a state (the JSON text of a project) and see it onto the disk. Raises `OSError`.

        A record begins on a new line, so that one that was cut short before it does no harm. Where
        the disk is nearly full it takes the place of older ones: the journal must not be what keeps
        the file from being saved.
        """
        when = datetime.now().isoformat(timespec="seconds")
        head = json.dumps(
            {"format": FORMAT, "when": when, "step": step, "path": str(self.path or "")}
        )
        body = f'{head[:-1]}, "project": {project}}}'.encode()
        line = b"\n%08x %b\n" % (zlib.crc32(body), body)
        size, ours = os.fstat(self._handle).st_size, self._last >= len(line)
        if size > LARGEST:
            self._begin_anew(line)
        # The disk is nearly full: over an older record, never over the last one.
        elif ours and _free(self._handle) < ROOM * len(line):
            self._over_older(line)
        else:
            self._append(line, size)
        if not self._named:
            sync_folder(self.place.parent)
            self._named = True

    def _append(self, line: bytes, size: int) -> None:
        try:
            _write(self._handle, line)
            self._last = size
        except OSError:
            os.ftruncate(self._handle, size)
            if self._last < len(line):
                raise
            self._over_older(line)

    def _over_older(self, line: bytes) -> None:
        """A record over the older ones; the last of those stays until it is on the disk, and room
        is there for it.
        """
        handle = os.open(self.place, os.O_WRONLY | os.O_NOFOLLOW)
        try:
            _write(handle, line)
            os.ftruncate(handle, len(line))
            os.fsync(handle)
            self._last = 0
        finally:
            os.close(handle)

    def _begin_anew(self, line: bytes) -> None:
        """A journal of one record in place of this one; at every moment one of the two is there,
        whole and locked.
        """
        # A new file beside it, locked and whole, then renamed over.
        new = self.place.with_name(f"{self.place.name}.new")
        forget(new)
        handle = _locked(new)
        try:
            _write(handle, line)
            new.replace(self.place)
            sync_folder(self.place.parent)
        except OSError:
            os.close(handle)
            raise
        os.close(self._handle)
        self._handle, self._last = handle, 0

    def clear(self) -> None:
        """Everything is saved: nothing is left to bring back."""
        with contextlib.suppress(OSError):
            os.ftruncate(self._handle, 0)
        self._last = 0

    def close(self, keep: bool = False) -> None:
        """Let go of the journal; unless it is to be kept it goes away."""
        with contextlib.suppress(OSError):
            if not keep:
                self.place.unlink()
            os.close(self._handle)


def _locked(place: Path) -> int:
    """A handle on a file that is this program's alone. Raises `JournalBusy`, `OSError`."""
    handle = os.open(place, os.O_RDWR | os.O_CREAT | os.O_APPEND | os.O_NOFOLLOW, 0o600)
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        os.close(handle)
        raise JournalBusy(str(place)) from None
    return handle


def held_by_another(place: Path) -> bool:
    """Whether a program that lives has a journal in hand."""
    if not place.exists():
        return False
    try:
        os.close(_locked(place))
    except JournalBusy:
        return True
    except OSError:
        return False
    return False


def _write(handle: int, line: bytes) -> None:
    """Write a whole line and see it onto the disk. Raises `OSError` when there is no room for all
    of it.
    """
    if os.write(handle, line) < len(line):
        raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC))
    os.fsync(handle)


def _free(handle: int) -> int:
    """Bytes that are free on the disk of a file; as many as one likes where that is not told."""
    try:
        told = os.fstatvfs(handle)
    except OSError:
        return LARGEST * 1000
    return told.f_bavail * told.f_frsize


def place_for(path: Path, folder: Path) -> Path:
    """Where in a folder the journal of a file lies: by the file's name, and by a mark of where it
    is.
    """
    target = os.path.realpath(path)
    plain = "".join(
        c if c.isalnum() or c in "-_" else "-" for c in Path(target).name.split(".")[0]
    )[:LONGEST_STEM]
    # Cut by bytes: file systems count those, and a letter may take four.
    stem = plain.encode(errors="replace")[:LONGEST_STEM].decode(errors="ignore")
    return folder / f"{stem}-{_mark(target)}{SUFFIX}"


def _mark(target: str) -> str:
    return f"{zlib.crc32(os.fsencode(target)):08x}"


def beside(path: Path) -> Path:
    """Where earlier versions of the program kept the journal of a file."""
    target = Path(os.path.realpath(path))
    return target.with_name(f".{target.name}.journal")


def holds_something(place: Path) -> bool:
    """Whether a journal that no living program holds has anything in it, whether or not it can be
    read here.
    """
    try:
        with _unheld(place) as handle:
            return os.fstat(handle).st_size > 0
    except OSError:
        return False


def left_behind(place: Path) -> Record | None:
    """The last whole record of a journal that no living program holds; None when there is nothing
    to bring back.
    """
    try:
        with _unheld(place):
            return last_record(place)
    except OSError:
        return None


@contextlib.contextmanager
def _unheld(place: Path) -> Iterator[int]:
    """Open a journal that no living program holds; `OSError` where one does, or none is there."""
    handle = os.open(place, os.O_RDWR | os.O_NOFOLLOW)
    try:
        fcntl.flock(handle, fcntl.LOCK_SH | fcntl.LOCK_NB)
        yield handle
    finally:
        os.close(handle)


def last_record(place: Path) -> Record | None:
    """The last whole record of a journal; None when it has none. Raises `OSError`."""
    for line in reversed(place.read_bytes().splitlines()):
        checksum, _, body = line.partition(b" ")
        try:
            if int(checksum, 16) != zlib.crc32(body):
                continue
            raw = json.loads(body)
            when = datetime.fromisoformat(raw["when"])
            return Record(
                when, str(raw["step"]), Path(raw["path"]) if raw["path"] else None, raw["project"]
            )
        except (ValueError, KeyError, TypeError, RecursionError):
            continue
    return None


def forget(place: Path) -> None:
    """Take a journal away that nobody wants brought back."""
    with contextlib.suppress(OSError):
        place.unlink()
