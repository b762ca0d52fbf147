"""Where the floor's metres are on screen."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QPolygonF

from grey_current.shop.places import XY, bounds


def readable(turn: float) -> float:
    """An angle (degrees) of writing along a line, turned half round where it would stand on its
    head.
    """
    if turn > 90:
        return turn - 180
    return turn + 180 if turn <= -90 else turn


@dataclass(frozen=True)
class View:
    """Pixels per metre, and the pixel of the shop's origin; y goes up in the shop and down on
    screen.
    """

    scale: float
    left: float
    bottom: float

    @classmethod
    def fitted(
        cls, corners: Sequence[XY], wide: float, high: float, margin: float, scales: XY
    ) -> View:
        """The view that shows all of a shop's corners in so many pixels, with a margin; its scale
        within bounds.
        """
        west, south, east, north = bounds(corners)
        across, deep = east - west, north - south
        scale = min((wide - 2 * margin) / across, (high - 2 * margin) / deep)
        scale = min(max(scale, scales[0]), scales[1])
        left = wide / 2 - scale * (west + across / 2)
        return cls(scale, left, high / 2 + scale * (south + deep / 2))

    def point(self, place: XY) -> QPointF:
        """The pixel of a place."""
        return QPointF(self.left + place[0] * self.scale, self.bottom - place[1] * self.scale)

    def place(self, point: QPointF) -> XY:
        """The place of a pixel, m."""
        return (point.x() - self.left) / self.scale, (self.bottom - point.y()) / self.scale

    def polygon(self, places: Sequence[XY]) -> QPolygonF:
        """Several places as a polygon of pixels."""
        return QPolygonF([self.point(place) for place in places])
