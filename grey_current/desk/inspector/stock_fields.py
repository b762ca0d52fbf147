"""What pipe is bought in and how it is cut and sealed: stock lengths, offcuts, kerf, sealing,
earthing.
"""

from __future__ import annotations

import re

from grey_current.build.papers import earthing_words
from grey_current.design.parts.takeoffs import is_hose
from grey_current.desk.inspector.fields import (
    ChoiceField,
    Fact,
    Item,
    Section,
    TextField,
    length_field,
)
from grey_current.shop.build_edits import with_build, with_offcuts, with_stock
from grey_current.shop.catalogue import materials
from grey_current.shop.fitting_sizes import stock_lengths
from grey_current.shop.model import Project
from grey_current.units import Display, parse_length

RESERVES = (
    ("one cut", "the longest once more"),
    ("one length", "one more length of each pipe"),
    ("none", "nothing in reserve"),
)
FIXINGS = (("wood", "studs and joists"), ("masonry", "masonry or concrete"))
SEALING = (("tape", "foil tape"), ("mastic", "duct mastic"), ("nothing", "nothing yet"))


def stock_sections(project: Project) -> list[Section]:
    """Pipe by material and size as it is bought and cut; nothing where there is no pipe."""
    pipes = sorted(
        {(run.material, round(run.diameter, 4)) for run in project.runs if not is_hose(run)}
    )
    if not pipes:
        return []
    plan = project.build
    items: list[Item] = [
        _stock_field(project, material) for material in dict.fromkeys(m for m, _ in pipes)
    ]
    items += [_offcut_field(project, material, bore) for material, bore in pipes]
    items += [
        length_field(
            project, "kerf", "The saw takes", plan.kerf, edit=lambda p, v: with_build(p, kerf=v)
        ),
        length_field(
            project,
            "keep-offcuts",
            "Keep offcuts from",
            plan.keep_offcuts,
            edit=lambda p, v: with_build(p, keep_offcuts=v),
        ),
    ]
    items.insert(
        -1,
        ChoiceField(
            "reserve",
            "If a cut goes wrong",
            plan.reserve,
            RESERVES,
            step="Change what is kept for a cut that goes wrong",
            edit=lambda p, v: with_build(p, reserve=v),
        ),
    )
    return [Section("Pipe as it is sold", tuple(items))]


def sealing_sections(project: Project) -> list[Section]:
    """How pipe is put together: sealed with what, plastic earthed or not; nothing where there is no
    pipe.
    """
    plan = project.build
    together: list[Item] = []
    if any(not is_hose(run) and run.material != "pvc" for run in project.runs):
        together.append(
            ChoiceField(
                "sealing",
                "Sealed with",
                plan.sealing,
                SEALING,
                step="Change the sealing",
                edit=lambda p, v: with_build(p, sealing=v),
            )
        )
    together.append(
        ChoiceField(
            "fixing",
            "Hangers go into",
            plan.fixing,
            FIXINGS,
            step="Change what hangers go into",
            edit=lambda p, v: with_build(p, fixing=v),
        )
    )
    words = earthing_words(project)
    if words:
        together.append(
            ChoiceField(
                "earthing",
                "Plastic pipe",
                "yes" if plan.earthing else "no",
                (("no", "not earthed"), ("yes", "earthed by a bare wire")),
                step="Change the earthing",
                edit=lambda p, v: with_build(p, earthing=v == "yes"),
            )
        )
        together += [Fact("", text) for text in words]
    return [Section("Put together", tuple(together))] if together else []


def _stock_field(project: Project, material: str) -> TextField:
    display = Display(project.settings.units)
    bore = next(run.diameter for run in project.runs if run.material == material)
    now = stock_lengths(project, material, bore)

    def say(lengths: tuple[float, ...]) -> str:
        return "; ".join(display.length(length) for length in lengths) or "the usual ones"

    return TextField(
        f"stock/{material}",
        materials()[material].label.split(",")[0],
        say(now),
        step="Change the stock lengths",
        read=lambda text: read_lengths(text, display, "Stock lengths"),
        edit=lambda p, v: with_stock(p, material, v),
        say=say,
    )


def _offcut_field(project: Project, material: str, bore: float) -> TextField:
    display = Display(project.settings.units)
    now = [
        offcut.length
        for offcut in project.build.offcuts
        if offcut.is_of(material, bore)
        for _ in range(offcut.count)
    ]

    def say(lengths: tuple[float, ...]) -> str:
        return "; ".join(display.length(length) for length in lengths) or "none"

    return TextField(
        f"offcuts/{material}/{bore:.4f}",
        f"Offcuts, {display.diameter(bore)}",
        say(tuple(now)),
        step="Change the offcuts",
        read=lambda text: read_lengths(text, display, "Offcuts"),
        edit=lambda p, v: with_offcuts(p, material, bore, v),
        say=say,
    )


def read_lengths(text: str, display: Display, where: str) -> tuple[float, ...]:
    """Several lengths with semicolons between them; none for nothing. Raises `InputError` for one
    that is none.
    """
    if text.strip().lower() in ("", "-", "–", "none", "the usual ones"):
        return ()
    parts = [part for part in re.split(r";|\band\b|\n", text) if part.strip()]
    return tuple(parse_length(part, display.system, where) for part in parts)
