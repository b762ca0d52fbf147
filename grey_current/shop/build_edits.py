"""Edits of what is said about building: prices, stock, what is owned and done, phases. Pure
functions.
"""

from __future__ import annotations

import datetime
from collections.abc import Iterable
from typing import Any

from grey_current.errors import InputError, RefusedEdit
from grey_current.shop.build_plan import (
    MOST_PHASES,
    CutPiece,
    Offcut,
    Owned,
    OwnSize,
    Phase,
    Price,
    ShopMade,
    StockLength,
)
from grey_current.shop.edits import changed, changed_all, checked
from grey_current.shop.model import Project
from grey_current.shop.places import bodies
from grey_current.units import Display


def with_build(project: Project, **changes: Any) -> Project:
    """The project with some of its building plan changed. Raises `InputError` for a value that
    cannot be.
    """
    made = checked(project.build, "building", changes, Display(project.settings.units))
    return project.replaced(build=made)


def with_price(
    project: Project, key: str, price: float | None, date: datetime.date | None = None
) -> Project:
    """The project with another price of a part, in its own currency, as of today; None takes the
    price away.
    """
    others = tuple(item for item in project.build.prices if item.key != key)
    if price is None:
        return with_build(project, prices=others)
    when = date or datetime.date.today()
    raw = {"key": key, "price": price, "currency": project.build.currency, "date": when}
    return with_build(project, prices=(*others, raw))


def with_prices(project: Project, found: Iterable[Price]) -> Project:
    """The project with prices put in, each in place of an older one of its part."""
    new = {item.key: item for item in found}
    others = tuple(item for item in project.build.prices if item.key not in new)
    return with_build(project, prices=(*others, *new.values()))


def with_owned(
    project: Project,
    key: str,
    *,
    had: float | None = None,
    bought: float | None = None,
    used: float | None = None,
) -> Project:
    """The project with another number of a part that is there already, had before or bought, or
    used up.
    """
    now = next((item for item in project.build.owned if item.key == key), Owned(key=key))
    given = {"had": had, "bought": bought, "used": used}
    raw = {name: getattr(now, name) if value is None else value for name, value in given.items()}
    others = tuple(item for item in project.build.owned if item.key != key)
    return with_build(
        project, owned=(*others, {"key": key, **raw}) if any(raw.values()) else others
    )


def with_own_size(project: Project, key: str, takes: tuple[float, ...] | None) -> Project:
    """The project with what a part takes of the centre line as it was measured (m); None takes that
    away.
    """
    others = tuple(item for item in project.build.sizes if item.key != key)
    made = () if takes is None else (OwnSize(key=key, takes=takes),)
    return with_build(project, sizes=(*others, *made))


def with_stock(project: Project, material: str, lengths: tuple[float, ...]) -> Project:
    """The project with the lengths (m) in which pipe of a material is bought; none for the usual
    ones.
    """
    others = tuple(item for item in project.build.stock if item.material != material)
    new = [StockLength(material=material, length=length) for length in sorted(set(lengths))]
    return with_build(project, stock=(*others, *new))


def with_offcuts(
    project: Project, material: str, diameter: float, lengths: tuple[float, ...]
) -> Project:
    """The project with other offcuts (m) of a pipe that are there already."""
    same = [offcut for offcut in project.build.offcuts if offcut.is_of(material, diameter)]
    others = tuple(item for item in project.build.offcuts if item not in same)
    counted = {length: lengths.count(length) for length in sorted(set(lengths))}
    new = [
        Offcut(material=material, diameter=diameter, length=n, count=c) for n, c in counted.items()
    ]
    return with_build(project, offcuts=(*others, *new))


# -- what is done


def with_cut(project: Project, piece: str, length: float | None) -> Project:
    """The project with a piece ticked as cut to a length (m), or not cut."""
    others = tuple(item for item in project.build.cut if item.piece != piece)
    made = () if length is None else (CutPiece(piece=piece, length=length),)
    return with_build(project, cut=(*others, *made))


