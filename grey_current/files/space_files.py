"""The shop in space as files: glTF, OBJ and STL for other programs, SVG and PNG of what is seen.

Lengths are metres. glTF's y axis points up, as its specification wants; the others keep z up.
"""

from __future__ import annotations

import json
import struct
import zlib
from collections.abc import Callable, Sequence
from itertools import groupby
from pathlib import PurePath
from typing import Any, Literal

import numpy as np

from grey_current.build.made.pieces import pieces
from grey_current.build.made.template import Figures
from grey_current.build.made.templates import template
from grey_current.build.solid.camera import Camera
from grey_current.build.solid.mesh import Mesh, together
from grey_current.build.solid.shop_solids import Solid
from grey_current.build.solid.tones import Tone, rgb
from grey_current.errors import InputError
from grey_current.units import Display

# Pieces of a GLB file (Khronos, glTF 2.0 specification, 4.4 Binary glTF Layout).
GLB_MAGIC, GLB_JSON, GLB_BIN = 0x46546C67, 0x4E4F534A, 0x004E4942
FLOAT, UNSIGNED, CORNERS, INDICES = 5126, 5125, 34962, 34963
# Pixels across and down of a picture that is not asked for in a size.
SIZE = (1200, 800)


def named(solids: Sequence[Solid]) -> list[tuple[str, Tone, Mesh]]:
    """Solids put together by whose they are and what they are painted as, each with a name."""
    ordered = sorted(solids, key=lambda s: (s.element, s.tone))
    return [
        (f"{element or 'building'} {tone}", tone, together(s.mesh for s in group))
        for (element, tone), group in groupby(ordered, key=lambda s: (s.element, s.tone))
    ]


def glb(solids: Sequence[Solid]) -> bytes:
    """A binary glTF file: a node for each element and tone, a material for each tone."""
    parts = named(solids)
    tones = list(dict.fromkeys(tone for _, tone, _ in parts))
    blob = bytearray()
    views: list[dict[str, Any]] = []
    accessors: list[dict[str, Any]] = []

    def put(data: bytes, target: int, **facts: Any) -> int:
        views.append(
            {"buffer": 0, "byteOffset": len(blob), "byteLength": len(data), "target": target}
        )
        blob.extend(data)
        accessors.append({"bufferView": len(views) - 1, **facts})
        return len(accessors) - 1

    meshes = []
    for name, tone, mesh in parts:
        points = mesh.points[:, [0, 2, 1]] * np.array([1.0, 1.0, -1.0])
        flat = points.astype("<f4")
        corners = put(
            flat.tobytes(),
            CORNERS,
            componentType=FLOAT,
            count=len(flat),
            type="VEC3",
            min=[float(v) for v in flat.min(axis=0)],
            max=[float(v) for v in flat.max(axis=0)],
        )
        order = mesh.faces.astype("<u4").ravel()
        indices = put(
            order.tobytes(), INDICES, componentType=UNSIGNED, count=len(order), type="SCALAR"
        )
        primitive = {
            "attributes": {"POSITION": corners},
            "indices": indices,
            "material": tones.index(tone),
        }
        meshes.append({"name": name, "primitives": [primitive]})
    head = {
        "asset": {"version": "2.0", "generator": "Grey Current"},
        "scene": 0,
        "scenes": [{"nodes": list(range(len(meshes)))}],
        "nodes": [{"name": mesh["name"], "mesh": n} for n, mesh in enumerate(meshes)],
        "meshes": meshes,
        "materials": [_material(tone) for tone in tones],
        "buffers": [{"byteLength": len(blob)}],
        "bufferViews": views,
        "accessors": accessors,
    }
    text = json.dumps(head, separators=(",", ":")).encode()
    text += b" " * (-len(text) % 4)
    whole = 12 + 8 + len(text) + 8 + len(blob)
    return b"".join(
        (
            struct.pack("<III", GLB_MAGIC, 2, whole),
            struct.pack("<II", len(text), GLB_JSON),
            text,
            struct.pack("<II", len(blob), GLB_BIN),
            bytes(blob),
        )
    )


def _material(tone: Tone) -> dict[str, Any]:
    """A dull material in a tone's colour, which glTF wants in linear light (IEC 61966-2-1)."""
    shares = [value / 255 for value in rgb(tone)]
    linear = [s / 12.92 if s <= 0.04045 else ((s + 0.055) / 1.055) ** 2.4 for s in shares]
    return {
        "name": tone,
        "pbrMetallicRoughness": {
            "baseColorFactor": [*(round(v, 5) for v in linear), 1.0],
            "metallicFactor": 0.0,
            "roughnessFactor": 0.9,
        },
        # A wall is seen from inside only.
        "doubleSided": False,
    }


def obj(solids: Sequence[Solid]) -> str:
    """A Wavefront OBJ file: an object for each element and tone."""
    lines, start = ["# Grey Current: m, z up"], 1
    for name, _, mesh in named(solids):
        lines.append(f"o {name.replace(' ', '_')}")
        lines += [f"v {x:.5f} {y:.5f} {z:.5f}" for x, y, z in mesh.points]
        lines += [f"f {a + start} {b + start} {c + start}" for a, b, c in mesh.faces]
        start += len(mesh.points)
    return "\n".join([*lines, ""])


