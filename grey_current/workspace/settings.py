"""The user's own settings and recent files, kept in one small JSON file. No Qt."""

from __future__ import annotations

import contextlib
import json
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import platformdirs

RECENT = 8


@dataclass(frozen=True)
class Setting:
    """One setting: its name in the file, choices (the first is the default) and words for the menu."""

    name: str
    choices: tuple[str, ...]
    words: tuple[str, ...]
    title: str


SETTINGS = (
    Setting("theme", ("light", "dark"), ("Light", "Dark"), "Look"),
    Setting("motion", ("system", "on", "off"), ("As the desktop says", "Always", "Never"), "Moving air"),
    Setting("lanes", ("chosen", "all"), ("Of the chosen machine", "Of all machines"), "Lanes for boards"),
)


class UserSettings:
    """Settings by name, and recent files. A broken file counts as none; nothing here can stop a start."""

    def __init__(self, folder: Path | None = None) -> None:
        self._path = (folder or Path(platformdirs.user_config_dir("grey-current"))) / "settings.json"
        self._values: dict[str, Any] = {}
        with contextlib.suppress(OSError, ValueError, RecursionError):
            read = json.loads(self._path.read_text(encoding="utf-8"))
            self._values = read if isinstance(read, dict) else {}

    def get(self, name: str) -> str:
        """A setting's value. Raises `KeyError` for an undeclared name."""
        setting = {item.name: item for item in SETTINGS}[name]
        value = self._values.get(name)
        return value if isinstance(value, str) and value in setting.choices else setting.choices[0]

    def use(self, name: str, value: str) -> None:
        """Change a setting for this time only."""
        self._values[name] = value

    def put(self, name: str, value: str) -> None:
        """Change a setting and keep it."""
        self._values[name] = value
        self._keep()

    @property
    def recent(self) -> list[Path]:
        """Files opened or saved lately, latest first."""
        listed = self._values.get("recent")
        return [Path(p) for p in listed if isinstance(p, str)] if isinstance(listed, list) else []

    def remember(self, path: Path) -> None:
        """Put a file first among the recent ones."""
        others = [str(p) for p in self.recent if p != path.absolute()]
        self._values["recent"] = [str(path.absolute()), *others][:RECENT]
        self._keep()

    def _keep(self) -> None:
        with contextlib.suppress(OSError):
            self._path.parent.mkdir(parents=True, exist_ok=True)
            self._path.write_text(json.dumps(self._values, indent=1), encoding="utf-8")
