"""What the program says of seventeen shops, kept in `answers/`: what changes there is meant, or it
is a fault.

`RENEW_ANSWERS=1 pytest tests/core/test_answers.py` writes them anew; the difference then stands in
the commit. A command's text is kept as it is; of its JSON, for every kind of object, how many there
are and the sum of each field.
"""

from __future__ import annotations

import contextlib
import json
import math
import os
import random
import re
import zlib
from collections import defaultdict
from collections.abc import Iterator
from pathlib import Path

import pytest

from grey_current import cli
from grey_current.design.laying.proposals import propose
from grey_current.errors import GreyCurrentError
from grey_current.files import project_file
from grey_current.shop import edits
from grey_current.shop.laying_edits import with_laying
from grey_current.shop.room import Beam
from tests.core import laid_shops
from tests.core.any_edits import edited
from tests.core.shops import demo, made_up
from tests.core.test_ductwork import DOOR, POST, ROLL, WALK, WINDOW, room_with

KEPT = Path(__file__).parent / "answers"
TEXTS = ("air", "check", "gates", "help-most", "size", "sizes", "parts", "cuts", "phases")
FIELDS = ("air", "check", "size", "sizes", "parts", "cuts", "phases")
LAYING = ("propose", "places")
"""Asked for the shops that are laid quickly."""
LAID = {
    "cellar": laid_shops.cellar,
    "garage": laid_shops.garage,
    "two-rooms": lambda: laid_shops.two_rooms(through_walls=True),
    "along-the-wall": lambda: with_laying(laid_shops.garage(), height="along the wall"),
}
MESSES = {f"mess-{seed}": seed for seed in (6, 13, 19, 22)}
"""Shops of which sixty edits by chance have left little in order."""
ROOMS = {
    "room": lambda: room_with(
        POST,
        WALK,
        DOOR,
        WINDOW,
        Beam(id="beam", start=(2, -5), end=(2, 5), width=0.15, underside=1.5),
    ),
    "high-room": lambda: room_with(ROLL, height=2.95, end=(9.0, 0.0)),
}
"""Rooms in which one duct meets whatever there is."""
CHEAP = ("air", "check", "gates", "parts")
DUCTWORK = ("points", "runs", "gates", "collectors")
UNSTEADY = {"seconds"}
NUMBER = re.compile(r"\d+(?:\.\d+)?")


def elsewhere():
    """The loft high up in metres, its ducts leaky, for fine dust, two machines at once."""
    project = demo()
    return edits.with_settings(
        project,
        units="metric",
        criterion="catch fine dust",
        altitude=1800.0,
        duct_leakage=1e-4,
        together=(tuple(m.id for m in project.machines[:2]),),
    )


def mess(seed):
    """The loft after many edits of any kind."""
    chance, project = random.Random(seed), demo()
    for _ in range(60):
        with contextlib.suppress(GreyCurrentError, IndexError):
            project = edited(project, chance)
    return project


SHOPS = {
    "loft": demo,
    "loft-elsewhere": elsewhere,
    "allotment-shed": lambda: demo("allotment"),
    "no-collector": lambda: laid_shops.without_ducts(demo()).replaced(collectors=()),
    "wild-3": lambda: made_up(3),
    "wild-5": lambda: made_up(5),
    "wild-8": lambda: made_up(8),
    **ROOMS,
    **{name: lambda seed=seed: mess(seed) for name, seed in MESSES.items()},
    **{name: lambda bare=bare: propose(bare()).proposals[0].project for name, bare in LAID.items()},
}


def sums(found: object) -> Iterator[str]:
    """A line for each kind of object in a JSON value: its place, how many, each field's sum."""
    fields: dict[str, dict[str, list[object]]] = defaultdict(lambda: defaultdict(list))

    def gather(value: object, place: str, field: str) -> None:
        if isinstance(value, dict):
            fields[f"{place}/{field}"]["#"].append(1)
            for key, inner in value.items():
                if key not in UNSTEADY and (field != "project" or key in DUCTWORK):
                    gather(inner, f"{place}/{field}", "each" if "/" in key or "-" in key else key)
        elif isinstance(value, list):
            for inner in value:
                gather(inner, place, field)
        else:
            fields[place][field].append(value)

    gather(found, "", "")
    for place, of_place in fields.items():
        yield f"{place}: " + ", ".join(
            f"{field} {_sum(values)}" for field, values in sorted(of_place.items())
        )


def _sum(values: list[object]) -> str:
    """Of numbers their sum in seven digits, each weighed by where it stands; of words a check
    sum."""
    if all(isinstance(v, int | float) or v is None for v in values):
        return f"{math.fsum(v * (1 + n % 7) for n, v in enumerate(values) if v is not None):.7g}"
    return f"{zlib.crc32(repr(values).encode()):08x}"


def said(name: str, folder: Path, capsys) -> list[str]:
    """All that the commands say of a shop."""
    project = SHOPS[name]()
    texts: tuple[str, ...] = TEXTS
    fields: tuple[str, ...] = FIELDS + LAYING * (name in LAID)
    if name in MESSES or name in ROOMS:
        texts, fields = CHEAP, tuple([command for command in FIELDS if command in CHEAP])
    path = folder / "shop.greycurrent.json"
    project_file.save(project, path)
    asked = [[command] for command in texts]
    if "help-most" in texts:
        one, parts = project.machines[0].id, (*project.runs, *project.points)[:9]
        asked += [["help-most", machine.id] for machine in project.machines]
        asked += [["help-most", one, "--part", part.id] for part in parts]
    lines = []
    for command, *more in asked:
        cli.main([command, str(path), *more])
        printed = capsys.readouterr()
        lines += [
            f"$ {' '.join([command, *more])}",
            *(printed.out + printed.err).replace(str(path), "FILE").splitlines(),
        ]
    for command in fields:
        if cli.main([command, str(path), "--json"]) in (0, 1):
            lines += [f"$ {command} --json", *sums(json.loads(capsys.readouterr().out))]
        capsys.readouterr()
    return [line.rstrip() for line in lines]


def alike(was: str, now: str) -> bool:
    """The same but for what rounding does to a number's last digit on another processor."""
    if NUMBER.split(was) != NUMBER.split(now):
        return False
    pairs = zip(NUMBER.findall(was), NUMBER.findall(now), strict=True)
    return all(
        a == b
        or (abs(float(a) - float(b)) <= 1.01 * 10.0 ** -len((a.split(".") + [""])[1]) and "." in a)
        for a, b in pairs
    )


@pytest.mark.sweep
@pytest.mark.parametrize("name", SHOPS)
def test_answers_are_those_that_were_kept(name, tmp_path, capsys):
    kept, now = KEPT / f"{name}.txt", said(name, tmp_path, capsys)
    if os.environ.get("RENEW_ANSWERS"):
        kept.write_text("\n".join(now) + "\n", encoding="utf-8")
    was = kept.read_text(encoding="utf-8").splitlines()
    other = [f"was: {a}\nnow: {b}" for a, b in zip(was, now, strict=False) if not alike(a, b)]
    assert not other and len(was) == len(now), "\n".join(
        [f"{len(other)} lines differ", *other[:12]]
    )
