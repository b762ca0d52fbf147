"""What stands on the Keep stage's pages in a practice shop: measure, look and mend with a click,
then the truth.

And on every shop's page what is complained of.
"""

from __future__ import annotations

import datetime
from functools import partial

from grey_current.dates import date_words, parse_past
from grey_current.desk.inspector.fields import (
    ActionField,
    ChoiceField,
    Fact,
    Item,
    Section,
    TextField,
)
from grey_current.files.practice_report import (
    SAYINGS,
    act_words,
    complaint_words,
    debrief_lines,
    minutes_words,
)
from grey_current.keep.answers import HowSure
from grey_current.keep.causes import fault_kinds, fault_words
from grey_current.keep.practice import (
    LEVELS,
    LOOK_AND_MEND,
    MEASURE_MINUTES,
    done,
    looked,
    measured,
    mended,
)
from grey_current.shop.duct_graph import branch_segment
from grey_current.shop.keep_edits import with_complaint, with_keep
from grey_current.shop.keep_plan import Complaint, ComplaintKind, ReadingKind
from grey_current.shop.model import Project
from grey_current.shop.names import Names
from grey_current.workspace.workspace import Workspace

LATEST_ACTS = 12
# Which faults one looks for at which kind of thing.
LOOK_AT: dict[str, tuple[str, ...]] = {
    "collector": ("filter loaded", "separator plugged", "fan weak"),
    "pickup": ("inlet wrapped",),
    "hose": ("hose collapsed",),
    "run": ("run plugged", "joint apart"),
    "gate": ("gate open",),
    "shop": ("gates leaking", "ducts leaking"),
}


def practice_sections(workspace: Workspace, found: HowSure | None) -> list[Section]:
    """The complaint, what was done, and the truth when it is over; nothing for an ordinary shop."""
    project, names = workspace.project, workspace.computed.names
    practice, complaint = project.keep.practice, project.keep.complaint
    if practice is None:
        return []
    level = LEVELS.get(practice.level, "")
    items: list[Item] = [
        Fact("", complaint_words(names, complaint), "short")
        if complaint
        else Fact("", "Nobody complains."),
        Fact("", f"Practice {practice.seed}, {level}. {minutes_words(project)}"),
    ]
    if practice.over:
        truth = found.debrief if found is not None else None
        lines = debrief_lines(project, truth) if truth is not None else ["Working out what it was…"]
        items += [Fact("", line.strip()) for line in lines]
        items.append(
            ActionField(
                "practice/keep",
                "Go on with it as an ordinary shop",
                step="End the practice",
                edit=_ordinary,
            )
        )
    else:
        items.append(
            Fact(
                "",
                "Choose a duct, machine, gate or collector: measure there, or look. Mend what "
                "you find.",
            )
        )
        items.append(
            ActionField(
                "practice/steps",
                "Show me the next step",
                "",
                act=partial(workspace.find_fault, "step"),
            )
        )
        items += look_items(project, "shop", "")
        items.append(
            ActionField(
                "practice/done", "I am done: what was it?", step="End the practice", edit=done
            )
        )
    acts = [act for act in practice.acts if act.kind != "done"]
    sections = [Section("Practice", tuple(items))]
    if acts:
        lines = [act_words(project, act) for act in reversed(acts[-LATEST_ACTS:])]
        sections.append(Section("What you did", tuple(Fact("", line) for line in lines)))
    return sections


def _ordinary(project: Project) -> Project:
    return with_keep(project, practice=None, complaint=None)


