"""Every field of every page takes forty pieces of rubbish and answers each with a plain sentence."""

import re

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QMenu

from grey_current.design.space.apart_places import beside_its_fan
from grey_current.desk.inspector.fields import ChoiceField, TextField
from grey_current.desk.inspector.pages import page
from grey_current.desk.inspector.unit_edit import UnitEdit, group_signs
from grey_current.desk.stages import STAGE_VIEWS, stage_page
from grey_current.errors import DoubtfulInput, GreyCurrentError, InputError
from grey_current.shop.collectors import PARTS
from grey_current.shop.edits import changed_all, with_settings
from grey_current.units import INCH, Display, parse_length
from grey_current.workspace.workspace import Workspace
from tests.core.laid_shops import garage
from tests.core.shops import demo

WRONG = (
    *("", " ", "\t", "abc", "-", "--3", "+", ".", "..", "1..2", "1,2,3", "1e99", "1e-99", "-1e5"),
    *("nan", "inf", "-inf", "0", "-1", "1/0", "1/2/3", "½½", "7'6''6", "5 ft 70 in", "12 xyz"),
    *("12 kg", "3 m 4", "10^5", "999999999999", "1 000 000 m", "0x10", "5%%", "%", "5 mm 3 in"),
    *("١٢", "😀", "a" * 300, "'; drop", "<b>5</b>", "{1: 2}", "(1, 2)", "[1]", "None", "True"),
)
# What no sentence has that a person has written: braces, tuples, classes, names in code.
RAW = re.compile(
    r"[{}\[\]]|\('|\(\d+\.\d+,|<class|object at|Error\b|pydantic|Traceback|\bNone\b|\bnan\b|\binf\b"
    r"|\w+_\w+|\w+/\w+-\d|= ?input|type="
)


def elements(project):
    """One thing of each kind, and each gate, which has several forms."""
    kinds = [project.machines, project.collectors, project.openings, project.features]
    kinds += [project.beams, project.outlets, project.points, project.rooms]
    chosen = [None, *(things[0].id for things in kinds if things)]
    chosen += [f"{project.rooms[0].id}/wall-1", f"{project.rooms[0].id}/corner-1"]
    chosen += [gate.id for gate in project.gates[:2]]
    hoses = [run for run in project.runs if run.length is not None]
    rigid = [run for run in project.runs if run.length is None]
    chosen += [runs[0].id for runs in (hoses, rigid) if runs]
    return chosen


def fields(workspace, kind):
    """Every field of a kind, at every stage with each of the elements selected."""
    for stage in STAGE_VIEWS:
        workspace.go(stage)
        for chosen in elements(workspace.project):
            workspace.select(chosen)
            for section in page(workspace, stage_page).sections:
                yield from (item for item in section.items if isinstance(item, kind))


def all_apart(project):
    """The shop with separators and filters by themselves, drawers, and sockets at a height."""
    for ident, item in project.collector.items():
        parts = [part for part in PARTS if part == "filter" or item.separator is not None]
        for part in parts:
            project = beside_its_fan(project, ident, part)
    benches = [thing.id for thing in project.features if thing.kind in ("bench", "rack")]
    project = changed_all(project, benches, front=0)
    return changed_all(project, [outlet.id for outlet in project.outlets], height=1.2)


def without_quotes(text):
    """A sentence without what it quotes of the input."""
    return re.sub(r"“.*”|'.*' may", "…", text)


@pytest.mark.parametrize(
    ("name", "units"),
    [("loft", "us"), ("allotment", "metric"), ("garage", "us"), ("garage", "metric-cm")],
)
def test_no_field_answers_rubbish_with_anything_but_a_sentence(name, units):
    project = garage() if name == "garage" else demo(name)
    workspace = Workspace(with_settings(all_apart(project), units=units))
    asked, refused = set(), 0
    for item in fields(workspace, TextField):
        if (item.key, item.label) not in asked:
            asked.add((item.key, item.label))
            refused += sum(wrong(workspace, item, text) for text in WRONG)
    assert len(asked) > 40 and refused > 20 * len(asked) / 2


def refusal(workspace, item, text):
    """What is said when it is typed as on the page; None where it is taken."""
    try:
        value = item.read(text)
        if item.say is not None:
            assert not RAW.search(item.say(value)), (item.label, text, item.say(value))
        if item.edit is not None:
            before = workspace.project
            workspace.edit(item.step, lambda project: item.edit(project, value))
            if workspace.project is not before:
                workspace.undo()
    except GreyCurrentError as problem:
        return problem
    return None


