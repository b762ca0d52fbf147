"""The project file: JSON, UTF-8, SI units. Read with care, written whole or not at all."""

from __future__ import annotations

import contextlib
import json
import math
import re
from collections.abc import Callable
from pathlib import Path
from typing import Any, NoReturn

from pydantic import ValidationError

from grey_current.errors import DuctworkError, FileError
from grey_current.files.safe_write import PROJECT_SUFFIX, reason, write_whole
from grey_current.shop.catalogue import collector_key
from grey_current.shop.limits import TOO_LARGE, rule_of, shown
from grey_current.shop.model import FORMAT, FORMAT_VERSION, Project
from grey_current.shop.room import LEAST_OPENING, OVERHEAD
from grey_current.shop.values import LEAST_AIRFLOW, LEAST_AREA, MOST_LETTERS

SUFFIX = PROJECT_SUFFIX
# Bytes; a shop takes some tens of kilobytes.
LARGEST = 20 * 1024 * 1024


def _one_room_to_several(raw: dict[str, Any]) -> dict[str, Any]:
    """Version 1 had one room that owned its beams, openings and features; they now belong to the
    shop.
    """
    room = raw.get("room")
    if not isinstance(room, dict):
        return {**raw, "format_version": 2}
    moved = {name: room.get(name, []) for name in ("openings", "beams", "features")}
    kept = {key: value for key, value in room.items() if key not in moved}
    rest = {key: value for key, value in raw.items() if key != "room"}
    return {
        **rest,
        "format_version": 2,
        "rooms": [{"id": "room", "name": "Workshop", **kept}],
        **moved,
    }


def _with_kept_designs(raw: dict[str, Any]) -> dict[str, Any]:
    """Version 2 kept no designs and did not say how a moved hose is fastened; what is new has its
    default.
    """
    return {**raw, "format_version": 3}


def _in_the_words_of_the_trade(raw: dict[str, Any]) -> dict[str, Any]:
    """Version 3 called kept designs variants, and the design criterion a school."""
    made = {("kept_designs" if key == "variants" else key): value for key, value in raw.items()}
    settings = raw.get("settings")
    if isinstance(settings, dict):
        made["settings"] = {
            ("criterion" if key == "school" else key): value for key, value in settings.items()
        }
    return {**made, "format_version": 4}


def _filters_in_three_states(raw: dict[str, Any]) -> dict[str, Any]:
    """Version 4 knew a filter as clean or due at twice its resistance, and did not look at
    openings.

    An opening of no width or with its sill over its head, which nobody can have meant, becomes the
    least that can be.
    """
    made = {**raw, "format_version": 5}
    for name in ("collectors", "kept_designs", "openings"):
        items = raw.get(name)
        if isinstance(items, list):
            made[name] = [
                _MENDED_4[name](item) if isinstance(item, dict) else item for item in items
            ]
    return made


def _with_due(collector: dict[str, Any]) -> dict[str, Any]:
    item = collector.get("filter")
    if isinstance(item, dict):
        return {**collector, "filter": {"seasoned": 0.5, "due": 1.0, **item}}
    return collector


def _design_with_due(design: dict[str, Any]) -> dict[str, Any]:
    held = design.get("collectors")
    if not isinstance(held, list):
        return design
    return {**design, "collectors": [_with_due(c) if isinstance(c, dict) else c for c in held]}


def _openable(opening: dict[str, Any]) -> dict[str, Any]:
    sill, head = opening.get("sill", 0.0), opening.get("head", 2.03)
    start, end = opening.get("start"), opening.get("end")
    made = dict(opening)
    if isinstance(sill, int | float) and isinstance(head, int | float) and sill >= head:
        made["sill"] = head - LEAST_OPENING
    with contextlib.suppress(TypeError, ValueError):
        if math.dist(start, end) < LEAST_OPENING:  # type: ignore[arg-type]
            made["end"] = [start[0] + LEAST_OPENING, start[1]]  # type: ignore[index]
    return made


_MENDED_4: dict[str, Callable[[dict[str, Any]], dict[str, Any]]] = {
    "collectors": _with_due,
    "kept_designs": _design_with_due,
    "openings": _openable,
}


def _with_laying(raw: dict[str, Any]) -> dict[str, Any]:
    """Version 5 knew no choices for laying ducts, nothing pinned and no underside; what is new has
    its default.
    """
    return {**raw, "format_version": 6}


