"""Files that commands write: names as they are typed, projects saved, what only the window's
program prints.
"""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

from grey_current.errors import FileError, InputError, Told
from grey_current.files import project_file
from grey_current.files.safe_write import check_export, saved_words
from grey_current.shop.model import Project

# Exit status of the window's own program when it said in a sentence why it did not do as it was
# told.
REFUSED = 2


def file_name(text: str) -> Path:
    """A file or folder to be written, as it is typed. Raises `InputError` for no name at all."""
    if not text.strip():
        raise InputError("-o", text, "give a name for what is to be saved")
    return Path(text)


def save_project(project: Project, path: Path | None) -> list[str]:
    """Save a project where one was asked for; what was saved in words, in a list. Raises
    `FileError`.
    """
    return [] if path is None else [saved_words(path, project_file.save(project, path))]


def by_the_window(project: Path, path: Path, what: str, letter: bool) -> str:
    """Let the window's own program print, without a window, for it alone knows Qt; returned is what
    was saved.

    Raises `FileError`.
    """
    size = ["--letter"] if letter else []
    return printed_by("grey_current.desk.app", [str(project), what, str(path), *size], path)


def printed_by(module: str, arguments: list[str], path: Path) -> str:
    """Let a program that knows Qt print into a file, without a window; returned is what was saved.

    Raises `FileError`.
    """
    check_export(path)
    environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    done = subprocess.run(
        [sys.executable, "-m", module, *arguments],
        env=environment,
        capture_output=True,
        text=True,
        check=False,
    )
    if done.returncode:
        if done.stderr.strip():
            why = done.stderr.strip().splitlines()[-1]
        else:
            why = "the window's program did not start"
        if done.returncode == REFUSED:
            raise Told(why)
        raise FileError(
            str(path),
            f"could not be made ({why})",
            "install the window's parts, or use --svg and --dxf",
        )
    return done.stdout.strip()
