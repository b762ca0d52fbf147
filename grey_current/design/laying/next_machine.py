"""The machines that a shop is likeliest to get next, and which main stays good for them.

A main is bought once. One that is too small when the next machine comes is bought twice; one that
is wider than it need be costs more now and carries chips more slowly. What each choice costs at
worst, over what it would have cost to know, is its regret (Savage, The Theory of Statistical
Decision, 1951, minimax regret).
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from grey_current.air.needs import MET_FROM
from grey_current.design.flow.assess import assess
from grey_current.design.flow.assessment import Assessment
from grey_current.design.flow.scenarios import all_scenarios
from grey_current.design.judgement import SAME, judge
from grey_current.design.laying.sizes import allowed_sizes
from grey_current.design.parts.connecting import connected
from grey_current.design.parts.costs import extra_cost, shop_cost
from grey_current.design.space.good_places import good_place
from grey_current.errors import GreyCurrentError, InputError, RefusedEdit
from grey_current.shop import edits
from grey_current.shop.catalogue import machine_models, materials
from grey_current.shop.machines import MachineBody
from grey_current.shop.model import Project
from grey_current.shop.places import middle_of
from grey_current.spelling import localised

# Machines in the order in which home workshops usually get them, each with the words by which one
# knows that a shop has such a one. Allowance.
USUAL = (
    ("Table saw", ("cabinet saw", "stand saw", "table saw", "saw, shaper")),
    ("12 in planer", ("planer", "thicknesser")),
    ("Mitre saw", ("mitre saw", "miter saw", "radial arm")),
    ("Bandsaw", ("bandsaw",)),
    ("6 in jointer", ("jointer", "planer-thicknesser", "planer in one")),
    ("Router table", ("router table", "spindle moulder", "cnc router")),
    ("Drum sander", ("drum sander", "wide-belt")),
    ("Spindle sander", ("spindle sander",)),
    ("Belt and disc sander", ("disc", "edge sander")),
)
HOW_MANY = 3


@dataclass(frozen=True)
class MainChoice:
    """A main in one size, for the machines that are there and for each that may come.

    Attributes:
        size: Inside diameter (m); None for the main as it is drawn.
        served, asked: Machines there that get their air, of all that are connected.
        trouble: What the judgement has against the shop as it is, with that main.
        shares: What each next machine gets of its need, running alone.
        extra: What it costs more than the main as drawn, less where it is negative; None where no
            price is known.
        later: For each next machine what a main that serves it costs when it comes: 0 where this
            one does, None where none would.
        regret: What this choice costs at worst over the best that one could have done.
    """

    size: float | None
    served: int
    asked: int
    trouble: float
    shares: tuple[float, ...]
    extra: float | None
    later: tuple[float | None, ...]
    regret: float | None

    @property
    def good_for(self) -> int:
        """For how many of the next machines it stays good."""
        return sum(share >= MET_FROM for share in self.shares)


@dataclass(frozen=True)
class NextMachines:
    """The machines that may come next, by name, and the choices of a main, the one as drawn first.

    `best` is the choice with the least regret among those that are no worse for the machines there,
    by the judgement.
    """

    names: tuple[str, ...]
    choices: tuple[MainChoice, ...]
    best: MainChoice


def likeliest(project: Project) -> tuple[str, ...]:
    """The machines that a shop has none of, in the order in which one usually gets them."""
    kinds = [machine.kind.lower() for machine in project.machines]
    missing = [
        name for name, words in USUAL if not any(word in kind for kind in kinds for word in words)
    ]
    return tuple(missing[:HOW_MANY])


def next_machines(
    project: Project, names: Sequence[str] = (), should_continue: Callable[[], bool] = lambda: True
) -> NextMachines:
    """Which main stays good for the next machines: those named, or the likeliest.

    Raises `InputError` for a machine that the catalogue has not, and `RefusedEdit` where there is
    no main yet or nothing more to come.
    """
    main = main_runs(assess(project, all_scenarios(project)))
    if not main:
        raise RefusedEdit(
            "the main", "trying it for the next machine", "lay ducts to two machines or more first"
        )
    # Each is placed and connected once; only the main's size changes after that.
    wanted = tuple(names) or likeliest(project)
    with_each = [_with(project, name) for name in wanted]
    fitting = [(name, made) for name, made in zip(wanted, with_each, strict=True) if made]
    if not fitting:
        raise RefusedEdit(
            "the next machine", "placing it", "make room for one, or name another machine"
        )
    sizes: list[float | None] = [None, *_sizes(project, main)]
    rows: list[_Row] = []
    for size in sizes:
        # The main as drawn is always known: what is broken off is held against it.
        if rows and not should_continue():
            break
        rows.append(_tried(project, main, size, [made for _, made in fitting]))
    choices = _with_money(project, main, rows)
    drawn = choices[0]
    # A main for a machine that may never come must not starve one that is there.
    able = [c for c in choices if c.trouble <= drawn.trouble + SAME]
    best = min(able, key=lambda c: (c.regret or 0.0, -c.good_for, c.size is not None))
    units = project.settings.units
    return NextMachines(tuple(localised(name, units) for name, _ in fitting), choices, best)


def main_runs(now: Assessment) -> tuple[str, ...]:
    """The rigid runs that the air of two machines or more passes."""
    project = now.project
    # A main is what two machines share, whatever it was drawn as.
    users: dict[str, set[str]] = {}
    for machine, answer in now.of_machine.items():
        for pickup in answer.pickups:
            if pickup.leaf is None or pickup.collector is None:
                continue
            network = answer.systems[pickup.collector].network
            for index in network.path(pickup.leaf):
                run = network.pieces[index].source_id
                if run in project.run:
                    users.setdefault(run, set()).add(machine)
    return tuple(
        run.id
        for run in project.runs
        if len(users.get(run.id, ())) > 1 and not materials()[run.material].hose and not run.pinned
    )


def with_main(project: Project, main: Sequence[str], size: float | None) -> Project:
    """The project with its main in one size (m); None leaves it as drawn."""
    if size is None:
        return project
    return edits.changed_all(project, [run for run in main if run in project.run], diameter=size)


def _sizes(project: Project, main: Sequence[str]) -> list[float]:
    """The sizes of a main that are tried: from what its narrowest part is, to the inlet's."""
    least = min(project.run[run].diameter for run in main)
    widest = max(collector.duct_inlet for collector in project.collectors)
    drawn = {round(project.run[run].diameter, 4) for run in main}
    return [
        size
        for size in allowed_sizes(project, widest)
        if size >= least - 1e-3 and drawn != {round(size, 4)}
    ]


