"""Inspector pages of the Machines stage: what a machine can take where it stands, and all its own
figures.
"""

from __future__ import annotations

from collections.abc import Iterator

from grey_current.design.findings.finding import of_element
from grey_current.design.space.lanes import REACH, SHEET_LENGTH, WIDEST_SHEET
from grey_current.desk.inspector.arrangement_fields import arrangements_section
from grey_current.desk.inspector.fields import (
    ActionField,
    ChoiceField,
    Fact,
    Item,
    Page,
    Section,
    TextField,
    choice,
    lead_field,
    length_field,
    measured_field,
    name_field,
    number_field,
    wish_field,
    yes_no,
)
from grey_current.desk.inspector.overview_page import overview
from grey_current.desk.inspector.pickup_fields import pickup_sections
from grey_current.desk.inspector.place_fields import foot_field, place_fields, stand_fields
from grey_current.errors import InputError
from grey_current.shop import edits
from grey_current.shop.collectors import Collector
from grey_current.shop.machines import Machine
from grey_current.shop.model import Project
from grey_current.shop.names import called
from grey_current.shop.stacking import stand_mates
from grey_current.spelling import localised
from grey_current.units import Display
from grey_current.work.day_tasks import TURN_SECONDS
from grey_current.workspace.workspace import Workspace

SIDES = ("front", "back", "left", "right")
FEEDS = (
    ("none", "no feed"),
    ("0", "left to right"),
    ("90", "front to back"),
    ("180", "right to left"),
    ("270", "back to front"),
)
CHIPS = (
    ("sanding dust", "only sanding dust"),
    ("dry dust", "dry dust"),
    ("shavings", "shavings"),
    ("heavy", "wet or heavy"),
)
CUTTERS = (
    ("none", "none"),
    ("blade", "blade"),
    ("straight knives", "straight knives"),
    ("segmented", "segmented"),
    ("abrasive", "abrasive"),
)


def stage_page(workspace: Workspace) -> Page | None:
    """The Machines stage's own page: of the selected machine, or of all when nothing is
    selected.
    """
    owner = (workspace.selection or "").split("/")[0]
    if owner in workspace.project.machine:
        return _machine_page(workspace, workspace.project.machine[owner])
    if workspace.selection is not None:
        return None
    sections = (
        Section("What it is for", (wish_field(workspace.project),)),
        arrangements_section(workspace),
    )
    return overview(workspace, sections, _machines_answer(workspace))


def _machines_answer(workspace: Workspace) -> str:
    """How many of the machines take the board that is wanted where they stand."""
    project = workspace.project
    count, wish = len(project.machines), project.settings.longest_board
    if not count:
        return "No machines yet."
    lanes = [lane for m in project.machines if (lane := workspace.space.lane(m)) is not None]
    if wish is None or not lanes:
        return "1 machine." if count == 1 else f"{count} machines."
    taken = sum(lane.across or lane.longest >= wish for lane in lanes)
    board = Display(project.settings.units).length(wish)
    return f"{taken} of {len(lanes)} machines take your {board} boards where they stand."


def _machine_page(workspace: Workspace, machine: Machine) -> Page:
    project = workspace.project
    found = tuple(of_element(workspace.known_findings, project, machine.id))
    sections = (
        *_lane_section(workspace, machine),
        _place_section(workspace, machine),
        _body_section(workspace, machine),
        _work_section(project, machine, tuple((c.id, c.name) for c in project.circuits)),
        *pickup_sections(workspace, machine),
    )
    if machine.pickups:
        caution = ""
    else:
        caution = "Nothing catches its dust: a hood behind it or a floor sweep beside it would."
    return Page(
        machine.name,
        f"{localised(machine.kind, project.settings.units)}. Drag it; R turns it.",
        sections,
        found,
        caution,
    )


