"""Edits of a room's ceiling: its slope, and the dormers in it. Pure functions."""

from __future__ import annotations

from typing import Any, Literal

from grey_current.errors import InputError, RefusedEdit
from grey_current.shop.edits import changed, checked
from grey_current.shop.model import Project
from grey_current.shop.person import HEAD_ROOM
from grey_current.shop.roofs import axes, extent, highest, lowest
from grey_current.shop.room import MOST_DORMERS, Dormer, Room
from grey_current.shop.values import XY

# m over the eaves that a dormer's ceiling is at least, to begin with.
OVER_EAVE = 0.5
# m: a dormer as one is usually built, and the least that is left of the eave for one.
USUAL_WIDTH, LEAST_WIDTH = 1.5, 0.3


def with_slope(project: Project, room: str, along: str) -> Project:
    """The project with a room's ceiling level ("none"), rising along x or y, or with a ridge in the
    middle of that way ("ridge x", "ridge y").
    """
    item: Room = project.element[room]
    if along == "none":
        return changed(project, room, far_ceiling=None, ridge=None)
    shape, _, axis = along.rpartition(" ")
    higher = max(item.far_ceiling or 0.0, item.ridge or 0.0, item.ceiling + 0.5)
    # Dormers of another roof may be higher than this one.
    higher = max((higher, *(dormer.ceiling for dormer in item.dormers)))
    # Along another eave each dormer begins where it did, or as near to that as it goes.
    low, high = extent(item, 1 if axis == "x" else 0)
    values = {
        "slopes_along": axis,
        "dormers": tuple(_within(d, d.start, high - low) for d in item.dormers),
    }
    if shape == "ridge":
        return changed(project, room, far_ceiling=None, ridge=higher, **values)
    return changed(project, room, far_ceiling=higher, ridge=None, **values)


def with_dormer(project: Project, room: str) -> Project:
    """The project with one more dormer in a room's roof, in the first stretch of an eave that has
    room for one. Raises `RefusedEdit` where none has, and for a level ceiling.
    """
    item: Room = project.element[room]
    where = f"{item.name}, dormer"
    if item.far_ceiling is None and item.ridge is None:
        raise RefusedEdit(where, "a level ceiling", "choose how it slopes first")
    if len(item.dormers) >= MOST_DORMERS:
        raise RefusedEdit(where, "one more", f"a roof holds {MOST_DORMERS}")
    eaves: tuple[Literal["low", "high"], ...] = ("low", "high")
    for eave in eaves if item.ridge is not None else (lower_eave(item),):
        for start, end in _gaps(item, eave):
            width = min(USUAL_WIDTH, end - start)
            # In the middle of the stretch, so high that one stands in it.
            made = Dormer(
                start=round((start + end - width) / 2, 4),
                width=round(width, 4),
                ceiling=min(highest(item), max(lowest(item) + OVER_EAVE, HEAD_ROOM)),
                eave=eave,
            )
            return changed(project, room, dormers=(*item.dormers, made))
    raise RefusedEdit(where, "one more", "narrow the dormers that are there")


def _gaps(room: Room, eave: Literal["low", "high"]) -> list[tuple[float, float]]:
    """The stretches (m) of an eave between its dormers that have room for one more."""
    low, high = extent(room, axes(room)[1])
    there = [d for d in room.dormers if d.eave == eave or room.ridge is None]
    there.sort(key=lambda dormer: dormer.start)
    begins = [0.0, *(d.start + d.width for d in there)]
    ends = [*(d.start for d in there), high - low]
    both = zip(begins, ends, strict=True)
    return [(start, end) for start, end in both if end - start >= LEAST_WIDTH]


def lower_eave(room: Room) -> Literal["low", "high"]:
    """Which eave of a roof that slopes one way is the lower: at the low or the high x or y."""
    return "low" if room.ceiling <= (room.far_ceiling or room.ceiling) else "high"


def with_dormer_changed(project: Project, room: str, number: int, **values: Any) -> Project:
    """The project with other values of a room's dormer (number from 0). Raises `InputError` for
    one that leaves its eave, is higher than the roof or overlaps another.
    """
    item: Room = project.element[room]
    where = f"{item.name}, dormer {number + 1}"
    dormer = checked(item.dormers[number], where, values)
    start, end = extent(item, axes(item)[1])
    if dormer.start + dormer.width > end - start + 1e-6:
        raise InputError(where, "past the end of the eave", "let it begin earlier, or narrow it")
    return changed(project, room, dormers=_with_one(item, number, dormer))


def without_dormer(project: Project, room: str, number: int) -> Project:
    """The project without one of a room's dormers (number from 0)."""
    return changed(project, room, dormers=_with_one(project.element[room], number))


def _with_one(room: Room, number: int, *other: Dormer) -> tuple[Dormer, ...]:
    return (*room.dormers[:number], *other, *room.dormers[number + 1 :])


def kept_dormers(room: Room, outline: tuple[XY, ...]) -> tuple[Dormer, ...]:
    """A room's dormers where they are, when its walls get another outline: they are measured from
    the end of the eave. One that the eave no longer reaches ends at its end.
    """
    axis = axes(room)[1]
    along = [corner[axis] for corner in outline]
    shift = extent(room, axis)[0] - min(along)
    return tuple(_within(d, d.start + shift, max(along) - min(along)) for d in room.dormers)


def stretched_dormers(room: Room, outline: tuple[XY, ...]) -> tuple[Dormer, ...]:
    """A room's dormers when the whole room is stretched: each keeps its width and its share of the
    way along the eave.
    """
    axis = axes(room)[1]
    low, high = extent(room, axis)
    along = [corner[axis] for corner in outline]
    times = (max(along) - min(along)) / (high - low)
    return tuple(
        _within(d, (d.start + d.width / 2) * times - d.width / 2, max(along) - min(along))
        for d in room.dormers
    )


def _within(dormer: Dormer, start: float, length: float) -> Dormer:
    """A dormer that begins at a place (m) along an eave of a length, or as near to that as it
    goes.
    """
    width = min(dormer.width, length)
    start = min(max(start, 0.0), length - width)
    return dormer.replaced(start=round(start, 4), width=round(width, 4))
