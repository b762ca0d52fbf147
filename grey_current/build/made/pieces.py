"""The drawn pieces of a thing to make as bodies, laid side by side: for a printer of solid things,
or to look at.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import shapely

from grey_current.build.full_size import contours
from grey_current.build.made.template import Board, TemplateResult
from grey_current.build.solid.mesh import Mesh, prism, together
from grey_current.errors import InputError

# m between two pieces that lie side by side.
APART = 0.01
# m within which a contour has a board's length and width.
ALIKE = 0.0005


@dataclass(frozen=True)
class Pieces:
    """What is drawn of a thing.

    Attributes:
        mesh: All pieces, flat, their undersides at 0 (m).
        names: How many of which piece, as in the cut list.
        left_out: Boards that no contour is drawn of: the cut list alone says their sizes.
    """

    mesh: Mesh
    names: tuple[str, ...]
    left_out: tuple[str, ...]


def pieces(made: TemplateResult) -> Pieces:
    """Each board that a contour is drawn of, as often as it is wanted, with its holes.

    Raises `InputError` where there is none.
    """
    drawn = list(_outlines(made))
    meshes: list[Mesh] = []
    names, left_out = [], []
    far = 0.0
    for board in made.boards:
        found = [shape for shape in drawn if _alike(shape, board)][: board.count]
        if not found:
            left_out.append(board.name)
            continue
        names.append(f"{board.count} × {board.name}")
        # Copies of the last one where fewer are drawn than are wanted.
        for shape in [*found, *[found[-1]] * (board.count - len(found))]:
            left, low, right, _ = shape.bounds
            flat = shapely.affinity.translate(shape, far - left, -low)
            meshes.append(prism(flat, 0.0, board.thickness))
            far += right - left + APART
    if not meshes:
        raise InputError("STL", "", "no piece of this is drawn; the cut list has its sizes")
    return Pieces(together(meshes), tuple(names), tuple(left_out))


def _outlines(made: TemplateResult) -> Iterator[shapely.Polygon]:
    """The contours that bound wood, each without the holes in it."""
    shapes = list(contours(made.items))
    for shape in shapes:
        around = sum(other.contains_properly(shape) for other in shapes)
        if around % 2 == 0:
            holes = (other for other in shapes if shape.contains_properly(other))
            yield shapely.difference(shape, shapely.union_all(list(holes)))


def _alike(shape: shapely.Polygon, board: Board) -> bool:
    """Whether a contour is as long and as wide as a board, either way round."""
    left, low, right, high = shape.bounds
    sides, wanted = sorted((right - left, high - low)), sorted((board.length, board.width))
    return all(abs(a - b) < ALIKE for a, b in zip(sides, wanted, strict=True))
