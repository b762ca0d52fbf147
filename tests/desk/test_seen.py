"""What is seen: every page of every stage whole, the rack's rows in the window, in both units."""

from __future__ import annotations

import itertools
import re

import pytest
from PyQt6.QtWidgets import QApplication, QLabel, QPushButton, QScrollArea

from grey_current.build.bill import bill
from grey_current.build.cuts import CutCache
from grey_current.build.papers import papers
from grey_current.design.laying.proposals import propose
from grey_current.desk.papers.layout import pages
from grey_current.desk.papers.preview import PapersDialog
from grey_current.desk.shell import help_texts
from grey_current.desk.shell.finder_dialog import FinderDialog
from grey_current.desk.shell.guess_dialog import GuessDialog
from grey_current.desk.shell.help_page import HelpPage
from grey_current.desk.shell.keep_dialogs import PracticeDialog
from grey_current.desk.shell.preferences import PreferencesDialog
from grey_current.desk.shell.switch_panel import SwitchPanel
from grey_current.shop import edits, kept_designs
from grey_current.shop.build_edits import with_price
from grey_current.shop.demo_shops import DEMOS
from grey_current.workspace import asking
from grey_current.workspace.finder import entries
from grey_current.workspace.jobs import carried_out
from grey_current.workspace.stages import STAGES
from tests.core.shops import demo
from tests.desk.seen import (
    badly_painted,
    inks,
    out_of_sight,
    painted_words,
    scrolled_into,
    too_small,
    visible_part,
)

