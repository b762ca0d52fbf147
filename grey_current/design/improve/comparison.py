"""Two designs of one shop side by side: what each machine gets in one and in the other."""

from __future__ import annotations

from dataclasses import dataclass

from grey_current.air.needs import MET_FROM
from grey_current.design.flow.assess import assess
from grey_current.design.flow.assessment import Assessment
from grey_current.design.flow.transport import slowest_transport
from grey_current.design.judgement import SAME
from grey_current.shop.kept_designs import as_project
from grey_current.shop.model import Project


@dataclass(frozen=True)
class Figures:
    """What a machine gets in one design, running alone: airflow and need of its worst pickup, m³/s,
    and the slowest velocity that its chips meet over what they need. None where there is nothing
    connected.
    """

    airflow: float
    need: float
    transport: float | None

    @property
    def share(self) -> float:
        return self.airflow / self.need

    @property
    def met(self) -> bool:
        return self.airflow >= MET_FROM * self.need

    @property
    def served(self) -> bool:
        """Whether the need is met and the chips are carried."""
        return self.met and self.transport is not None and self.transport >= 1 - SAME


@dataclass(frozen=True)
class Difference:
    """One machine in two designs: the kept one first, then the present one."""

    machine: str
    name: str
    kept: Figures | None
    present: Figures | None

    @property
    def change(self) -> float | None:
        """Airflow gained (m³/s) by the present design; None unless both have the machine
        connected.
        """
        return self.present.airflow - self.kept.airflow if self.kept and self.present else None


def compared(now: Assessment, kept: Assessment) -> list[Difference]:
    """Every machine that has a pickup in either design, those of the present one first, in the
    shop's order.
    """
    machines = (*kept.project.machines, *now.project.machines)
    names = {machine.id: machine.name for machine in machines if machine.pickups}
    order = [m for m in dict.fromkeys([*now.project.machine, *kept.project.machine]) if m in names]
    return [Difference(m, names[m], _figures(kept, m), _figures(now, m)) for m in order]


def kept_assessment(project: Project, kept_design: str) -> Assessment:
    """The answer for a kept design, each machine running alone. Raises `InputError` for an unknown
    kept design.
    """
    return assess(as_project(project, kept_design))


def served(differences: list[Difference], present: bool) -> tuple[int, int]:
    """How many machines have their needs met in one of the two designs, and of those, their chips
    carried.
    """
    figures = [d.present if present else d.kept for d in differences]
    return sum(f is not None and f.met for f in figures), sum(
        f is not None and f.served for f in figures
    )


def _figures(assessment: Assessment, machine: str) -> Figures | None:
    answer = assessment.of_machine.get(machine)
    if answer is None or answer.worst is None or answer.least is None or not answer.converged:
        return None
    worst = answer.least
    slow = slowest_transport(assessment.project, answer)
    return Figures(worst.airflow, worst.need.airflow, slow.share if slow else None)
