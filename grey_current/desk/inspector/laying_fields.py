"""How ducts may be laid: the choices that stand beside the offer and are kept in the file."""

from __future__ import annotations

import re
from typing import Any

from grey_current.design.laying.reasons import TOO_WEAK
from grey_current.desk.inspector.fields import (
    ActionField,
    ChoiceField,
    Fact,
    Item,
    Page,
    Section,
    TextField,
)
from grey_current.errors import InputError
from grey_current.shop.catalogue import catalogue, pipe_sizes
from grey_current.shop.laying_edits import unpinned, with_laying
from grey_current.shop.model import Project
from grey_current.units import Display, parse_length, parse_length_like
from grey_current.workspace.offering import TITLES, OfferKind
from grey_current.workspace.workspace import Workspace

HEIGHTS = (
    ("under the beams", "under the beams"),
    ("between the beams", "between the beams"),
    ("along the wall", "along the wall"),
    ("at a height", "at a height of…"),
    ("on the floor", "on the floor"),
    ("under the floor", "under the floor"),
)
GATES = (("at the tool", "at the tool"), ("at the wye", "at the wye"))
HOLES = (("no", "no hole"), ("yes", "holes allowed"))
ALL = "all that are sold"
LEFT_OUT = "What no layout does"
# Where one sentence ends and another begins; no unit or figure does.
SENTENCE_END = re.compile(r"(?<=[.!?]) (?=[A-Z])")
STEP = "Change how ducts are laid"
CAUTIONS = {
    "under the floor": "Under a floor: keep clean-outs within reach, and let no joint leak "
    "into a hollow.",
    "holes": "Before a hole: ask whether the wall holds the roof or holds back fire.",
}


def laying_sections(workspace: Workspace) -> tuple[Section, ...]:
    """The choices, and what is pinned."""
    project, choices = workspace.project, workspace.project.laying
    rigid = tuple((m.name, m.label) for m in catalogue().materials if not m.hose)
    items: list[Item] = [_choice("height", "Height", choices.height, HEIGHTS)]
    if choices.height in ("along the wall", "at a height"):
        items.append(_height_field(project))
    items += [
        _sizes_field(project),
        _choice("material", "Material", choices.material, rigid),
        _choice("gates", "Gates", choices.gates, GATES),
        ChoiceField(
            "laying/through_walls",
            "Through walls",
            "yes" if choices.through_walls else "no",
            HOLES,
            step=STEP,
            edit=lambda p, v: with_laying(p, through_walls=v == "yes"),
        ),
    ]
    if choices.through_walls:
        items.append(Fact("", CAUTIONS["holes"]))
    if choices.height == "under the floor":
        items.append(Fact("", CAUTIONS["under the floor"]))
    pinned = sum(run.pinned for run in project.runs) + sum(point.pinned for point in project.points)
    if pinned:
        items.append(Fact("Pinned", "1 thing stays" if pinned == 1 else f"{pinned} things stay"))
        items.append(ActionField("laying/unpin", "Unpin all", step="Unpin all", edit=unpinned))
    return (Section("How they may run", tuple(items), open_first=True),)


def ask_section(workspace: Workspace) -> tuple[Section, ...]:
    """What the search can be asked, where a collector stands."""
    if not workspace.project.collectors:
        return ()
    kinds: list[OfferKind] = ["ducts"]
    kinds += ["unconnected"] if workspace.waiting and workspace.project.runs else []
    kinds += ["sizes"] if workspace.project.runs else []
    fields = tuple(_ask(workspace, kind) for kind in kinds)
    return (Section("Found by search", fields, open_first=True),)


def _ask(workspace: Workspace, kind: OfferKind, collector: str = "") -> ActionField:
    key = f"{collector}/ask-{kind}" if collector else f"ask-{kind}"
    return ActionField(
        key,
        TITLES[kind],
        step="",
        act=lambda: workspace.ask_for(kind, collector),
        primary=kind == "ducts" and bool(workspace.waiting) and not workspace.guiding,
    )


def place_question(workspace: Workspace, collector: str) -> ActionField:
    """Where a collector should stand, to be asked."""
    return _ask(workspace, "places", collector)


