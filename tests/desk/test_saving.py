"""Every menu entry that writes, wherever it is told to: what is there stays whole, and it is said
in one sentence."""

import datetime
from pathlib import Path

import pytest
from PyQt6.QtWidgets import QFileDialog

from grey_current.build.papers import papers
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
