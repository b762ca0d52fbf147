"""An instrument at the other end of a line: a local socket that speaks WHO, AT and READ. Stand-in
or real, alike.
"""

from __future__ import annotations

import math
import shlex
import socket
import socketserver
from dataclasses import dataclass

from grey_current.errors import InputError
from grey_current.standins.instruments import (
    INSTRUMENTS,
    LONGEST_LINE,
    Instrument,
    InstrumentKind,
    Session,
)
from grey_current.units import CFM, FPM, INH2O

HOST = "127.0.0.1"
# What a unit is in the one that figures are kept in, by what is read. An instrument may answer in
# its own.
UNITS: dict[str, dict[str, float]] = {
    "static pressure": {
        "pa": 1.0,
        "hpa": 100.0,
        "kpa": 1000.0,
        "mbar": 100.0,
        "inh2o": INH2O,
        "mmh2o": INH2O / 25.4,
    },
    "velocity": {"m/s": 1.0, "km/h": 1 / 3.6, "fpm": FPM, "ft/min": FPM},
    "airflow": {"m3/s": 1.0, "m3/h": 1 / 3600, "l/s": 1e-3, "cfm": CFM},
    "motor current": {"a": 1.0, "ma": 1e-3},
    "sound": {"db(a)": 1.0, "dba": 1.0},
    "dust": {"mg/m3": 1.0, "ug/m3": 1e-3},
    "litres": {"l": 1.0, "gal": 3.785411784},
}
UNITS["filter drop"] = UNITS["static pressure"]
# s that an answer may take.
WAITS = 3.0


@dataclass(frozen=True)
class Address:
    """Where an instrument listens."""

    host: str
    port: int

    def __str__(self) -> str:
        return f"{self.host}:{self.port}"


def read_address(text: str) -> Address:
    """An address as "7431", "localhost:7431" or "192.168.0.7:7431". Raises `InputError`."""
    host, _, port = text.strip().rpartition(":")
    if not port.isdecimal() or not 1 <= int(port) <= 65_535:
        raise InputError(
            "instrument", text, "write its port such as 7431, or a name and a port: localhost:7431"
        )
    return Address(host or HOST, int(port))


class LineInstrument:
    """An instrument that is asked by lines, one conversation for each figure."""

    def __init__(self, address: Address) -> None:
        self.address = address
        self.kind, self._unit = self._who()

    def _who(self) -> tuple[InstrumentKind, str]:
        """What answers, and the unit in which it does."""
        (answer,) = self._talk("WHO")
        words = answer.split()
        if len(words) < 2 or words[0] != "I" or words[1] not in INSTRUMENTS:
            raise InputError(
                "instrument",
                str(self.address),
                f"what answers there is none of: {', '.join(INSTRUMENTS)}",
            )
        kind, unit = INSTRUMENTS[words[1]], " ".join(words[2:]) or INSTRUMENTS[words[1]].unit
        # One that reads two things names both units, each for its own.
        if unit != kind.unit and not any(unit.lower() in UNITS[what] for what in kind.reads):
            known = ", ".join(dict.fromkeys(u for what in kind.reads for u in UNITS[what]))
            raise InputError("instrument", unit, f"it should answer in one of: {known}")
        return kind, unit

    def read(self, what: str, machine: str, place: str) -> float:
        """The figure (SI). Raises `InputError` where it has none, does not answer, or answers no
        figure.
        """
        held, answer = self._talk(shlex.join(("AT", what, machine, place)), "READ")
        for line in (held, answer):
            if line.startswith("E "):
                raise InputError(
                    "instrument", str(self.address), line[2:].rstrip(".") or "it has no figure"
                )
        figure, _, unit = answer.removeprefix("V ").partition(" ")
        times = self._times(what, unit.strip() or self._unit)
        try:
            value = float(figure) * times
        except ValueError:
            value = math.nan
        if not math.isfinite(value) or value <= 0:
            raise InputError(
                "instrument",
                answer[:40],
                "it should answer V and a figure above nothing, such as V 412.5",
            )
        return value

    def _times(self, what: str, unit: str) -> float:
        """What a figure in a unit is multiplied by. Raises `InputError` for a unit that cannot be
        what is read.
        """
        if unit == self.kind.unit:
            return 1.0
        known = UNITS[what]
        if unit.lower() not in known:
            raise InputError("instrument", unit, f"{what} is read in one of: {', '.join(known)}")
        return known[unit.lower()]

    def _talk(self, *lines: str) -> list[str]:
        try:
            with socket.create_connection((self.address.host, self.address.port), WAITS) as link:
                link.settimeout(WAITS)
                with link.makefile("rw", encoding="utf-8", newline="\n", errors="replace") as line:
                    answers = []
                    for text in lines:
                        line.write(f"{text}\n")
                        line.flush()
                        answers.append(line.readline(LONGEST_LINE * 2).strip())
        except OSError:
            rule = (
                "nothing answers there; start one with: grey-current standin gauge --port "
                + str(self.address.port)
            )
            raise InputError("instrument", str(self.address), rule) from None
        return answers


class LineServer(socketserver.ThreadingTCPServer):
    """Lets others ask an instrument by lines. Raises `InputError` for a port that is taken."""

    allow_reuse_address = True
    daemon_threads = True

    def __init__(self, instrument: Instrument, port: int = 0) -> None:
        self.instrument = instrument
        try:
            super().__init__((HOST, port), _Talker)
        except OSError:
            raise InputError(
                "--port", port, "another program listens there; choose another port, or none"
            ) from None

    @property
    def address(self) -> Address:
        """Where it listens."""
        return Address(HOST, int(self.server_address[1]))


class _Talker(socketserver.StreamRequestHandler):
    timeout = 60.0

    def handle(self) -> None:
        assert isinstance(self.server, LineServer)
        session = Session(self.server.instrument)
        try:
            while line := self.rfile.readline(LONGEST_LINE * 4):
                answer = session.answered(line.decode("utf-8", "replace").strip())
                self.wfile.write(f"{answer}\n".encode())
        except OSError:
            return
