"""Finding: every command by its words and by three others, and everything else by its name."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from grey_current.design.reasons.reasons import reasons
from grey_current.workspace.commands import COMMANDS
from grey_current.workspace.finder import entries, ranked, synonyms
from grey_current.workspace.settings import CHOICES
from grey_current.workspace.workspace import demo_workspace

pytestmark = pytest.mark.usefixtures("compiled_kernel")


@pytest.fixture(scope="module")
def found(compiled_kernel):
    workspace = demo_workspace()
    assert workspace.computed.find()
    return entries(workspace, lambda name, choice: None)


def titles(found, text):
    return [entry.title for entry in ranked(found, text)]


def test_every_command_has_three_other_words():
    assert {command.id for command in COMMANDS} == set(synonyms())
    for command in COMMANDS:
        others = synonyms()[command.id]
        assert len(set(others)) == 3, command.id
        assert not set(others) & {command.title.lower().rstrip("…")}


@pytest.mark.parametrize("command", COMMANDS, ids=lambda command: command.id)
def test_every_command_is_found_by_its_words_and_by_each_of_three_others(found, command):
    title = command.title.rstrip("…")
    # Two commands may have one title, in different menus.
    assert title in titles(found, title)[:3]
    for other in synonyms()[command.id]:
        assert title in titles(found, other), other
    # Typed half, and with a slip of the finger in a long word.
    half = title[: max(len(title) * 2 // 3, 2)]
    assert title in [entry.title for entry in ranked(found, half, most=40)]


def test_things_settings_parts_and_pages_are_found(found):
    assert titles(found, "planer")[0] == "The planer" and titles(found, "plaenr")
    kinds = {entry.kind for entry in found}
    assert kinds == {"Command", "Setting", "In the shop", "Problem", "Part", "Page"}
    for setting in CHOICES:
        assert any(title.startswith(f"{setting.title}:") for title in titles(found, setting.title))
    for page in list(reasons().values())[::5]:
        assert page.title in titles(found, page.title)
    assert any("Elbow 90°" in title for title in titles(found, "elbow 90°"))
    problem = next(entry for entry in found if entry.kind == "Problem")
    assert problem.title in titles(found, " ".join(problem.title.split()[:6]))


def test_whatever_stands_or_lies_in_the_shop_is_found_at_its_stage(found):
    project = demo_workspace().project
    here = {e.act.keywords["element"]: e.act.keywords["stage"] for e in found if "shop" in e.kind}
    assert here.keys() == project.element.keys() - project.point.keys()
    for ident, stage in here.items():
        kind = next((k for k in ("machine", "collector") if ident in getattr(project, k)), "")
        duct = "air" if ident in project.run or ident in project.gate else "shop"
        assert stage == {"machine": "machines", "collector": "collector"}.get(kind, duct)


@settings(max_examples=60, deadline=None)
@given(st.text(max_size=40))
def test_any_text_finds_something_or_nothing(found, text):
    shown = ranked(found, text)
    assert len(shown) <= 12 and len({id(entry) for entry in shown}) == len(shown)


def test_nothing_typed_shows_what_can_be_done(found):
    assert all(entry.kind == "Command" and entry.act is not None for entry in ranked(found, " "))
    assert ranked(found, "xyzzy quux") == []
