"""Designs of one shop kept side by side: put aside, brought back, dropped. Pure functions."""

from __future__ import annotations

from grey_current.errors import InputError, RefusedEdit
from grey_current.shop.collectors import Collector
from grey_current.shop.edits import fresh_id
from grey_current.shop.machines import Machine
from grey_current.shop.model import Design, KeptDesign, Project
from grey_current.shop.values import checked_name

PARTS = tuple(Design.model_fields)
LETTERS = "ABCDEFGHIJKL"


def kept(project: Project, name: str | None = None) -> tuple[Project, str]:
    """The project with its present design kept as one more, and its id.

    Without a name it gets the next letter. Raises `InputError` when there are as many as a file
    holds, or the present design is kept already.
    """
    # Twice the same would only fill the twelve places.
    same = same_as_kept(project)
    if same is not None:
        raise RefusedEdit(
            "this design",
            "keeping it again",
            f"it is kept already, as “{same.name}”; change it first",
        )
    if len(project.kept_designs) >= len(LETTERS):
        raise RefusedEdit(
            "this design", "keeping one more", "delete one first; a file holds twelve"
        )
    taken = {kept_design.name for kept_design in project.kept_designs}
    name = name or next(f"Design {letter}" for letter in LETTERS if f"Design {letter}" not in taken)
    ident = fresh_id(project, name)
    kept_design = KeptDesign(
        id=ident, name=name, **{part: getattr(project, part) for part in PARTS}
    )
    return project.replaced(kept_designs=(*project.kept_designs, kept_design)), ident


def with_design(project: Project, name: str, design: Project) -> Project:
    """The project with another project's design kept in it; one of that name is replaced."""
    others = tuple(v for v in project.kept_designs if v.name != name)
    with_it, ident = kept(design.replaced(kept_designs=others), name)
    made = next(v for v in with_it.kept_designs if v.id == ident)
    return project.replaced(kept_designs=(*others, made))


def as_project(project: Project, kept_design: str) -> Project:
    """The shop with a kept design in place of the present one. Raises `InputError` for an unknown
    kept design.
    """
    chosen = find(project, kept_design)
    circuits = {circuit.id for circuit in project.circuits}
    parts = {part: getattr(chosen, part) for part in PARTS}
    hosts = {None, *chosen.machine, *chosen.collector, *(item.id for item in project.features)}
    for name in ("machines", "collectors"):  # a circuit may have been taken away since
        parts[name] = tuple(
            i if i.circuit in circuits else i.replaced(circuit=None) for i in parts[name]
        )
        # And so may what it stands on.
        parts[name] = tuple(i if i.host in hosts else _alone(i) for i in parts[name])
    return project.replaced(**parts)


def _alone(item: Machine | Collector) -> Machine | Collector:
    """Something without its host, which is gone."""
    if isinstance(item, Machine):
        return item.replaced(host=None, turns=False)
    return item.replaced(host=None)


def brought_back(project: Project, kept_design: str) -> Project:
    """The shop with a kept design in place again; the present one is kept first, so that nothing is
    lost.
    """
    if same_as_kept(project) is None:
        project, _ = kept(project)
    return as_project(project, kept_design)


def dropped(project: Project, kept_design: str) -> Project:
    """The project without one of its kept designs; a phase that it stood for stands as it is built
    by then.

    Raises `InputError` for an unknown one.
    """
    find(project, kept_design)
    phases = tuple(
        p.replaced(design=None) if p.design == kept_design else p for p in project.build.phases
    )
    rest = tuple(v for v in project.kept_designs if v.id != kept_design)
    return project.replaced(kept_designs=rest, build=project.build.replaced(phases=phases))


def renamed(project: Project, kept_design: str, name: str) -> Project:
    """The project with a kept design called otherwise. Raises `InputError` for an unknown one or an
    empty name.
    """
    name = checked_name("kept design", name)
    find(project, kept_design)
    return project.replaced(
        kept_designs=tuple(
            v.replaced(name=name) if v.id == kept_design else v for v in project.kept_designs
        )
    )


def find(project: Project, kept_design: str) -> KeptDesign:
    """A kept design by its id or name. Raises `InputError` for an unknown one."""
    for item in project.kept_designs:
        if kept_design in (item.id, item.name):
            return item
    known = ", ".join(v.id for v in project.kept_designs) or "none kept yet"
    raise InputError("kept design", kept_design, f"kept designs of this shop are: {known}")


def same_as_kept(project: Project) -> KeptDesign | None:
    """The kept design that is the very design that is open."""
    return next(
        (
            v
            for v in project.kept_designs
            if all(getattr(v, part) == getattr(project, part) for part in PARTS)
        ),
        None,
    )
