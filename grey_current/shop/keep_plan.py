"""What was measured in the shop, and whether the model follows it. Values only."""

from __future__ import annotations

import datetime
from typing import Annotated, Literal, get_args

from pydantic import Field

from grey_current.shop.values import Id, Ref, Value

ReadingKind = Literal[
    "static pressure", "airflow", "velocity", "filter drop", "motor current", "sound", "dust"
]


Instrument = Literal["gauge", "anemometer", "clamp ammeter", "telephone", "particle counter"]
# What each of them reads.
READS: dict[Instrument, frozenset[ReadingKind]] = {
    "gauge": frozenset({"static pressure", "filter drop"}),
    "anemometer": frozenset({"airflow", "velocity"}),
    "clamp ammeter": frozenset({"motor current"}),
    "telephone": frozenset({"sound"}),
    "particle counter": frozenset({"dust"}),
}


class Reading(Value):
    """A measurement: what, while which machine runs alone, where, its figure and its own doubt (SI,
    one deviation).

    Static pressure (Pa) and velocity (m/s) are measured in a run, the former in a collector's inlet
    too; it counts as suction, below the room. Airflow (m³/s) is that of a pickup, a filter's drop
    (Pa), a motor's current (A) and sound 1 m from it (dB(A), with every machine itself off) those
    of a collector.
    Dust (mg/m³) is what a particle counter shows in a room after a machine has worked for a while,
    above what it showed before; its place is the room.
    """

    kind: ReadingKind
    machine: Id
    place: Ref
    value: Annotated[float, Field(gt=0, le=60_000)]
    error: Annotated[float, Field(gt=0, le=30_000)]
    date: datetime.date
    note: Annotated[str, Field(max_length=200)] = ""
    # Taken while something was wrong that was mended since: it tells nothing of the shop as it is.
    of_fault: bool = False


EntryKind = Literal[
    "worked", "bin emptied", "filter cleaned", "filter changed", "hose changed", "mended", "noticed"
]


class LogEntry(Value):
    """A line of the logbook: what was done or noticed on a day, and where (a collector, hose or
    anything else).

    A day's work has `hours` that the collector was on, `litres` of chips, `kwh` and `woods`; an
    emptied bin may have the litres that it held. `design` marks the design that stood then
    (keep/log.py).
    """

    kind: EntryKind
    date: datetime.date
    place: Ref | None = None
    hours: Annotated[float, Field(ge=0, le=24)] | None = None
    litres: Annotated[float, Field(ge=0, le=5000, description="l")] | None = None
    kwh: Annotated[float, Field(ge=0, le=2000)] | None = None
    woods: Annotated[tuple[Id, ...], Field(max_length=20)] = ()
    note: Annotated[str, Field(max_length=200)] = ""
    design: Annotated[str, Field(max_length=16)] = ""


ComplaintKind = Literal[
    "weaker everywhere", "only one machine", "whistles", "dust behind the filter", "only the gauge"
]


class Complaint(Value):
    """What is complained of, at which machine, and since when: readings from then on are of the
    fault.

    Those before it tell what the shop was like when it was well. Where everything is weaker,
    `machine` is the worst; where only one is, `besides` is a second one.
    """

    kind: ComplaintKind
    machine: Id | None = None
    besides: Id | None = None
    since: datetime.date


class Look(Value):
    """Somebody looked for a kind of fault (keep/causes.py) and found it or not.

    Attributes:
        places: Where; none of them means everywhere, as where all gates were walked along.
    """

    fault: Annotated[str, Field(min_length=1, max_length=40)]
    places: Annotated[tuple[Ref, ...], Field(max_length=20)] = ()
    found: bool
    date: datetime.date


PracticeKind = Literal["measured", "looked", "mended", "done"]


class PracticeAct(Value):
    """Something that was done in a practice shop: what, where, how long it took (minutes), and what
    came of it.

    `what` is a kind of reading or of fault; `value` (SI) what was read, `found` whether the fault
    was there.
    """

    kind: PracticeKind
    what: Annotated[str, Field(max_length=40)] = ""
    machine: Id | None = None
    place: Annotated[str, Field(max_length=130)] = ""
    minutes: Annotated[float, Field(ge=0, le=600)] = 0.0
    value: float | None = None
    found: bool | None = None


class Practice(Value):
    """A shop to practise in: its seed and level, what is hidden (keep/practice.py), what was done.

    `veiled` keeps nobody from looking who wants to; it only is not read by chance.
    """

    seed: Annotated[int, Field(ge=0, le=999_999)]
    level: Annotated[int, Field(ge=1, le=4)]
    veiled: Annotated[str, Field(max_length=40_000)]
    acts: Annotated[tuple[PracticeAct, ...], Field(max_length=400)] = ()
    # Which lesson it is (keep/lessons.py); 0 for a free practice.
    lesson: Annotated[int, Field(ge=0, le=99)] = 0

    @property
    def over(self) -> bool:
        """Whether the learner has had enough and the truth may be told."""
        return any(act.kind == "done" for act in self.acts)


class KeepPlan(Value):
    """Readings, whether the figures are to follow them, what is complained of, and the logbook.

    Attributes:
        instruments: What there is to measure with; None where that was not said, for which
            everything counts as there.
    """

    readings: Annotated[tuple[Reading, ...], Field(max_length=400)] = ()
    applied: bool = True
    complaint: Complaint | None = None
    # What was looked at since something is complained of.
    looks: Annotated[tuple[Look, ...], Field(max_length=100)] = ()
    practice: Practice | None = None
    entries: Annotated[tuple[LogEntry, ...], Field(max_length=4000)] = ()
    instruments: Annotated[tuple[Instrument, ...], Field(max_length=5)] | None = None
    # Places at which nothing can be measured: behind a wall, too high.
    out_of_reach: Annotated[tuple[Ref, ...], Field(max_length=200)] = ()

    def can_read(self, kind: ReadingKind) -> bool:
        """Whether there is something to take a reading with; a practice lends everything."""
        if self.instruments is None or self.practising:
            return True
        return any(kind in READS[instrument] for instrument in self.instruments)

    @property
    def reads_ducts(self) -> bool:
        """Whether there is anything to read with in ducts and at collectors."""
        return any(self.can_read(kind) for kind in get_args(ReadingKind) if kind != "dust")

    def can_measure(self, kind: ReadingKind, place: str) -> bool:
        """Whether there is something to take a reading with, and one gets at the place."""
        return self.can_read(kind) and (self.practising or place not in self.out_of_reach)

    def of_the_bin(self, collector: str) -> list[LogEntry]:
        """Lines about what goes into a collector's bin and out of it, by date; one day's as they
        were written.
        """
        mine = [
            e for e in self.entries if e.place == collector and e.kind in ("worked", "bin emptied")
        ]
        return sorted(mine, key=lambda entry: entry.date)

    @property
    def practising(self) -> bool:
        """Whether a practice is going on."""
        return self.practice is not None and not self.practice.over

    def of_the_fault(self, reading: Reading) -> bool:
        """Whether a reading was taken while something was wrong, now or once."""
        return reading.of_fault or self.of_this_fault(reading)

    def of_this_fault(self, reading: Reading) -> bool:
        """Whether a reading was taken since something is complained of that is not mended yet."""
        complaint = self.complaint
        return complaint is not None and not reading.of_fault and reading.date >= complaint.since