def _lane_section(workspace: Workspace, machine: Machine) -> tuple[Section, ...]:
    lane = workspace.space.lane(machine)
    if lane is None:
        return ()
    project, display = workspace.project, Display(workspace.project.settings.units)
    wish = project.settings.longest_board
    # At a mitre saw the board lies across the feed: its length asks for the sides, not the lane.
    enough = lane.across or wish is None or lane.longest >= wish
    more = " and more" if lane.longest >= REACH - 0.01 else ""
    items: list[Item] = [
        Fact(
            "Longest board",
            display.about(lane.longest, down=True) + more,
            "good" if enough else "short",
        ),
        Fact("Before the cutter", _side(workspace, lane.before, lane.stopped_before)),
        Fact("After the cutter", _side(workspace, lane.after, lane.stopped_after)),
    ]
    if lane.through:
        names = ", ".join(project.element[o].name.lower() for o in lane.through)
        items.append(Fact("", f"Boards pass through the {names}."))
    if machine.takes_sheets:
        items.append(_sheet_fact(workspace, machine, display))
    moves = workspace.space.must_move(machine)
    items += [Fact("", f"Roll {called(project, other)} away first.") for other in moves]
    return (Section("What it can take here", tuple(items)),)


def _side(workspace: Workspace, free: float, stop: str | None) -> str:
    display = Display(workspace.project.settings.units)
    if stop:
        return f"{display.about(free)}, then {called(workspace.project, stop)}"
    return f"{display.about(free)}, free"


def _sheet_fact(workspace: Workspace, machine: Machine, display: Display) -> Fact:
    widest = workspace.space.widest_sheet(machine)
    if widest <= 0:
        return Fact("Sheets", f"none of {display.about(SHEET_LENGTH)}", "short")
    most = " or more" if widest >= WIDEST_SHEET - 0.01 else ""
    return Fact("Widest sheet", f"{display.about(widest, down=True)}{most}", "good")


def _place_section(workspace: Workspace, machine: Machine) -> Section:
    ident = machine.id
    # A parked place is selected by its own name and has its own fields for the place.
    chosen = workspace.selection or ident
    items: tuple[Item, ...] = (
        name_field(ident, machine.name),
        *place_fields(workspace.project, chosen if "/parked-" in chosen else ident),
        *stand_fields(workspace.project, machine),
        *_turning(workspace.project, machine),
        number_field(
            f"{ident}/turn",
            "Turned",
            machine.turn,
            edit=lambda p, v: edits.changed(p, ident, turn=v),
            unit="°",
        ),
        ActionField(
            f"{ident}/quarter",
            "Rotate 90°",
            step="Rotate",
            edit=lambda p: edits.turned(p, (ident,), 90),
        ),
        _feed(machine),
        yes_no(ident, "wheels", "On wheels", machine.wheels),
        ActionField(
            f"{ident}/park",
            "Add a parked place",
            step="Add a parked place",
            edit=lambda p: edits.parked(p, ident, machine.width + 0.3, 0.0),
        ),
    )
    return Section("Where it stands", items)


def _turning(project: Project, machine: Machine) -> tuple[Item, ...]:
    """How long turning the stand takes that it shares with others."""
    mates = stand_mates(project, machine.id)
    if not mates:
        return ()
    # The time belongs to the stand, which the machine that is up first stands for.
    owner = project.machine[machine.host] if machine.turns and machine.host else machine
    return (
        number_field(
            f"{machine.id}/turn-stand",
            "Turning the stand takes",
            TURN_SECONDS if owner.turn_over is None else owner.turn_over,
            edit=lambda p, v: edits.changed(p, owner.id, turn_over=v),
            unit="s",
        ),
    )


def _feed(machine: Machine) -> ChoiceField:
    """The direction of feed, from the machine's own front."""
    value = "none" if machine.feed is None else f"{machine.feed % 360:g}"
    # A feed that was drawn aslant is kept and shown, though nobody picks one.
    options = FEEDS if value in dict(FEEDS) else (*FEEDS, (value, f"{value}°"))
    return ChoiceField(
        f"{machine.id}/feed",
        "Feed",
        value,
        options,
        step="Change the feed",
        edit=lambda p, v: edits.changed(p, machine.id, feed=None if v == "none" else float(v)),
    )


