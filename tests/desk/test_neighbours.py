"""A shop three times as large through Build, Work and Keep; two windows' worth of edits; undone to
the very start."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest

from grey_current.design.parts.connecting import connected
from grey_current.errors import GreyCurrentError
from grey_current.keep.reading_words import figure
from grey_current.shop import edits
from grey_current.shop.duct_edits import drawn_on
from grey_current.units import Display
from grey_current.workspace import asking
from tests.core import laid_shops
from tests.core.shops import made_up

pytestmark = pytest.mark.usefixtures("compiled_kernel")


@pytest.fixture(scope="module")
def hall():
    """Thirty machines in rows, a large collector, a main along them, most of them connected by
    hand."""
    project = laid_shops.many(30)
    start = project.collectors[0].id
    for x, y in ((1.4, 5.4), (14.5, 5.4)):
        project, start = drawn_on(project, start, x, y)
    for machine in project.machines:
        for pickup in machine.pickups[:1]:
            try:
                project = connected(project, f"{machine.id}/{pickup.id}")
            except GreyCurrentError:
                continue
    return project


def settled(window, qtbot, seconds: float = 90.0):
    """Wait until nothing is being worked out for what is looked at."""
    qtbot.waitUntil(lambda: asking.job_due(window.workspace) is None, timeout=int(seconds * 1000))


def every_button_once(window, hands, prefixes: tuple[str, ...], most: int = 6) -> int:
    pressed = 0
    for key in [k for k in window.inspector.fields if k.startswith(prefixes)][:most]:
        if key in window.inspector.fields:
            hands.press(key)
            pressed += 1
    return pressed


@pytest.mark.sweep
def test_a_hall_of_thirty_machines_goes_through_the_last_stages(window, hands, qtbot, hall):
    """Every stage is shown, something is done in each, figures come; all of it undone is the hall
    as it was."""
    workspace = window.workspace
    workspace.show_project(hall, None)
    assert len(workspace.project.machines) == 30 and len(workspace.project.runs) > 40
    workspace.go("build")
    settled(window, qtbot)
    workspace.show_face("cuts")
    workspace.select(workspace.project.runs[0].id)
    assert window.inspector._page is not None and window.grab()
    workspace.select(None)
    workspace.go("work")
    names = [machine.name.lower() for machine in hall.machines[:12]]
    hands.type_into("day", ", ".join(f"{name} {n + 5} min oak" for n, name in enumerate(names)))
    assert len(workspace.project.work.day) == 12
    settled(window, qtbot)
    if "better-order" in window.inspector.fields:
        hands.press("better-order")
        settled(window, qtbot)
    assert sorted(job.minutes for job in workspace.project.work.day) == [n + 5 for n in range(12)]
    workspace.go("keep")
    settled(window, qtbot)
    rows = window.strip.rows
    assert len(rows) > window.strip.fits() and window.grab()
    QTest.mouseClick(window.strip, Qt.MouseButton.LeftButton, pos=QPoint(40, 40))
    assert workspace.selection == rows[0].pickup.partition("/")[0]
    settled(window, qtbot)
    workspace.select(None)
    hands.press("log-day")
    settled(window, qtbot)
    wanted, display = workspace.computed.doubt.wanted[0], Display(workspace.project.settings.units)
    typed = figure(display, wanted.kind, 0.95 * wanted.expected)
    hands.type_into(f"read/{wanted.kind}/{wanted.machine}/{wanted.place}", typed)
    settled(window, qtbot)
    assert workspace.project.keep.readings and workspace.verdict.startswith("By your readings: ")
    while workspace.undo_label:
        workspace.undo()
    assert workspace.project == hall


@pytest.mark.sweep
@pytest.mark.parametrize("seed", [401, 402, 403])
def test_the_last_stages_of_shops_that_nobody_drew(window, hands, qtbot, seed):
    """Buttons of every page pressed, units changed in between, things taken away while they are
    looked at."""
    workspace = window.workspace
    first = made_up(seed)
    workspace.show_project(first, None)
    pressed = 0
    for stage in ("build", "work", "keep"):
        workspace.go(stage)
        settled(window, qtbot)
        for thing in (
            None,
            *list(workspace.project.collector)[:1],
            *list(workspace.project.machine)[:2],
        ):
            workspace.select(thing)
            pressed += every_button_once(
                window, hands, ("log/", "log-day", "add-cleaner", "holds-", "better-order")
            )
            for machine in list(workspace.project.machine)[:1]:
                pressed += every_button_once(window, hands, (f"{machine}/into-the-day",))
        hands.keys("Ctrl+U")
        assert window.grab() and window.inspector._page is not None
    gone = workspace.project.machines[0].id
    workspace.select(gone)
    workspace.edit("Take away", lambda p: edits.removed(p, [gone]))
    settled(window, qtbot)
    assert gone not in workspace.project.machine and window.grab()
    assert pressed > 4
    while workspace.undo_label:
        workspace.undo()
    assert workspace.project == first
