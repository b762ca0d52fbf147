"""Gates that do not follow their machine, and pipe that stands still behind them."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

from grey_current.design.findings.finding import Finding, Found, Inspection, Rule
from grey_current.design.space.gate_reach import is_out_of_reach, leaned_over, lever_place
from grey_current.shop.duct_graph import AirPaths
from grey_current.shop.edits import Change, changed
from grey_current.shop.model import Project
from grey_current.shop.person import reach_up
from grey_current.shop.places import distance, position

# m of pipe between a wye and a shut gate beyond which chips drift in and stay. Allowance.
DEAD_PIPE = 1.0


def gate_rules(inspection: Inspection) -> Found:
    """Gates that do not follow their machine."""
    for gate in inspection.project.gates:
        if gate.rule == "left open":
            yield Finding(
                "gate-open",
                "warning",
                gate.id,
                f"{inspection.names.start(gate.id)}: left open, so it takes air from every "
                "other machine.",
                remedies=("Let it follow its machine.",),
                fixes=(_follows(gate.id),),
            )
        elif gate.rule == "kept shut":
            yield Finding(
                "gate-shut",
                "warning",
                gate.id,
                f"{inspection.names.start(gate.id)}: kept shut, so what is behind it gets no air.",
                remedies=("Let it follow its machine.",),
                fixes=(_follows(gate.id),),
            )


def _follows(gate: str) -> Change:
    return Change(
        "Let it follow its machine", gate, lambda p: changed(p, gate, rule="with its machine")
    )


def gates_out_of_reach(inspection: Inspection) -> Found:
    """Gates that no hand reaches from the floor, or only over the cutter; one finding for all."""
    project, names, display = inspection.project, inspection.names, inspection.display
    high = [gate for gate in project.gates if is_out_of_reach(project, gate)]
    yield None
    if not high:
        return
    first = max(high, key=lambda gate: lever_place(project, gate)[2])
    over = leaned_over(project, first)
    up = lever_place(project, first)[2]
    if up > reach_up(project.settings):
        where = f"its lever hangs {display.about(up)} up, out of reach"
    else:
        where = f"one leans over {names.of(over or '')} to reach it"
    more = len(high) - 1
    others = f"; so {'is' if more == 1 else 'are'} {more} more" if more else ""
    yield Finding(
        "gate-reach",
        "note",
        first.id,
        f"{names.start(first.id)}: {where}{others}.",
        up,
        reach_up(project.settings),
        also=tuple(gate.id for gate in high if gate is not first),
        remedies=("Put it lower on the drop, or work it by a cord or a rod.",),
    )


def flushing(inspection: Inspection) -> Found:
    """Machines whose chips settle, and whose main another open gate would flush; one finding for
    all of them.
    """
    helped: dict[str, Change] = {}
    for machine, answer in inspection.assessment.of_machine.items():
        change = inspection.remedies.flush(answer) if answer.converged else None
        if change is not None:
            helped[machine] = change
        yield None
    if helped:
        # One finding for all: the same gate often helps several machines.
        names = [inspection.names.of(machine) for machine in helped]
        who = names[0] if len(names) == 1 else f"{names[0]} and {len(names) - 1} more"
        yield Finding(
            "flush",
            "note",
            next(iter(helped.values())).element,
            f"Chips settle in the main with {who}; a second open gate would carry them better.",
            scenario=(next(iter(helped)),),
            also=tuple(dict.fromkeys(change.element for change in list(helped.values())[1:])),
            remedies=tuple(f"{change.words}." for change in helped.values()),
            fixes=(
                Change(
                    "Open them all",
                    next(iter(helped)),
                    partial(_made_all, changes=tuple(helped.values())),
                ),
            ),
        )


def _made_all(project: Project, changes: tuple[Change, ...]) -> Project:
    for change in changes:
        project = change.edit(project)
    return project


def dead_pipe(inspection: Inspection) -> Found:
    """Long pipe between a wye and the gates that shut it off; one finding for all of them, the
    longest first.
    """
    display = inspection.display
    dead = sorted(_still_pipe(inspection.project), reverse=True)
    if dead:
        length, gate = dead[0]
        more = f", and before {_others(len(dead) - 1)}" if len(dead) > 1 else ""
        yield Finding(
            "dead-pipe",
            "note",
            gate,
            f"{inspection.names.start(gate)}: when it is shut, the air stands still in "
            f"{display.about(length)} of pipe before it{more}; chips drift in and drop.",
            length,
            DEAD_PIPE,
            also=tuple(other for _, other in dead[1:]),
            remedies=("A gate at the wye as well, or a clean-out at the drop's foot.",),
        )


def _others(gates: int) -> str:
    return "another gate" if gates == 1 else f"{gates} other gates"


def _still_pipe(project: Project) -> Iterator[tuple[float, str]]:
    """Length (m) of pipe between each far gate and its wye, where chips would fall away from the
    main.
    """
    paths = AirPaths(project)
    down = paths.down
    for gate in project.gates:
        if gate.run not in down:
            continue
        chain = paths.branch_segment(gate.run)
        wye = down[chain[-1]]
        here = project.run[gate.run]
        share = 1 - gate.at if here.end == down[gate.run] else gate.at
        dead = share * distance(project, here)
        dead += sum(distance(project, project.run[r]) for r in chain[chain.index(gate.run) + 1 :])
        if dead > DEAD_PIPE and len(paths.at[wye]) > 2 and _lower_than(project, wye, chain[0]):
            yield dead, gate.id


def _lower_than(project: Project, wye: str, first: str) -> bool:
    """Whether chips that drift into a branch fall away from the main."""
    run = project.run[first]
    heights = [position(project, end)[2] for end in run.ends]
    return min(heights) < position(project, wye)[2] - 0.3


RULES: tuple[Rule, ...] = (gate_rules, gates_out_of_reach, flushing, dead_pipe)
