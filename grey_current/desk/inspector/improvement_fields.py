"""Computed changes as buttons on a page: what would help a machine, the shop, or a part made
otherwise.
"""

from __future__ import annotations

from grey_current.design.flow.transport import slowest_transport
from grey_current.design.improve.ranking import (
    Improvement,
    cleared_words,
    difference_words,
    lost_words,
    money_words,
    wins_air,
    won_words,
)
from grey_current.design.judgement import SAME
from grey_current.desk.inspector.cause_fields import cause_sections
from grey_current.desk.inspector.fields import ActionField, Fact, Item, Section
from grey_current.shop.machines import Machine
from grey_current.units import Display
from grey_current.workspace import asking
from grey_current.workspace.jobs import HelpMachine, HelpShop, OtherParts
from grey_current.workspace.workspace import Workspace

MOST_IMPROVEMENTS = 5
# Changes in sight while the others are folded.
FIRST = 2
MOST_PART_IMPROVEMENTS = 9
SEARCHING = "Working it out…"


def machine_help(workspace: Workspace, machine: Machine) -> list[Section]:
    """What would help a machine most, each change with what it was computed to be worth; one click
    makes it.
    """
    if asking.asked_machine(workspace) != machine.id:
        return []
    answer = workspace.assessment.of_machine[machine.id]
    short = not answer.met
    title = "What would help most, running alone" if short else "What would carry its chips"
    job = HelpMachine(machine.id)
    causes = cause_sections(workspace, job, machine.id)
    found = workspace.computed.known_improvements(job)
    if found is None:
        return [*causes, Section(title, (Fact("", SEARCHING),))]
    if not found:
        return [*causes, Section(title, (Fact("", "No single change gains much."),))]
    # What wins air is told in air, what carries chips in their speed.
    slow = slowest_transport(workspace.project, answer)
    before = slow.share if slow else 0.0
    display = Display(workspace.project.settings.units)
    worst = answer.worst.pickup if answer.worst is not None else ""
    items = tuple(
        _field(
            workspace,
            machine.id,
            n,
            improvement,
            _gain_words(workspace, machine, worst, improvement)
            if short and wins_air(improvement, display)
            else _transport_words(improvement, machine.id, before, display),
        )
        for n, improvement in enumerate(found[:MOST_IMPROVEMENTS])
    )
    return [*causes, _ranked(title, items, 0 if causes else FIRST)]


def _ranked(title: str, items: tuple[Item, ...], first: int = FIRST) -> Section:
    """Changes, of which the first are in sight."""
    more = len(items) - first
    return Section(title, items, first, f"{more} more" if first and more > 0 else str(more or ""))


def shop_help(workspace: Workspace) -> tuple[Section, ...]:
    """What would help the whole shop most; nothing when no machine is short of air."""
    job = asking.job(workspace)
    if not isinstance(job, HelpShop):
        return ()
    title = "What would help the shop most"
    causes = cause_sections(workspace, job, "shop")
    found = workspace.computed.known_improvements(job)
    if found is None:
        return (*causes, Section(title, (Fact("", SEARCHING),)))
    items: tuple[Item, ...] = tuple(
        _field(workspace, "shop", n, v, _relief_words(workspace, v))
        for n, v in enumerate(found[:MOST_IMPROVEMENTS])
    )
    items = items or (Fact("", "No single change gains much."),)
    return (*causes, _ranked(title, items, 0 if causes else FIRST))


def part_choices(workspace: Workspace) -> list[Section]:
    """The other ways to make the selected part, each with the difference that it was computed to
    make.
    """
    job = asking.job(workspace)
    if not isinstance(job, OtherParts):
        return []
    name = workspace.project.machine[job.machine].name
    title = f"Made otherwise: what the {name.lower()} would get"
    found = workspace.computed.known_improvements(job)
    if found is None:
        return [Section(title, (Fact("", "Computing the other ways…"),))]
    items = tuple(
        _field(workspace, job.part, n, improvement, _difference_words(workspace, improvement))
        for n, improvement in enumerate(found[:MOST_PART_IMPROVEMENTS])
    )
    return [_ranked(title, items)] if items else []


def _field(
    workspace: Workspace, owner: str, number: int, improvement: Improvement, detail: str
) -> ActionField:
    money = money_words(improvement, workspace.project.build.currency)
    adds = workspace.computed.known_adds(asking.job(workspace), improvement.words)
    detail += "".join(f"; {words}" for words in (money, adds) if words)
    return ActionField(
        f"{owner}/lever-{number + 1}",
        improvement.words,
        step=improvement.words,
        edit=improvement.edit,
        detail=detail,
    )


def _gain_words(
    workspace: Workspace, machine: Machine, worst: str, improvement: Improvement
) -> str:
    """What a machine's worst pickup wins, which is named where it has several."""
    display = Display(workspace.project.settings.units)
    names = [pickup.name.lower() for pickup in machine.pickups if pickup.id == worst]
    words = f"+{display.airflow(improvement.gain)}"
    words += f" at its {names[0]}" if names and len(machine.pickups) > 1 else ""
    if abs(improvement.need - improvement.need_before) > 1e-6:
        got = display.airflow(improvement.airflow, unit=False)
        words = f"{got} of {display.airflow(improvement.need)}, which it then needs"
    return words + (": all that it needs" if improvement.met else "") + _costs(improvement)


def _transport_words(
    improvement: Improvement, machine: str, before: float, display: Display
) -> str:
    after, less = improvement.transport or 0.0, lost_words(improvement, display)
    carries = after >= before + SAME
    words = f"slowest air {before:.0%} → {after:.0%} of what chips need" if carries else ""
    won = words or won_words(improvement, machine, display)
    return won + (f", {less}" if less else "") + _costs(improvement)


def _relief_words(workspace: Workspace, improvement: Improvement) -> str:
    display = Display(workspace.project.settings.units)
    count = len(improvement.winners)
    win = f", {count} machines win" if count > 1 else ""
    won, cleared = "", cleared_words(improvement)
    if wins_air(improvement, display):
        won = f"+{display.airflow(improvement.gain)} where it is short{win}"
    elif improvement.carried:
        machines = [workspace.project.machine[ident].name.lower() for ident in improvement.carried]
        whose = f"the {machines[0]}'s" if len(machines) == 1 else f"{len(machines)} machines'"
        less = lost_words(improvement, display)
        won = f"{whose} chips carried better" + (f", {less} in all" if less else "")
    return (", ".join(words for words in (won, cleared) if words) or "fewer problems") + _costs(
        improvement
    )


def _difference_words(workspace: Workspace, improvement: Improvement) -> str:
    display = Display(workspace.project.settings.units)
    return difference_words(improvement, display) + _costs(improvement)


def _costs(improvement: Improvement) -> str:
    """What it makes worse: the worst in words, and how much more there is."""
    if not improvement.costs:
        return ""
    more = len(improvement.costs) - 1
    return f"; but {improvement.costs[0]}" + (f", and {more} more" if more else "")
