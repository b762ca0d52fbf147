"""The shop in space on one sheet, as it is looked at."""

from __future__ import annotations

from dataclasses import replace

from grey_current.build.solid.camera import Camera
from grey_current.build.solid.presets import preset
from grey_current.build.solid.shop_solids import shop_solids
from grey_current.build.solid.sight import seen_through
from grey_current.build.solid.view import Packed, paper_look, seen
from grey_current.design.parts.assembly import Assembly
from grey_current.desk.papers.layout import BODY, FOOT, MARGIN, SIZES, TITLE, PaperPage, Shot, Word
from grey_current.shop.model import Project

# Pixels of the picture for a millimetre.
FINE = 6.0


def space_page(
    project: Project, assembly: Assembly, camera: Camera | None, size: str = "A4"
) -> PaperPage:
    """A lying page with the shop as an eye sees it, or all of it from a corner without one. Raises
    `KeyError` for an unknown size.
    """
    tall, wide = SIZES[size]
    page = PaperPage(wide, tall)
    page.marks.append(Word(MARGIN, MARGIN + TITLE, project.name, TITLE, bold=True))
    top = MARGIN + TITLE * 1.6
    across, high = wide - 2 * MARGIN, tall - top - MARGIN - FOOT
    pixels = round(across * FINE), round(high * FINE)
    eye = camera or preset(project, "corner", *pixels)
    packed = Packed(shop_solids(project, assembly))
    look = replace(paper_look(), paper=(255.0, 255.0, 255.0), veiled=seen_through)
    page.marks.append(Shot(MARGIN, top, across, high, seen(packed, eye, *pixels, look).picture))
    foot = "Estimates for planning; measure before you cut."
    page.marks.append(Word(MARGIN, tall - MARGIN, foot, BODY))
    return page
