"""What would mend a run where chips settle: computed for that run, and judged for the whole
shop.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from functools import cached_property

from grey_current.design.flow.assess import assess
from grey_current.design.flow.assessment import Assessment, ScenarioAir
from grey_current.design.flow.gates import flushings, opened_for
from grey_current.design.flow.scenarios import Scenario, all_scenarios
from grey_current.design.flow.transport import TransportCheck, transport_checks
from grey_current.design.judgement import (
    LOSES,
    Judgement,
    air_judgement,
    judge,
    judgement_of,
    worsenings,
)
from grey_current.design.parts.clean_outs import clean_out_of, may_take_clean_out
from grey_current.errors import GreyCurrentError
from grey_current.shop.capped_ends import is_capped
from grey_current.shop.catalogue import next_size
from grey_current.shop.duct_graph import AirPaths, branch_segment
from grey_current.shop.edits import Change, changed_all
from grey_current.shop.model import Project
from grey_current.shop.names import Names, capital
from grey_current.units import Display

# Share by which air in the run must get faster for a remedy to be one.
HELPS = 1.02
# Trouble by which a remedy may make the whole shop worse and still be named, with its cost.
HARMS = 0.02


# Places for a clean-out that are looked at for one finding.
MOST_CLEAN_OUTS = 4
# Scenarios that are solved for remedies in one look at a shop. Each of some dozen machines gets its
# own then; in a shop of two hundred the first get theirs, and the others when they are selected.
MOST_SOLVED = 4000
LATER = "Select the machine at the Air stage to see what would carry its chips."


@dataclass
class Remedies:
    """Finds remedies in one project; what was computed for one run serves every scenario."""

    assessment: Assessment
    names: Names
    _made: dict[str, tuple[Assessment, Judgement] | None] = field(default_factory=dict)
    _with: dict[str, Project | None] = field(default_factory=dict)
    _then: dict[str, Assessment | None] = field(default_factory=dict)
    _gates: dict[str, str | None] = field(default_factory=dict)
    _clean_outs: dict[str, Change | None] = field(default_factory=dict)
    _wholly: dict[str, Judgement | None] = field(default_factory=dict)
    _solved: int = 0

    @cached_property
    def _before(self) -> Judgement:
        return air_judgement(self.assessment)

    @cached_property
    def _paths(self) -> AirPaths:
        return AirPaths(self.assessment.project)

    def prepare(self, answer: ScenarioAir, check: TransportCheck) -> Iterator[None]:
        """Work out what `for_slow_run` needs, piece by piece, so that a window may take a breath
        between them.
        """
        candidates = self._candidates(answer, check)
        yield
        for change in candidates:
            for piece_of_work in (self._changed, self._assessed, self._computed):
                piece_of_work(change)
                yield

    def for_slow_run(self, answer: ScenarioAir, check: TransportCheck) -> tuple[str, Change | None]:
        """The change that helps most where a scenario's chips settle, with what it does there and
        what it costs.

        In words, and as a change that can be made; no words and None where nothing helps that run
        without harm.
        Raises nothing.
        """
        best: tuple[float, float, Change, Project, Judgement] | None = None
        for change in self._candidates(answer, check):
            made = self._computed(change)
            there = _share_in(made[0], answer.scenario, check.run) if made else None
            if made is None or there is None or there < check.share * HELPS:
                continue
            better = self._before.trouble - made[1].trouble
            if _shorter(self._before, made[1], answer.scenario):
                continue
            if better < -HARMS or (best is not None and better <= best[0]):
                continue
            best = better, there, change, made[0].project, made[1]
        if best is None and self._solved >= MOST_SOLVED:
            return LATER, None
        if best is None:
            return "", None
        _, there, change, project, judged = best
        worse = worsenings(project, self._before, judged)
        costs = f"; but {worse[0].words}" if worse else ""
        more = f", and {len(worse) - 1} more" if len(worse) > 1 else ""
        return (
            f"{change.words}: {check.share:.0%} → {there:.0%} of what chips need "
            f"there{costs}{more}.",
            change,
        )

    def prepare_clean_out(self, runs: Sequence[str]) -> Iterator[None]:
        """Work out what `clean_out` needs, piece by piece."""
        places = self._clean_out_runs(runs)
        if places:
            yield from self._in_pieces(judgement_of(self.assessment))
        for run in places:
            change = self._clean_out_of(run)
            yield
            if change is None or self._assessed(change) is None:
                continue
            yield
            judged = self._judged(change)
            if judged is not None:
                yield from self._in_pieces(judged)
                if self._harmless(judged):
                    return

    @staticmethod
    def _in_pieces(judged: Judgement) -> Iterator[None]:
        """Work out a judgement, one look at the shop after the other."""
        yield
        for look in ("hits", "unbuildable", "misplaced", "low", "trouble"):
            getattr(judged, look)
            yield

    def clean_out(self, runs: Sequence[str]) -> tuple[str, Change | None]:
        """A clean-out for what settles in some runs, with what it costs the shop; only a word where
        there is one, and no words where none has room.
        """
        capped = next((run for run in runs if is_capped(self._paths, run)), None)
        if capped is not None:
            return f"Look into the clean-out of {self.names.of(capped)} once a month.", None
        now = judgement_of(self.assessment)
        for run in self._clean_out_runs(runs):
            change = self._clean_out_of(run)
            judged = self._judged(change) if change is not None else None
            if change is None or judged is None or not self._harmless(judged):
                continue
            worse = worsenings(change.edit(self.assessment.project), now, judged)
            costs = f"; but {worse[0].words}" if worse else ""
            return f"{change.words}: what settles comes out by its cap{costs}.", change
        return "", None

    def _harmless(self, judged: Judgement | None) -> bool:
        """Whether a shop with a clean-out is no worse but by little. A cap stands somewhere: it
        must hit nothing new.
        """
        now = judgement_of(self.assessment)
        return (
            judged is not None
            and not judged.hits - now.hits
            and judged.trouble <= now.trouble + HARMS
        )

    def _clean_out_runs(self, runs: Sequence[str]) -> list[str]:
        """The first of some runs that have a place for a clean-out; none where one is there."""
        if self._solved >= MOST_SOLVED or any(is_capped(self._paths, run) for run in runs):
            return []
        return [run for run in runs if may_take_clean_out(self._paths, run)][:MOST_CLEAN_OUTS]

    def _clean_out_of(self, run: str) -> Change | None:
        if run not in self._clean_outs:
            edit = clean_out_of(self._paths, self.assessment.project, run)
            words = f"A clean-out for {self.names.of(run)}"
            self._clean_outs[run] = Change(words, run, edit) if edit is not None else None
        return self._clean_outs[run]

    def _judged(self, change: Change) -> Judgement | None:
        """The whole judgement of the shop with a change; None where its air is not computed."""
        if change.words not in self._wholly:
            then = self._assessed(change)
            now = judgement_of(self.assessment)
            self._wholly[change.words] = judge(then, now) if then is not None else None
        return self._wholly[change.words]

    def _candidates(self, answer: ScenarioAir, check: TransportCheck) -> list[Change]:
        project = self.assessment.project
        run = project.run[check.run]
        found = []
        size = next_size(project, run.diameter, up=False)
        if size is not None:
            alike = [
                r
                for r in branch_segment(project, run.id)
                if project.run[r].diameter == run.diameter
            ] or [run.id]
            display = Display(project.settings.units)
            words = (
                f"{capital(self.names.of(run.id))} {display.diameter(run.diameter)} → "
                f"{display.diameter(size)}"
            )
            found.append(Change(words, run.id, lambda p: changed_all(p, alike, diameter=size)))
        flush = self._flush(answer)
        return [*found, flush] if flush else found

    def flush(self, answer: ScenarioAir) -> Change | None:
        """The gate that flushes a machine's slowest run best, if the whole shop is better for it;
        None otherwise.
        """
        change = self._flush(answer)
        made = self._computed(change) if change else None
        if (
            made is None
            or made[1].trouble >= self._before.trouble
            or _shorter(self._before, made[1], answer.scenario)
        ):
            return None
        return change

    def _flush(self, answer: ScenarioAir) -> Change | None:
        if len(answer.scenario.running) != 1:
            return None
        (machine,) = answer.scenario.running
        if machine not in self._gates and self._solved >= MOST_SOLVED:
            return None
        if machine not in self._gates:
            self._solved += len(self.assessment.project.gates)
            self._gates[machine] = next((f.gate for f in flushings(self.assessment, answer)), None)
        gate = self._gates[machine]
        if gate is None:
            return None
        words = f"Open {self.names.of(gate)} for {self.names.of(machine)} too"
        return Change(words, gate, lambda p: opened_for(p, gate, machine))

    def _changed(self, change: Change) -> Project | None:
        if change.words not in self._with:
            try:
                self._with[change.words] = change.edit(self.assessment.project)
            except GreyCurrentError:
                self._with[change.words] = None
        return self._with[change.words]

    def _assessed(self, change: Change) -> Assessment | None:
        if change.words not in self._then and self._solved >= MOST_SOLVED:
            return None
        if change.words not in self._then:
            project = self._changed(change)
            self._solved += len(self.assessment.answers)
            if project is not None:
                done = assess(project, all_scenarios(project), self.assessment)
            else:
                done = None
            self._then[change.words] = done
        return self._then[change.words]

    def _computed(self, change: Change) -> tuple[Assessment, Judgement] | None:
        if change.words not in self._made:
            then = self._assessed(change)
            if then is None and self._with.get(change.words) is not None:
                return None
            self._made[change.words] = (then, air_judgement(then)) if then else None
        return self._made[change.words]


def _shorter(before: Judgement, after: Judgement, scenario: Scenario) -> bool:
    """Whether a pickup of the scenario that is short then gets still less."""
    mine = [key for key in before.pickups if key[0] == scenario and key in after.pickups]
    return any(
        not after.pickups[key].met and after.pickups[key].share < before.pickups[key].share - LOSES
        for key in mine
    )


def _share_in(assessment: Assessment, scenario: Scenario, run: str) -> float | None:
    """The slowest air in a run over what chips need there, in a scenario; None where it is not
    passed.
    """
    answer = assessment.of(scenario)
    checks = transport_checks(assessment.project, answer) if answer and answer.converged else ()
    return min((check.share for check in checks if check.run == run), default=None)
