"""Designs of one shop kept side by side: put aside, brought back, dropped. Pure functions."""

from __future__ import annotations

from grey_current.errors import InputError
from grey_current.shop.edits import fresh_id
from grey_current.shop.model import Design, Project, Variant

PARTS = tuple(Design.model_fields)
LETTERS = "ABCDEFGHIJKL"


def kept(project: Project, name: str | None = None) -> tuple[Project, str]:
    """The project with its present design kept as one more variant, and that variant's id.

    Without a name it gets the next letter. Raises `InputError` when there are as many as a file holds, or the
    present design is kept already.
    """
    same = _same(project)
    if same is not None:
        raise InputError("variants", project.name, f"this design is kept already, as “{same.name}”; change it first")
    if len(project.variants) >= len(LETTERS):
        raise InputError("variants", project.name, "take one away first; a file holds twelve")
    taken = {variant.name for variant in project.variants}
    name = name or next(f"Design {letter}" for letter in LETTERS if f"Design {letter}" not in taken)
    ident = fresh_id(project, name)
    variant = Variant(id=ident, name=name, **{part: getattr(project, part) for part in PARTS})
    return project.but(variants=(*project.variants, variant)), ident


def with_design(project: Project, name: str, design: Project) -> Project:
    """The project with another project's design kept among its variants; one of that name is replaced."""
    others = tuple(v for v in project.variants if v.name != name)
    with_it, ident = kept(design.but(variants=others), name)
    made = next(v for v in with_it.variants if v.id == ident)
    return project.but(variants=(*others, made))


def as_project(project: Project, variant: str) -> Project:
    """The shop with a kept design in place of the present one. Raises `InputError` for an unknown variant."""
    chosen = find(project, variant)
    circuits = {circuit.id for circuit in project.circuits}
    parts = {part: getattr(chosen, part) for part in PARTS}
    for name in ("machines", "collectors"):  # a circuit may have been taken away since
        parts[name] = tuple(i if i.circuit in circuits else i.but(circuit=None) for i in parts[name])
    return project.but(**parts)


def brought_back(project: Project, variant: str) -> Project:
    """The shop with a kept design in place again; the present one is kept first, so that nothing is lost."""
    if _same(project) is None:
        project, _ = kept(project)
    return as_project(project, variant)


def dropped(project: Project, variant: str) -> Project:
    """The project without one of its variants. Raises `InputError` for an unknown one."""
    find(project, variant)
    return project.but(variants=tuple(v for v in project.variants if v.id != variant))


def renamed(project: Project, variant: str, name: str) -> Project:
    """The project with a variant called otherwise. Raises `InputError` for an unknown variant or an empty name."""
    if not name.strip() or len(name) > 120:
        raise InputError("variant, name", name, "write a name of 1 to 120 letters")
    find(project, variant)
    return project.but(variants=tuple(v.but(name=name) if v.id == variant else v for v in project.variants))


def find(project: Project, variant: str) -> Variant:
    """A variant by its id or name. Raises `InputError` for an unknown one."""
    for item in project.variants:
        if variant in (item.id, item.name):
            return item
    known = ", ".join(v.id for v in project.variants) or "none kept yet"
    raise InputError("variant", variant, f"variants of this shop are: {known}")


def _same(project: Project) -> Variant | None:
    """The variant that is the very design that is open."""
    return next(
        (v for v in project.variants if all(getattr(v, part) == getattr(project, part) for part in PARTS)), None
    )
