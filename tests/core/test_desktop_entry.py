"""The program on the desktop: entry, file type and description as their own readers have them."""

from __future__ import annotations

import configparser
import os
import shlex
import shutil
import subprocess
import sys
import xml.etree.ElementTree as ET
from pathlib import Path

import pytest

from grey_current import cli
from grey_current.errors import FileError
from grey_current.files.desktop_entry import MIME, entries, integrate, withdraw
from grey_current.shop.demo_shops import demo_path

TYPES = {"m": "http://www.freedesktop.org/standards/shared-mime-info"}


def entry_of(folder):
    read = configparser.ConfigParser(interpolation=None)
    read.optionxform = str  # type: ignore[assignment, method-assign]
    read.read(folder / "applications" / "grey-current.desktop")
    return read["Desktop Entry"]


def test_it_is_written_read_and_taken_away(tmp_path, capsys):
    for _ in range(2):  # a second time it is the same
        assert cli.main(["integrate", "--prefix", str(tmp_path)]) == 0
    told = capsys.readouterr().out
    assert told.count("Written: ") == 8
    entry = entry_of(tmp_path)
    assert entry["MimeType"] == f"{MIME};" and entry["Icon"] == "grey-current"
    program = shlex.split(entry["Exec"])
    assert Path(program[0]).is_file() and program[1] == "%f"
    types = ET.parse(tmp_path / "mime" / "packages" / "grey-current.xml").getroot()
    assert types.find("m:mime-type", TYPES).attrib["type"] == MIME
    pattern = types.find("m:mime-type/m:glob", TYPES).attrib["pattern"]
    assert demo_path("loft").match(pattern)
    assert (
        "currentColor"
        not in (
            tmp_path / "icons" / "hicolor" / "scalable" / "apps" / "grey-current.svg"
        ).read_text()
    )
    assert not list(tmp_path.rglob("*~"))
    assert cli.main(["integrate", "--prefix", str(tmp_path), "--remove"]) == 0
    assert capsys.readouterr().out.count("Removed: ") == 4
    assert not [path for path in tmp_path.rglob("grey-current*") if path.is_file()]
    assert cli.main(["integrate", "--prefix", str(tmp_path), "--remove"]) == 0
    assert "Nothing of it was there" in capsys.readouterr().out


@pytest.mark.skipif(shutil.which("appstreamcli") is None, reason="no appstreamcli here")
def test_the_description_is_valid(tmp_path):
    integrate(tmp_path, Path(sys.executable))
    path = tmp_path / "metainfo" / "grey-current.metainfo.xml"
    # Without a network its addresses are not looked at; it has none.
    done = subprocess.run(
        ["appstreamcli", "validate", "--no-net", str(path)],
        capture_output=True,
        text=True,
        check=False,
    )
    said = [line for line in done.stdout.splitlines() if line.startswith(("E:", "W:"))]
    # Nobody owns a domain for it: its name is not one turned round.
    assert [line for line in said if "is-not-rdns" not in line] == [], done.stdout


def test_a_path_that_a_shell_would_read_is_one_word(tmp_path):
    odd = tmp_path / 'a "quoted" $HOME `x` 100% \\ program'
    odd.write_text("")
    integrate(tmp_path / "data", odd)
    words = shlex.split(entry_of(tmp_path / "data")["Exec"].replace("%%", "%"))
    # In an entry a dollar and a backtick are escaped too, which shlex leaves alone.
    words[0] = words[0].replace("\\$", "$").replace("\\`", "`")
    assert words == [str(odd), "%f"]


def test_what_cannot_be_is_said(tmp_path, capsys):
    with pytest.raises(FileError, match="is no program"):
        integrate(tmp_path, tmp_path / "nothing")
    file = tmp_path / "file"
    file.write_text("")
    assert cli.main(["integrate", "--prefix", str(file)]) == 2
    told = capsys.readouterr().err
    assert "Traceback" not in told and "name another folder" in told
    assert withdraw(tmp_path) == []
    assert len(entries(Path("x"))) == 4


def test_a_double_click_opens_the_file(tmp_path):
    """The entry's own command, with a file in its place, shows that file."""
    assert cli.main(["integrate", "--prefix", str(tmp_path)]) == 0
    picture = tmp_path / "picture.png"
    words = [
        str(demo_path("allotment")) if word == "%f" else word
        for word in shlex.split(entry_of(tmp_path)["Exec"])
    ]
    done = subprocess.run(
        [*words, "--picture", str(picture), "--settings", str(tmp_path / "settings")],
        env={**os.environ, "QT_QPA_PLATFORM": "offscreen"},
        capture_output=True,
        text=True,
        check=False,
        timeout=120,
    )
    assert done.returncode == 0 and picture.stat().st_size > 10_000, done.stderr