LONG = "A very long name for what stands here, 40"
# A screen of 1280 by 800 pixels at each size of text, which Qt draws larger as a whole.
SIZES = {percent: (128_000 // percent, 80_000 // percent) for percent in (90, 100, 125, 160)}


def settle(window, percent=100):
    window.resize(*SIZES[percent])
    for _ in range(3):
        QApplication.processEvents()


def shop(name, units):
    """A demo shop; or the loft with names of 40 letters, prices of six digits, ducts far above."""
    project = edits.with_settings(demo("loft" if name == "long names" else name), units=units)
    if name == "long names":
        for ident in (*project.machine, *project.collector):
            project = edits.changed(project, ident, name=LONG)
        for line in bill(project, quick=CutCache()).lines:
            project = with_price(project, line.part.key, 123_456.0)
        project = edits.with_settings(project, altitude=1234.0, temperature=-29.9)
        project = kept_designs.kept(project, LONG)[0]
    return project


def troubles(window):
    """What is cut off, too small to hit, and words that are painted over one another."""
    return [*out_of_sight(window), *too_small(window)] + [
        trouble
        for part in (window.stage_bar, window.rack, window.strip, window.inspector)
        for trouble in badly_painted(part)
        # The levers are scrolled sideways.
        if not trouble.startswith("LeverFrame cuts off")
    ]


def inches(window):
    """What a metric shop's catalogue things are called in inches."""
    said = [w.text() for kind in (QLabel, QPushButton) for w in window.findChildren(kind)]
    things = r"\d in (hose|inlet|impeller|planer|jointer|drum|belt|disc|port|blade|wheel|pipe|wye)"
    return [words for words in said if re.search(things, words)]


@pytest.mark.parametrize(
    ("units", "percent"), [("us", 100), ("metric", 90), ("metric-cm", 125), ("us", 160)]
)
@pytest.mark.parametrize("name", [*DEMOS, "long names"])
def test_no_page_of_any_stage_is_cut_off_at_any_size_of_text(window, name, units, percent):
    workspace = window.workspace
    project = shop(name, units)
    workspace.edit("Another shop", lambda p: project)
    for stage in STAGES:
        workspace.go(stage.name)
        chosen = [None, *workspace.project.machine][:3]
        chosen += [*list(workspace.project.collector)[:1], *list(workspace.project.run)[:1]]
        for ident in chosen:
            workspace.select(ident)
            running = bool(ident) and ident in workspace.project.machine
            workspace.switch_on((ident,) if running else ())
            settle(window, percent)
            assert (window.width(), window.height()) == SIZES[percent]
            assert not troubles(window), (stage.name, ident)
            assert units == "us" or not inches(window), (stage.name, ident)


def test_every_row_of_the_rack_is_in_the_window_and_painted(window):
    settle(window)
    area = window.rack.findChild(QScrollArea)
    rows = [window.rack.row(machine) for machine in window.workspace.project.machine]
    tops = []
    for row in rows:
        scrolled_into(area, row)
        seen = visible_part(row, window)
        assert seen.size() == row.size(), "a row is cut off"
        assert inks(row) > 8, "a row is an empty box"
        tops.append(row.y())
    # One under the other, none over another.
    assert tops == sorted(tops) and all(
        b - a >= rows[0].height() for a, b in itertools.pairwise(tops)
    )


def test_strip_floor_and_inspector_are_in_sight_and_painted_at_every_stage(window):
    for stage in STAGES:
        window.workspace.go(stage.name)
        settle(window)
        for part in (window.floor, window.strip, window.inspector, window.stage_bar, window.rack):
            seen = visible_part(part, window)
            assert seen.width() >= 100 and seen.height() >= 24, (stage.name, part)
            assert inks(part) > 4, (stage.name, type(part).__name__)


@pytest.mark.parametrize("percent", [100, 160])
def test_offers_are_whole_at_any_size_of_text(window, percent):
    """Names of layouts keep their room; columns give way to them, the last and first three stay."""
    workspace = window.workspace
    workspace.edit("Another shop", lambda p: shop("long names", "us"))
    workspace.go("air")
    workspace.ask_for("ducts")
    window.background.stop()
    settle(window, percent)
    job = asking.job_due(workspace)
    found = propose(workspace.project, most=1)
    window.on_job_done(workspace.revision, job, found)
    settle(window, percent)
    assert not troubles(window)
    words = " ".join(text for text, _ in painted_words(window.strip.table))
    # A price of eight digits has no room beside them at 160 %.
    assert all(title in words for title in ("served", "least air", "slowest"))
    assert ("money" in words) == (percent == 100)
    assert "As it is now" in words


@pytest.mark.parametrize("percent", [100, 160])
def test_strips_with_their_answers_are_whole_at_any_size_of_text(window, percent):
    workspace = window.workspace
    workspace.edit("Another shop", lambda p: shop("long names", "us"))
    window.background.stop()
    for stage in ("collector", "keep", "work"):
        workspace.go(stage)
        job = asking.job_due(workspace)
        if job is not None:
            found = carried_out(workspace.assessment.counted, job)
            window.on_job_done(workspace.revision, job, found)
        settle(window, percent)
        assert not troubles(window), stage


def test_every_dialog_fits_a_small_screen_whole(window):
    """At 160 % of a screen of 1280 by 800 a dialog has 800 by 480 pixels."""
    workspace = window.workspace
    workspace.edit("Another shop", lambda p: shop("long names", "us"))
    window.background.stop()
    dialogs = [
        HelpPage(window, "Keys", help_texts.keys_page()),
        PracticeDialog(window),
        GuessDialog(window, workspace, window.colours, 5),
        SwitchPanel(window, workspace),
        PapersDialog(
            window, "Print", {"The papers": lambda s: pages(papers(workspace.assessment), s)}, "A4"
        ),
        FinderDialog(window, entries(workspace, lambda name, choice: None)),
        PreferencesDialog(window, workspace, window.settings),
    ]
    for dialog in dialogs:
        dialog.show()
        dialog.resize(800, 480)
        for _ in range(3):
            QApplication.processEvents()
        assert (dialog.width(), dialog.height()) == (800, 480), type(dialog).__name__
        assert not out_of_sight(dialog) + badly_painted(dialog)
        dialog.close()
