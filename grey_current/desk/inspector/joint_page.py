"""The page of a joint between runs."""

from __future__ import annotations

from grey_current.design.findings.finding import Finding
from grey_current.design.parts.clean_outs import with_clean_out_there
from grey_current.desk.inspector.cost_section import cost_section
from grey_current.desk.inspector.fields import (
    ActionField,
    ChoiceField,
    Page,
    Section,
    length_field,
    pinned_field,
)
from grey_current.desk.inspector.improvement_fields import part_choices
from grey_current.desk.inspector.place_fields import place_fields
from grey_current.numerals import compact
from grey_current.shop import edits
from grey_current.shop.capped_ends import takes_clean_out
from grey_current.shop.duct_graph import AirPaths
from grey_current.shop.ducts import Point
from grey_current.shop.fitting_edits import takes_sweep, with_sweep
from grey_current.spelling import spelled
from grey_current.workspace.workspace import Workspace


def joint_page(workspace: Workspace, point: Point, found: tuple[Finding, ...]) -> Page:
    """What stands at a point where runs meet, turn or end."""
    paths = workspace.computed.paths
    meeting = len(paths.at[point.id])
    elbows = (
        ("smooth", "smooth elbow"),
        ("five gores", "elbow of five gores"),
        ("three gores", "elbow of three gores"),
        ("mitre", spelled("mitred elbow", workspace.project.settings.units)),
        ("two 45s", "two 45s"),
    )
    what = Section(
        "What it is",
        (
            length_field(
                workspace.project,
                f"{point.id}/height",
                "Height",
                point.height,
                edit=lambda p, v: edits.changed(p, point.id, height=v),
            ),
            *place_fields(workspace.project, point.id),
            *(_end_fields(point) if meeting == 1 else ()),
            *(_turn_fields(point, elbows) if meeting > 1 else ()),
            *(_wye_fields(point) if meeting > 2 else ()),
            pinned_field(point.id, point.pinned),
        ),
    )
    more = _joint_actions(paths, point)
    add = (Section("Add to it", more),) if more else ()
    sections = (what, *part_choices(workspace), *cost_section(workspace, {point.id}, ""), *add)
    return Page(
        workspace.computed.names.start(point.id),
        "Drag it; fittings here follow from the runs that meet.",
        sections,
        found,
    )


def _end_fields(point: Point) -> tuple[ChoiceField, ...]:
    ends = (("cap", "a cap"), ("open", "nothing: it is open"))
    return (
        ChoiceField(
            f"{point.id}/end",
            "On its end",
            point.end,
            ends,
            step="Change the end",
            edit=lambda p, v: edits.changed(p, point.id, end=v),
        ),
    )


def _turn_fields(point: Point, elbows: tuple[tuple[str, str], ...]) -> tuple[ChoiceField, ...]:
    radii = [1.0, 1.5, 2.0, 2.5]
    sizes = sorted({*radii, point.radius_ratio})
    return (
        ChoiceField(
            f"{point.id}/elbow",
            "Where it turns",
            point.elbow,
            elbows,
            step="Change the elbow",
            edit=lambda p, v: edits.changed(p, point.id, elbow=v),
        ),
        ChoiceField(
            f"{point.id}/radius",
            "Radius",
            f"{point.radius_ratio:g}",
            tuple((f"{r:g}", f"{compact(r)} diameters") for r in sizes),
            step="Change the elbow",
            edit=lambda p, v: edits.changed(p, point.id, radius_ratio=float(v)),
        ),
    )


def _wye_fields(point: Point) -> tuple[ChoiceField, ...]:
    angles: tuple[tuple[str, str], ...] = (
        ("drawn", "as drawn"),
        ("30", "30°"),
        ("45", "45°"),
        ("60", "60°"),
        ("90", "90°, a tee"),
    )
    now = "drawn" if point.wye_angle is None else f"{point.wye_angle:g}"
    if now not in dict(angles):
        angles = (*angles, (now, f"{now}°"))
    joins = (("wye", "a wye"), ("box", "a splitter box"))
    return (
        ChoiceField(
            f"{point.id}/joins",
            "Joined by",
            "box" if point.splitter else "wye",
            joins,
            step="Change the wye",
            edit=lambda p, v: edits.changed(p, point.id, splitter=v == "box"),
        ),
        ChoiceField(
            f"{point.id}/angle",
            "Angle of entry",
            now,
            angles,
            step="Change the wye",
            edit=lambda p, v: edits.changed(
                p, point.id, wye_angle=None if v == "drawn" else float(v)
            ),
        ),
    )


def _joint_actions(paths: AirPaths, point: Point) -> tuple[ActionField, ...]:
    """What can be put on at a joint: a clean-out past a turn, a floor sweep at a free end."""
    made: list[ActionField] = []
    if takes_clean_out(paths, point.id):
        made.append(
            ActionField(
                f"{point.id}/clean-out",
                "A clean-out past the turn",
                step="Add a clean-out",
                edit=lambda p: with_clean_out_there(p, point.id),
                detail="capped pipe straight on, for what settles behind it",
            )
        )
    if takes_sweep(paths, point.id):
        made.append(
            ActionField(
                f"{point.id}/sweep",
                "A floor sweep under it",
                step="Add a floor sweep",
                edit=lambda p: with_sweep(p, point.id)[0],
                detail="drop, gate and sweep at the main's end",
            )
        )
    return tuple(made)
