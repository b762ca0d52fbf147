"""The one table of bad project files, for the loader, the command line and the screen."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from grey_current.shop.demo_shops import demo_path


def raw() -> dict[str, Any]:
    return json.loads(demo_path("loft").read_text(encoding="utf-8"))


def _changed(*steps: str | int, to: object) -> str:
    data: Any = raw()
    here = data
    for step in steps[:-1]:
        here = here[step]
    here[steps[-1]] = to
    return json.dumps(data)


def _loop() -> str:
    data = raw()
    data["runs"].append({**data["runs"][0], "id": "extra", "start": "main-end", "end": "bend-1"})
    return json.dumps(data)


def _plan(picture: str) -> dict[str, Any]:
    return {"name": "plan", "picture": picture, "width": 4.0, "height": 3.0}


BAD_TEXTS: dict[str, tuple[str, str]] = {
    "not JSON": ("a shop", "is not a readable JSON file at line 1"),
    "empty": ("", "is not a readable JSON file"),
    "cut off": (json.dumps(raw())[:4000], "is not a readable JSON file"),
    "a list": ("[1, 2]", "is not a Grey Current project"),
    "another format": ('{"format": "something"}', "is not a Grey Current project"),
    "deeply nested": ("[" * 100_000, "is not a readable JSON file"),
    "no version": (_changed("format_version", to=None), "has no usable format version"),
    "a newer version": (_changed("format_version", to=99), "newer Grey Current"),
    "NaN": (
        json.dumps(raw()).replace('"ceiling": 2.3622', '"ceiling": NaN'),
        "NaN is not a number",
    ),
    "an infinity": (
        _changed("rooms", 0, "ceiling", to=1e999).replace("Infinity", "1e999"),
        "rooms 'loft', ceiling",
    ),
    "a missing part": (
        json.dumps({**raw(), "rooms": [{"ceiling": 2.4}]}),
        "rooms number 1, outline is missing",
    ),
    "a word for a number": (_changed("machines", 0, "x", to="left"), "machines 'saw', x is 'left'"),
    "a misspelt name": (_changed("machines", 0, "colour", to="red"), "colour is not a name"),
    "a port of zero": (
        _changed("machines", 0, "pickups", 0, "port", to=0),
        "pickups 'cabinet', port is 0",
    ),
    "a port of 400 m": (_changed("machines", 0, "pickups", 0, "port", to=400), "port is 400"),
    "an id with spaces": (_changed("machines", 0, "id", to="my saw"), "id is 'my saw'"),
    "an id twice": (_changed("machines", 1, "id", to="saw"), "'saw' is the id of two things"),
    "a duct to nowhere": (
        _changed("runs", 3, "start", to="p-999"),
        "'p-999', which does not exist",
    ),
    "a plan that is no base64": (_changed("underlay", to=_plan("!!")), "must be base64"),
    "a plan that is no PNG": (_changed("underlay", to=_plan("aGVsbG8gd29ybGQ=")), "must be a PNG"),
    "a gate on no run": (_changed("gates", 0, "run", to="p-999"), "'p-999', which does not exist"),
    "a loop": (_loop(), "closes a loop"),
    "walls that cross": (
        _changed("rooms", 0, "outline", to=[[0, 0], [4, 4], [4, 0], [0, 3]]),
        "must not cross",
    ),
    "an outlet on no circuit": (_changed("outlets", 0, "circuit", to="none"), "on circuit 'none'"),
    "a rising fan": (_changed("collectors", 0, "fan", "points", to=[[0, 1], [1, 2]]), "must fall"),
}


def write_bad_files(folder: Path) -> dict[Path, str]:
    """Every bad file on disk, with what the sentence must say."""
    made: dict[Path, str] = {}
    for number, (text, says) in enumerate(BAD_TEXTS.values()):
        path = folder / f"bad-{number}.json"
        path.write_text(text, encoding="utf-8")
        made[path] = says
    (folder / "binary.json").write_bytes(b"\xff\xfe\x00\x80" * 100)
    with (folder / "huge.json").open("wb") as stream:
        stream.truncate(300 * 1024 * 1024)
    made |= {
        folder / "binary.json": "is not a text file",
        folder / "huge.json": "is too large for a project (300 MB)",
        folder: "is a folder",
        folder / "absent.json": "does not exist",
        Path("/dev/zero"): "is not an ordinary file",
    }
    return made
