"""The demo shops that ship with the program, as project files."""

from __future__ import annotations

from importlib.resources import files
from pathlib import Path

from grey_current.errors import InputError

DEMOS = {
    "loft": "net-loft.greycurrent.json",
    "allotment": "allotment-shed.greycurrent.json",
    "empty": "empty-shop.greycurrent.json",
}


def demo_path(name: str) -> Path:
    """Where a demo shop's file is. Raises `InputError` for an unknown name."""
    if name not in DEMOS:
        raise InputError("shop", name, f"choose one of {', '.join(DEMOS)}")
    return Path(str(files("grey_current.shop") / "demos" / DEMOS[name]))
