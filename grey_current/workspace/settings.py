"""The user's own settings and recent files, kept in one small JSON file. No Qt."""

from __future__ import annotations

import contextlib
import json
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, Literal, cast

import platformdirs

from grey_current.errors import FileError
from grey_current.files.safe_write import held, write_export
from grey_current.shop.build_edits import with_build
from grey_current.shop.edits import with_settings
from grey_current.shop.keep_edits import with_keep
from grey_current.shop.keep_plan import READS, Instrument
from grey_current.shop.model import Project
from grey_current.shop.room_edits import in_units
from grey_current.units import System

RECENT = 8
PANES = ("machines", "strip", "page")
# Pixels that a pane may be said to have: a broken file must not push the floor out of the window.
PANE_PIXELS = (40, 4000)


@dataclass(frozen=True)
class Setting:
    """One setting: its name in the file, choices (the first is the default) and their words.

    Attributes:
        told: What it does, where its title does not say so.
    """

    name: str
    choices: tuple[str, ...]
    words: tuple[str, ...]
    title: str
    told: str = ""


@dataclass(frozen=True)
class Measure:
    """A setting that is typed: a length (m) or a mass (kg) within bounds, or nothing."""

    name: str
    title: str
    quantity: Literal["length", "mass"]
    least: float
    most: float


# How the program looks, chosen in the View menu too.
SETTINGS = (
    Setting("theme", ("light", "dark"), ("Light", "Dark"), "Look"),
    Setting(
        "text-size",
        ("100", "90", "110", "125", "140", "160"),
        ("100 %, as made", "90 %", "110 %", "125 %", "140 %", "160 %"),
        "Text size",
    ),
    Setting(
        "numbers",
        ("system", "point", "comma"),
        ("As the computer is set", "1,234.5", "1\u00a0234,5"),
        "Figures",
    ),
    Setting(
        "saving",
        ("by hand", "itself"),
        ("When you save it", "Every 5 minutes too"),
        "The file is saved",
        "What you have not saved is kept aside in any case, and offered after a crash.",
    ),
    Setting(
        "motion", ("system", "on", "off"), ("As the desktop says", "Always", "Never"), "Moving air"
    ),
    Setting(
        "lanes",
        ("chosen", "all"),
        ("Of the selected machine", "Of all machines"),
        "Lanes for boards",
    ),
)


# What it shows when it is started without a file.
START = (
    Setting(
        "start",
        ("last", "empty", "loft"),
        ("The shop of last time", "An empty shop", "The sample loft"),
        "It starts with",
    ),
)
# What a new shop begins with.
NEW_SHOPS = (
    Setting(
        "new-units",
        ("as open", "us", "metric", "metric-cm"),
        ("As in the shop that is open", "Feet and inches, CFM", "Metric, m³/h", "Metric, in cm"),
        "Units",
    ),
    Setting(
        "new-criterion",
        ("clear chips", "catch fine dust"),
        ("To clear the chips", "To catch the fine dust"),
        "Designed",
    ),
    Setting(
        "new-currency",
        ("by units", "USD", "EUR"),
        ("By its units", "USD, usual prices of the US", "EUR, usual prices of Europe"),
        "Prices",
    ),
)
# Who works in it, with what it is measured: for new shops too.
PERSON = (
    Measure("new-tall", "Your height", "length", 1.0, 2.4),
    Measure("new-reaches", "You reach up to", "length", 0.8, 2.8),
    Measure("new-lifts", "You lift alone", "mass", 1.0, 100.0),
)
# Of the settings that hold several names: which instruments there are; "all" for not said.
INSTRUMENTS = "new-instruments"
CHOICES = (*SETTINGS, *START, *NEW_SHOPS)


@dataclass(frozen=True)
class PaneSizes:
    """The panes around the floor at one stage: pixels of those that were dragged, names of those
    that are hidden.
    """

    pixels: Mapping[str, int] = field(default_factory=dict)
    folded: tuple[str, ...] = ()

    def with_folded(self, name: str) -> PaneSizes:
        """The same with a pane hidden, or shown again."""
        others = tuple(n for n in self.folded if n != name)
        return PaneSizes(self.pixels, others if name in self.folded else (*others, name))


@dataclass(frozen=True)
class Session:
    """What was shown when the window was closed: the file, the stage, where on the screen (left,
    top, width, height in pixels; none for a window as large as the screen).
    """

    path: Path | None = None
    stage: str = ""
    frame: tuple[int, int, int, int] | None = None


