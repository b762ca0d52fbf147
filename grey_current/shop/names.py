"""What things are called on screen: by what and where they are, never by their ids.

"The planer's hose", "the main between the saw's and the planer's wye". The id stays for file and
command line.
"""

from __future__ import annotations

import math
from functools import cached_property

from grey_current.shop.catalogue import materials
from grey_current.shop.collectors import PARTS
from grey_current.shop.duct_graph import AirPaths, far_end
from grey_current.shop.ducts import Gate, Point, Run
from grey_current.shop.machines import Machine, Pickup
from grey_current.shop.model import Project
from grey_current.shop.of_last import OfLast
from grey_current.shop.places import distance, position

# Share of a run's length that it must rise to be a drop. Allowance.
UPRIGHT = 0.9


def called(project: Project, element: str) -> str:
    """What one element is called inside a sentence; the names of the last project that was asked
    about are kept.
    """
    return _names(project).of(element)


def pickup_words(machine: Machine, pickup: Pickup) -> str:
    """What is said of a pickup within a sentence: "saw (cabinet)", or "planer" for the only one."""
    name = machine.name.lower()
    return name if len(machine.pickups) == 1 else f"{name} ({pickup.name.lower()})"


def capital(text: str) -> str:
    """The text with its first letter large."""
    return text[:1].upper() + text[1:]


def lower_first(text: str) -> str:
    """The text with its first letter small."""
    return text[:1].lower() + text[1:]


