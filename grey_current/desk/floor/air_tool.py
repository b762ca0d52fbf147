"""The pointer at the Air and Gates stages: selects everything that air passes, drags joints, draws
ducts.
"""

from __future__ import annotations

import itertools
import math

from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QPainter

from grey_current.design.parts.connecting import connected
from grey_current.design.space.clashes import keep_clear
from grey_current.desk.floor.building_paint import paint_tape
from grey_current.desk.floor.canvas import Canvas
from grey_current.desk.floor.tool import REACH, Tool, far, near_port, on_body
from grey_current.errors import RefusedEdit
from grey_current.shop.catalogue import materials
from grey_current.shop.duct_edits import (
    beside_walls,
    drawn_on,
    first_corner,
    last_heading,
    snapped_heading,
    split,
    upright,
    with_point_moved,
)
from grey_current.shop.ducts import Run
from grey_current.shop.edits import Edit
from grey_current.shop.model import Project
from grey_current.shop.names import called
from grey_current.shop.places import XY, position
from grey_current.shop.room import building_turn, off_line
from grey_current.shop.slides import with_gate_slid, with_run_moved
from grey_current.units import Display

# Pixels within which a drawn duct's corner settles close along a wall.
WALL_REACH = 14.0


class AirTool(Tool):
    """Air: everything that air passes can be selected; machines and collectors can be moved; ducts
    are drawn.
    """

    def __init__(self, floor: Canvas) -> None:
        super().__init__(floor)
        self._from: str | None = None
        # Where along a run a branch begins, when `_from` is one.
        self._share = 0.5
        self._over: QPointF | None = None

    def press(self, spot: QPointF, together: bool) -> bool:
        placing = self.workspace.placing
        if placing is None or placing.kind != "duct":
            return super().press(spot, together)
        self.floor.attempt(lambda: self._draw(spot))
        return True

    def _draw(self, spot: QPointF) -> None:
        """The first click begins at a collector or a duct; every other one draws the duct on to
        there.

        A click on a port that has no duct yet makes its whole branch.
        """
        port = near_port(self, spot)
        # A port that waits is connected by one click, wherever the drawing is.
        if port is not None and not any(port in r.touches for r in self.project.runs):
            name = self.project.pickup[port][0].name.lower()
            self.workspace.edit(f"Connect the {name}", lambda p: connected(p, port))
            self._from = None
            return
        begun = self._from
        if begun is None or self.project.find(begun) is None:
            self._begin(spot)
            return
        made: list[str] = []
        x, y = self._aimed(begun, spot)
        drawing = self.workspace.drawing
        self._keep_clear(begun, (x, y))
        share = self._share

        def change(project: Project) -> Project:
            start = begun
            # In the middle of a duct: it is split there, and the new one begins at the joint.
            if begun in project.run:
                project, start = split(project, begun, share)
            after, point = drawn_on(project, start, x, y, drawing)
            made[:] = [point]
            return after

        self.workspace.edit("Draw a duct", change)
        self._from = made[0]

    def _begin(self, spot: QPointF) -> None:
        """Begin at a joint, a collector, or somewhere along a rigid duct, where a wye will be put
        in.
        """
        found = self._near_point(spot) or self._on_duct(spot) or on_body(self, spot)
        run = self.project.run.get(found or "")
        if run is not None and upright(self.project, run):
            found, run = run.end if run.end in self.project.point else run.start, None
        if run is not None:
            self._share = self._share_of(run, self.floor.view.place(spot))
        elif found not in self.project.collector and found not in self.project.point:
            raise RefusedEdit(
                "a duct", "beginning it here", "begin at a collector, or anywhere on a duct"
            )
        self._from = found
        self.workspace.select(found)

    def _share_of(self, run: Run, place: XY) -> float:
        """The share of a run's way that is nearest to a place, away from its ends."""
        if materials()[run.material].hose:
            raise RefusedEdit(
                called(self.project, run.id), "a branch from it", "begin on a rigid duct"
            )
        a, b = position(self.project, run.start), position(self.project, run.end)
        flat = math.dist(a[:2], b[:2]) or 1.0
        along = ((place[0] - a[0]) * (b[0] - a[0]) + (place[1] - a[1]) * (b[1] - a[1])) / flat
        along = round(along / self.step) * self.step
        return min(max(along / flat, 0.02), 0.98)

    def _origin(self) -> tuple[float, float, float]:
        """Where the duct that is drawn goes on from."""
        begun = self._from or ""
        run = self.project.run.get(begun)
        if run is None:
            return position(self.project, begun)
        a, b = position(self.project, run.start), position(self.project, run.end)
        x, y, z = (p + (q - p) * self._share for p, q in zip(a, b, strict=True))
        return x, y, z

    def _aimed(self, begun: str, spot: QPointF) -> XY:
        """Where a click means: at an angle that fittings have, close along a wall that is near,
        else on the grid.
        """
        origin = self._origin()[:2]
        x, y = self.floor.view.place(spot)
        collector = self.project.collector.get(begun)
        if collector is not None:
            origin = first_corner(self.project, collector, self.workspace.drawing, (x, y))
        if not self.workspace.drawing.free:
            x, y = snapped_heading(
                origin, (x, y), self._heading(begun), building_turn(self.project.rooms)
            )
        far = math.dist(origin, (x, y)) or 1.0
        whole = round(far / self.step) * self.step / far
        place = origin[0] + (x - origin[0]) * whole, origin[1] + (y - origin[1]) * whole
        reach = WALL_REACH / self.floor.view.scale
        return beside_walls(self.project, origin, place, self._width(begun), reach)

    def _heading(self, begun: str) -> XY | None:
        """The heading that the drawn duct turns from."""
        run = self.project.run.get(begun)
        if run is None:
            return None if begun in self.project.collector else last_heading(self.project, begun)
        a, b = position(self.project, run.start), position(self.project, run.end)
        flat = math.dist(a[:2], b[:2]) or 1.0
        return (b[0] - a[0]) / flat, (b[1] - a[1]) / flat

    def _width(self, begun: str) -> float:
        """Diameter (m) of the duct that is drawn."""
        meeting = (r for r in self.project.runs if begun in (r.id, r.start, r.end))
        pattern = next(meeting, None)
        return self.workspace.drawing.diameter or (pattern.diameter if pattern else 0.15)

    def _keep_clear(self, begun: str, place: XY) -> None:
        """Raises `RefusedEdit` for a way through a post or chimney."""
        if begun in self.project.collector:
            return
        width, drawing, start = self._width(begun), self.workspace.drawing, self._origin()
        as_it_goes = drawing.level == "as it goes on"
        height = start[2] if as_it_goes else drawing.centre(self.project, width)
        keep_clear(self.project, (start[0], start[1], height), (*place, height), width)

    def hover(self, spot: QPointF) -> None:
        self._over = spot
        if self._from is not None:
            self.floor.update()

    def stop(self) -> None:
        super().stop()
        self._from = self._over = None

    def paint(self, painter: QPainter) -> None:
        placing = self.workspace.placing
        if (
            self._from is None
            or self._over is None
            or placing is None
            or self.project.find(self._from) is None
        ):
            return
        view, p = self.floor.view, self.floor.colours
        start = self._origin()[:2]
        end = self._aimed(self._from, self._over)
        text = Display(self.project.settings.units).length(math.dist(start, end))
        paint_tape(painter, view.point(start), view.point(end), text, p)

    def hit(self, spot: QPointF) -> str | None:
        return (
            self._near_gate(spot)
            or near_port(self, spot)
            or self._near_point(spot)
            or self._on_duct(spot)
            or on_body(self, spot)
        )

    def draggable(self, ref: str) -> bool:
        project = self.project
        run = project.run.get(ref)
        rigid = run is not None and not materials()[run.material].hose
        return rigid or any(
            ref in part
            for part in (project.machine, project.collector, project.point, project.gate)
        )

    def handle(self, found: str) -> str | None:
        """A drop is moved by its gate too, which lies over its ends on the plan."""
        run = self.project.run.get(
            self.project.gate[found].run if found in self.project.gate else found
        )
        if run is not None and upright(self.project, run):
            return run.end if run.end in self.project.point else run.start
        return super().handle(found)

    def move(self, ref: str, dx: float, dy: float) -> Edit:
        x, y = (round(v / self.step) * self.step for v in (dx, dy))
        return self._slid(ref, x, y, dx, dy) or super().move(ref, dx, dy)

    def _slid(self, ref: str, x: float, y: float, dx: float, dy: float) -> Edit | None:
        """What moving a part of the ductwork does: a joint goes along, a duct with all of its line,
        a gate along it.

        (x, y) m in whole steps, (dx, dy) as the pointer went; None for what is no part of the
        ductwork.
        """
        project = self.workspace.gesture_start or self.project
        if ref in project.point:
            return lambda p: with_point_moved(p, ref, x, y)
        if ref in project.run:
            return lambda p: with_run_moved(p, ref, x, y)
        if ref in project.gate:
            return lambda p: with_gate_slid(p, ref, dx, dy, self.step)
        return None

    def nudge(self, dx: float, dy: float) -> bool:
        chosen = self.workspace.selection
        grip = self.handle(chosen) if chosen else None
        edit = self._slid(grip, dx, dy, dx, dy) if grip else None
        if grip is None or edit is None:
            return super().nudge(dx, dy)
        self.floor.attempt(lambda: self.workspace.edit(self.label(grip), edit))
        return True

    def _near_gate(self, spot: QPointF) -> str | None:
        near = [(far(self.floor.view.point(g.at), spot), g.gate) for g in self.scene.gates]
        return min((found for found in near if found[0] < REACH), default=(0.0, None))[1]

    def _near_point(self, spot: QPointF) -> str | None:
        near = [(far(self.floor.view.point((p.x, p.y)), spot), p.id) for p in self.project.points]
        return min((found for found in near if found[0] < REACH * 0.7), default=(0.0, None))[1]

    def _on_duct(self, spot: QPointF) -> str | None:
        x, y = self.floor.view.place(spot)
        for duct in reversed(self.scene.ducts):
            reach = max(duct.width / 2, 4.0 / self.floor.view.scale)
            left, low, right, high = duct.bounds
            inside = left - reach <= x <= right + reach and low - reach <= y <= high + reach
            if inside and any(
                off_line((x, y), a, b) <= reach for a, b in itertools.pairwise(duct.line)
            ):
                return duct.run
        return None
