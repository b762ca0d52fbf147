"""The user's own machines, kept in one file beside the settings; the shipped catalogue stays as it is."""

from __future__ import annotations

import json
from pathlib import Path

import platformdirs
from pydantic import ValidationError

from grey_current.errors import FileError
from grey_current.files.project_file import explain, write_whole
from grey_current.shop.catalogue import MachineModel, MachineShelf, machine_models
from grey_current.shop.model import Machine, MachineBody

GROUP = "My machines"


class Library:
    """Machines of the user's own, in the order in which they were kept."""

    def __init__(self, folder: Path | None = None) -> None:
        self.path = (folder or Path(platformdirs.user_data_dir("grey-current"))) / "machines.json"
        self.machines: tuple[MachineModel, ...] = ()
        self.problem: str | None = None
        self._read()

    def _read(self) -> None:
        """Read the file; one that cannot be read is left alone, and `problem` says why in one sentence."""
        try:
            raw = json.loads(self.path.read_text(encoding="utf-8"))
            self.machines = MachineShelf.model_validate(raw).machines
        except FileNotFoundError:
            return
        except ValidationError as fault:
            self.problem = str(FileError(str(self.path), *explain(fault, raw)))
        except (OSError, ValueError):
            self.problem = str(FileError(str(self.path), "is no readable machine file", "mend it or move it away"))

    def all_models(self) -> tuple[MachineModel, ...]:
        """The user's machines, then the shipped ones."""
        return (*self.machines, *machine_models())

    def keep(self, machine: Machine) -> None:
        """Keep a copy of a machine; one of the same name is replaced. Raises `FileError`."""
        if self.problem:
            raise FileError(str(self.path), "cannot be read, so nothing is written to it", "mend it or move it away")
        body = MachineBody(**{key: getattr(machine, key) for key in MachineBody.model_fields})
        model = MachineModel(group=GROUP, derived="Your own figures.", body=body)
        others = tuple(m for m in self.machines if m.body.name != machine.name)
        shelf = MachineShelf(machines=(*others, model))
        text = json.dumps(shelf.model_dump(mode="json"), indent=1, ensure_ascii=False) + "\n"
        self.path.parent.mkdir(parents=True, exist_ok=True)
        write_whole(text, self.path)
        self.machines = shelf.machines
