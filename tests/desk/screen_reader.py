"""A screen reader of few words: starts the program on a bus of its own, walks what it tells of
itself, presses stages as such a reader does, and prints what it heard as JSON.

Run as `dbus-run-session -- python -m tests.desk.screen_reader`, with a display.
"""

from __future__ import annotations

import contextlib
import json
import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from typing import Any

from jeepney import DBusAddress, Properties, new_method_call
from jeepney.io.blocking import DBusConnection, open_dbus_connection
from jeepney.wrappers import DBusErrorResponse, unwrap_msg

REGISTRY = "org.a11y.atspi.Registry"
ROOT = "/org/a11y/atspi/accessible/root"
# s that the program has to come up and to show another stage.
PATIENCE = 60.0
STEP = 2.0
# The relation of a control to its label (AT-SPI, RelationType).
LABELLED_BY = 2
# The bit of a state that says that it is on the screen (AT-SPI, StateType).
SHOWING = 25
# Exit status where the session has no accessibility bus.
NO_BUS = 3
BUTTONS = ("push button", "toggle button")
CONTROLS = (*BUTTONS, "text", "combo box", "check box", "spin button", "slider", "radio button")
Place = tuple[str, str]


class Reader:
    """What a program tells of itself over the accessibility bus."""

    def __init__(self) -> None:
        session = open_dbus_connection(bus="SESSION")
        bus = DBusAddress("/org/a11y/bus", "org.a11y.Bus", "org.a11y.Bus")
        (address,) = unwrap_msg(session.send_and_get_reply(new_method_call(bus, "GetAddress")))
        self._bus: DBusConnection = open_dbus_connection(bus=address)

    def ask(self, place: Place, interface: str, method: str, *values: object) -> Any:
        """Call a method of something, with whole numbers as what it is given."""
        there = DBusAddress(place[1], place[0], f"org.a11y.atspi.{interface}")
        call = new_method_call(there, method, "i" * len(values), values)
        return unwrap_msg(self._bus.send_and_get_reply(call, timeout=20))[0]

    def told(self, place: Place, what: str, interface: str = "Accessible") -> Any:
        """A property of something."""
        there = DBusAddress(place[1], place[0], f"org.a11y.atspi.{interface}")
        asked = Properties(there).get(what)
        return unwrap_msg(self._bus.send_and_get_reply(asked, timeout=20))[0][1]

    def children(self, place: Place) -> list[Place]:
        """What is in something."""
        return [tuple(child) for child in self.ask(place, "Accessible", "GetChildren")]

    def program(self, name: str) -> Place:
        """The program of a name, waited for. Raises `TimeoutError`."""
        ends = time.monotonic() + PATIENCE
        while time.monotonic() < ends:
            for place in self.children((REGISTRY, ROOT)):
                if self.told(place, "Name") == name:
                    return place
            time.sleep(0.5)
        raise TimeoutError(f"{name} did not come up")

    def walk(self, start: Place) -> Iterator[tuple[Place, str, str]]:
        """Everything in something, each with its role and name; what is gone meanwhile is left
        out.
        """
        pending = [start]
        while pending:
            place = pending.pop()
            with contextlib.suppress(DBusErrorResponse):
                said = self.ask(place, "Accessible", "GetRoleName"), self.told(place, "Name")
                pending += reversed(self.children(place))
                yield place, *said

    def shows(self, place: Place) -> bool:
        """Whether something is on the screen."""
        with contextlib.suppress(DBusErrorResponse):
            low, _ = self.ask(place, "Accessible", "GetState")
            return bool(low >> SHOWING & 1)
        return False

    def press(self, start: Place, name: str) -> None:
        """Press the button whose name begins so. Raises `StopIteration` where there is none."""
        place = next(p for p, role, n in self.walk(start) if role in BUTTONS and n.startswith(name))
        self.ask(place, "Action", "DoAction", 0)
        time.sleep(STEP)

    def labels(self, place: Place) -> list[str]:
        """What is said to be the label of something."""
        with contextlib.suppress(DBusErrorResponse):
            found = self.ask(place, "Accessible", "GetRelationSet")
            told = [tuple(one) for kind, others in found if kind == LABELLED_BY for one in others]
            return [self.told(other, "Name") for other in told]
        return []


def heard(reader: Reader, program: Place) -> list[dict[str, Any]]:
    """Every control with its role, its name and its labels."""
    return [
        {"role": role, "name": name, "labels": reader.labels(place)}
        for place, role, name in reader.walk(program)
        if role in CONTROLS and reader.shows(place)
    ]


def main() -> None:
    """Walk every stage, switch a machine on, and print all that was heard."""
    try:
        reader = Reader()
    except (DBusErrorResponse, OSError):
        sys.exit(NO_BUS)
    with tempfile.TemporaryDirectory() as settings:
        started = [sys.executable, "-m", "grey_current.desk.start", "--settings", settings]
        env = {**os.environ, "QT_LINUX_ACCESSIBILITY_ALWAYS_ON": "1"}
        with subprocess.Popen(started, env=env) as program:
            try:
                window = reader.program("Grey Current")
                time.sleep(STEP)
                told: dict[str, Any] = {"stages": {}}
                for number in range(1, 9):
                    reader.press(window, f"Stage {number}: ")
                    told["stages"][number] = heard(reader, window)
                reader.press(window, "Stage 4: ")
                reader.press(window, "Planer, off")
                told["switched"] = heard(reader, window)
            finally:
                program.terminate()
    sys.stdout.write(json.dumps(told) + "\n")


if __name__ == "__main__":
    main()