def wrong(workspace, item, text):
    """Type it; returns whether it was refused, with a sentence that one can read."""
    problem = refusal(workspace, item, text)
    if problem is None:
        return False
    said = problem.beside(text) if isinstance(problem, InputError) else str(problem)
    rest = without_quotes(said)
    assert said[0].isupper() or said[0] in "“'", (item.label, text, said)
    assert not RAW.search(rest), (item.label, text, said)
    assert 8 <= len(rest) <= 400 and len(rest.split()) >= 3, (item.label, text, said)
    choices = problem.choices if isinstance(problem, DoubtfulInput) else ()
    assert all(item.read(choice) is not None for choice in choices)
    return True


def test_the_unit_of_a_field_opens_the_value_in_every_unit_and_reads_what_is_typed_in_it(
    window, hands, monkeypatch
):
    """2' 1" is shown in millimetres, so are its neighbours; 700 is read in them, 1 ft as typed."""
    workspace = window.workspace
    workspace.go("machines")
    workspace.select("planer")
    window.inspector.reveal("planer/width")
    field = window.inspector.field("planer/width")
    before, shown = workspace.project, field.text()
    monkeypatch.setattr(QMenu, "popup", lambda *_: None)
    QTest.keyClick(field, Qt.Key.Key_Down, Qt.KeyboardModifier.AltModifier)
    menu = field.findChild(QMenu)
    listed = [action.text() for action in menu.actions()]
    assert shown in listed and len(listed) == 5
    next(action for action in menu.actions() if action.text().endswith(" mm")).trigger()
    menu.close()
    assert field.sign == "mm" == window.inspector.field("planer/depth").sign
    # Looking is no edit: nothing was typed.
    assert field.text() == shown and workspace.project is before
    hands.type_into("planer/width", "700")
    assert workspace.project.machine["planer"].width == pytest.approx(0.7)
    assert window.inspector.field("planer/width").sign == "mm"
    hands.type_into("planer/width", "2' 1\"")
    assert workspace.project.machine["planer"].width == pytest.approx(0.635)
    workspace.undo()
    assert workspace.project.machine["planer"].width == pytest.approx(0.7)
    workspace.select("jointer")
    window.inspector.reveal("jointer/width")
    assert window.inspector.field("jointer/width").sign == "mm"


def test_lengths_of_one_group_are_shown_in_one_unit():
    """No "1738 mm" above "2.879 m"."""
    project = with_settings(garage(), units="metric")
    workspace, mixed = Workspace(project), 0
    for stage in STAGE_VIEWS:
        workspace.go(stage)
        for chosen in elements(project):
            workspace.select(chosen)
            shown = page(workspace, stage_page)
            signs = group_signs(shown)
            mixed += bool(signs)
            for section in shown.sections:
                lengths = [
                    item
                    for item in section.items
                    if isinstance(item, TextField) and item.quantity == "length"
                ]
                units = {
                    signs.get(item.key, item.value.rpartition(" ")[2])
                    for item in lengths
                    if item.amount is not None
                }
                assert len(units) <= 1, (stage, chosen, section.title, units)
    assert mixed


def test_choices_hold_what_they_show():
    workspace = Workspace(demo())
    for item in fields(workspace, ChoiceField):
        assert item.value in dict(item.options), (item.label, item.value)
        assert all(words.strip() for _, words in item.options)


def test_what_is_half_typed_outlives_its_unit_and_a_name_is_no_figure(window, hands):
    workspace = window.workspace
    workspace.go("machines")
    workspace.select("planer")
    window.inspector.reveal("planer/width")
    field = window.inspector.field("planer/width")
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, "70")
    field.choose("cm")
    assert field.displayText() == "70" and field.sign == "cm"
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert workspace.project.machine["planer"].width == pytest.approx(0.7)
    workspace.undo()
    assert window.inspector.field("planer/width").sign == "cm"
    shown = window.inspector.field("planer/width").displayText()
    hands.type_into("planer/width", "609.6 mm")
    field = window.inspector.field("planer/width")
    assert field.displayText() == shown and not window.inspector._complaints["planer/width"].text()
    hands.type_into("planer/name", "20 min saw")
    name = window.inspector.field("planer/name")
    assert name.displayText() == name.text() == workspace.project.machine["planer"].name
    assert not name.sign


def test_no_length_is_torn_apart(qtbot):
    """Every sixteenth up to two feet, every tenth up to three metres: the figure and the sign after
    it are one value, which is read back as it was."""
    for system, step, count in (("us", INCH / 16, 400), ("metric", 0.001, 3000)):
        edit, display = UnitEdit(), Display(system)
        qtbot.addWidget(edit)
        for number in range(1, count, 7 if system == "metric" else 1):
            length = number * step
            said = display.length(length)
            edit.show_field(
                TextField("x", "X", said, step="", read=str, quantity="length", amount=length)
            )
            assert edit.text() == said
            assert not edit.sign[:1].isdigit(), (said, edit.sign)
            assert parse_length(edit.text(), system) == pytest.approx(length, abs=0.0006)
