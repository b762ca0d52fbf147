"""A machine at the Work stage: its air, what its hoods catch, how it is switched, its day,
checklist and noise.
"""

from __future__ import annotations

import math
from typing import get_args

from grey_current.desk.inspector.fields import (
    ActionField,
    Changed,
    ChoiceField,
    Fact,
    Item,
    Page,
    Section,
    TextField,
    number_field,
    yes_no,
)
from grey_current.desk.inspector.reason_fields import why_button
from grey_current.errors import InputError
from grey_current.numerals import compact
from grey_current.shop.edits import changed, with_pickup
from grey_current.shop.machines import Aid, HoodTest, LampShows, Machine
from grey_current.shop.model import Project
from grey_current.shop.work_edits import with_checklist, with_hood_test, with_job
from grey_current.spelling import localised
from grey_current.units import Display, System, parse_mass, parse_number
from grey_current.work.cards import air_lines, checklist
from grey_current.work.day import STARTS_AN_HOUR
from grey_current.work.ears import noise_at, noise_of
from grey_current.work.materials import GUESSES, aid_kinds, tested_share
from grey_current.work.one_stops import one_stops_words
from grey_current.workspace.workspace import Workspace

MOST_STOPS = 3


def machine_page(workspace: Workspace, machine: Machine) -> Page:
    """The page of a machine at the Work stage."""
    project, now = workspace.project, workspace.assessment
    sections = [
        Section("The air at it", tuple(Fact("", line) for line in air_lines(now, machine.id))),
        Section(
            "What its hoods catch",
            tuple(_catch_fields(workspace, machine)) or (Fact("", "It has none."),),
        ),
        *((_test_section(workspace, machine),) if machine.pickups else ()),
        _switch_section(workspace, machine),
        Section("The day", tuple(_into_the_day(machine))),
        Section("Its checklist", tuple(_checklist_fields(project, machine))),
        Section(
            "Noise",
            (
                number_field(
                    f"{machine.id}/noise",
                    "At it",
                    noise_of(machine),
                    edit=lambda p, v: changed(p, machine.id, noise=v),
                    unit="dB(A)",
                ),
                Fact("With its collector", f"{noise_at(now, machine):.0f} dB(A)"),
            ),
        ),
    ]
    return Page(
        machine.name, f"{localised(machine.kind, project.settings.units)}.", tuple(sections), ()
    )


def _into_the_day(machine: Machine) -> list[ActionField]:
    """Puts a job at a machine behind the others of the day, at each working place of one that uses
    one at a time.
    """
    places: list[str | None] = [None]
    if machine.one_at_a_time and len(machine.pickups) > 1:
        places = [pickup.id for pickup in machine.pickups]
    names = {pickup.id: pickup.name.lower() for pickup in machine.pickups}
    minutes = min(max(machine.minutes_per_use, 1.0), 720.0)
    return [
        ActionField(
            f"{machine.id}/into-the-day" + ("" if place is None else f"/{place}"),
            "Put it into the day" + ("" if place is None else f": {names[place]}"),
            step="Put a job into the day",
            edit=lambda p, place=place: with_job(p, machine.id, place),  # type: ignore[misc]
            detail=f"{compact(minutes)} minutes, after the others",
        )
        for place in places
    ]


def _catch_fields(workspace: Workspace, machine: Machine) -> list[Item]:
    found = workspace.computed.worked
    items: list[Item] = []
    share = found.room.caught.get(machine.id) if found is not None else None
    if share is not None:
        items.append(Fact("In all", f"{share:.0%} of the fine dust"))
    for pickup in machine.pickups:
        ref = f"{machine.id}/{pickup.id}"
        items.append(
            TextField(
                f"{ref}/caught",
                pickup.name,
                "worked out" if pickup.caught is None else f"{compact(pickup.caught * 100)} %",
                step="Say what a hood catches",
                read=_read_share,
                edit=_catches(ref),
            )
        )
    fitting = [kind for kind in aid_kinds() if kind.suits(machine) and machine.pickups]
    items += [
        ChoiceField(
            f"{machine.id}/aid/{kind.aid}",
            kind.label,
            "yes" if kind.aid in machine.aids else "no",
            (("yes", "there"), ("no", "none")),
            step=f"Change the {kind.label.lower()}",
            edit=_has_aid(machine.id, kind.aid),
        )
        for kind in fitting
    ]
    if fitting:
        items += why_button(workspace, machine.id, "brushes-and-inserts")
    items.append(yes_no(machine.id, "chip_drawer", "Chip drawer", machine.chip_drawer))
    if machine.chip_drawer:
        items.append(
            TextField(
                f"{machine.id}/drawer_caught",
                "It keeps",
                "an allowance"
                if machine.drawer_caught is None
                else f"{compact(machine.drawer_caught * 100)} %",
                step="Say what a drawer keeps",
                read=_read_share,
                edit=lambda p, v: changed(p, machine.id, drawer_caught=v),
            )
        )
    return items


def _has_aid(machine: str, aid: Aid) -> Changed:
    def edit(project: Project, value: str) -> Project:
        others = tuple(known for known in project.machine[machine].aids if known != aid)
        return changed(project, machine, aids=(*others, aid) if value == "yes" else others)

    return edit


