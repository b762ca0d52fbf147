"""A practice shop as text and plain values: how it stands, what one may do, and afterwards what it
was.
"""

from __future__ import annotations

from typing import Any

from grey_current.errors import InputError
from grey_current.files.keep_report import KINDS
from grey_current.keep.causes import fault_kinds, fault_words
from grey_current.keep.debrief import Debrief
from grey_current.keep.practice import LEVELS, LOOK_AND_MEND, minutes_of, secret_of
from grey_current.keep.reading_words import figure, place_words
from grey_current.shop.keep_plan import Complaint, ComplaintKind, PracticeAct
from grey_current.shop.model import Project
from grey_current.shop.names import Names, capital
from grey_current.units import Display

SAYINGS: dict[ComplaintKind, str] = {
    "weaker everywhere": "Everything is weaker than it was.",
    "only one machine": "{machine} is weaker than it was; the others are as always.",
    "whistles": "It whistles.",
    "dust behind the filter": "The bin fills, and dust comes behind the filter.",
    "only the gauge": "Nothing is noticed, but the gauge is out of the green.",
}
HELP = (
    'Say: measure "static pressure" saw inlet-run; look "filter loaded" cyclone; mend "filter '
    'loaded" cyclone; done. '
    "What can be measured: {kinds}. Faults: {faults}."
)


def complaint_words(names: Names, complaint: Complaint) -> str:
    """A complaint as somebody would say it."""
    if complaint.kind == "weaker everywhere" and complaint.machine:
        return f"{SAYINGS[complaint.kind].rstrip('.')}, {names.of(complaint.machine)} most."
    machine = names.start(complaint.machine) if complaint.machine else "One machine"
    if complaint.besides:
        return (
            f"{machine} and {names.of(complaint.besides)} are weaker than they were; the "
            "others are as always."
        )
    return SAYINGS[complaint.kind].format(machine=machine)


def begun_text(project: Project) -> str:
    """The complaint, and what is known from when it was well."""
    practice, complaint, names = project.keep.practice, project.keep.complaint, Names(project)
    if practice is None or complaint is None:
        raise InputError("practice", project.name, "this is no practice shop")
    display = Display(project.settings.units)
    lines = [
        f"{project.name}: practice {practice.seed}, level {practice.level} "
        f"({LEVELS[practice.level]})",
        complaint_words(names, complaint),
        "When it was well:",
    ]
    lines += [
        f"  {place_words(names, r.kind, r.machine, r.place)}: {figure(display, r.kind, r.value)}"
        for r in project.keep.readings
        if r.date < complaint.since
    ]
    faults = "; ".join(LOOK_AND_MEND)
    lines.append(HELP.format(kinds=", ".join(KINDS), faults=faults))
    return "\n".join(lines)


def fault_sentence(names: Names, kind: str, place: str) -> str:
    """A fault at its place, in a sentence without its end."""
    words = fault_words(names.project, fault_kinds().by_name[kind], place)
    return f"{names.start(place)}: {words}" if place else capital(words)


def act_words(project: Project, act: PracticeAct) -> str:
    """What was done and what came of it."""
    names, display = Names(project), Display(project.settings.units)
    kind = next((known for known in KINDS if known == act.what), None)
    if act.kind == "measured" and kind is not None and act.value is not None:
        words = (
            f"{place_words(names, kind, act.machine or '', act.place)}: "
            f"{figure(display, kind, act.value)}"
        )
    elif act.kind == "done":
        return "Done."
    else:
        fault = fault_sentence(names, act.what, act.place)
        found = {
            ("looked", True): "It is so.",
            ("looked", False): "No, it is not so.",
            ("mended", True): "Mended.",
            ("mended", False): "Taken apart for nothing: it was not so.",
        }[act.kind, bool(act.found)]
        words = f"{fault}? {found}"
    return f"{words} ({act.minutes:.0f} min)"


def minutes_words(project: Project) -> str:
    """How long the practice has taken so far."""
    practice = project.keep.practice
    if practice is not None:
        return f"{minutes_of(practice):.0f} minutes so far, and none come back."
    return ""


def debrief_text(project: Project, found: Debrief) -> str:
    """What it was, how one could have known, and what the program itself would have done."""
    return "\n".join(debrief_lines(project, found))


def debrief_lines(project: Project, found: Debrief) -> list[str]:
    """The same, a line each."""
    names = Names(project)
    lines = []
    for kind, place, mended, chance in found.faults:
        put_right = "mended" if mended else "not mended"
        if chance > 0:
            sure = f"your readings made it {chance:.0%} likely"
        else:
            sure = "your readings did not tell of it"
        lines.append(f"It was: {fault_sentence(names, kind.name, place)} ({put_right}; {sure}).")
    vain = f", {found.in_vain} of them mended what was whole" if found.in_vain else ""
    lines.append(
        f"You took {found.minutes:.0f} minutes{vain}. The program takes {found.own_minutes:.0f}:"
    )
    lines += [f"  {act_words(project, act)}" for act in found.own]
    lines.append(f"Score: {found.score} of 100.")
    return lines


def practice_report(project: Project, found: Debrief) -> dict[str, Any]:
    """The truth and the program's own way as plain values, SI units."""
    practice, complaint, secret = project.keep.practice, project.keep.complaint, secret_of(project)
    if practice is None or complaint is None:
        raise InputError("practice", project.name, "this is no practice shop")
    return {
        "format": "grey-current/practice/1",
        "shop": project.name,
        "seed": practice.seed,
        "level": practice.level,
        "complaint": complaint.model_dump(mode="json"),
        "faults": [
            {"fault": cause.kind.name, "place": cause.place or None, "size": cause.factor}
            for cause in secret.causes
            if cause.kind is not None
        ],
        "off_the_table": {
            key: factor for key, factor in secret.base.items() if abs(factor - 1) > 1e-9
        },
        "own_way": [act.model_dump(mode="json") for act in found.own],
        "own_minutes": found.own_minutes,
    }
