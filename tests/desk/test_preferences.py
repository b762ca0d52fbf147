"""Preferences at the window: taken at once, kept, and what new shops begin with."""

from __future__ import annotations

import json

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from grey_current.workspace.settings import CHOICES, PERSON, UserSettings
from tests.desk.conftest import do
from tests.desk.conftest import pick as pick_words
from tests.desk.seen import badly_painted, out_of_sight

pytestmark = pytest.mark.usefixtures("compiled_kernel")


@pytest.fixture
def preferences(window, hands):
    hands.keys("Ctrl+,")
    yield window._preferences
    window._preferences.close()


def pick(dialog, name, choice):
    """Pick a choice by keys."""
    box = dialog.boxes[name]
    pick_words(box, box.itemText(box.findData(choice)))


def type_in(dialog, name, text):
    field = dialog.fields[name]
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, text or " ")
    QTest.keyClick(field, Qt.Key.Key_Return)


def test_what_is_set_holds_at_once_and_for_new_shops(window, preferences, tmp_path):
    workspace = window.workspace
    pick(preferences, "theme", "dark")
    assert window.colours.name == "dark" and window.views.space is None
    pick(preferences, "lanes", "all")
    assert window.floor.scene.all_lanes
    pick(preferences, "new-units", "metric")
    pick(preferences, "new-criterion", "catch fine dust")
    type_in(preferences, "new-tall", "183 cm")
    type_in(preferences, "new-reaches", "150 cm")
    type_in(preferences, "new-lifts", "22")
    boxes = preferences.instruments
    for name in ("anemometer", "particle counter"):
        boxes[name].setFocus()
        QTest.keyClick(boxes[name], Qt.Key.Key_Space)
    # The open shop is untouched until it is asked for.
    before = workspace.project
    assert before.settings.units == "us" and before.settings.tall is None
    QTest.mouseClick(preferences.use, Qt.MouseButton.LeftButton)
    now = workspace.project
    assert workspace.undo_label == "Use my preferences"
    assert (now.settings.units, now.settings.criterion) == ("metric", "catch fine dust")
    assert now.settings.tall == pytest.approx(1.83) and now.settings.lifts == pytest.approx(22)
    assert now.settings.reaches == pytest.approx(1.5)
    assert now.keep.instruments == ("gauge", "clamp ammeter", "telephone")
    assert now.build.currency == "EUR"
    do(window, "undo")
    assert workspace.project == before
    workspace._saved = workspace.project
    for command in ("open-empty", "new-double-garage"):
        do(window, command)
        made = workspace.project
        assert (made.settings.units, made.settings.tall) == ("metric", pytest.approx(1.83))
        assert made.build.currency == "EUR" and not made.machines
        workspace._saved = made
    # A demo shop stays as it was made.
    do(window, "open-loft")
    assert workspace.project.settings.units == "us"
    kept = UserSettings(tmp_path / "settings")
    assert kept.get("new-units") == "metric" and kept.measure("new-tall") == pytest.approx(1.83)
    assert kept.instruments == ("gauge", "clamp ammeter", "telephone")
    assert kept.get("theme") == "dark"


def test_rubbish_and_the_other_unit_are_said_or_read(window, preferences):
    for text, says in (
        ("tall", "write a length"),
        ("17", "write 3' 3"),
        ("99 m", "write 3' 3"),
        ("-2", "write"),
    ):
        type_in(preferences, "new-tall", text)
        assert says in preferences.complaint.text(), (text, preferences.complaint.text())
        assert preferences.settings.measure("new-tall") is None
        assert preferences.fields["new-tall"].text() == text
    type_in(preferences, "new-tall", "1.8 m")
    assert preferences.complaint.isHidden()
    assert preferences.settings.measure("new-tall") == pytest.approx(1.8)
    assert preferences.fields["new-tall"].text().startswith("5' 10")
    type_in(preferences, "new-tall", "")
    assert preferences.settings.measure("new-tall") is None
    type_in(preferences, "new-lifts", "heavy")
    assert "write" in preferences.complaint.text()


def test_the_dialog_is_whole_on_a_small_screen(window, preferences):
    preferences.resize(470, 620)
    for _ in range(3):
        QApplication.processEvents()
    assert not out_of_sight(preferences) + badly_painted(preferences)
    assert all(box.accessibleName() for box in preferences.boxes.values())
    assert all(field.accessibleName() for field in preferences.fields.values())


@pytest.mark.parametrize(
    "held",
    [
        {"new-units": "furlongs", "new-tall": "big", "new-instruments": "all", "from-later": 1},
        {"new-tall": True, "new-lifts": -5, "new-instruments": ["ruler", "gauge"]},
        {"new-tall": 1e9, "theme": 7, "new-criterion": None},
    ],
)
def test_settings_of_another_version_or_hand_are_no_trouble(tmp_path, held, window):
    (tmp_path / "settings.json").write_text(json.dumps(held))
    settings = UserSettings(tmp_path)
    made = settings.begun(window.workspace.project)
    assert made.settings.units == "us" and made.settings.tall is None
    for setting in CHOICES:
        assert settings.get(setting.name) in setting.choices
    assert all(settings.measure(one.name) is None for one in PERSON)
    assert settings.instruments in (None, ("gauge",))
    settings.put("theme", "dark")
    # What another version wrote stays in the file.
    kept = json.loads((tmp_path / "settings.json").read_text())
    assert kept["theme"] == "dark" and kept.get("from-later") == held.get("from-later")
