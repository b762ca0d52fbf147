"""The one door for files that are written: whole or not at all, whatever ends the program.

A temporary file, read back, synced and renamed; one backup. Everything that is no project refuses a
project's place.
"""

from __future__ import annotations

import contextlib
import errno
import fcntl
import os
import shutil
import stat
import tempfile
import time
import zlib
from collections.abc import Iterator
from pathlib import Path

from grey_current.errors import FileError

PROJECT_SUFFIX = ".greycurrent.json"
# What every project file says of itself near its beginning.
PROJECT_MARK = b'"grey-current/project"'
# Bytes from its beginning in which a project says so; where somebody put it last, its name tells.
MARK_WITHIN = 4096
TEMPORARY = ".part"
# Seconds after which a temporary file is one that a killed program left behind.
LEFT_FOR = 120.0
# Bytes of a name up to which a temporary file's may hold it whole.
ROOM_FOR_MORE = 200
# Seconds that one window waits for another one that writes the same small file.
LOCK_WITHIN = 2.0
# Bytes of a file's name; file systems take 255, and the backup's "~" wants one of them.
LONGEST_NAME = 254


def write_whole(content: str | bytes, path: Path) -> Path | None:
    """Write a file so that it is always whole. A symbolic link stays one: what it names is written.

    The last version is kept beside it with a "~", never through a link; returned is where, None
    where there was none. Raises `FileError` when it cannot be written; the file at `path` is then
    as it was.
    """
    _check_place(path)
    temporary = ""
    backup: Path | None = None
    try:
        data = content if isinstance(content, bytes) else content.encode()
        # A link is followed, so that it still is one afterwards.
        target = Path(os.path.realpath(path))
        _clear_left(target)
        handle, temporary = tempfile.mkstemp(
            prefix=_prefix(target), suffix=TEMPORARY, dir=target.parent
        )
        with os.fdopen(handle, "w+b") as stream:
            stream.write(data)
            stream.flush()
            os.fsync(stream.fileno())
            stream.seek(0)
            # Read back before the old file is given up.
            if stream.read() != data:
                raise OSError(errno.EIO, "what was written reads back otherwise")
        if target.exists():
            Path(temporary).chmod(target.stat().st_mode & 0o777)
            backup = _keep_last(target)
        else:
            # A new file gets the rights that an ordinary one would; temporary files have fewer.
            mask = os.umask(0)
            os.umask(mask)
            Path(temporary).chmod(0o666 & ~mask)
        # Renaming is one step: at every moment there is the old file or the new one.
        Path(temporary).replace(target)
        temporary = ""
        sync_folder(target.parent)
    except UnicodeEncodeError:
        what = "could not be saved (a name has a character that is no text)"
        raise FileError(str(path), what, "retype the name") from None
    except OSError as problem:
        raise FileError(
            str(path), f"could not be saved ({reason(problem)})", _remedy(problem)
        ) from None
    finally:
        if temporary:
            with contextlib.suppress(OSError):
                Path(temporary).unlink()
    return backup


def write_export(content: str | bytes, path: Path) -> str:
    """Write anything that is no project, as `write_whole` does; returned is what was saved, in
    words.

    Raises `FileError` too where a project is, or where only one should be.
    """
    check_export(path)
    return saved_words(path, write_whole(content, path))


def name_for(stem: str, end: str) -> str:
    """A name for a file of so much of a stem as file systems take, with its end whole; for names
    that we propose.
    """
    room = LONGEST_NAME - len(os.fsencode(end))
    plain = (
        os.fsencode(stem.replace("/", "-").replace("\0", "-"))[:room]
        .decode(errors="ignore")
        .strip(" .")
    )
    return f"{plain or 'shop'}{end}"


def saved_words(path: Path, backup: Path | None) -> str:
    """What was saved, and where the version before it is: "Saved cards.pdf (the old one is
    cards.pdf~)".
    """
    return f"Saved {path}" + (f" (the old one is {backup.name})" if backup is not None else "")


def check_export(path: Path) -> None:
    """Raise `FileError` for a place where no file can be written, where a project is, or where only
    one should be.
    """
    _check_place(path)
    if path.name.endswith(PROJECT_SUFFIX) or _is_project(path):
        raise FileError(str(path), "is a project file and stays as it is", "choose another name")


def _is_project(path: Path) -> bool:
    try:
        if not path.is_file():
            return False
        with path.open("rb") as stream:
            return PROJECT_MARK in stream.read(MARK_WITHIN)
    except OSError:
        return False


