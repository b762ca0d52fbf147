"""Part keys: what a kind of part is called in files, and how the key is read in words.

A key says everything that one asks for in a shop, sizes in millimetres:
"elbow/spiral-steel/102/90/r1.5". Names on screen are made from it, so that a price book needs
nothing else.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from grey_current.numerals import in_marks
from grey_current.shop.catalogue import catalogue, collector_key, materials
from grey_current.spelling import localised, spelled
from grey_current.units import Display

Unit = Literal["piece", "m", "m²", "l"]
GROUPS = (
    "Collector",
    "Pipe",
    "Fittings",
    "Gates",
    "Hose",
    "Machine ends",
    "Hangers",
    "Joints",
    "Earthing",
    "Made in the shop",
)


@dataclass(frozen=True)
class Kind:
    """What a key's first word stands for: its group, its unit, and how it is read in words."""

    group: str
    unit: Unit
    words: str


KINDS: dict[str, Kind] = {
    "collector": Kind("Collector", "piece", "Collector"),
    "bracket": Kind("Collector", "piece", "Wall bracket for the collector, which has no stand"),
    "separator": Kind("Collector", "piece", "Separator:"),
    "filter": Kind("Collector", "piece", "Filter:"),
    "grille": Kind("Collector", "piece", "Grille"),
    "pipe": Kind("Pipe", "m", "Pipe"),
    "length": Kind("Pipe", "piece", "Pipe"),
    "elbow": Kind("Fittings", "piece", "Elbow"),
    "wye": Kind("Fittings", "piece", "Wye"),
    "reducer": Kind("Fittings", "piece", "Reducer"),
    "splitter": Kind("Fittings", "piece", "Splitter box"),
    "coupling": Kind("Fittings", "piece", "Coupling"),
    "change": Kind("Fittings", "piece", "Coupling between"),
    "cap": Kind("Fittings", "piece", "Cap, as a clean-out"),
    "gate": Kind("Gates", "piece", "Blast gate"),
    "seal": Kind("Gates", "piece", "Seal for a blast gate"),
    "hose": Kind("Hose", "m", "Hose"),
    "clamp": Kind("Hose", "piece", "Hose clamp"),
    "quick": Kind("Hose", "piece", "Quick coupler on the hose"),
    "collar": Kind("Machine ends", "piece", "Collar for the quick coupler"),
    "adaptor": Kind("Machine ends", "piece", "Adaptor"),
    "sleeve": Kind("Machine ends", "piece", "Rubber sleeve with two clamps,"),
    "port": Kind("Machine ends", "piece", "Port for the machine"),
    "hood": Kind("Machine ends", "piece", "Tapered hood"),
    "own-fan": Kind("Machine ends", "piece", "The machine's own chip fan"),
    "hanger": Kind("Hangers", "piece", "Hanger or strap"),
    "anchor": Kind("Hangers", "piece", "For the hangers:"),
    "screws": Kind("Joints", "piece", "Sheet-metal screws"),
    "tape": Kind("Joints", "m", "Foil tape"),
    "mastic": Kind("Joints", "l", "Duct mastic"),
    "cement": Kind("Joints", "l", "Pipe cement"),
    "primer": Kind("Joints", "l", "Primer, before the cement"),
    "earth-wire": Kind("Earthing", "m", "Bare copper wire"),
    "earth-clamp": Kind("Earthing", "piece", "Clamp for the earthing wire"),
    "made": Kind("Made in the shop", "piece", "Made in the shop:"),
    "sheet": Kind("Made in the shop", "m²", "Sheet of"),
    "batten": Kind("Made in the shop", "m", "Batten or strip"),
    "rod": Kind("Made in the shop", "m", "Threaded rod with nuts"),
    "lining": Kind("Made in the shop", "m²", "Sound lining"),
    "foam": Kind("Made in the shop", "m", "Soft foam strip"),
    "magnet": Kind("Made in the shop", "piece", "Round magnet,"),
    "panel-filter": Kind("Made in the shop", "piece", "Panel filter,"),
    "air-fan": Kind("Made in the shop", "piece", "Fan for the room filter,"),
    "wood-screws": Kind("Made in the shop", "piece", "Wood screws"),
    "wood-glue": Kind("Made in the shop", "l", "Wood glue"),
}
ANCHORS = {"wood": "screws into studs and joists", "masonry": "wall anchors with their screws"}
SHORT_MATERIAL = {
    "pvc": "PVC",
    "spiral-steel": "spiral steel",
    "snap-lock-steel": "snap-lock steel",
    "smooth-hose": "smooth bore",
    "ribbed-hose": "ribbed",
}


# What a key has lost: "2 1 2 in" was 2 1/2 in, "1 5 hp" was 1.5 hp.
_FRACTION, _POINT = re.compile(r"\b(\d+) (\d) (\d)\b"), re.compile(r"\b(\d+) (\d)\b(?!/)")


def mm(metres: float) -> str:
    """A bore as keys have it, in whole millimetres."""
    return f"{metres * 1000:.0f}"