@dataclass(frozen=True)
class _Placed:
    """A project with a next machine connected, and the machine's id."""

    project: Project
    machine: str


def _with(project: Project, name: str) -> _Placed | None:
    """The project with a machine of the catalogue placed and connected to the main; None where it
    finds no way there.
    """
    body = _body(name)
    # Put down anywhere first: its good place asks for it to be in the shop.
    x, y = middle_of(project.rooms[0].outline)
    made, ident = edits.placed(project, body, x, y)
    item = good_place(project, made.machine[ident])
    made = edits.changed(made, ident, x=item.x, y=item.y, turn=item.turn)
    try:
        for pickup in made.machine[ident].pickups:
            made = connected(made, f"{ident}/{pickup.id}")
    except GreyCurrentError:
        return None
    return _Placed(made, ident)


def _body(name: str) -> MachineBody:
    known = {model.body.name.lower(): model.body for model in machine_models()}
    if name.lower() not in known:
        raise InputError("machine", name, "name one of the catalogue, such as 12 in planer")
    body = known[name.lower()]
    if not body.pickups:
        raise InputError("machine", name, "name one that has a port for dust")
    return body


@dataclass(frozen=True)
class _Row:
    size: float | None
    served: int
    asked: int
    trouble: float
    shares: tuple[float, ...]


def _tried(
    project: Project, main: Sequence[str], size: float | None, each: Sequence[_Placed]
) -> _Row:
    made = with_main(project, main, size)
    now = assess(made, all_scenarios(made))
    answers = list(now.of_machine.values())
    asked = [a for a in answers if a.worst is not None]
    shares = []
    for placed in each:
        grown = with_main(placed.project, main, size)
        # The wyes that were put into the main belong to it, whatever they are called now.
        if size is not None:
            known = main_runs(assess(grown, all_scenarios(grown)))
            grown = with_main(grown, known, size)
        answer = assess(grown, all_scenarios(grown)).of_machine[placed.machine]
        worst = answer.worst
        shares.append(0.0 if worst is None else worst.share)
    met = sum(a.met for a in asked)
    return _Row(size, met, len(asked), judge(now).trouble, tuple(shares))


def _with_money(
    project: Project, main: Sequence[str], rows: Sequence[_Row]
) -> tuple[MainChoice, ...]:
    """What each choice costs now, what it costs when a next machine comes, and its regret."""
    made = {row.size: with_main(project, main, row.size) for row in rows}
    costs = {size: shop_cost(each) for size, each in made.items()}
    # Only what is more or less than as drawn counts: the rest is bought either way.
    base = costs[None]
    found = []
    for row in rows:
        cost = costs[row.size]
        extra = None if cost is None or base is None else cost - base
        later = tuple(_later(made, rows, row, number) for number in range(len(rows[0].shares)))
        choice = MainChoice(**vars(row), extra=extra, later=later, regret=None)
        found.append(choice)
    return tuple(_regretted(found))


def _later(
    made: dict[float | None, Project], rows: Sequence[_Row], row: _Row, number: int
) -> float | None:
    """What it costs to have the main otherwise when a machine has come; 0 where it serves it."""
    if row.shares[number] >= MET_FROM:
        return 0.0
    # When the machine has come one buys the cheapest main that serves it, and throws away what it
    # replaces.
    better = [other for other in rows if other.shares[number] >= MET_FROM]
    costs = [extra_cost(made[row.size], made[other.size]) for other in better]
    known = [cost.money for cost in costs if cost is not None]
    return min(known, default=None)


def _regretted(choices: Sequence[MainChoice]) -> list[MainChoice]:
    """The choices with the worst that each may cost over the best choice, whatever comes: nothing,
    or any of the machines. One that no main serves tells nothing.
    """
    if any(choice.extra is None for choice in choices):
        return list(choices)
    # First the future in which nothing comes (Savage, The theory of statistical decision, 1951).
    futures = [[choice.extra or 0.0 for choice in choices]]
    for number in range(len(choices[0].later)):
        if any(choice.later[number] == 0.0 for choice in choices):
            futures.append([(c.extra or 0.0) + (c.later[number] or 0.0) for c in choices])
    return [
        MainChoice(**{**vars(choice), "regret": max(each[place] - min(each) for each in futures)})
        for place, choice in enumerate(choices)
    ]