def _test_section(workspace: Workspace, machine: Machine) -> Section:
    """How the hoods are tested, and what the test says."""
    project, test = workspace.project, machine.hood_test or HoodTest()
    display, units = Display(project.settings.units), project.settings.units
    items: list[Item] = [
        ChoiceField(
            f"{machine.id}/lamp",
            "The lamp shows",
            test.lamp or "",
            (("", "not tried"), *((seen, seen) for seen in get_args(LampShows))),
            step="Test the hoods",
            edit=lambda p, v: with_hood_test(p, machine.id, lamp=v or None),
        )
    ]
    weights: tuple[tuple[str, str, float | None], ...] = (
        ("removed", "Wood cut away", test.removed),
        ("swept", "Swept up after it", test.swept),
    )
    for field, label, kg in weights:
        items.append(
            TextField(
                f"{machine.id}/{field}",
                label,
                "not weighed" if kg is None else display.small_mass(kg),
                step="Test the hoods",
                read=lambda text, label=label: _read_mass(text, units, label),  # type: ignore[misc]
                edit=_weighed(machine.id, field),
                say=lambda kg: "not weighed" if kg is None else display.small_mass(kg),
            )
        )
    summary = "not tested"
    shares = [tested_share(test, guess) for guess in GUESSES]
    low, _, high = shares
    if low is not None and high is not None:
        summary = f"{low:.0%} to {high:.0%} of the fine dust"
        items.append(Fact("By the test", f"{summary} is caught"))
        if set(machine.aids) - set(test.aids):
            items.append(Fact("", "Something was put on since: test again."))
    items += why_button(workspace, machine.id, "test-a-hood")
    return Section("Test its hoods", tuple(items), summary=summary)


def _weighed(machine: str, field: str) -> Changed:
    return lambda project, kg: with_hood_test(project, machine, **{field: kg})


def _read_mass(text: str, units: System, label: str) -> float | None:
    if text.strip().lower() in ("", "-", "–", "none", "not weighed"):
        return None
    return parse_mass(text, units, label, small=True)


def _catches(ref: str) -> Changed:
    return lambda project, value: with_pickup(project, ref, caught=value)


def _read_share(text: str) -> float | None:
    if text.strip().lower() in ("", "-", "–", "none", "worked out", "an allowance"):
        return None
    bare = (
        text.lower().replace("about", "").replace("by my eye", "").strip().removesuffix("%").strip()
    )
    try:
        return parse_number(bare) / 100
    except ValueError:
        raise InputError(
            "What it catches", text, "write per cent such as 95 %, or nothing to have it worked out"
        ) from None


def _switch_section(workspace: Workspace, machine: Machine) -> Section:
    project = workspace.project
    answer = workspace.assessment.of_machine.get(machine.id)
    items: list[Item] = []
    found = workspace.computed.worked
    seconds = found.day.run_on.get(machine.id) if found is not None else None
    for ident in answer.systems if answer is not None else ():
        collector = project.collector[ident]
        if seconds is not None:
            words = f"{seconds:.0f} s" if math.isfinite(seconds) else "for ever: chips lie still"
            short = collector.auto_start and seconds > collector.run_on
            items.append(Fact("Its chips ask for", words, "short" if short else ""))
        items.append(
            yes_no(
                ident, "auto_start", "Starts", collector.auto_start, ("with the tool", "by hand")
            )
        )
        items.append(
            number_field(
                f"{ident}/run_on", "Runs on", collector.run_on, edit=_runs_on(ident), unit="s"
            )
        )
        starts = found.day.starts_an_hour(ident) if found is not None else 0.0
        if starts:
            items.append(
                Fact(
                    "Starts within an hour",
                    f"{starts:.0f}",
                    "short" if starts > STARTS_AN_HOUR else "",
                )
            )
        how = "by the current of its tools" if collector.auto_start else "for the whole day"
        items.append(Fact("", f"Switched {how}."))
    stops = found.stops if found is not None else ()
    mine = [item for item in stops if item.stays == machine.id and item.stops in project.machine][
        :MOST_STOPS
    ]
    items += [Fact("", one_stops_words(workspace.computed.names, item)) for item in mine]
    return Section("Switching", tuple(items) or (Fact("", "No collector serves it."),))


def _runs_on(collector: str) -> Changed:
    return lambda project, value: changed(project, collector, run_on=value)


def _checklist_fields(project: Project, machine: Machine) -> list[Item]:
    lines = checklist(project, machine)
    own = any(item.machine == machine.id for item in project.work.checklists)
    items: list[Item] = [
        TextField(
            f"{machine.id}/line-{number}",
            f"{number}",
            line,
            step="Change a checklist",
            read=str.strip,
            edit=_line_changed(machine.id, lines, number),
        )
        for number, line in enumerate(lines, 1)
    ]
    items.append(
        TextField(
            f"{machine.id}/line-new",
            "More",
            "",
            step="Add to a checklist",
            read=str.strip,
            edit=_line_changed(machine.id, lines, len(lines) + 1),
        )
    )
    if own:
        items.append(
            ActionField(
                f"{machine.id}/usual",
                "The usual lines again",
                step="Usual checklist",
                edit=lambda p: with_checklist(p, machine.id, None),
            )
        )
    return items


def _line_changed(machine: str, lines: tuple[str, ...], number: int) -> Changed:
    """Puts a line in place of one; an empty one takes it away."""

    def edit(project: Project, text: str) -> Project:
        made = [*lines[: number - 1], *([text] if text else []), *lines[number:]]
        return with_checklist(project, machine, tuple(made))

    return edit
