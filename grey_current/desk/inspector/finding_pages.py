"""Pages that find a fault one question at a time: what is noticed, what to measure or look at next,
how to mend it, and whether it is well again.
"""

from __future__ import annotations

import datetime
from functools import partial

from grey_current.desk.inspector.fields import ActionField, Fact, Item, Page, Picture, Section
from grey_current.desk.inspector.reading_fields import reading_items
from grey_current.files.practice_report import complaint_words
from grey_current.keep.answers import HowSure
from grey_current.keep.causes import fault_words
from grey_current.keep.monthly import Monthly, last_of, limit_lines, place_of, spec_of
from grey_current.keep.pictures import picture_of
from grey_current.keep.practice import looked, looks_of, mended
from grey_current.keep.steps import Step, instructions, question
from grey_current.shop.edits import Edit
from grey_current.shop.keep_edits import (
    with_complaint,
    with_instrument,
    with_look,
    with_mended,
    with_out_of_reach,
)
from grey_current.shop.keep_plan import READS, ComplaintKind
from grey_current.shop.model import Project
from grey_current.shop.names import Names, capital
from grey_current.units import Display
from grey_current.workspace.workspace import Workspace

TITLE = "Find the fault"
NOTICED: tuple[tuple[ComplaintKind, str], ...] = (
    ("weaker everywhere", "Everything is weaker than it was"),
    ("whistles", "It whistles"),
    ("dust behind the filter", "The bin fills, or dust comes behind the filter"),
)
INSTRUMENT_OF = {kind: name for name, kinds in READS.items() for kind in kinds}


def finding_page(workspace: Workspace, found: HowSure | None) -> Page | None:
    """The page of finding a fault that is shown; None where none is."""
    complaint = workspace.project.keep.complaint
    if not workspace.finding or not workspace.project.runs:
        return None
    if workspace.finding == "check" and complaint is None:
        return _check_page(workspace, found)
    if workspace.finding == "which":
        return _which_page(workspace)
    if complaint is None:
        return _ask_page(workspace, found)
    return _step_page(workspace, found)


def start_action(workspace: Workspace, key: str, *, primary: bool = False) -> ActionField:
    """The button that begins, or goes on, with a key of its own."""
    going_on = workspace.project.keep.complaint is not None
    return ActionField(
        key,
        "Find the fault, step by step",
        "",
        act=partial(workspace.find_fault, "step" if going_on else "ask"),
        primary=primary,
    )


def _stop(workspace: Workspace) -> ActionField:
    return ActionField("finding/stop", "Close", "", act=partial(workspace.find_fault, ""))


def _page(workspace: Workspace, answer: str, items: list[Item], subtitle: str = "") -> Page:
    section = Section("What to do", (*items, _stop(workspace)), open_first=True)
    return Page(TITLE, subtitle, (section,), (), answer=answer, problems=False)


# -- what is noticed


def _ask_page(workspace: Workspace, found: HowSure | None) -> Page:
    items: list[Item] = []
    off = _out_of_green(found)
    if off is not None:
        items.append(_noticed(workspace, "only the gauge", "Nothing, but the gauge is off", off))
    since = off or datetime.date.today()
    for kind, words in NOTICED[:1]:
        items.append(_noticed(workspace, kind, words, since))
    items.append(
        ActionField(
            "finding/which",
            "One machine is weaker, the others are as always",
            "",
            act=partial(workspace.find_fault, "which"),
        )
    )
    for kind, words in NOTICED[1:]:
        items.append(_noticed(workspace, kind, words, since))
    return _page(workspace, "What do you notice?", items)


def _noticed(
    workspace: Workspace, kind: ComplaintKind, words: str, since: datetime.date, machine: str = ""
) -> ActionField:
    def act() -> None:
        workspace.edit(
            "Say what is wrong", lambda p: with_complaint(p, kind, machine or None, since)
        )
        workspace.find_fault("step")

    return ActionField(f"finding/{kind}/{machine}".rstrip("/"), words, "", act=act)


def _which_page(workspace: Workspace) -> Page:
    project, names = workspace.project, workspace.computed.names
    connected = [m for m, answer in workspace.assessment.of_machine.items() if answer.systems]
    items: list[Item] = [
        _noticed(
            workspace, "only one machine", capital(names.of(m)), datetime.date.today(), machine=m
        )
        for m in project.machine
        if m in connected
    ]
    back = ActionField("finding/back", "Back", "", act=partial(workspace.find_fault, "ask"))
    return _page(workspace, "Which machine is weaker?", [*items, back])


def _out_of_green(found: HowSure | None) -> datetime.date | None:
    """Since when a monthly reading has been out of the green; None where the latest is not."""
    first: list[datetime.date] = []
    for one in found.monthly if found is not None else ():
        since = None
        for date, value in one.readings:
            since = None if one.state(value) == "good" else since or date
        if since is not None:
            first.append(since)
    return min(first, default=None)


# -- one step after another