def _with_a_price_book(raw: dict[str, Any]) -> dict[str, Any]:
    """Version 6 kept a price with every collector; it goes into the price book, under the
    collector's model.
    """
    prices: dict[str, dict[str, Any]] = {}

    def without(held: object) -> object:
        if not isinstance(held, list):
            return held
        made = []
        for item in held:
            kept = item
            if isinstance(item, dict) and "price" in item:
                kept = {key: value for key, value in item.items() if key != "price"}
                if isinstance(item["price"], int | float) and isinstance(item.get("model"), str):
                    key = collector_key(item["model"])
                    prices[key] = {
                        "key": key,
                        "price": item["price"],
                        "currency": "USD",
                        "date": "2026-01-01",
                    }
            made.append(kept)
        return made

    made = {**raw, "format_version": 7}
    if "collectors" in raw:
        made["collectors"] = without(raw["collectors"])
    kept = raw.get("kept_designs")
    if isinstance(kept, list):
        made["kept_designs"] = [
            {**d, "collectors": without(d["collectors"])}
            if isinstance(d, dict) and "collectors" in d
            else d
            for d in kept
        ]
    return {**made, "build": {"prices": list(prices.values())}} if prices else made


NAMES = {"name", "model", "kind", "material"}
LEAST = {
    **dict.fromkeys(("free_air", "at_airflow", "airflow", "need"), LEAST_AIRFLOW),
    **dict.fromkeys(("area", "opening"), LEAST_AREA),
}


def _within_what_a_shop_has(raw: dict[str, Any]) -> dict[str, Any]:
    """Version 7 took names of 120 letters, and airflows and openings of next to nothing, which
    nobody meant.
    """
    return {**{key: _mended_7(key, value) for key, value in raw.items()}, "format_version": 8}


def _mended_7(key: str, value: Any) -> Any:
    """A value of version 7 within the limits of version 8; `key` is what it is called in the
    file.
    """
    if isinstance(value, dict):
        return {inner: _mended_7(inner, item) for inner, item in value.items()}
    if isinstance(value, list):
        return [_mended_7("", item) for item in value]
    if isinstance(value, str) and key in NAMES:
        return value.strip()[:MOST_LETTERS].strip()
    if key in LEAST and isinstance(value, float) and 0 < value < LEAST[key]:
        return LEAST[key]
    return value


def _with_centimetres(raw: dict[str, Any]) -> dict[str, Any]:
    """Version 8 knew two systems of units; nothing else is new."""
    return {**raw, "format_version": 9}


def _with_a_reserve(raw: dict[str, Any]) -> dict[str, Any]:
    """Version 9 kept no pipe for a cut that goes wrong; what was counted on then stays so."""
    plan = raw.get("build", {})
    held = {"reserve": "none", **plan} if isinstance(plan, dict) else plan
    return {**raw, "build": held, "format_version": 10}


def _with_heights(raw: dict[str, Any]) -> dict[str, Any]:
    """Version 10 let only lamps and areas begin over the floor; a thing that ended under its
    underside begins at the floor.
    """
    features = raw.get("features")
    if not isinstance(features, list):
        return {**raw, "format_version": 11}
    return {**raw, "features": [_on_the_floor(item) for item in features], "format_version": 11}


def _on_the_floor(feature: Any) -> Any:
    if not isinstance(feature, dict) or feature.get("kind") in OVERHEAD:
        return feature
    return {**feature, "bottom": 0.0}


# From each older version to the next, on raw data.
MIGRATIONS: dict[int, Callable[[dict[str, Any]], dict[str, Any]]] = {
    1: _one_room_to_several,
    2: _with_kept_designs,
    3: _in_the_words_of_the_trade,
    4: _filters_in_three_states,
    5: _with_laying,
    6: _with_a_price_book,
    7: _within_what_a_shop_has,
    8: _with_centimetres,
    9: _with_a_reserve,
    10: _with_heights,
}


def load(path: Path) -> Project:
    """Read a project file. Raises `FileError` with one clear sentence for anything that is none."""
    return parse(_read(path), str(path))


def parse(text: str, name: str) -> Project:
    """A project from the text of its file; `name` is for the message. Raises `FileError`."""
    try:
        raw = json.loads(text, parse_constant=_no_constant)
    except (ValueError, RecursionError) as problem:
        where = f" at line {problem.lineno}" if isinstance(problem, json.JSONDecodeError) else ""
        why = f" ({problem})" if isinstance(problem, _NotANumber) else ""
        raise FileError(
            name, f"is not a readable JSON file{where}{why}", "open a project saved by Grey Current"
        ) from None
    return from_raw(raw, name)


def from_raw(raw: object, name: str) -> Project:
    """A project from raw data, of whatever version; `name` is for the message. Raises
    `FileError`.
    """
    if not isinstance(raw, dict) or raw.get("format") != FORMAT:
        raise FileError(
            name, "is not a Grey Current project", f'a project begins with "format": "{FORMAT}"'
        )
    return _validated(_migrated(raw, name), name)


def dump(project: Project) -> str:
    """The text of a project's file: stable order, one value a line, ready for version control."""
    raw = project.model_dump(mode="json")
    first = {key: raw[key] for key in ("format", "format_version", "name", "settings", "rooms")}
    return (
        _SHORT_LISTS.sub(_joined, json.dumps({**first, **raw}, indent=1, ensure_ascii=False)) + "\n"
    )