def _body_section(workspace: Workspace, machine: Machine) -> Section:
    project, ident = workspace.project, machine.id
    height = machine.table_height if machine.height is None else machine.height
    items: tuple[Item, ...] = (
        length_field(
            project,
            f"{ident}/width",
            "Width",
            machine.width,
            edit=lambda p, v: edits.changed(p, ident, width=v),
        ),
        length_field(
            project,
            f"{ident}/depth",
            "Depth",
            machine.depth,
            edit=lambda p, v: edits.changed(p, ident, depth=v),
        ),
        length_field(
            project,
            f"{ident}/table",
            "Table height",
            machine.table_height,
            edit=lambda p, v: edits.changed(p, ident, table_height=v),
        ),
        length_field(
            project,
            f"{ident}/height",
            "Overall height",
            height,
            edit=lambda p, v: edits.changed(p, ident, height=v),
        ),
        *(() if stand_fields(project, machine) else (foot_field(project, machine),)),
        *_room_under(project, machine),
        length_field(
            project,
            f"{ident}/lane",
            "Widest stock",
            machine.lane_width,
            edit=lambda p, v: edits.changed(p, ident, lane_width=v),
        ),
        yes_no(
            ident, "takes_sheets", "Full sheets", machine.takes_sheets, ("go over it", "do not")
        ),
        service_field(machine),
    )
    return Section("Its body", items)


def _room_under(project: Project, machine: Machine) -> Iterator[Item]:
    """Where there is room under a machine: under its stand, and under the wings of its table."""
    fields = (("under", "Free under it"), ("left_wing", "Left wing"), ("right_wing", "Right wing"))
    for name, label in fields:
        yield length_field(
            project,
            f"{machine.id}/{name}",
            label,
            getattr(machine, name),
            edit=lambda p, v, name=name: edits.changed(p, machine.id, **{name: v}),  # type: ignore[misc]
        )


def service_field(machine: Machine | Collector) -> TextField:
    """The sides that must stay free, as a list of words."""

    def read(text: str) -> tuple[str, ...]:
        words = [w for w in text.lower().replace(",", " ").split() if w not in ("and", "none")]
        wrong = [w for w in words if w not in SIDES]
        if wrong:
            raise InputError("Service sides", wrong[0], f"name any of {', '.join(SIDES)}, or none")
        return tuple(dict.fromkeys(words))

    value = ", ".join(machine.service) or "none"
    return TextField(
        f"{machine.id}/service",
        "Keep free",
        value,
        step="Change the service sides",
        read=read,
        edit=lambda p, v: edits.changed(p, machine.id, service=v),
    )


def _work_section(
    project: Project, machine: Machine, circuits: tuple[tuple[str, str], ...]
) -> Section:
    ident = machine.id
    items: list[Item] = [
        choice(ident, "chips", "Chips", machine.chips, CHIPS),
        _cutter(machine),
        number_field(
            f"{ident}/uses",
            "Uses a week",
            machine.uses_per_week,
            edit=lambda p, v: edits.changed(p, ident, uses_per_week=v),
        ),
        number_field(
            f"{ident}/minutes",
            "Minutes a time",
            machine.minutes_per_use,
            edit=lambda p, v: edits.changed(p, ident, minutes_per_use=v),
        ),
        yes_no(
            ident, "priority", "Air", machine.priority, ("must never run short", "may run short")
        ),
    ]
    items += [
        number_field(
            f"{ident}/volts",
            "Motor on",
            machine.volts or 0.0,
            edit=lambda p, v: edits.changed(p, ident, volts=v or None),
            unit="V",
        ),
        number_field(
            f"{ident}/amps",
            "It draws",
            machine.amps or 0.0,
            edit=lambda p, v: edits.changed(p, ident, amps=v or None),
            unit="A",
        ),
        lead_field(project, machine),
    ]
    if circuits:
        items.append(
            ChoiceField(
                f"{ident}/circuit",
                "Circuit",
                machine.circuit or "",
                (("", "the nearest outlet's"), *circuits),
                step="Change the circuit",
                edit=lambda p, v: edits.changed(p, ident, circuit=v or None),
            )
        )
    items.append(
        measured_field(
            "volume",
            project,
            f"{ident}/litres",
            "Chips an hour",
            machine.chip_litres_per_hour or 0.0,
            edit=lambda p, v: edits.changed(p, ident, chip_litres_per_hour=v or None),
        )
    )
    if machine.note:
        items.append(Fact("", machine.note))
    return Section("Its work", tuple(items))


def _cutter(machine: Machine) -> ChoiceField:
    return ChoiceField(
        f"{machine.id}/cutter",
        "Cutter",
        machine.cutter or "none",
        CUTTERS,
        step="Change the cutter",
        edit=lambda p, v: edits.changed(p, machine.id, cutter=None if v == "none" else v),
    )
