"""The pointer at the Build stage: everything can be selected, nothing is moved."""

from __future__ import annotations

from grey_current.desk.floor.air_tool import AirTool


class BuildTool(AirTool):
    """What stands is looked at and ticked; ducts and machines are moved at their own stages."""

    def draggable(self, ref: str) -> bool:
        del ref
        return False
