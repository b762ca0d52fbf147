"""A frame of the shop in space: while it is turned, at rest, and after an edit."""

from __future__ import annotations

import pytest

from bench.conftest import best, report
from bench.test_solver import large_shop
from grey_current.build.solid.presets import preset
from grey_current.build.solid.shop_solids import shop_solids
from grey_current.build.solid.view import Packed, paper_look, seen, speck
from grey_current.design.parts.assembly import assemble
from grey_current.shop.duct_edits import with_height_changed
from tests.core.shops import demo, hall

SIZE = (690, 470)


@pytest.mark.parametrize(
    ("name", "project"),
    [("the loft", demo()), ("30 machines", large_shop()), ("60 machines", hall(60))],
)
def test_a_frame_in_space(name, project):
    speck()
    packed = Packed(shop_solids(project, assemble(project)))
    camera = preset(project, "corner", *SIZE)
    look = paper_look()
    turned = best(lambda: seen(packed, camera.orbited(3.0, 0.0), *SIZE, look.coarse()))
    rests = best(lambda: seen(packed, camera, *SIZE, look), 3)
    level = next(
        (run.id for run in project.runs if run.material == "spiral-steel"), project.runs[0].id
    )

    def edited():
        made = with_height_changed(project, level, 0.05)
        return Packed(shop_solids(made, assemble(made)))

    edit = best(edited, 3)
    faces = len(packed.faces)
    report(
        f"{name} in space, {faces:,} triangles: turned {turned * 1e3:.0f} ms, at rest "
        f"{rests * 1e3:.0f} ms, its solids after an edit {edit * 1e3:.0f} ms"
    )
    assert turned < rests
