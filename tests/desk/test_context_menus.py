"""Menus where one points: on the floor, on a row, by the keyboard; and each thing in them works."""

import pytest
from PyQt6.QtCore import QPoint
from PyQt6.QtGui import QContextMenuEvent
from PyQt6.QtWidgets import QApplication, QMenu

from grey_current.workspace.commands import CONTEXT
from tests.desk.conftest import do

# Off screen nothing can be raised, and a menu asks for it.
pytestmark = pytest.mark.qt_log_ignore("This plugin does not support", extend=True)


def opened(window, widget, spot, reason=QContextMenuEvent.Reason.Mouse):
    """The menu that a right click there opens: what stands in it, by title."""
    QApplication.sendEvent(widget, QContextMenuEvent(reason, spot, widget.mapToGlobal(spot)))
    menus = [m for m in window.findChildren(QMenu) if m.isVisible() and not m.title()]
    if not menus:
        return {}
    return {a.text(): a for a in menus[-1].actions() if not a.isSeparator()} | {"": menus[-1]}


def shut(menu):
    menu[""].close()
    QApplication.processEvents()


def test_a_right_click_on_the_floor_offers_what_can_be_done_to_what_is_there(window, hands):
    window.workspace.go("machines")
    project = window.workspace.project
    where = {"machine": project.machine["jointer"], "collector": project.collector["cyclone"]}
    for kind, thing in where.items():
        menu = opened(window, window.floor, hands.spot(thing.x, thing.y))
        assert window.workspace.selection == thing.id
        assert "Delete" in menu and "Rotate 90°" in menu, kind
        shut(menu)
    menu = opened(window, window.floor, QPoint(3, 3))
    assert window.workspace.selection is None and "Fit the floor" in menu and "Delete" not in menu
    shut(menu)


def test_what_the_menu_offers_is_done_to_what_was_pointed_at(window, hands):
    workspace = window.workspace
    workspace.go("machines")
    jointer = workspace.project.machine["jointer"]
    x, y, turn = jointer.x, jointer.y, jointer.turn
    menu = opened(window, window.floor, hands.spot(x, y))
    menu["Rotate 90°"].trigger()
    assert workspace.project.machine["jointer"].turn == pytest.approx((turn + 90) % 360)
    shut(menu)
    count = len(workspace.project.machines)
    menu = opened(window, window.floor, hands.spot(x, y))
    menu["Duplicate"].trigger()
    assert len(workspace.project.machines) == count + 1
    shut(menu)


def test_a_row_has_the_same_menu_and_the_keyboard_opens_it(window):
    workspace = window.workspace
    row = window.rack.row("bandsaw")
    menu = opened(window, row, QPoint(60, 10))
    assert workspace.selection == "bandsaw"
    menu["Switch this machine on / off"].trigger()
    assert workspace.running == ("bandsaw",)
    shut(menu)
    keyed = opened(window, window.floor, QPoint(1, 1), QContextMenuEvent.Reason.Keyboard)
    assert workspace.selection == "bandsaw" and keyed.keys() == menu.keys()
    shut(keyed)
    do(window, "switch-selected")
    assert workspace.running == ()


def test_a_right_click_puts_away_what_is_in_hand(window):
    workspace = window.workspace
    window.menus.actions["draw-duct"].trigger()
    assert workspace.placing is not None
    assert opened(window, window.floor, QPoint(40, 40)) == {} and workspace.placing is None


def test_every_entry_is_a_command_and_each_kind_offers_something(window):
    assert all(
        name == "-" or name in window.menus.actions for kind in CONTEXT.values() for name in kind
    )
    for kind, element in {"duct": "run", "building": "opening", "floor": ""}.items():
        things = getattr(window.workspace.project, element) if element == "run" else {}
        chosen = next(iter(things), None)
        if element == "opening":
            chosen = window.workspace.project.openings[0].id
        window.workspace.select(chosen)
        menu = window.menus.context_menu(kind)
        assert [a for a in menu.actions() if not a.isSeparator()], kind
