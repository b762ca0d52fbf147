import json

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from grey_current.errors import DuctworkError, FileError, InputError, RefusedEdit
from grey_current.files import project_file
from grey_current.shop import edits
from grey_current.shop.collector_edits import with_collector
from grey_current.shop.machines import FreeArea, Pickup
from grey_current.shop.pickup_edits import without_pickup
from grey_current.workspace.history import LONGEST
from grey_current.workspace.jobs import HelpMachine
from grey_current.workspace.open_project import ProjectChanged
from grey_current.workspace.settings import UserSettings
from grey_current.workspace.workspace import Workspace, demo_workspace
from tests.core.shops import collector, demo, machine, run, shop


def shorten(length):
    return lambda project: edits.with_hose_length(project, "planer-hose", length)


def test_an_edit_shows_at_once_and_undo_takes_it_back():
    workspace = demo_workspace()
    workspace.switch_on(("planer",))
    heard: list[ProjectChanged] = []
    workspace.listen(heard.append)
    before, sentence = workspace.scenario.airflow, workspace.verdict
    workspace.edit("Shorten the hose", shorten(1.1))
    assert workspace.scenario.airflow > before and workspace.verdict != sentence
    assert workspace.dirty and workspace.undo_label == "Shorten the hose"
    workspace.undo()
    assert (
        workspace.scenario.airflow == pytest.approx(before, rel=1e-6)
        and workspace.verdict == sentence
    )
    assert not workspace.dirty and workspace.redo_label == "Shorten the hose"
    workspace.redo()
    assert workspace.project.run["planer-hose"].length == 1.1
    assert len(heard) == 3 and all(change.project for change in heard)
    workspace.edit("Nothing new", shorten(1.1))
    assert len(heard) == 3


def test_a_gesture_is_one_step_and_can_be_taken_back():
    workspace = demo_workspace()
    for end in ("commit", "abort"):
        start = workspace.project
        workspace.begin("Move the saw")
        for step in range(1, 6):
            workspace.preview(lambda p, s=step: edits.moved(p, "saw", s * 0.1, 0))
        getattr(workspace, end)()
        moved = workspace.project.machine["saw"].x - start.machine["saw"].x
        assert moved == pytest.approx(0.5 if end == "commit" else 0.0)
        assert workspace.undo_label == "Move the saw"
    workspace.undo()
    assert workspace.project == demo()


@settings(max_examples=25, deadline=None)
@given(st.lists(st.sampled_from(["edit", "undo", "redo", "preview", "select", "run"]), max_size=14))
def test_undoing_everything_leads_back_to_the_start(steps):
    workspace = Workspace(demo("allotment"))
    start = workspace.project
    for number, step in enumerate(steps):
        if step == "edit":
            workspace.edit(
                "Edit", lambda p, n=number: edits.with_hose_length(p, "hose", 2.5 + n / 10)
            )
        elif step == "preview":
            workspace.begin("Drag")
            workspace.preview(lambda p, n=number: edits.moved(p, "saw", n / 10, 0))
            workspace.commit()
        elif step == "select":
            workspace.select(["hose", "saw", None][number % 3])
        elif step == "run":
            workspace.toggle("bandsaw", together=bool(number % 2))
        else:
            getattr(workspace, step)()
    while workspace.undo_label:
        workspace.undo()
    assert workspace.project == start and not workspace.dirty


def test_history_is_bounded():
    workspace = Workspace(demo("empty"))
    for number in range(LONGEST + 20):
        workspace.edit(
            "Warm",
            lambda p, n=number: edits.with_settings(p, temperature=float(n % 40) + 0.5 * (n % 2)),
        )
    undone = 0
    while workspace.undo_label:
        workspace.undo()
        undone += 1
    assert undone == LONGEST


@pytest.mark.parametrize(
    ("edit", "says"),
    [
        (lambda p: edits.with_hose_length(p, "planer-hose", -1), "more than 0"),
        (lambda p: edits.with_hose_length(p, "planer-hose", float("nan")), "plain number"),
        (lambda p: edits.with_hose_length(p, "main-1", 2.0), "only a hose"),
        (lambda p: edits.changed(p, "main-1", diameter=0), 'at least 5/8"'),
        (lambda p: edits.changed(p, "main-99", diameter=0.1), "in this shop"),
        (lambda p: edits.with_material(p, "main-1", "bamboo"), "use one of"),
        (lambda p: with_collector(p, "cyclone", "9 hp"), "catalogue"),
    ],
)
def test_a_bad_edit_changes_nothing_and_says_why(edit, says):
    workspace = demo_workspace()
    with pytest.raises((InputError, RefusedEdit), match=says):
        workspace.edit("Edit", edit)
    assert workspace.project == demo() and workspace.undo_label is None


