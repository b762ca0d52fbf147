"""Computed changes as buttons on a page: what would help a machine, the shop, or a part made otherwise."""

from __future__ import annotations

from grey_current.design.flow.transport import slowest
from grey_current.design.improve.jobs import Question
from grey_current.design.improve.ranking import Lever
from grey_current.desk.inspector.fields import ActionField, Fact, Section
from grey_current.shop.model import Machine
from grey_current.units import Display
from grey_current.workspace.workspace import Workspace

MOST_LEVERS = 5
MOST_CHOICES = 9
SEARCHING = "Trying every sensible change…"


def machine_help(workspace: Workspace, machine: Machine) -> list[Section]:
    """What would help a machine most, each change with what it was computed to be worth; one click makes it."""
    if workspace.asked_machine != machine.id:
        return []
    answer = workspace.assessment.of_machine[machine.id]
    short = answer.worst is not None and not answer.worst.met
    title = "What would help most, running alone" if short else "What would carry its chips"
    found = workspace.known_levers(Question("machine", machine.id))
    if found is None:
        return [Section(title, (Fact("", SEARCHING),))]
    if not found:
        return [Section(title, (Fact("", "No single change gains much."),))]
    slow = slowest(workspace.project, answer)
    before = slow.share if slow else 0.0
    items = tuple(
        _field(machine.id, n, lever, _gain_words(workspace, lever) if short else _carry_words(workspace, lever, before))
        for n, lever in enumerate(found[:MOST_LEVERS])
    )
    return [Section(title, items)]


def shop_help(workspace: Workspace) -> tuple[Section, ...]:
    """What would help the whole shop most; nothing when no machine is short of air."""
    question = workspace.question
    if question is None or question.about != "shop":
        return ()
    title = "What would help the shop most"
    found = workspace.known_levers(question)
    if found is None:
        return (Section(title, (Fact("", SEARCHING),)),)
    items = tuple(_field("shop", n, v, _relief_words(workspace, v)) for n, v in enumerate(found[:MOST_LEVERS]))
    return (Section(title, items or (Fact("", "No single change gains much."),)),)


def part_choices(workspace: Workspace) -> list[Section]:
    """The other ways to make the selected part, each with the difference that it was computed to make."""
    question = workspace.question
    if question is None or question.about != "part":
        return []
    name = workspace.project.machine[question.machine].name
    title = f"Made otherwise: what the {name.lower()} would get"
    found = workspace.known_levers(question)
    if found is None:
        return [Section(title, (Fact("", "Computing the other ways…"),))]
    items = tuple(
        _field(question.of, n, lever, _difference_words(workspace, lever))
        for n, lever in enumerate(found[:MOST_CHOICES])
    )
    return [Section(title, items)] if items else []


def _field(owner: str, number: int, lever: Lever, detail: str) -> ActionField:
    return ActionField(f"{owner}/lever-{number + 1}", lever.words, lever.words, lambda: lever.change, detail)


def _gain_words(workspace: Workspace, lever: Lever) -> str:
    display = Display(workspace.project.settings.units)
    return f"+{display.airflow(lever.gain)}" + (": all that it needs" if lever.met else "") + _losers(workspace, lever)


def _carry_words(workspace: Workspace, lever: Lever, before: float) -> str:
    return f"slowest air {before:.0%} → {lever.carry or 0.0:.0%} of what chips need" + _losers(workspace, lever)


def _relief_words(workspace: Workspace, lever: Lever) -> str:
    display = Display(workspace.project.settings.units)
    count = len(lever.winners)
    win = f", {count} machines win" if count > 1 else ""
    return f"+{display.airflow(lever.gain)} in all{win}" + _losers(workspace, lever)


def _difference_words(workspace: Workspace, lever: Lever) -> str:
    display = Display(workspace.project.settings.units)
    gain = display.airflow(abs(lever.gain))
    same = gain.split(maxsplit=1)[0] == "0"
    words = "no difference" if same else f"{'+' if lever.gain > 0 else '−'}{gain}"
    return words + _losers(workspace, lever)


def _losers(workspace: Workspace, lever: Lever) -> str:
    if not lever.losers:
        return ""
    display = Display(workspace.project.settings.units)
    other, loss = max(lever.losers, key=lambda pair: pair[1])
    name = workspace.project.machine[other].name.lower()
    return f"; {name} loses {display.airflow(loss, unit=False)}"
