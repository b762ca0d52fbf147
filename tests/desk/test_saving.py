"""Every menu entry that writes, wherever it is told to: what is there stays whole, and it is said
in one sentence."""

import datetime
import sys
from functools import partial
from pathlib import Path

import pytest
from PyQt6.QtCore import QProcess
from PyQt6.QtWidgets import QFileDialog, QMessageBox

from grey_current.build.papers import papers
from grey_current.desk import app
from grey_current.desk.papers.layout import pages
from grey_current.errors import FileError
from grey_current.files import project_file
from grey_current.files.keep_report import made_reading
from grey_current.files.safe_write import TEMPORARY
from grey_current.keep.log import entries_of_day
from grey_current.shop.keep_edits import with_entries, with_reading
from grey_current.work.day_plan import plan_day
from tests.core.shops import demo
from tests.core.writing import PLACES, contents, prepared
from tests.desk.conftest import do

DAY = datetime.date(2026, 3, 2)
ENTRIES = {
    "save-prices": ".csv",
    "save-readings": ".csv",
    "save-logbook": ".csv",
    "chores": ".ics",
    "cards": ".pdf",
    "save-chart": ".png",
    "drawing": ".svg",
    "papers": ".pdf",
}


def chosen(window, entry):
    """Do what a menu entry or a button does."""
    workspace = window.workspace
    if entry == "drawing":
        window.attempt(lambda: workspace.save_drawing("gate", {}))
    elif entry == "papers":
        made = pages(papers(workspace.assessment.counted, ()))
        window.attempt(lambda: window.building._save(window, made, "A4"))
    else:
        do(window, entry)


@pytest.fixture
def places(tmp_path):
    return prepared(tmp_path)


@pytest.mark.parametrize("entry", ENTRIES)
def test_every_menu_entry_that_writes(entry, window, places, monkeypatch):
    workspace, end = window.workspace, ENTRIES[entry]
    day = entries_of_day(plan_day(workspace.assessment, workspace.project.work.day), DAY)
    workspace.edit("Log", lambda p: with_entries(p, day))
    if entry == "save-readings":
        workspace.edit(
            "Read",
            lambda p: with_reading(
                p, made_reading(p, ("airflow", "saw", "saw/cabinet"), "200 CFM", DAY)
            ),
        )
    workspace.go("collector" if entry == "save-chart" else "work")
    for name in ("old", "locked", "renamed"):
        (places / f"{name}{end}").unlink(missing_ok=True)
        (places / f"{name}{end}").write_text(
            project_file.dump(demo()) if name == "renamed" else "what was there"
        )
    (places / f"locked{end}").chmod(0o444)
    for place, (where, broken, status, says) in PLACES.items():
        if place == "no name":
            continue
        target = str(where(places)).replace("{end}", end)
        monkeypatch.setattr(
            QFileDialog, "getSaveFileName", lambda *a, target=target, **k: (target, "")
        )
        before = contents(places)
        with monkeypatch.context() as disk:
            if broken is not None:
                broken(disk)
            window.banner.text.setText("")
            chosen(window, entry)
        said, after = window.banner.text.text(), contents(places)
        assert says.replace("{end}", end) in said, (place, said)
        assert "\n" not in said and not [name for name in after if name.endswith(TEMPORARY)]
        if status:
            assert after == before, place
        else:
            name = Path(target).name
            assert after[name] and after.get(f"{name}~", before.get(f"{name}~")) == before.get(
                name, before.get(f"{name}~")
            )


def test_saving_over_what_cannot_be_written_keeps_the_work(window, places, monkeypatch):
    workspace = window.workspace
    for place in (
        "/dev/full",
        "a pipe",
        "a folder",
        "a long name",
        "a full disk",
        "a read-only folder",
        "a write-protected file",
    ):
        where, broken, _, says = PLACES[place]
        target = str(where(places)).replace("{end}", ".json")
        before = contents(places)
        with monkeypatch.context() as disk:
            if broken is not None:
                broken(disk)
            with pytest.raises(FileError, match=says[:12]):
                window.files.save_to(Path(target))
        assert workspace.path is None and contents(places) == before
    assert window.files.save_to(places / "fine.greycurrent.json") and not workspace.dirty


def test_a_shop_with_a_file_is_saved_by_itself_where_that_is_wished(window, tmp_path, monkeypatch):
    monkeypatch.setattr(QMessageBox, "exec", lambda box: pytest.fail("it must not ask"))
    workspace, path = window.workspace, tmp_path / "mine.greycurrent.json"
    beat = window._own_saving.timeout.emit
    edit = partial(workspace.edit, "A name", lambda p: p.replaced(name=p.name + "!"))
    assert window._own_saving.isActive()
    edit()
    beat()
    assert workspace.dirty and not path.exists()
    window.settings.put("saving", "itself")
    # What has no file yet is asked for nothing and stays as it is.
    beat()
    assert workspace.dirty and workspace.path is None
    assert window.files.save_to(path)
    edit()
    beat()
    assert not workspace.dirty and project_file.load(path) == workspace.project
    # Half-way through a drag nothing is.
    workspace.begin("Move it")
    workspace.preview(lambda p: p.replaced(name="On the way"))
    beat()
    assert project_file.load(path).name != "On the way"
    workspace.abort()
    # Another program's change is told, not overwritten, and nothing is asked.
    other = workspace.project.replaced(name="Theirs")
    project_file.save(other, path)
    edit()
    beat()
    assert workspace.dirty and "changed by another program" in window.banner.text.text()
    assert project_file.load(path) == other


def test_a_new_window_is_the_program_once_more(window, tmp_path, monkeypatch):
    begun = {}

    def start(program, arguments):
        begun[program] = arguments
        return True, 7

    monkeypatch.setattr(QProcess, "startDetached", start)
    do(window, "new-window")
    ((program, arguments),) = begun.items()
    assert program == sys.executable and arguments[:2] == ["-m", app.__name__]
    options = app._parser().parse_args(arguments[2:])
    assert options.shop == "empty" and Path(options.settings) == tmp_path / "settings"
    monkeypatch.setattr(QProcess, "startDetached", lambda *asked: (False, 0))
    do(window, "new-window")
    assert "once more yourself" in window.banner.text.text()
