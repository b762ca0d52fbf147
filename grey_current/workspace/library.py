"""The user's own machines, collectors and prices, each kept in a file of their own; the shipped
catalogue stays.
"""

from __future__ import annotations

import contextlib
import json
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import TypeVar

import platformdirs
from pydantic import ValidationError

from grey_current.design.collector.plausible import VACUUM_INLET
from grey_current.errors import FileError, InputError, RefusedEdit
from grey_current.files.project_file import explain
from grey_current.files.safe_write import held, write_export
from grey_current.shop.build_plan import Price, PriceShelf
from grey_current.shop.catalogue import (
    CollectorKind,
    CollectorShelf,
    MachineModel,
    MachineShelf,
    machine_models,
    model_of,
)
from grey_current.shop.collectors import Collector
from grey_current.shop.machines import Machine, MachineBody
from grey_current.shop.values import Value

GROUP = "My machines"

MOST_PRICES = 1000

ShelfT = TypeVar("ShelfT", bound=Value)


class Library:
    """Machines and collectors of the user's own, in the order in which they were kept."""

    def __init__(self, folder: Path | None = None) -> None:
        place = folder or Path(platformdirs.user_data_dir("grey-current"))
        self.path, self.collector_path = place / "machines.json", place / "collectors.json"
        self.price_path = place / "prices.json"
        self.problem: str | None = None
        self._broken: set[Path] = set()
        self._load()

    def _load(self) -> None:
        """Read what the files hold now."""
        self._broken.clear()
        self.machines = self._read(self.path, MachineShelf(machines=())).machines
        self.collectors = self._read(self.collector_path, CollectorShelf(collectors=())).collectors
        self.prices = self._read(self.price_path, PriceShelf(prices=())).prices

    def _read(self, path: Path, empty: ShelfT) -> ShelfT:
        """Read a file; one that cannot be read is left alone, and `problem` says why in one
        sentence.
        """
        try:
            raw = json.loads(path.read_text(encoding="utf-8"))
            return type(empty).model_validate(raw)
        except FileNotFoundError:
            return empty
        except ValidationError as fault:
            self.problem = str(FileError(str(path), *explain(fault, raw)))
        except (OSError, ValueError, RecursionError):
            what = {self.path: "machine", self.price_path: "price"}.get(path, "collector")
            self.problem = str(
                FileError(str(path), f"is no readable {what} file", "mend it or move it away")
            )
        self._broken.add(path)
        return empty

    def all_models(self) -> tuple[MachineModel, ...]:
        """The user's machines, then the shipped ones."""
        return (*self.machines, *machine_models())

    def keep(self, machine: Machine) -> None:
        """Keep a copy of a machine; one of the same name is replaced. Raises `FileError`."""
        body = MachineBody(**{key: getattr(machine, key) for key in MachineBody.model_fields})
        model = MachineModel(group=GROUP, derived="Your own figures.", body=body)
        with self._changing(self.path):
            others = tuple(m for m in self.machines if m.body.name != machine.name)
            self._write(self.path, shelf := MachineShelf(machines=(*others, model)))
            self.machines = shelf.machines

    def keep_collector(self, collector: Collector) -> None:
        """Keep a copy of a collector with its curve; one of the same name is replaced.

        Raises `InputError` for one whose motor, impeller, bin or noise is not known, `FileError` as
        `keep`.
        """
        kind: CollectorKind = "cyclone" if collector.separator else "single-stage"
        if collector.inlet < VACUUM_INLET:
            kind = "vacuum"
        model = model_of(collector, kind)
        if model is None:
            raise RefusedEdit(
                collector.name, "keeping it", "enter its motor, impeller, bin and noise first"
            )
        # Read anew under the lock, for another window may have kept one meanwhile.
        with self._changing(self.collector_path):
            others = tuple(m for m in self.collectors if m.model != model.model)
            self._write(self.collector_path, shelf := CollectorShelf(collectors=(*others, model)))
            self.collectors = shelf.collectors

    def keep_prices(self, prices: Iterable[Price]) -> None:
        """Keep prices in the user's own book, each in place of an older one of its part. Raises
        `FileError`.
        """
        new = {item.key: item for item in prices if not item.made_up}
        with self._changing(self.price_path):
            shelf = PriceShelf(
                prices=(*(p for p in self.prices if p.key not in new), *new.values())[-MOST_PRICES:]
            )
            self._write(self.price_path, shelf)
            self.prices = shelf.prices

    def kept(self) -> dict[str, str]:
        """What is kept, by the words that it is called: machines by name, then collectors."""
        machines = {f"Machine: {m.body.name}": m.body.name for m in self.machines}
        return machines | {f"Collector: {m.model}": m.model for m in self.collectors}

    def forget(self, words: str) -> None:
        """Forget something, by the words of `kept`. Raises `InputError` for unknown ones,
        `FileError` as `keep`.
        """
        if words not in self.kept():
            raise InputError("kept", words, "choose something that is kept")
        name = self.kept()[words]
        if words.startswith("Machine: "):
            with self._changing(self.path):
                machines = MachineShelf(
                    machines=tuple(m for m in self.machines if m.body.name != name)
                )
                self._write(self.path, machines)
                self.machines = machines.machines
        else:
            with self._changing(self.collector_path):
                collectors = CollectorShelf(
                    collectors=tuple(m for m in self.collectors if m.model != name)
                )
                self._write(self.collector_path, collectors)
                self.collectors = collectors.collectors

    @contextlib.contextmanager
    def _changing(self, path: Path) -> Iterator[None]:
        """Hold a file and read it once more, for another window may have written it. Raises
        `FileError`.
        """
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
        except OSError:
            raise FileError(
                str(path.parent), "cannot be made as a folder", "make it, or free its name"
            ) from None
        with held(path):
            self._load()
            yield

    def _write(self, path: Path, shelf: Value) -> None:
        if path in self._broken:
            raise FileError(
                str(path), "cannot be read, so nothing is written to it", "mend it or move it away"
            )
        write_export(
            json.dumps(shelf.model_dump(mode="json"), indent=1, ensure_ascii=False) + "\n", path
        )