def kind_of(key: str) -> Kind:
    """What a key stands for; an unknown one is some part of the user's own."""
    return KINDS.get(key.split("/", maxsplit=1)[0], Kind("Fittings", "piece", key))


def pipe_key(material: str, bore: float) -> str:
    """The part key of rigid pipe by the metre."""
    return f"pipe/{material}/{mm(bore)}"


def hose_key(material: str, bore: float) -> str:
    """The part key of a hose by the metre: it is one thing whether it hangs slack or not."""
    return f"hose/{'ribbed-hose' if material == 'slack-hose' else material}/{mm(bore)}"


def part_words(key: str, display: Display) -> str:
    """A part in words: "Elbow 90°, 4 in, spiral steel"."""
    word, _, rest = key.partition("/")
    kind = kind_of(key)
    if word == "collector":
        return localised(_collector_words(key), display.system)
    if word in _READERS and rest:
        return in_marks(f"{kind.words} {_READERS[word](rest.split('/'), display)}")
    return kind.words


def _collector_words(key: str) -> str:
    """The model that a key was made of; of one that the catalogue has not, what can be read from
    the key: "1-5-hp-cyclone" as "1.5 hp cyclone".
    """
    for model in catalogue().collectors:
        if collector_key(model.model) == key:
            return model.model
    words = key.partition("/")[2].replace("-", " ")
    return _POINT.sub(r"\1.\2", _FRACTION.sub(r"\1 \2/\3", words))


def _size(text: str, display: Display) -> str:
    return display.diameter(float(text) / 1000)


def _sizes(text: str, display: Display, between: str) -> str:
    return between.join(_size(part, display) for part in text.split("-"))


def _material(name: str) -> str:
    return SHORT_MATERIAL.get(name, materials()[name].label if name in materials() else name)


def _elbow(p: list[str], display: Display) -> str:
    square = spelled("mitred", display.system)
    radius = square if p[3] == "mitre" else f"radius {p[3].rpartition('r')[2]} bores"
    gores = f", {p[3].rpartition('-r')[0].replace('-', ' ')}" if "-r" in p[3] else ""
    angle = "adjustable to 90°" if p[2] == "adjustable" else f"{p[2]}°"
    return f"{angle}, {_size(p[1], display)}, {radius}{gores}, {_material(p[0])}"


# How what follows a key's first word is read, with the display.
_READERS: dict[str, Callable[[list[str], Display], str]] = {
    "pipe": lambda p, d: f"{_size(p[1], d)}, {_material(p[0])}",
    "length": lambda p, d: (
        f"{_size(p[1], d)}, {_material(p[0])}, {d.length(float(p[2]) / 1000)} long"
    ),
    "elbow": _elbow,
    "wye": lambda p, d: f"{p[2]}°, {_sizes(p[1], d, ' × ')}, {_material(p[0])}",
    "reducer": lambda p, d: f"{_sizes(p[1], d, ' to ')}, {p[2]}, {_material(p[0])}",
    "splitter": lambda p, d: f"{_size(p[1], d)} into {_sizes(p[2], d, ' and ')}, {_material(p[0])}",
    "coupling": lambda p, d: f"{_size(p[1], d)}, {_material(p[0])}",
    "change": lambda p, d: f"{_material(p[0])} and {_material(p[1])}, {_size(p[2], d)}",
    "cap": lambda p, d: f"{_size(p[1], d)}, {_material(p[0])}",
    "gate": lambda p, d: f"{_size(p[0], d)}, {p[1].replace('-', ' ')}",
    "hose": lambda p, d: f"{_size(p[1], d)}, {_material(p[0])}",
    "clamp": lambda p, d: _size(p[0], d),
    "quick": lambda p, d: _size(p[0], d),
    "collar": lambda p, d: _size(p[0], d),
    "sleeve": lambda p, d: _size(p[0], d),
    "adaptor": lambda p, d: f"{_sizes(p[0], d, ' to ')}",
    "hanger": lambda p, d: _size(p[0], d),
    "anchor": lambda p, d: ANCHORS.get(p[0], p[0]),
    "made": lambda p, d: " ".join(p[:1]).replace("-", " "),
    "sheet": lambda p, d: f"{p[0]}, {d.length(float(p[1]) / 1000)} thick",
    "magnet": lambda p, d: f"{p[0]} × {p[1]} mm",
    "panel-filter": lambda p, d: _sizes(p[0], d, " × "),
    "air-fan": lambda p, d: d.airflow(float(p[0]) / 3600),
    "separator": lambda p, d: p[0].replace("-", " "),
    "filter": lambda p, d: f"{p[0].replace('-', ' ')}, {d.surface(float(p[1]) / 100)}",
    "grille": lambda p, d: f"{_size(p[0], d)} square",
    "seal": lambda p, d: _size(p[0], d),
    "port": lambda p, d: _size(p[0], d),
    "hood": lambda p, d: _size(p[0], d),
}