def stl(solids: Sequence[Solid]) -> bytes:
    """A binary STL file of all that is closed: bodies and ducts, without the walls' faces."""
    return stl_of(together(s.mesh for s in solids if not s.one_sided), "metres")


def stl_of(mesh: Mesh, unit: Literal["metres", "millimetres"]) -> bytes:
    """A binary STL file of a closed mesh, in a unit that the file's head names."""
    size = 1000.0 if unit == "millimetres" else 1.0
    a, b, c = (mesh.points[mesh.faces[:, k]] * size for k in range(3))
    normals = np.cross(b - a, c - a)
    normals /= np.maximum(np.linalg.norm(normals, axis=1), 1e-12)[:, None]
    record = np.zeros(
        len(mesh.faces), dtype=[("n", "<f4", 3), ("v", "<f4", (3, 3)), ("extra", "<u2")]
    )
    record["n"], record["v"] = normals, np.stack([a, b, c], axis=1)
    head = f"Grey Current: {unit}".encode().ljust(80)
    return head + struct.pack("<I", len(record)) + record.tobytes()


def made_stl(name: str, given: Figures, display: Display) -> tuple[bytes, str]:
    """The drawn pieces of a thing to make as an STL file in millimetres, and what it holds, as a
    sentence. Raises as `Template.made` and `pieces`.
    """
    found = pieces(template(name).made(given, display))
    rest = f" Only listed, not drawn, so not in it: {', '.join(found.left_out)}."
    words = f"In it, flat, in mm: {', '.join(found.names)}."
    return stl_of(found.mesh, "millimetres"), words + (rest if found.left_out else "")


# -- what is seen


def png(solids: Sequence[Solid], camera: Camera, size: tuple[int, int] = SIZE) -> bytes:
    """A PNG of what an eye sees (W3C, Portable Network Graphics, 2003)."""
    from grey_current.build.solid.view import Packed, paper_look, seen  # noqa: PLC0415 - numba

    picture = seen(Packed(solids), camera, *size, paper_look()).picture
    channels = np.stack([(picture >> shift) & 255 for shift in (16, 8, 0)], axis=-1)
    rows = channels.astype(np.uint8)
    # Each row begins with the number of its filter: none.
    raw = b"".join(b"\0" + row.tobytes() for row in rows)
    head = struct.pack(">IIBBBBB", size[0], size[1], 8, 2, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + b"".join(
        _chunk(kind, data)
        for kind, data in ((b"IHDR", head), (b"IDAT", zlib.compress(raw, 6)), (b"IEND", b""))
    )


def _chunk(kind: bytes, data: bytes) -> bytes:
    return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))


def view_svg(solids: Sequence[Solid], camera: Camera, size: tuple[int, int] = SIZE) -> str:
    """An SVG of what an eye sees: the triangles that have a pixel in the picture, the farthest
    first.
    """
    from grey_current.build.solid.view import Packed, paper_look, seen_triangles  # noqa: PLC0415

    look = paper_look()
    shown = seen_triangles(Packed(solids), camera, *size, look)
    red, green, blue = (round(v) for v in look.paper)
    lines = [
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {size[0]} {size[1]}">',
        f'<rect width="{size[0]}" height="{size[1]}" fill="#{red:02x}{green:02x}{blue:02x}"/>',
        '<g stroke-width="0.6" stroke-linejoin="round">',
    ]
    # Triangles of one colour that follow one another are one path.
    for colour, group in groupby(shown, key=lambda item: item[0]):
        path = "".join(
            f"M{a[0]:.1f} {a[1]:.1f}L{b[0]:.1f} {b[1]:.1f}L{c[0]:.1f} {c[1]:.1f}Z"
            for _, (a, b, c) in group
        )
        lines.append(f'<path fill="{colour}" stroke="{colour}" d="{path}"/>')
    return "\n".join([*lines, "</g>", "</svg>", ""])


# What a file's ending asks for: its text or bytes of solids and an eye.
WRITERS: dict[str, Callable[[Sequence[Solid], Camera, tuple[int, int]], str | bytes]] = {
    ".glb": lambda solids, camera, size: glb(solids),
    ".obj": lambda solids, camera, size: obj(solids),
    ".stl": lambda solids, camera, size: stl(solids),
    ".svg": view_svg,
    ".png": png,
}


def written(
    solids: Sequence[Solid], camera: Camera, name: str, size: tuple[int, int] = SIZE
) -> str | bytes:
    """What stands in a file, by the ending of its name; a picture has so many pixels. Raises
    `InputError` for another ending.
    """
    ending = PurePath(name).suffix.lower()
    if ending not in WRITERS:
        kinds = ", ".join(WRITERS)
        raise InputError("file", name, f"let its name end in one of {kinds}")
    return WRITERS[ending](solids, camera, size)
