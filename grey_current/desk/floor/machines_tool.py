"""The pointer at the Machines and Collector stages."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, Qt

from grey_current.desk.floor.tool import Tool, on_body
from grey_current.shop.edits import part_of


class MachinesTool(Tool):
    """Machines: machines, collectors and parked places can be selected and moved."""

    def hit(self, spot: QPointF) -> str | None:
        for ref, corners in self.scene.parked:
            if self.floor.view.polygon(corners).containsPoint(spot, Qt.FillRule.OddEvenFill):
                return ref
        return on_body(self, spot)

    def draggable(self, ref: str) -> bool:
        known = ref in self.project.machine or ref in self.project.collector or "/parked-" in ref
        return known or part_of(self.project, ref) is not None