def with_done(project: Project, runs: Iterable[str], what: str, done: bool) -> Project:
    """The project with runs ticked as mounted or sealed, or not; what is sealed is mounted."""
    wanted = [ident for ident in runs if ident in project.run]
    mounted, sealed = project.build.mounted, project.build.sealed
    # What is sealed is mounted, and what is taken down is no longer sealed.
    if what == "mounted" or done:
        mounted = _ticked(mounted, wanted, done)
    if what == "sealed" or not done:
        sealed = _ticked(sealed, wanted, done)
    return with_build(project, mounted=mounted, sealed=sealed)


def _ticked(now: tuple[str, ...], runs: list[str], done: bool | None) -> tuple[str, ...]:
    if done is None:
        return now
    rest = tuple(ident for ident in now if ident not in runs)
    return (*rest, *runs) if done else rest


# -- phases


def with_phase_of(project: Project, elements: Iterable[str], number: int) -> Project:
    """The project with machines, collectors and runs put into a phase; the phase is made where it
    is missing.

    Raises `RefusedEdit` for what belongs to no phase.
    """
    # A pickup stands for its machine, a gate for its run.
    chosen = list(dict.fromkeys(ident.split("/", maxsplit=1)[0] for ident in elements))
    chosen = [project.gate[ident].run if ident in project.gate else ident for ident in chosen]
    wrong = [
        i
        for i in chosen
        if not (i in project.machine or i in project.collector or i in project.run)
    ]
    if wrong or not chosen:
        raise RefusedEdit("a phase", "putting this into it", "choose machines, collectors or ducts")
    return changed_all(with_phase_count(project, number), chosen, phase=number)


def with_phase_count(project: Project, least: int) -> Project:
    """The project with at least so many phases. Raises `RefusedEdit` for more than nine."""
    if least > MOST_PHASES:
        raise RefusedEdit("the phases", f"a {least}th one", "nine are as many as there can be")
    now = project.build.phases
    more = tuple(Phase(name=f"Phase {number}") for number in range(len(now) + 1, least + 1))
    return with_build(project, phases=(*now, *more)) if more else project


def with_phase(project: Project, number: int, **changes: Any) -> Project:
    """The project with a phase's name, budget or design changed. Raises `InputError` for an unknown
    one.
    """
    now = project.build.phases
    if not 1 <= number <= len(now):
        raise InputError(
            "phase",
            number,
            f"phases of this shop are 1 to {len(now)}" if now else "make a phase first",
        )
    new = checked(now[number - 1], f"Phase {number}", changes, Display(project.settings.units))
    return with_build(project, phases=(*now[: number - 1], new, *now[number:]))


def without_phases(project: Project) -> Project:
    """The project to be built in one go."""
    late = [i.id for i in bodies(project) if i.phase != 1]
    own = [run.id for run in project.runs if run.phase is not None]
    made = changed_all(project, late, phase=1) if late else project
    made = changed_all(made, own, phase=None) if own else made
    return with_build(made, phases=())


# -- made in the shop


def with_shop_made(project: Project, item: ShopMade) -> Project:
    """The project with a thing made in the shop for an element; one of that template there is
    replaced.
    """
    return with_build(project, made=(*_other_made(project, item.template, item.element), item))


def without_shop_made(project: Project, template: str, element: str) -> Project:
    """The project without a thing made in the shop."""
    return with_build(project, made=_other_made(project, template, element))


def _other_made(project: Project, template: str, element: str) -> tuple[ShopMade, ...]:
    return tuple(m for m in project.build.made if (m.template, m.element) != (template, element))


def with_run_phase(project: Project, run: str, number: int | None) -> Project:
    """The project with a run built in a phase of its own; None: with the first machine that it
    serves.
    """
    made = changed(project, run, phase=number)
    return made if number is None else with_phase_count(made, number)
