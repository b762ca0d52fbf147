"""Files written so that they are always whole, whatever ends the program: temporary file, fsync, rename, one backup."""

from __future__ import annotations

import contextlib
import errno
import os
import shutil
import tempfile
import time
import zlib
from pathlib import Path

from grey_current.errors import FileError

TEMPORARY = ".part"
LEFT_FOR = 120.0
"""Seconds after which a temporary file is one that a killed program left behind."""


def write_whole(text: str, path: Path) -> None:
    """Write a file so that it is always whole. A symbolic link stays one: what it names is written.

    The last version is kept beside it with a "~", never through a link. Raises `FileError` when it cannot be written;
    the file at `path` is then as it was.
    """
    if path.is_dir():
        raise FileError(str(path), "is a folder", "choose a file name inside it")
    temporary = ""
    try:
        target = Path(os.path.realpath(path))
        if target.exists() and not target.is_file():
            raise FileError(str(path), "is not an ordinary file", "choose another name")
        _clear_left(target)
        handle, temporary = tempfile.mkstemp(prefix=f".{target.name}.", suffix=TEMPORARY, dir=target.parent)
        with os.fdopen(handle, "w", encoding="utf-8") as stream:
            stream.write(text)
            stream.flush()
            os.fsync(stream.fileno())
        if target.exists():
            Path(temporary).chmod(target.stat().st_mode & 0o777)
            _keep_last(target)
        else:
            mask = os.umask(0)
            os.umask(mask)
            Path(temporary).chmod(0o666 & ~mask)
        Path(temporary).replace(target)
        sync_folder(target.parent)
    except (OSError, UnicodeEncodeError) as problem:
        with contextlib.suppress(OSError):
            Path(temporary).unlink()
        if isinstance(problem, OSError):
            what, remedy = f"could not be saved ({reason(problem)})", _remedy(problem)
        else:
            what, remedy = "could not be saved (a name has a character that is no text)", "retype the name"
        raise FileError(str(path), what, remedy) from None


def _keep_last(target: Path) -> None:
    """The version that is there now, kept beside it; a file of that name is replaced, not written through."""
    handle, copy = tempfile.mkstemp(prefix=f".{target.name}.", suffix=TEMPORARY, dir=target.parent)
    os.close(handle)
    shutil.copy2(target, copy)
    _sync(Path(copy))
    Path(copy).replace(target.with_name(target.name + "~"))


def _clear_left(target: Path) -> None:
    """Take away temporary files that a program which was killed while saving left behind."""
    for left in target.parent.glob(f".{_plain(target.name)}.*{TEMPORARY}"):
        with contextlib.suppress(OSError):
            if time.time() - left.stat().st_mtime > LEFT_FOR:
                left.unlink()


def _plain(name: str) -> str:
    return "".join(f"[{c}]" if c in "*?[" else c for c in name)


def moved(place: Path, aside: Path) -> None:
    """Bring a file to another place, on another disk too, so that at every moment one of the two is whole.

    Raises `OSError`.
    """
    try:
        place.rename(aside)
    except OSError as problem:
        if problem.errno != errno.EXDEV:
            raise
        shutil.copy2(place, aside)
        _sync(aside)
        sync_folder(aside.parent)
        place.unlink()
    sync_folder(aside.parent)


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
    if isinstance(problem, PermissionError):
        return "choose a folder that you may write to; your work is still open here"
    return "free some space or choose another place; your work is still open here"
