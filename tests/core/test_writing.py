"""One door for everything that is written: whole or not at all, nobody's work under it, and said in
one sentence."""

import csv
import io
import json
import os
import subprocess
import sys
import threading
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from grey_current import cli, terminal
from grey_current.errors import FileError
from grey_current.files import project_file
from grey_current.files.csv_text import csv_of, csv_rows
from grey_current.files.safe_write import TEMPORARY, name_for, write_export, write_whole
from grey_current.shop import edits
from grey_current.workspace.library import Library
from grey_current.workspace.settings import UserSettings
from tests.core.shops import demo, straight_shop
from tests.core.writing import PLACES, contents, full_disk, prepared

EXPORTS = {
    "chores": ("chores", "SHOP", "-o", "OUT.ics"),
    "forecast": ("forecast", "SHOP", "-o", "OUT.ics"),
    "readings": ("log", "SHOP", "write", "OUT.csv"),
    "logbook": ("log", "SHOP", "book", "OUT.csv"),
    "drawing": ("make", "gate", "bore=6in", "-o", "OUT.svg"),
    "cards": ("cards", "SHOP", "-o", "OUT.pdf"),
}
PROJECTS = {
    "sizes": ("sizes", "SHOP", "-o", "OUT.json"),
    "practice": ("practise", "-o", "OUT.json"),
}
FOLDERS = {
    "papers": ("papers", "SHOP", "--svg", "-o", "OUT"),
    "propose": ("propose", "SHOP", "--most", "1", "-o", "OUT"),
}


@pytest.fixture
def places(tmp_path):
    return prepared(tmp_path)


@pytest.mark.parametrize("place", PLACES)
@pytest.mark.parametrize("command", EXPORTS | PROJECTS)
def test_whatever_is_written_wherever(command, place, places, tmp_path, monkeypatch, capsys):
    given = (EXPORTS | PROJECTS)[command]
    end = next(word for word in given if word.startswith("OUT"))[3:]
    where, broken, status, says = PLACES[place]
    target = str(where(places)).replace("{end}", end)
    project = command in PROJECTS
    if (
        project and "is a project file" in says
    ):  # where a project is, one may be written; its last version is kept
        status, says = 0, ""
    if command == "cards" and broken is not None:
        pytest.skip("its own process writes it; the window's tests break the disk under it")
    shop = tmp_path / "mine.greycurrent.json"
    project_file.save(demo("allotment") if command != "sizes" else straight_shop(), shop)
    before, mine = contents(places), shop.read_bytes()
    if broken is not None:
        broken(monkeypatch)
    words = [
        str(shop) if word == "SHOP" else target if word.startswith("OUT") else word
        for word in given
    ]
    got = cli.main(words)
    monkeypatch.undo()
    said = capsys.readouterr()
    assert got == status, said
    assert says.replace("{end}", end) in (said.out if status == 0 else said.err)
    assert "Traceback" not in said.err and said.err.count("\n") == (0 if status == 0 else 1)
    assert shop.read_bytes() == mine
    after = contents(places)
    assert not [name for name in after if name.endswith(TEMPORARY)]
    if status:
        assert after == before and "Saved" not in said.out
    else:
        name = Path(target).name
        assert after[name] != before.get(name) and after.get(f"{name}~") == before.get(name)
        assert {k: v for k, v in after.items() if k not in (name, f"{name}~")} == {
            k: v for k, v in before.items() if k != name
        }


@pytest.mark.parametrize("command", FOLDERS)
def test_folders_are_written_file_by_file(command, places, tmp_path, monkeypatch, capsys):
    shop = tmp_path / "mine.greycurrent.json"
    project_file.save(demo("allotment"), shop)
    for out, status, says in (
        (places / "laid", 0, "Saved"),
        (places / "laid", 0, "(the old one is"),
        (places / "old.csv", 2, "cannot"),
        ("", 2, "give a name"),
    ):
        words = [
            str(shop) if word == "SHOP" else str(out) if word == "OUT" else word
            for word in FOLDERS[command]
        ]
        assert cli.main(words) == status
        said = capsys.readouterr()
        assert says in said.out + said.err and (places / "old.csv").read_text() == "what was there"
    full_disk(monkeypatch)
    before = contents(places / "laid")
    assert (
        cli.main(
            [
                str(shop) if w == "SHOP" else str(places / "laid") if w == "OUT" else w
                for w in FOLDERS[command]
            ]
        )
        == 2
    )
    monkeypatch.undo()
    assert contents(places / "laid") == before and "no space left" in capsys.readouterr().err