class UserSettings:
    """Settings by name, and recent files. A broken file counts as none; nothing here can stop a
    start.

    Attributes:
        own: The folder that they are kept in instead of the usual one.
    """

    def __init__(self, folder: Path | None = None) -> None:
        self.own = folder
        self._path = (
            folder or Path(platformdirs.user_config_dir("grey-current"))
        ) / "settings.json"
        self._values: dict[str, Any] = self._read()

    def _read(self) -> dict[str, Any]:
        """What the file holds; nothing for one that cannot be read."""
        with contextlib.suppress(OSError, ValueError, RecursionError):
            read = json.loads(self._path.read_text(encoding="utf-8"))
            return read if isinstance(read, dict) else {}
        return {}

    def get(self, name: str) -> str:
        """A setting's value. Raises `KeyError` for an undeclared name."""
        setting = {item.name: item for item in CHOICES}[name]
        value = self._values.get(name)
        return value if isinstance(value, str) and value in setting.choices else setting.choices[0]

    def measure(self, name: str) -> float | None:
        """What was typed for a measure (SI); None for nothing, or for what a broken file has."""
        one = {item.name: item for item in PERSON}[name]
        value = self._values.get(name)
        if isinstance(value, bool) or not isinstance(value, int | float):
            return None
        return float(value) if one.least <= value <= one.most else None

    def put_measure(self, name: str, value: float | None) -> None:
        """Keep a measure, or none."""
        self._values[name] = value
        self._keep(lambda kept: kept | {name: value})

    @property
    def instruments(self) -> tuple[Instrument, ...] | None:
        """The instruments that there are; None while nothing was said."""
        listed = self._values.get(INSTRUMENTS)
        if not isinstance(listed, list):
            return None
        return tuple(name for name in READS if name in listed)

    def put_instruments(self, owned: tuple[Instrument, ...] | None) -> None:
        """Keep which instruments there are."""
        value = None if owned is None else list(owned)
        self._values[INSTRUMENTS] = value
        self._keep(lambda kept: kept | {INSTRUMENTS: value})

    def begun(self, project: Project) -> Project:
        """A shop with what the settings say of new ones. Raises nothing."""
        wish = self.get("new-units")
        units: System = project.settings.units if wish == "as open" else cast(System, wish)
        made = in_units(project, units) if units != project.settings.units else project
        currency = self.get("new-currency")
        if currency == "by units":
            currency = "USD" if units == "us" else "EUR"
        made = with_settings(
            made,
            criterion=self.get("new-criterion"),
            tall=self.measure("new-tall"),
            reaches=self.measure("new-reaches"),
            lifts=self.measure("new-lifts"),
        )
        made = with_build(made, currency=currency)
        return with_keep(made, instruments=self.instruments)

    def use(self, name: str, value: str) -> None:
        """Change a setting for this time only."""
        self._values[name] = value

    def put(self, name: str, value: str) -> None:
        """Change a setting and keep it."""
        self._values[name] = value
        self._keep(lambda kept: kept | {name: value})

    @property
    def recent(self) -> list[Path]:
        """Files opened or saved lately, latest first."""
        return _recent(self._values)

    def remember(self, path: Path) -> None:
        """Put a file first among the recent ones."""
        first = path.absolute()

        def with_it(kept: dict[str, Any]) -> dict[str, Any]:
            others = [str(p) for p in _recent(kept) if p != first]
            return kept | {"recent": [str(first), *others][:RECENT]}

        self._values = with_it(self._values)
        self._keep(with_it)

    @property
    def session(self) -> Session:
        """What was shown last; an empty one where a broken file has none."""
        value = self._values.get("session")
        value = value if isinstance(value, dict) else {}
        path, stage, frame = value.get("path"), value.get("stage"), value.get("frame")
        sides = [side for side in frame if type(side) is int] if isinstance(frame, list) else []
        return Session(
            Path(path) if isinstance(path, str) and path else None,
            stage if isinstance(stage, str) else "",
            (sides[0], sides[1], sides[2], sides[3]) if len(sides) == 4 else None,
        )

    def put_session(self, session: Session) -> None:
        """Keep what is shown, for the next start."""
        value = {
            "path": str(session.path.absolute()) if session.path else None,
            "stage": session.stage,
            "frame": list(session.frame) if session.frame else None,
        }
        self._values["session"] = value
        self._keep(lambda kept: kept | {"session": value})

    @property
    def panes(self) -> dict[str, PaneSizes]:
        """The panes' sizes by stage."""
        listed = self._values.get("panes")
        listed = listed if isinstance(listed, dict) else {}
        return {stage: _pane_sizes(value) for stage, value in listed.items()}

    def put_panes(self, sizes: Mapping[str, PaneSizes]) -> None:
        """Keep the panes' sizes by stage."""
        panes = {
            stage: {**size.pixels, "folded": list(size.folded)} for stage, size in sizes.items()
        }
        self._values["panes"] = panes
        self._keep(lambda kept: kept | {"panes": panes})

    def _keep(self, change: Callable[[dict[str, Any]], dict[str, Any]]) -> None:
        """Make one change to what the file holds now, which another window may have written
        meanwhile.
        """
        with contextlib.suppress(OSError, FileError):
            self._path.parent.mkdir(parents=True, exist_ok=True)
            with held(self._path):
                made = change(self._read() or self._values)
                write_export(json.dumps(made, indent=1), self._path)
                self._values["recent"] = [str(p) for p in _recent(made)]


def _recent(values: dict[str, Any]) -> list[Path]:
    listed = values.get("recent")
    return [Path(p) for p in listed if isinstance(p, str)] if isinstance(listed, list) else []


def _pane_sizes(value: object) -> PaneSizes:
    """One stage's sizes as the file has them; what cannot be is left out."""
    if not isinstance(value, dict):
        return PaneSizes()
    least, most = PANE_PIXELS
    pixels = {
        name: value[name]
        for name in PANES
        if isinstance(value.get(name), int) and least <= value[name] <= most
    }
    folded = value.get("folded")
    listed = folded if isinstance(folded, list) else []
    return PaneSizes(pixels, tuple(name for name in PANES if name in listed))