def _step_page(workspace: Workspace, found: HowSure | None) -> Page:
    project, names = workspace.project, workspace.computed.names
    complaint = project.keep.complaint
    assert complaint is not None
    taken = sum(project.keep.of_this_fault(r) for r in project.keep.readings)
    number = taken + len(looks_of(project)) + 1
    subtitle = f"Step {number}. {complaint_words(names, complaint)}"
    step = found.step if found is not None else None
    if found is None or step is None:
        return _page(workspace, "Working out the next step…", [], subtitle)
    display = Display(project.settings.units)
    items: list[Item] = []
    what = step.asked[0] if step.asked is not None else step.fault.name if step.fault else ""
    asks = question(names, step)
    if what:
        items.append(Picture(picture_of(what), f"{asks} How it is done."))
    items += [Fact("", line, prose=True) for line in instructions(names, display, step)]
    items += _answers(workspace, step)
    likely = _likeliest(names, found)
    if likely:
        items.append(Fact("", likely))
    return _page(workspace, asks, items, subtitle)


def _likeliest(names: Names, found: HowSure) -> str:
    """What is likeliest so far, in a line."""
    cause = next((c for c in found.told.causes if c.kind is not None), None)
    if cause is None or cause.kind is None:
        return ""
    words = fault_words(names.project, cause.kind, cause.place)
    where = f"{names.of(cause.place)}: " if cause.place else ""
    return f"Likeliest so far: {where}{words} ({cause.chance:.0%})."


def _answers(workspace: Workspace, step: Step) -> list[Item]:
    """The field or the buttons that a step is answered with."""
    if step.asked is not None:
        kind, _, place = step.asked
        items = reading_items(workspace, *step.asked)
        if workspace.project.keep.practising:
            return items
        instrument = INSTRUMENT_OF[kind]
        return [
            *items,
            ActionField(
                "finding/no instrument",
                f"I have no {instrument}",
                "Change the instruments",
                edit=lambda p: with_instrument(p, instrument, there=False),
            ),
            ActionField(
                "finding/out of reach",
                "I can't get at that place",
                "Mark a place that is out of reach",
                edit=lambda p: with_out_of_reach(p, place.partition("/")[0]),
            ),
        ]
    if step.fault is None:
        return []
    if step.todo == "mend":
        return [_mended(workspace, step)]
    if workspace.project.keep.practising:
        look = _look(workspace, step, found=False)
        return [ActionField("finding/look", "Look there", "Look", edit=look)]
    yes, no = (_look(workspace, step, found=there) for there in (True, False))
    return [
        ActionField("finding/yes", "Yes, that is it", "Look", edit=yes),
        ActionField("finding/no", "No, it is all right", "Look", edit=no),
    ]


def _look(workspace: Workspace, step: Step, *, found: bool) -> Edit:
    fault, places = step.fault, step.places
    assert fault is not None
    if workspace.project.keep.practising:
        # In a practice shop it is there or not, whoever looks.
        return lambda project: looked(project, fault.name, places[0] if places else "")
    today = datetime.date.today()
    return lambda project: with_look(project, fault.name, places, today, found=found)


def _mended(workspace: Workspace, step: Step) -> ActionField:
    fault, places = step.fault, step.places
    assert fault is not None
    place = places[0] if places else ""
    if workspace.project.keep.practising:
        return ActionField(
            "finding/mended", "Mend it", "Mend", edit=lambda p: mended(p, fault.name, place)
        )
    words = capital(fault_words(workspace.project, fault, place))
    if fault.of == "gate":
        words = "A gate stood open"

    def mend(project: Project) -> Project:
        return with_mended(project, fault.name, places, datetime.date.today(), f"{words}: mended")

    def act() -> None:
        workspace.edit("Mend a fault", mend)
        workspace.find_fault("check")

    detail = "goes into the logbook"
    return ActionField("finding/mended", "It is mended", "", act=act, detail=detail, primary=True)


# -- is it well again


def _check_page(workspace: Workspace, found: HowSure | None) -> Page:
    project, names = workspace.project, workspace.computed.names
    display = Display(project.settings.units)
    one = _readable(project, found)
    again: list[Item] = [_goes_on(workspace)]
    if one is None:
        return _page(
            workspace,
            "Is it as it was?",
            [
                ActionField(
                    "finding/well", "Yes, it is", "", act=partial(workspace.find_fault, "")
                ),
                *again,
            ],
        )
    items: list[Item] = [Picture(picture_of("static pressure"), "A gauge on the monthly hole.")]
    last = last_of(one)
    if last is not None and last[0] == datetime.date.today():
        value = last[1]
        state = one.state(value)
        items.append(Fact("Read", f"{display.pressure(value)}. {one.words(value)}", state))
        if state == "good":
            return _page(workspace, "It is well again.", items)
        return _page(workspace, "Not yet: something else is wrong too.", [*items, *again])
    items.append(Fact("", f"Suction in {place_of(names, one)}."))
    items += reading_items(workspace, *spec_of(one))
    items.append(Fact("", limit_lines(display, one)[0]))
    return _page(workspace, "Is it well again? Read the gauge once more.", [*items, *again])


def _readable(project: Project, found: HowSure | None) -> Monthly | None:
    """The monthly reading that tells whether it is well: of the collector at which something was
    wrong last, else of the first; None without one or without a gauge.
    """
    if found is None or not project.keep.can_read("static pressure"):
        return None
    ill = [reading.place for reading in project.keep.readings if reading.of_fault]
    known = {one.place: one for one in found.monthly}
    last = next((known[place] for place in reversed(ill) if place in known), None)
    return last or next(iter(found.monthly), None)


def _goes_on(workspace: Workspace) -> ActionField:
    return ActionField(
        "finding/again", "No, go on looking", "", act=partial(workspace.find_fault, "ask")
    )
