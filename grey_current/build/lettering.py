"""Where lettering finds room on a drawing: no figure, name or number lies over another.

What finds no room at its place stands beside it, as near as can be, with a stroke that leads back.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterable, Iterator
from dataclasses import replace

from grey_current.build.drawing import (
    Circle,
    Dimension,
    Item,
    Path,
    Text,
    dimension_text,
    paper,
    text_box,
)
from grey_current.shop.places import XY

# mm on paper that lettering is kept apart by, beyond what its letters are reckoned to take.
APART = 0.25
# mm on paper by which each further try for a name stands farther off.
FARTHER = 3.0

Box = tuple[float, float, float, float]


class Free:
    """Room for lettering on a drawing at a scale: says whether a place is free, and takes it."""

    def __init__(self, scale: float) -> None:
        self.scale = scale
        self._taken: list[Box] = []

    def takes(self, item: Text, always: bool = False) -> bool:
        """Take the place of some lettering when it is free; returns whether it is to be written."""
        xs, ys = zip(*text_box(item, self.scale), strict=True)
        apart = paper(APART, self.scale)
        box = (min(xs) - apart, min(ys) - apart, max(xs) + apart, max(ys) + apart)
        clear = always or not any(
            box[0] < t[2] and t[0] < box[2] and box[1] < t[3] and t[1] < box[3] for t in self._taken
        )
        if clear:
            self._taken.append(box)
        return clear

    def first(self, items: Iterable[Text]) -> Text | None:
        """The first of some places for one lettering that is free, taken; None when none is."""
        return next((item for item in items if self.takes(item)), None)

    def name(self, places: Iterable[Text], of: XY) -> Iterator[Item]:
        """Lettering at the first of some places that is free, else beside them with a stroke to
        what it is the name `of`.
        """
        tried = list(places)
        found = self.first(tried)
        if found is not None:
            yield found
            return
        for dx, dy in _outwards(paper(FARTHER, self.scale)):
            x, y = tried[0].at
            found = replace(tried[0], at=(x + dx, y + dy))
            if self.takes(found):
                yield Path((of, found.at), "dimensions")
                yield found
                return

    def ring(self, at: XY, text: str, radius: float, size: float) -> Iterator[Item]:
        """A number or letter in a ring at its place, or beside it with a stroke where rings would
        touch; `radius` in m, `size` in mm on paper.
        """
        for dx, dy in itertools.chain([(0.0, 0.0)], _outwards(radius * 1.2)):
            x, y = at[0] + dx, at[1] + dy
            # Three letters as high as the ring are as wide as it.
            if self.takes(
                Text((x, y - radius), "000"[: max(len(text), 2)], radius * 2000 / self.scale)
            ):
                if dx or dy:
                    yield Path((at, (x, y)), "dimensions")
                yield Circle((x, y), radius, "text", blank=True)
                yield Text((x, y - paper(size / 2, self.scale)), text, size)
                return

    def dimension(self, made: Dimension, step: float) -> Dimension:
        """A dimension with its line moved out by steps (mm on paper) until its figure is free."""
        while not self.takes(dimension_text(made, self.scale)):
            made = replace(made, offset=made.offset + step)
        return made


def _outwards(step: float) -> Iterator[XY]:
    """Ways off a place, ever farther: without end, so that room is found in any case."""
    for rank in itertools.count(2):
        for part in range(8 if rank < 5 else 16):
            turn = 2 * math.pi * part / (8 if rank < 5 else 16)
            yield math.cos(turn) * step * rank, math.sin(turn) * step * rank