class Names:
    """The names of everything in one project."""

    def __init__(self, project: Project) -> None:
        self.project = project
        self._known: dict[str, str] = {}

    def of(self, element: str) -> str:
        """What an element is called inside a sentence, by its id or reference; an unknown one as it
        is given.
        """
        if element not in self._known:
            self._known[element] = self._made(element)
        return self._known[element]

    def start(self, element: str) -> str:
        """The same at the beginning of a sentence."""
        return capital(self.of(element))

    def _made(self, element: str) -> str:
        item = self.project.find(element)
        if isinstance(item, Run):
            return self._run(item)
        if isinstance(item, Gate):
            return self._gate(item)
        if isinstance(item, Point):
            return self._point(item)
        if isinstance(item, Pickup):
            return self._pickup(element)
        # Parts of things, by their number and what they are part of.
        if "/wall-" in element and item is not None:
            return f"wall {element.rpartition('-')[2]} of the {item.name.lower()}"
        if "/corner-" in element and item is not None:
            return f"corner {element.rpartition('-')[2]} of the {item.name.lower()}"
        if "/end-" in element and item is not None:
            return f"the end of {self._beam(item.id)}"
        if "/parked-" in element and item is not None:
            return f"the {item.name.lower()}'s parked place"
        owner, _, part = element.partition("/")
        if owner in self.project.collector and part in PARTS:
            return f"the {item.name.lower()}'s {part}" if item is not None else element
        if element in {beam.id for beam in self.project.beams}:
            return self._beam(element)
        return f"the {getattr(item, 'name', element).lower()}"

    def _beam(self, ident: str) -> str:
        beams = self.project.beams
        number = [beam.id for beam in beams].index(ident) + 1
        return "the beam" if len(beams) == 1 else f"beam {number}"

    def _pickup(self, ref: str) -> str:
        machine, pickup = self.project.pickup[ref]
        return f"the {_owner(machine)} {pickup.name.lower()}"

    # -- ductwork

    @cached_property
    def _paths(self) -> AirPaths:
        return AirPaths(self.project)

    @cached_property
    def _served(self) -> dict[str, tuple[str, ...]]:
        """For each run that leads to a collector, the pickups whose air passes it, in the shop's
        order.
        """
        order = {ref: number for number, ref in enumerate(self.project.pickup)}
        found = {run.id: {ref for ref in run.touches if ref in order} for run in self.project.runs}
        for run in reversed(self._paths.down):
            onward = self._paths.next_run(run)
            if onward is not None:
                found[onward.id] |= found[run]
        return {run: tuple(sorted(refs, key=order.__getitem__)) for run, refs in found.items()}

    def _machines(self, refs: tuple[str, ...]) -> list[Machine]:
        return list(
            {
                machine.id: machine for machine, _ in (self.project.pickup[ref] for ref in refs)
            }.values()
        )

    def _whose(self, run: str) -> str | None:
        """Whose a run is: "planer's", "saw's over-blade" where it has several; None where machines
        share it.
        """
        refs = self._served[run]
        machines = self._machines(refs)
        if len(machines) != 1:
            return None
        machine = machines[0]
        if len(refs) > 1 or len(machine.pickups) == 1:
            return _owner(machine)
        return f"{_owner(machine)} {self.project.pickup[refs[0]][1].name.lower()}"

    def _run(self, run: Run) -> str:
        kind = self._kind(run)
        whose = self._whose(run.id)
        if run.also_serves:
            return "the hose that is moved about"
        if whose is not None:
            return f"the {whose} {kind}"
        if not self._served[run.id]:
            return self._unused(run, kind)
        if kind != "branch":
            return f"the main's {kind}"
        return self._main(run)

    def _kind(self, run: Run) -> str:
        if materials()[run.material].hose:
            return "hose"
        a, b = position(self.project, run.start), position(self.project, run.end)
        upright = abs(a[2] - b[2]) > UPRIGHT * (distance(self.project, run) or 1.0)
        if not upright:
            return "branch"
        return "drop" if self._ends_low(run) else "riser"

    def _ends_low(self, run: Run) -> bool:
        """Whether chips go up in an upright run: its lower end is its upstream one."""
        down = self._paths.down.get(run.id, run.end)
        return position(self.project, far_end(run, down))[2] < position(self.project, down)[2]

    def _unused(self, run: Run, kind: str) -> str:
        if run.id not in self._paths.down:
            return f"a loose {'hose' if kind == 'hose' else 'duct'}"
        after = self._wye_after(run)
        dead = "stub" if kind == "branch" else kind
        return f"the capped {dead} at {after}" if after else "the duct to the collector"

    def _main(self, run: Run) -> str:
        before, after = self._wye_before(run), self._wye_after(run)
        if self._shares_a_collector_with_others(run):
            return f"the branch of {self._together(run.id)}"
        if after is None:
            return f"the main between {before} and the {self._collector(run)}"
        if before is None:
            return f"the main's end before {after}"
        if before.endswith("'s wye") and after.endswith("'s wye"):
            return f"the main between {before.removesuffix(' wye')} and {after}"
        return f"the main between {before} and {after}"

    def _shares_a_collector_with_others(self, run: Run) -> bool:
        """Whether a run of several machines joins a larger one from the side: a branch of its own,
        not the main.
        """
        joint = self._joint_after(run)
        if joint is None:
            return False
        return self._main_into(joint) != self._paths.branch_segment(run.id)[-1]

    def _collector(self, run: Run) -> str:
        ident = self._paths.down[self._paths.branch_segment(run.id)[-1]]
        item = self.project.collector.get(ident)
        return item.name.lower() if item else "collector"

    def _together(self, run: str) -> str:
        names = [f"the {machine.name.lower()}" for machine in self._machines(self._served[run])]
        if len(names) > 3:
            return f"{len(names)} machines"
        return " and ".join(filter(None, [", ".join(names[:-1]), names[-1]]))

    # -- wyes

    def _joint_after(self, run: Run) -> str | None:
        """The point where a run's segment joins others; None at a collector."""
        end = self._paths.down[self._paths.branch_segment(run.id)[-1]]
        return end if end in self.project.point else None

    def _main_into(self, joint: str) -> str | None:
        """Of the runs that come into a wye, the one that serves most pickups, of equal ones the
        straightest.
        """
        coming = [r.id for r in self._paths.at[joint] if self._paths.down.get(r.id) == joint]
        leaving = next((r for r in self._paths.at[joint] if r.id not in coming), None)
        if leaving and leaving.id in self._paths.down:
            ahead = self._heading(leaving.id)
        else:
            ahead = (0.0, 0.0, 0.0)

        # Most pickups served, then straightest on; the id at last, so that names do not jump.
        def rank(run: str) -> tuple[int, float, str]:
            straight = sum(a * b for a, b in zip(self._heading(run), ahead, strict=True))
            return len(self._served[run]), round(straight, 3), run

        return max(coming, key=rank, default=None)

    def _heading(self, run: str) -> tuple[float, float, float]:
        """Unit vector of the air through a run."""
        down = self._paths.down[run]
        a, b = (
            position(self.project, far_end(self.project.run[run], down)),
            position(self.project, down),
        )
        length = math.dist(a, b) or 1.0
        return (b[0] - a[0]) / length, (b[1] - a[1]) / length, (b[2] - a[2]) / length

    def _wye_after(self, run: Run) -> str | None:
        joint = self._joint_after(run)
        return None if joint is None else self._wye(joint)

    def _wye_before(self, run: Run) -> str | None:
        first = self.project.run[self._paths.branch_segment(run.id)[0]]
        start = far_end(first, self._paths.down[first.id])
        if start in self.project.point and len(self._paths.at[start]) > 2:
            return self._wye(start)
        return None

    def _wye(self, point: str) -> str:
        """A wye by who joins there: "the saw's wye"."""
        main = self._main_into(point)
        sides = [
            r.id
            for r in self._paths.at[point]
            if self._paths.down.get(r.id) == point and r.id != main
        ]
        named = [whose for side in sides if (whose := self._whose(side)) is not None]
        if named:
            return f"the {named[0]} wye"
        shared = next((side for side in sides if self._served[side]), None)
        return f"the wye of {self._together(shared)}" if shared else "the wye of a stub"

    # -- gates and points

    def _gate(self, gate: Gate) -> str:
        whose = self._whose(gate.run)
        if whose is None:
            return f"the gate in {self.of(gate.run)}"
        twins = [g for g in self.project.gates if self._whose(g.run) == whose]
        if len(twins) == 1:
            return f"the {whose} gate"
        order = sorted(twins, key=lambda g: self._steps_to_wye(g.run))
        return f"the {whose} gate " + ("at the wye" if gate.id == order[0].id else "at the tool")

    def _steps_to_wye(self, run: str) -> int:
        segment = self._paths.branch_segment(run)
        return len(segment) - segment.index(run)

    def _point(self, point: Point) -> str:
        meeting = self._paths.at[point.id]
        if not meeting:
            return "a joint with nothing on it"
        if len(meeting) > 2:
            return self._wye(point.id)
        name = self.of(
            next((r.id for r in meeting if not materials()[r.material].hose), meeting[0].id)
        )
        if len(meeting) == 1:
            return f"the end of {name}"
        hoses = [materials()[r.material].hose for r in meeting]
        return f"the foot of {name}" if any(hoses) else f"the elbow in {name}"


def _owner(machine: Machine) -> str:
    return f"{machine.name.lower()}'s"


_names = OfLast(Names)