# Texts, which stay as they are, and lists of numbers, which go onto one line.
_SHORT_LISTS = re.compile(r'"(?:[^"\\]|\\.)*"|\[\s+(-?[\d.e+-]+(?:,\s+-?[\d.e+-]+)*)\s+\]')


def _joined(match: re.Match[str]) -> str:
    return match[0] if match[1] is None else "[" + re.sub(r"\s+", " ", match[1]) + "]"


def save(project: Project, path: Path) -> Path | None:
    """Write a project to its file; returned is where its last version is. Raises `FileError` as
    `write_whole` does.
    """
    return write_whole(dump(project), path)


def schema() -> dict[str, Any]:
    """The JSON Schema of the project file."""
    made = Project.model_json_schema()
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": f"Grey Current project, version {FORMAT_VERSION}",
        **{key: value for key, value in made.items() if key != "title"},
    }


class _NotANumber(ValueError):
    """NaN or an infinity in a file."""


def _no_constant(name: str) -> NoReturn:
    raise _NotANumber(f"{name} is not a number")


def _read(path: Path) -> str:
    try:
        if path.is_dir():
            raise FileError(str(path), "is a folder", "choose a project file inside it")
        if not path.exists():
            raise FileError(str(path), "does not exist", "check the name")
        if not path.is_file():
            raise FileError(str(path), "is not an ordinary file", "choose a project file")
        if path.stat().st_size > LARGEST:
            size = path.stat().st_size / 1024 / 1024
            raise FileError(
                str(path),
                f"is too large for a project ({size:.0f} MB)",
                f"projects are under {LARGEST // 1024 // 1024} MB; choose another file",
            )
        return path.read_text(encoding="utf-8-sig")
    except UnicodeDecodeError:
        raise FileError(
            str(path), "is not a text file", "open a project saved by Grey Current"
        ) from None
    except OSError as problem:
        raise FileError(
            str(path), f"cannot be read ({reason(problem)})", "check its permissions"
        ) from None
    except ValueError:
        raise FileError(repr(str(path)), "is no file name", "check the name") from None


def _migrated(raw: dict[str, Any], name: str) -> dict[str, Any]:
    version = raw.get("format_version")
    if not isinstance(version, int) or isinstance(version, bool) or version < 1:
        raise FileError(
            name, "has no usable format version", f"this program reads 1 to {FORMAT_VERSION}"
        )
    if version > FORMAT_VERSION:
        raise FileError(
            name,
            f"was saved by a newer Grey Current (format version {version})",
            f"this one reads up to version {FORMAT_VERSION}; update the program",
        )
    # Step by step, each on raw values: older programs' files need no older code.
    while version < FORMAT_VERSION:
        raw = MIGRATIONS[version](raw)
        version += 1
    return raw


def _validated(raw: dict[str, Any], name: str) -> Project:
    try:
        return Project.model_validate(raw)
    except DuctworkError as problem:
        raise FileError(name, f"{problem.element} {problem.problem}", problem.remedy) from None
    except ValidationError as problem:
        raise FileError(name, *explain(problem, raw)) from None
    except OverflowError:
        raise FileError(name, "cannot be used", TOO_LARGE) from None


def explain(problem: ValidationError, raw: object) -> tuple[str, str]:
    """The first fault of a validation, as (what and where, how to mend it) in plain words."""
    faults = problem.errors(include_url=False)
    fault = faults[0]
    where = _where(fault["loc"], raw)
    more = f" (and {len(faults) - 1} more)" if len(faults) > 1 else ""
    if fault["type"] == "missing":
        return f"{where} is missing{more}", "add it"
    if fault["type"] == "extra_forbidden":
        return f"{where} is not a name this format knows{more}", "take it out or mend its spelling"
    given = shown(fault.get("input"))
    rule = rule_of(fault)
    if given is None:
        return f"{where} cannot be used{more}", rule
    return f"{where} is {given!r:.40}{more}", rule


def _where(steps: tuple[int | str, ...], raw: object) -> str:
    """The place of a fault in words: "machines 'planer', pickups 'hood', port"."""
    words: list[str] = []
    here: Any = raw
    for step in steps:
        inside = _inside(here, step)
        # Names that the library puts in for its own alternatives are no place in the file.
        if inside is None and isinstance(step, str) and step != steps[-1]:
            continue
        if isinstance(step, int):
            ident = inside.get("id") if isinstance(inside, dict) else None
            label = f"'{ident}'" if isinstance(ident, str) else f"number {step + 1}"
            words[-1:] = [f"{words[-1]} {label}"] if words else [label]
        else:
            words.append(step.replace("_", " "))
        here = inside if inside is not None else here
    return ", ".join(words) or "the project"


def _inside(here: Any, step: int | str) -> Any:
    """What stands at a step of a path into raw data, or None."""
    if isinstance(here, dict):
        return here.get(str(step))
    if isinstance(here, list) and isinstance(step, int) and step < len(here):
        return here[step]
    return None