def test_running_together_selecting_and_switching_off():
    workspace = demo_workspace()
    workspace.toggle("planer")
    alone = workspace.scenario.pickups[0].airflow
    workspace.toggle("saw", together=True)
    assert workspace.running == ("saw", "planer")
    assert next(p for p in workspace.scenario.pickups if p.machine == "planer").airflow < alone
    workspace.toggle("planer", together=True)
    assert workspace.running == ("saw",)
    workspace.toggle("saw")
    assert workspace.running == () and workspace.scenario is None
    workspace.select("no-such-thing")
    assert workspace.selection is None
    with pytest.raises(InputError):
        workspace.switch_on(("no-such-thing",))


def test_saving_opening_and_what_cannot_be_opened(tmp_path):
    workspace = demo_workspace()
    path = tmp_path / "mine.greycurrent.json"
    with pytest.raises(FileError, match="no file yet"):
        workspace.save()
    workspace.edit("Shorten the hose", shorten(1.1))
    workspace.save(path)
    assert not workspace.dirty
    workspace.undo()
    assert workspace.dirty
    with pytest.raises(FileError):
        workspace.open(tmp_path)
    assert workspace.project == demo()
    workspace.open(path)
    assert workspace.project.run["planer-hose"].length == 1.1 and workspace.undo_label is None


def test_a_project_that_cannot_be_computed_changes_nothing(tmp_path):
    workspace = demo_workspace()
    workspace.switch_on(("planer",))
    before, sentence = workspace.project, workspace.verdict
    odd = edits.changed(before, "main-1", material="bamboo")
    path = tmp_path / "odd.greycurrent.json"
    project_file.save(odd, path)
    for attempt in (lambda: workspace.open(path), lambda: workspace.edit("Odd", lambda p: odd)):
        with pytest.raises(DuctworkError, match="bamboo"):
            attempt()
        assert workspace.project is before and workspace.verdict == sentence
        assert workspace.running == ("planer",) and workspace.undo_label is None
    workspace.select("loft/wall-1")
    with pytest.raises(RefusedEdit, match="delete the whole thing"):
        workspace.delete()


def test_an_answer_for_another_shop_is_never_taken():
    workspace = demo_workspace()
    revision = workspace.revision
    workspace.open_demo("allotment")
    assert workspace.revision > revision
    assert not workspace.computed.take_result(revision, HelpMachine("saw"), [])


def test_settings_survive_and_a_broken_file_counts_as_none(tmp_path):
    settings_file = UserSettings(tmp_path)
    settings_file.put("theme", "dark")
    for number in range(12):
        settings_file.remember(tmp_path / f"{number}.json")
    again = UserSettings(tmp_path)
    assert (
        again.get("theme") == "dark"
        and again.recent[0].name == "11.json"
        and len(again.recent) == 8
    )
    for text in ("not json", json.dumps([1]), json.dumps({"theme": "pink", "recent": 3})):
        (tmp_path / "settings.json").write_text(text)
        broken = UserSettings(tmp_path)
        assert broken.get("theme") == "light" and broken.recent == []


def test_a_machine_of_one_place_at_a_time_is_shown_where_it_works_and_undone_without_harm():
    ports = [
        Pickup(id=i, name=i.capitalize(), height=0.5, port=0.1, intake=FreeArea(area=0.02), dx=dx)
        for i, dx in (("saw", 0), ("planer", 0.2))
    ]
    combination = machine("combi", 4, 0, one_at_a_time=True, pickups=tuple(ports))
    runs = [run("near", "combi/saw", "fan", 0.15), run("far", "combi/planer", "other", 0.08)]
    project = shop(
        [combination, machine("drill", 6, 2)],
        runs=runs,
        collectors=[collector(), collector("other", 0, 3)],
    )
    workspace = Workspace(project)
    workspace.switch_on(("combi",))
    assert workspace.scenario.scenario.places == ("combi/planer",)  # the least served
    workspace.work_at("combi/saw")
    assert workspace.scenario.scenario.places == ("combi/saw",) and set(
        workspace.scenario.systems
    ) == {"fan"}
    workspace.toggle("drill", together=True)
    assert workspace.scenario.scenario.places == ("combi/saw",)
    workspace.edit("Take it away", lambda p: without_pickup(p, "combi/saw"))
    assert workspace.places == () and workspace.scenario is not None
    workspace.undo()
    with pytest.raises(InputError, match="Working place"):
        workspace.work_at("combi/lathe")
