"""A folder as a disk that loses power: what is surely on it, and what may be, after every step that
the program takes."""

from __future__ import annotations

import os
import stat
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest

State = dict[str, bytes]


class Disk:
    """Watches a folder; `looked` is called with every state in which a power cut could leave it
    just then.

    Surely there is what was seen to the disk: a file's bytes when it was synced, the folder's names
    when that was.
    """

    def __init__(self, folder: Path, shadow: Path, looked: Callable[[str, State], None]) -> None:
        self.folder, self.shadow, self.looked = folder, shadow, looked
        self.looking = False
        shadow.mkdir()
        self.bytes_of: dict[int, bytes] = {}
        self.names = self._names()
        for name in self.names:
            self.bytes_of[self.names[name]] = (folder / name).read_bytes()

    def _names(self) -> dict[str, int]:
        found = {
            entry.name: entry.stat().st_ino for entry in self.folder.iterdir() if entry.is_file()
        }
        for (
            name,
            inode,
        ) in found.items():  # a second name keeps the number from being given to another file
            if not (self.shadow / str(inode)).exists():
                os.link(self.folder / name, self.shadow / str(inode))
        return found

    def states(self) -> Iterator[tuple[str, State]]:
        """Every way in which power may go now: nothing more kept, names without their bytes,
        everything kept."""
        now = self._names()
        yield (
            "only what was synced",
            {name: self.bytes_of.get(inode, b"") for name, inode in self.names.items()},
        )
        yield (
            "names without bytes",
            {name: self.bytes_of.get(inode, b"") for name, inode in now.items()},
        )
        yield "everything", {name: (self.folder / name).read_bytes() for name in now}

    def look(self, what: str) -> None:
        """Look at every state in which a power cut could leave the folder now."""
        self.looking = True
        for kept, state in self.states():
            self.looked(f"{what}, {kept}", state)
        self.looking = False

    def _synced(self, handle: int) -> None:
        told = os.fstat(handle)
        if stat.S_ISDIR(told.st_mode):
            self.names = self._names()
        elif told.st_ino in self._names().values():
            self.bytes_of[told.st_ino] = (self.shadow / str(told.st_ino)).read_bytes()

    def watch(self, monkeypatch: pytest.MonkeyPatch) -> None:
        """Look after every sync, renaming, cutting short and taking away."""
        for name in ("fsync", "replace", "rename", "unlink", "ftruncate"):
            monkeypatch.setattr(os, name, self._watched(name, getattr(os, name)))

    def _watched(self, name: str, real: Callable[..., None]) -> Callable[..., None]:
        def step(*given: object, **named: object) -> None:
            real(*given, **named)
            if self.looking:  # what the look itself does is no step of the program
                return
            if name == "fsync":
                assert isinstance(given[0], int)
                self._synced(given[0])
            self.look(name)

        return step