@pytest.mark.parametrize(("closed", "status"), [("1", 2), ("2", 1)])
def test_a_closed_output_is_a_status_and_no_traceback(closed, status, tmp_path):
    shop = tmp_path / "shop.greycurrent.json"
    project_file.save(demo(), shop)
    done = subprocess.run(
        f'"{sys.executable}" -m grey_current.cli check "{shop}" {closed}>&-',
        shell=True,
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode == status and "Traceback" not in done.stderr
    assert ("its output is closed" in done.stderr) == (closed == "1")


def test_a_reader_without_a_stream_is_told_or_not(monkeypatch):
    monkeypatch.setattr(sys, "stdout", None)
    monkeypatch.setattr(sys, "stderr", None)
    assert terminal.run(lambda: 0, "x") == 0
    terminal.complain("x", "nobody hears this")


@given(
    st.lists(
        st.lists(
            st.text(st.characters(blacklist_categories=["Cs"], blacklist_characters="\0")),
            min_size=2,
            max_size=4,
        ),
        min_size=1,
        max_size=5,
    )
)
def test_no_cell_is_run_by_a_spreadsheet_and_every_reader_reads_it(rows):
    text = csv_of(("a", "b"), rows)
    assert "\r" not in text
    cells = [cell for row in csv.reader(io.StringIO(text)) for cell in row]
    for cell in cells:
        assert cell[:1] not in tuple("=@\t") and (
            cell[:1] not in ("+", "-") or cell.strip("+-0123456789.,eE") == ""
        )
    flat = [[cell.replace("\r\n", "\n").replace("\r", "\n") for cell in row] for row in rows]
    assert csv_rows(text, "x", "y") == [["a", "b"], *flat]


@pytest.mark.parametrize(
    "cell",
    ["=cmd|' /C calc'!A0", "+1+1", "-2+3", "@SUM(A1)", "a\rb", "-5", "+4.5", "plain", "'quoted"],
)
def test_a_cell_comes_back_as_it_was(cell):
    rows = csv_rows(csv_of(("what",), [(cell,)]), "x", "y")
    assert rows[1:] == [[cell.replace("\r", "\n")]] if "\r" not in cell else rows[1] == ["a\nb"]


def test_what_is_written_is_read_back_before_it_takes_its_name(tmp_path, monkeypatch):
    path = tmp_path / "a.txt"
    write_whole("old", path)
    monkeypatch.setattr(
        os, "fsync", lambda handle: os.ftruncate(handle, 1)
    )  # a disk that loses what it was given
    with pytest.raises(FileError, match="reads back otherwise"):
        write_whole("new and longer", path)
    assert path.read_text() == "old" and sorted(p.name for p in tmp_path.iterdir()) == ["a.txt"]
    with pytest.raises(FileError, match="no file name"):
        write_export("x", Path())


def test_two_windows_keep_what_both_have_written(tmp_path):
    """Recent files, settings, own machines and collectors: read, merged and written while the other
    waits."""
    one, two = UserSettings(tmp_path), UserSettings(tmp_path)
    libraries = Library(tmp_path), Library(tmp_path)
    one.remember(tmp_path / "a.json")
    two.remember(tmp_path / "b.json")
    one.put("theme", "dark")
    two.put("motion", "off")
    again = UserSettings(tmp_path)
    assert [p.name for p in again.recent] == ["b.json", "a.json"]
    assert (again.get("theme"), again.get("motion")) == ("dark", "off")
    saw, planer = demo().machine["saw"], demo().machine["planer"]
    libraries[0].keep(saw)
    libraries[1].keep(planer)
    assert {m.body.name for m in Library(tmp_path).machines} == {saw.name, planer.name}

    def keep(library, name):
        library.keep(edits.changed(demo(), "saw", name=name).machine["saw"])

    threads = [
        threading.Thread(target=keep, args=(Library(tmp_path), f"Saw {n}")) for n in range(8)
    ]
    for each in threads:
        each.start()
    for each in threads:
        each.join()
    assert {m.body.name for m in Library(tmp_path).machines} >= {f"Saw {n}" for n in range(8)}
    assert not list(tmp_path.glob(f"*{TEMPORARY}")) and json.loads(
        (tmp_path / "settings.json").read_text()
    )


@pytest.mark.parametrize("name", ["木" * 80, "a/b", "", "...", "x" * 80, "🪚" * 70])
def test_names_that_are_proposed_fit_every_disk(name):
    for end in ("-prices.csv", ".greycurrent.json", " 2026-11-30 12-00-00.greycurrent.json"):
        made = name_for(name, end)
        assert made.endswith(end) and 0 < len(made.encode()) <= 254 and "/" not in made


def test_what_is_loaded_beside_a_command_leaves_its_output_alone():
    """In a process of its own, for others have loaded numba here."""
    looked = "from grey_current.air import compiled; compiled.load(); import numba.core.errors as e"
    said = "print(compiled.kernel() is not None, hasattr(e, 'ColorShell'))"
    told = subprocess.run(
        [sys.executable, "-c", f"{looked}; {said}"], capture_output=True, text=True, check=True
    )
    assert told.stdout.split() == ["True", "False"]