def _check_place(path: Path) -> None:
    """Raise `FileError` for a place where no file can be or may be written."""
    if not path.name:
        raise FileError(repr(str(path)), "is no file name", "give a name for the file")
    try:
        long = len(os.fsencode(path.name))
        if long > LONGEST_NAME:
            what = f"has a name that is too long ({long} bytes; {LONGEST_NAME} at most)"
            raise FileError(f"{path.name[:40]}…", what, "choose a shorter name")
        if path.is_dir():
            raise FileError(str(path), "is a folder", "choose a file name inside it")
        target = Path(os.path.realpath(path))
        if not target.exists():
            return
        if not target.is_file():
            raise FileError(str(path), "is not an ordinary file", "choose another name")
        if not target.stat().st_mode & (stat.S_IWUSR | stat.S_IWGRP | stat.S_IWOTH):
            raise FileError(
                str(path), "is write-protected", "allow writing to it, or choose another name"
            )
    except (ValueError, UnicodeEncodeError):
        raise FileError(repr(str(path)), "is no file name", "check the name") from None
    except OSError as problem:
        raise FileError(
            str(path), f"could not be saved ({reason(problem)})", _remedy(problem)
        ) from None


def _keep_last(target: Path) -> Path:
    """The version that is there now, kept beside it; a file of that name is replaced, not written
    through.
    """
    handle, copy = tempfile.mkstemp(prefix=_prefix(target), suffix=TEMPORARY, dir=target.parent)
    os.close(handle)
    backup = target.with_name(target.name + "~")
    try:
        shutil.copy2(target, copy)
        _sync(Path(copy))
        Path(copy).replace(backup)
    except OSError:
        with contextlib.suppress(OSError):
            Path(copy).unlink()
        raise
    return backup


def _prefix(target: Path) -> str:
    """How temporary files for a target begin: its name where that leaves room, else a mark of
    it.
    """
    name = os.fsencode(target.name)
    return f".{target.name}." if len(name) < ROOM_FOR_MORE else f".{zlib.crc32(name):08x}."


def _clear_left(target: Path) -> None:
    """Take away temporary files that a program which was killed while saving left behind."""
    for left in target.parent.glob(f"{_plain(_prefix(target))}*{TEMPORARY}"):
        with contextlib.suppress(OSError):
            if time.time() - left.stat().st_mtime > LEFT_FOR:
                left.unlink()


def _plain(name: str) -> str:
    return "".join(f"[{c}]" if c in "*?[" else c for c in name)


def moved(place: Path, aside: Path) -> None:
    """Bring a file to another place, on another disk too, so that at every moment one of the two is
    whole.

    Raises `OSError`.
    """
    try:
        place.rename(aside)
    except OSError as problem:
        # On another disk a copy is made and seen onto it before the first one goes.
        if problem.errno != errno.EXDEV:
            raise
        shutil.copy2(place, aside)
        _sync(aside)
        sync_folder(aside.parent)
        place.unlink()
    sync_folder(aside.parent)


@contextlib.contextmanager
def held(path: Path) -> Iterator[None]:
    """Hold a file that several windows read, change and write, so that none loses what another has
    just written.

    Where no lock can be had within `LOCK_WITHIN` it goes on without one: a lock left hanging must
    not stop the work.
    """
    handle = -1
    try:
        handle = os.open(
            path.with_name(f".{path.name}.lock"), os.O_RDWR | os.O_CREAT | os.O_NOFOLLOW, 0o600
        )
        until = time.monotonic() + LOCK_WITHIN
        while time.monotonic() < until:
            try:
                # A lock that does not come within a moment is not worth a window that hangs.
                fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
                break
            except OSError:
                time.sleep(0.01)
    except OSError:
        pass
    try:
        yield
    finally:
        if handle >= 0:
            os.close(handle)


def sync_folder(folder: Path) -> None:
    """See the names in a folder onto the disk; not every file system can."""
    with contextlib.suppress(OSError):
        _sync(folder)


def _sync(place: Path) -> None:
    """See what a file or folder holds onto the disk. Raises `OSError`."""
    handle = os.open(place, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


def stamp(path: Path) -> int | None:
    """A checksum of what a file holds now; None when it cannot be read."""
    try:
        return zlib.crc32(path.read_bytes())
    except (OSError, ValueError):
        return None


def reason(problem: OSError) -> str:
    """Why the system refused, in its own words."""
    return (problem.strerror or type(problem).__name__).lower()


def _remedy(problem: OSError) -> str:
    if isinstance(problem, PermissionError) or problem.errno == errno.EROFS:
        return "choose a folder that you may write to; your work is still open here"
    return "free some space or choose another place; your work is still open here"