def look_items(project: Project, thing: str, place: str) -> list[Item]:
    """Buttons to look for each fault that such a thing may have, and to mend what was found; none
    outside practice.
    """
    practice = project.keep.practice
    if practice is None or practice.over:
        return []
    items: list[Item] = []
    seams = project.settings.duct_leakage > 0
    here = branch_segment(project, place) if thing == "run" else [place]
    for kind in LOOK_AT[thing]:
        if kind == "ducts leaking" and not seams:
            continue
        look, mend = LOOK_AND_MEND[kind]
        words = fault_words(project, fault_kinds().by_name[kind], place)
        mine = [act for act in practice.acts if act.what == kind and act.place in here]
        seen = [act for act in mine if act.kind in ("looked", "mended")]
        if seen and seen[-1].kind == "looked" and seen[-1].found:
            items.append(
                ActionField(
                    f"mend/{kind}/{place}",
                    f"Mend it ({mend:.0f} min)",
                    step="Mend",
                    edit=lambda p, kind=kind: mended(p, kind, place),  # type: ignore[misc]
                    detail=f"Found: {words}",
                )
            )
            continue
        items.append(
            ActionField(
                f"look/{kind}/{place}",
                f"Look ({look:.0f} min)",
                step="Look",
                edit=lambda p, kind=kind: looked(p, kind, place),  # type: ignore[misc]
                detail=f"whether {words}",
            )
        )
    return items


def measure_action(kind: ReadingKind, machine: str, place: str) -> ActionField:
    """A button that reads a stand-in instrument there."""
    return ActionField(
        f"measure/{kind}/{machine}/{place}",
        f"Hold the instrument there ({MEASURE_MINUTES[kind]:.0f} min)",
        step="Measure",
        edit=lambda p: measured(p, (kind, machine, place)),
    )


def _where(project: Project, said: Complaint) -> ChoiceField:
    """Where it is worst, or which other machine is weaker too."""
    names = Names(project)
    if said.kind == "weaker everywhere":
        return ChoiceField(
            "worst",
            "most at",
            said.machine or "",
            (("", "alike"), *((m, names.of(m)) for m in project.machine)),
            step="Say where it is worst",
            edit=lambda p, v: with_complaint(p, said.kind, v or None, said.since),
        )
    others = ((m, names.of(m)) for m in project.machine if m != said.machine)
    return ChoiceField(
        "besides",
        "and",
        said.besides or "",
        (("", "no other"), *others),
        step="Say which other is weaker",
        edit=lambda p, v: with_complaint(p, said.kind, said.machine, said.since, v or None),
    )


def complaint_section(project: Project, start: ActionField) -> Section:
    """What is wrong, and since when: readings from then on are of the fault; `start` begins to
    find it.
    """
    names, complaint = Names(project), project.keep.complaint
    units = project.settings.units
    options: list[tuple[str, str]] = [("", "nothing")]
    options += [
        (kind, SAYINGS[kind].rstrip(".").lower()) for kind in SAYINGS if kind != "only one machine"
    ]
    options += [(f"only one machine/{m}", f"only {names.of(m)} is weaker") for m in project.machine]
    now: str = complaint.kind if complaint is not None else ""
    if complaint is not None and complaint.kind == "only one machine":
        now = f"{complaint.kind}/{complaint.machine}"

    def edit(project: Project, value: str) -> Project:
        name, _, machine = value.partition("/")
        kind: ComplaintKind | None = next((known for known in SAYINGS if known == name), None)
        since = project.keep.complaint.since if project.keep.complaint else datetime.date.today()
        return with_complaint(project, kind, machine or None, since)

    items: list[Item] = [
        start,
        ChoiceField(
            "complaint", "Problems", now, tuple(options), step="Say what is wrong", edit=edit
        ),
    ]
    if complaint is not None and complaint.kind in ("weaker everywhere", "only one machine"):
        items.append(_where(project, complaint))
    if complaint is not None:
        items.append(
            TextField(
                "since",
                "since",
                date_words(complaint.since, units),
                step="Say since when",
                read=lambda text: parse_past(text, units, "Since"),
                edit=lambda p, v: with_complaint(
                    p, complaint.kind, complaint.machine, v, complaint.besides
                ),
            )
        )
        items.append(Fact("", "Readings from before tell what it was like when it was well."))
    return Section("Something wrong?", tuple(items))