def laying_page(workspace: Workspace) -> Page:
    """The page beside an offer."""
    assert workspace.asked is not None
    offer = workspace.offer
    title = offer.title if offer is not None else ""
    row = workspace.pointed_row
    answer, why = _answer_and_why(row.name, row.why) if row is not None else ("", ())
    problems = row.problems if row is not None else ()
    notes = offer.notes if offer is not None and row is not None else ()
    items: list[Item] = [Fact("", note) for note in notes]
    short = offer is not None and offer.falls_short and workspace.asked.kind == "ducts"
    if short:
        if any(TOO_WEAK in note for note in notes):
            # No place helps a fan that is too small.
            items.append(
                ActionField(
                    "stronger",
                    "Look at stronger collectors",
                    step="",
                    act=lambda: workspace.go("collector"),
                )
            )
        # What no layout reaches from here one may from elsewhere.
        items += [place_question(workspace, ident) for ident in workspace.project.collector]
    said = (Section(LEFT_OUT, tuple(items), open_first=short),) if items else ()
    subtitle = "A change below restarts the search. Click a duct to pin it: it then stays."
    if workspace.asked.kind == "sizes":
        return Page(
            title,
            subtitle,
            (*why, *said, Section("Which may be used", (_sizes_field(workspace.project),))),
            problems,
            answer=answer,
        )
    how = laying_sections(workspace)
    sections = (*why, *said, *how) if short else (*why, *how, *said)
    return Page(title, subtitle, sections, problems, answer=answer)


def _answer_and_why(name: str, why: str) -> tuple[str, tuple[Section, ...]]:
    """A row's first sentence behind its name; what else is told of it as a list, a point a line."""
    first, *rest = SENTENCE_END.split(why)
    items: list[Item] = []
    for sentence in rest:
        head, *points = sentence.split("; ")
        said, colon, begun = head.partition(": ")
        if colon:
            points = [begun, *points]
        items.append(Fact("", f"{said}:" if colon else head, prose=not items))
        items += [Fact("", f"– {point.rstrip('.')}") for point in points]
    answer = f"{name}: {first[:1].lower()}{first[1:]}" if first else name
    return answer, (Section("Why", tuple(items), open_first=True),) if items else ()


def _choice(
    field: str, label: str, value: str, options: tuple[tuple[str, str], ...]
) -> ChoiceField:
    return ChoiceField(
        f"laying/{field}",
        label,
        value,
        options,
        step=STEP,
        edit=lambda p, v: with_laying(p, **{field: v}),
    )


def _height_field(project: Project) -> TextField:
    units = project.settings.units
    say = Display(units).length
    return TextField(
        "laying/wall_height",
        "Above the floor",
        say(project.laying.wall_height),
        step=STEP,
        read=lambda t: parse_length_like(
            t, units, "Height of the ducts", project.laying.wall_height
        ),
        edit=lambda p, v: with_laying(p, wall_height=v),
        say=say,
        quantity="length",
        amount=project.laying.wall_height,
    )


def _sizes_field(project: Project) -> TextField:
    """Sizes as a list: "4, 5, 6 in"; "all" for every size that is sold."""
    return TextField(
        "laying/sizes",
        "Sizes",
        _sizes_words(project, project.laying.sizes),
        step=STEP,
        read=lambda text: _read_sizes(project, text),
        edit=lambda p, v: with_laying(p, sizes=v),
        say=lambda v: _sizes_words(project, v),
    )


def _sizes_words(project: Project, sizes: Any) -> str:
    display = Display(project.settings.units)
    return ", ".join(display.diameter(size) for size in sizes) or ALL


def _read_sizes(project: Project, text: str) -> tuple[float, ...]:
    """Sizes (m) typed one after the other, each one of those that are sold. Raises `InputError`."""
    bare = text.strip().lower()
    if bare in ("", "all", ALL, "any"):
        return ()
    units, sold, display = (
        project.settings.units,
        pipe_sizes(project),
        Display(project.settings.units),
    )
    parts = [
        part for part in bare.replace(";", ",").replace(" and ", ",").split(",") if part.strip()
    ]
    unit = next((u for u in ("mm", "cm", "in", '"') if parts and parts[-1].strip().endswith(u)), "")
    found = []
    for part in parts:
        if part.strip()[-1:].isalpha() or part.strip().endswith('"'):
            given = part.strip()
        else:
            given = f"{part.strip()} {unit}"
        length = parse_length(given.strip(), units, "Sizes")
        near = min(sold, key=lambda size: abs(size - length))
        if abs(near - length) > 0.003:
            known = ", ".join(display.diameter(size) for size in sold)
            raise InputError("Sizes", part.strip(), f"write sizes that are sold: {known}; or all")
        found.append(near)
    return tuple(sorted(set(found)))
