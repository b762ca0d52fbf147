"""Places to which something may be told to be written, and disks that do not take it."""

import errno
import os
import tempfile
from pathlib import Path

from grey_current.files import project_file
from tests.core.shops import demo


def full_disk(monkeypatch):
    def full(handle):
        raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC))

    monkeypatch.setattr(os, "fsync", full)


def read_only(monkeypatch):
    def refused(*args, **kwargs):
        raise PermissionError(errno.EACCES, os.strerror(errno.EACCES))

    monkeypatch.setattr(tempfile, "mkstemp", refused)


PLACES = {
    "a new file": (lambda d: d / "new{end}", None, 0, "Saved"),
    "an existing file": (lambda d: d / "old{end}", None, 0, "(the old one is old{end}~)"),
    "a project file": (
        lambda d: d / "shop.greycurrent.json",
        None,
        2,
        "is a project file and stays as it is",
    ),
    "a project by another name": (
        lambda d: d / "renamed{end}",
        None,
        2,
        "is a project file and stays as it is",
    ),
    "a name of a project": (lambda d: d / "new.greycurrent.json", None, 2, "is a project file"),
    "a full disk": (lambda d: d / "old{end}", full_disk, 2, "no space left on device"),
    "a read-only folder": (lambda d: d / "old{end}", read_only, 2, "permission denied"),
    "a write-protected file": (lambda d: d / "locked{end}", None, 2, "is write-protected"),
    "/dev/full": (lambda d: Path("/dev/full"), None, 2, "is not an ordinary file"),
    "a pipe": (lambda d: d / "fifo", None, 2, "is not an ordinary file"),
    "a folder": (lambda d: d, None, 2, "is a folder"),
    "a long name": (lambda d: d / ("木" * 100 + "{end}"), None, 2, "name that is too long (3"),
    "a name of the longest sort": (lambda d: d / ("木" * 80 + "{end}"), None, 0, "Saved"),
    "no name": (lambda d: "", None, 2, "give a name for what is to be saved"),
}


def prepared(tmp_path):
    """A folder with files of every ending, a project, a write-protected file, and a pipe."""
    folder = tmp_path / "there"
    folder.mkdir()
    project_file.save(demo(), folder / "shop.greycurrent.json")
    for end in (".ics", ".csv", ".svg", ".pdf", ".json"):
        (folder / f"old{end}").write_text("what was there")
        (folder / f"locked{end}").write_text("mine")
        (folder / f"locked{end}").chmod(0o444)
        (folder / f"renamed{end}").write_text(project_file.dump(demo()))
    os.mkfifo(folder / "fifo")
    return folder


def contents(folder):
    return {p.name: p.read_bytes() for p in folder.iterdir() if p.is_file()}
