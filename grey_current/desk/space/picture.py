"""What the view in space shows, as a picture: the solids of the shop, what of them is lit, and the
design that it is compared with beside it.
"""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterator
from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np
import shapely
from PyQt6.QtGui import QImage

from grey_current.build.solid.camera import Camera
from grey_current.build.solid.mesh import prism
from grey_current.build.solid.shop_solids import Solid, shop_solids, up_by_now
from grey_current.design.flow.states import gates_open
from grey_current.design.parts.assembly import assemble
from grey_current.desk.floor.scene import FloorScene, build_scene
from grey_current.desk.space.colours import colour_of, rgb
from grey_current.desk.theme import Palette
from grey_current.shop.differences import differing
from grey_current.workspace.workspace import Workspace

if TYPE_CHECKING:
    from grey_current.build.solid.view import Colour, Packed, Seen

# Pixels of the screen for one of ours from which on fine is fine enough.
SHARP = 1.5
# Problems of things that are in one another's way; m that a sheet of light is thick.
CLASHES = frozenset(
    {
        *("clash-duct", "clash-lane", "overlap", "in-the-wall", "through-wall", "above-ceiling"),
        *("no-pipe-room", "no-joint-room", "door-blocked", "too-tall", "over-table", "hose-across"),
    }
)
SHEET = 0.004


