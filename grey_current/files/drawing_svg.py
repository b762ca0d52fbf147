"""A drawing as SVG: true to scale in millimetres, text as text."""

from __future__ import annotations

import textwrap
from xml.sax.saxutils import escape

from grey_current.build.drawing import (
    DASHED,
    LAYERS,
    Circle,
    Dimension,
    Drawing,
    Path,
    Text,
    dimension_paths,
    dimension_text,
)

# mm round the drawing.
MARGIN = 10.0
ANCHORS = {"left": "start", "middle": "middle", "right": "end"}
NOTE = 2.5
LINE = 4.0
LETTERS = 100


def svg(drawing: Drawing) -> str:
    """The text of an SVG file. Raises nothing."""
    left, low, right, high = drawing.bounds
    mm = 1000 / drawing.scale
    notes = [
        line for note in (drawing.title, *drawing.notes) for line in textwrap.wrap(note, LETTERS)
    ]
    longest = max(len(note) for note in notes) * NOTE * 0.75
    wide = max((right - left) * mm, longest, 100.0) + 2 * MARGIN
    tall = (high - low) * mm + 2 * MARGIN + LINE * (len(notes) + 2)

    def x(value: float) -> str:
        return f"{(value - left) * mm + MARGIN:.3f}"

    def y(value: float) -> str:
        return f"{(high - value) * mm + MARGIN:.3f}"

    def one(item: Path | Circle | Text) -> str:
        if isinstance(item, Path):
            kind = "polygon" if item.closed else "polyline"
            return (
                f'<{kind} points="{" ".join(f"{x(px)},{y(py)}" for px, py in item.points)}" '
                f"{_pen(item.layer)}/>"
            )
        if isinstance(item, Circle):
            cx, cy = item.centre
            pen = (
                _pen(item.layer).replace('fill="none"', 'fill="#ffffff"')
                if item.blank
                else _pen(item.layer)
            )
            return f'<circle cx="{x(cx)}" cy="{y(cy)}" r="{item.radius * mm:.3f}" {pen}/>'
        at = x(item.at[0]), y(item.at[1])
        turn = f' transform="rotate({-item.turn:.2f} {at[0]} {at[1]})"' if item.turn else ""
        anchor = ANCHORS[item.anchor]
        return (
            f'<text x="{at[0]}" y="{at[1]}" font-size="{item.size * 1.35:.2f}" '
            f'text-anchor="{anchor}"{turn}>'
            f"{escape(item.text)}</text>"
        )

    lines = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{wide:.2f}mm" height="{tall:.2f}mm" '
        f'viewBox="0 0 {wide:.2f} {tall:.2f}" font-family="Lato, sans-serif" fill="#22282c">',
        f"<title>{escape(drawing.title)}</title>",
        f'<rect width="{wide:.2f}" height="{tall:.2f}" fill="#ffffff"/>',
    ]
    for layer in LAYERS:
        inside = [one(item) for item in _plain(drawing) if item.layer == layer]
        if inside:
            lines += [f'<g id="{layer.replace(" ", "-")}">', *inside, "</g>"]
    foot = tall - MARGIN - LINE * len(notes)
    lines += _scale_bar(foot - LINE)
    for number, note in enumerate(notes):
        below = foot + LINE * (number + 1)
        lines.append(
            f'<text x="{MARGIN}" y="{below:.2f}" '
            f'font-size="{NOTE * 1.35:.2f}">{escape(note)}</text>'
        )
    return "\n".join([*lines, "</svg>"]) + "\n"


def _plain(drawing: Drawing) -> list[Path | Circle | Text]:
    """The items with dimensions taken apart into lines and text."""
    found: list[Path | Circle | Text] = []
    for item in drawing.items:
        if isinstance(item, Dimension):
            found += [*dimension_paths(item, drawing.scale), dimension_text(item, drawing.scale)]
        else:
            found.append(item)
    return found


def _pen(layer: str) -> str:
    dashes = ' stroke-dasharray="2 1.2"' if layer in DASHED else ""
    return f'fill="none" stroke="#22282c" stroke-width="{LAYERS[layer]}"{dashes}'


def _scale_bar(y: float) -> list[str]:
    """100 mm on paper, to check the printer by."""
    ticks = "".join(f"M{MARGIN + part:.2f} {y - 1.5:.2f}v3" for part in (0, 50, 100))
    return [
        f'<path d="M{MARGIN:.2f} {y:.2f}h100{ticks}" fill="none" stroke="#22282c" '
        'stroke-width="0.25"/>',
        f'<text x="{MARGIN + 102:.2f}" y="{y + 1:.2f}" font-size="2.7">100 mm as printed</text>',
    ]
