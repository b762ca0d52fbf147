"""Grey Current on the desktop of one user or of a machine: its entry in the menu, its icon, the
type of its files, and what software centres show of it.

Sources: freedesktop.org's Desktop Entry Specification 1.4, Shared MIME-info Database 0.21, Icon
Theme Specification 0.13 and AppStream 1.0.
"""

from __future__ import annotations

import contextlib
import shutil
import subprocess
from collections.abc import Iterator
from importlib.metadata import version
from importlib.resources import files
from pathlib import Path
from xml.sax.saxutils import escape

from grey_current.errors import FileError
from grey_current.files.safe_write import write_whole

APP, MIME = "grey-current", "application/x-grey-current+json"
ACCENT = "#0b6e7f"
SUMMARY = "Design, build and keep a dust collection system for a home woodshop"
# What makes desktops look again at what is installed, with the folder that it looks at.
LOOK_AGAIN = (
    ("update-desktop-database", "applications"),
    ("update-mime-database", "mime"),
    ("gtk-update-icon-cache", "icons/hicolor"),
)


def entries(program: Path) -> dict[str, str]:
    """The files of the desktop, by their place below a data folder; `program` is what opens a
    shop.
    """
    icon = (files("grey_current.desk") / "icons" / "app.svg").read_text(encoding="utf-8")
    return {
        f"applications/{APP}.desktop": _entry(program),
        f"mime/packages/{APP}.xml": _file_type(),
        f"icons/hicolor/scalable/apps/{APP}.svg": icon.replace("currentColor", ACCENT),
        f"metainfo/{APP}.metainfo.xml": _metainfo(),
    }


def _entry(program: Path) -> str:
    # A path with a space or a quote is quoted, a backslash and what a shell would read escaped.
    path = str(program)
    for sign in ("\\", '"', "`", "$"):
        path = path.replace(sign, f"\\{sign}")
    lines = [
        "[Desktop Entry]",
        "Type=Application",
        "Version=1.4",
        "Name=Grey Current",
        "GenericName=Dust collection design",
        f"Comment={SUMMARY}",
        f'Exec="{path.replace("%", "%%")}" %f',
        f"Icon={APP}",
        "Terminal=false",
        "Categories=Graphics;Engineering;",
        "Keywords=dust;collection;woodshop;duct;cyclone;",
        f"MimeType={MIME};",
        f"StartupWMClass={APP}",
    ]
    return "\n".join([*lines, ""])


def _file_type() -> str:
    return f"""<?xml version="1.0" encoding="UTF-8"?>
<mime-info xmlns="http://www.freedesktop.org/standards/shared-mime-info">
  <mime-type type="{MIME}">
    <comment>Woodshop with its dust collection</comment>
    <sub-class-of type="application/json"/>
    <icon name="{APP}"/>
    <glob pattern="*.greycurrent.json" weight="70"/>
  </mime-type>
</mime-info>
"""


def _metainfo() -> str:
    return f"""<?xml version="1.0" encoding="UTF-8"?>
<component type="desktop-application">
  <id>{APP}</id>
  <metadata_license>CC0-1.0</metadata_license>
  <project_license>GPL-3.0-or-later</project_license>
  <name>Grey Current</name>
  <summary>Dust collection for a home woodshop</summary>
  <description>
    <p>{escape(SUMMARY)}: draw the shop to scale, see the air at every machine before you buy a
    foot of pipe, then buy, cut, put up, measure and keep it going.</p>
  </description>
  <launchable type="desktop-id">{APP}.desktop</launchable>
  <provides><mediatype>{MIME}</mediatype></provides>
  <content_rating type="oars-1.1"/>
  <releases><release version="{version(APP)}" date="2026-12-01" type="development"/></releases>
</component>
"""


def integrate(folder: Path, program: Path) -> list[Path]:
    """Write the entry, type, icon and description below a data folder; returned is what was
    written. Raises `FileError` where that cannot be.
    """
    if not program.is_file():
        raise FileError(str(program), "is no program", "install Grey Current first")
    written = []
    for name, text in entries(program).items():
        path = folder / name
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
        except OSError as problem:
            why = problem.strerror or "cannot be made"
            raise FileError(str(path.parent), why.lower(), "name another folder") from None
        write_whole(text, path)
        # What stood there before was ours: no older copy is kept beside it.
        with contextlib.suppress(OSError):
            path.with_name(f"{path.name}~").unlink()
        written.append(path)
    _look_again(folder)
    return written


def withdraw(folder: Path) -> list[Path]:
    """Take what `integrate` wrote away again; returned is what was there. Raises `FileError`."""
    gone = []
    for path in _written(folder):
        try:
            path.unlink()
        except OSError as problem:
            why = (problem.strerror or "cannot be removed").lower()
            raise FileError(str(path), why, "remove it by hand") from None
        gone.append(path)
    _look_again(folder)
    return gone


def _written(folder: Path) -> Iterator[Path]:
    return (path for name in entries(Path("x")) if (path := folder / name).is_file())


def _look_again(folder: Path) -> None:
    """Let the desktop look again; without its tools it does so at the next login."""
    for tool, below in LOOK_AGAIN:
        found = shutil.which(tool)
        if found is not None and (folder / below).is_dir():
            subprocess.run([found, str(folder / below)], capture_output=True, check=False)