class SpacePicture:
    """The picture of a workspace. What draws it is loaded in a thread when it is made.

    Attributes:
        scene: What the plan shows, with its states; None before anything was shown.
        seen: The picture as it was drawn last, and `seen_before` that of the design before.
        differing: What differs between the two.
        divide: Where the two meet, as a share of the width.
    """

    def __init__(self, workspace: Workspace) -> None:
        self.workspace = workspace
        self.scene: FloorScene | None = None
        self.seen: Seen | None = None
        self.seen_before: Seen | None = None
        self.differing: frozenset[str] = frozenset()
        self.divide = 0.5
        self.packed: Packed | None = None
        self._stale = True
        self._before: Packed | None = None
        self._of_before: object = None
        self._loader = threading.Thread(target=_load, name="raster", daemon=True)
        self._loader.start()

    @property
    def loaded(self) -> bool:
        """Whether what draws is there."""
        return not self._loader.is_alive()

    def wait(self) -> None:
        """Wait until it is."""
        self._loader.join()

    def show_workspace(self) -> FloorScene:
        """Take over what the workspace shows now; returned is what the plan shows of it."""
        all_lanes = self.scene is not None and self.scene.all_lanes
        self.scene = build_scene(self.workspace, "machines", all_lanes)
        self._stale = True
        return self.scene

    def set_all_lanes(self, shown: bool) -> None:
        """Show the ways of the boards of all machines, or only of what is chosen or runs."""
        if self.scene is not None:
            self.scene = replace(self.scene, all_lanes=shown)
            self._stale = True

    def lit(self) -> frozenset[str]:
        """What stands out: of a pickup its machine, of a joint the ducts that meet there; the part
        that is put up next.
        """
        if self.workspace.steps_shown:
            return frozenset(self.workspace.steps_shown[-1].parts)
        project = self.workspace.project
        found: set[str] = set()
        for ref in self.workspace.lit:
            found.add(ref.split("/", maxsplit=1)[0])
            found.update(run.id for run in project.runs if ref in run.ends)
        return frozenset(found)

    def in_the_way(self) -> frozenset[str]:
        """What is in one another's way, by the problems that are known."""
        found: set[str] = set()
        for finding in self.workspace.known_findings:
            if finding.code in CLASHES and finding.severity != "note":
                found.update((finding.element, *finding.also))
        return frozenset(ref.split("/", maxsplit=1)[0] for ref in found)

    def solids(self) -> Packed | None:
        """All that is drawn; None before it can be."""
        if self.scene is None or not self.loaded:
            return None
        from grey_current.build.solid.view import Packed  # noqa: PLC0415 - it takes numba along

        if self._stale:
            self._stale = False
            project, steps = self.scene.project, self.workspace.steps_shown
            if project is self.workspace.project:
                assembly = self.workspace.computed.parts.assembly
            else:
                assembly = assemble(project)
            gates = frozenset(gates_open(self.workspace.shown_scenario))
            made = shop_solids(project, assembly, gates)
            self.packed = Packed(up_by_now(made, steps) if steps else (*made, *self._lanes()))
        return self.packed

    def draw(
        self, camera: Camera, palette: Palette, size: tuple[int, int], cut: float, times: int
    ) -> QImage | None:
        """What an eye sees, in so many pixels, nothing higher than a `cut` (m); before and now
        where two designs are compared. None before it can be drawn.
        """
        packed = self.solids()
        if packed is None or self.scene is None:
            return None
        from grey_current.build.solid.sight import seen_through  # noqa: PLC0415
        from grey_current.build.solid.view import Look, seen  # noqa: PLC0415

        wide, high = size
        before = self._solids_before()
        lit = (
            (self.in_the_way(), rgb(palette.starved)),
            (self.differing, rgb(palette.short)),
            (self.lit(), rgb(palette.accent)),
        )
        look = Look(
            self._colour_of(palette),
            rgb(palette.bench),
            rgb(palette.ink),
            lit,
            times,
            cut,
            seen_through,
        )
        self.seen, self.seen_before = seen(packed, camera, wide, high, look), None
        picture = self.seen.picture
        if before is not None:
            plain = replace(look, colour_of=colour_of(palette, {}, frozenset()))
            self.seen_before = seen(before, camera, wide, high, plain)
            at = round(self.divide * wide)
            picture = np.concatenate([self.seen_before.picture[:, :at], picture[:, at:]], axis=1)
        image = QImage(picture.tobytes(), wide, high, wide * 4, QImage.Format.Format_RGB32)
        # Its own memory: the bytes are gone with this call.
        return image.copy()

    def shown_at(self, share: float) -> Seen | None:
        """The picture that is shown at a share of the width: before or now."""
        before = self.seen_before is not None and share < self.divide
        return self.seen_before if before else self.seen

    def _solids_before(self) -> Packed | None:
        """The kept design that the present one is compared with; None where there is none."""
        kept = self.workspace.compared_project
        if kept is None or self.workspace.steps_shown:
            self._before, self.differing, self._of_before = None, frozenset(), None
            return None
        from grey_current.build.solid.view import Packed  # noqa: PLC0415

        key = (kept, self.workspace.project)
        if self._of_before != key:
            self._of_before = key
            self._before = Packed(shop_solids(kept, assemble(kept)))
            self.differing = differing(kept, self.workspace.project)
        return self._before

    def _lanes(self) -> Iterator[Solid]:
        """The ways of the boards as sheets of light, of what is chosen or runs."""
        scene = self.scene
        assert scene is not None
        shown = {*self.workspace.running, *(ref.split("/")[0] for ref in self.workspace.selected)}
        for lane in scene.lanes:
            if scene.all_lanes or lane.machine in shown:
                machine = scene.project.machine[lane.machine]
                high = machine.bottom + machine.table_height
                yield Solid("", "lane", prism(shapely.Polygon(lane.outline), high, high + SHEET))

    def _colour_of(self, palette: Palette) -> Callable[[Solid], Colour]:
        """What solids are painted in: what is put up next in the colour of what is lit."""
        assert self.scene is not None
        states = {duct.run: duct.state for duct in self.scene.ducts}
        usual = colour_of(palette, states, frozenset(self.workspace.running))
        steps = self.workspace.steps_shown
        next_up = frozenset(steps[-1].parts) if steps else frozenset()
        lit = rgb(palette.accent)
        return lambda solid: lit if solid.part in next_up else usual(solid)


def _load() -> None:
    """Load what draws, and let it draw a speck, so that its machine code is there."""
    from grey_current.build.solid.view import speck  # noqa: PLC0415

    speck()
