"""The network solver: interactive, in bulk, on a large tree, and how cost grows with size."""

from __future__ import annotations

import time

import numpy as np
import pytest
from scipy.optimize import root

from bench.conftest import best, report
from grey_current.air import compiled, laws
from grey_current.air.bank import Bank
from grey_current.air.solver import Solver
from grey_current.design.collector.requirement import requirements
from grey_current.design.collector.sizing import sizing
from grey_current.design.diagnosis.diagnose import diagnose
from grey_current.design.diagnosis.symptoms import symptoms
from grey_current.design.flow.assess import assess
from grey_current.design.flow.scenarios import alone_scenarios, gate_settings
from grey_current.design.flow.trace import trace
from grey_current.design.improve.ranking import improvements
from grey_current.design.improve.shop_search import shop_improvements
from grey_current.design.parts.connecting import connected
from grey_current.desk.shell.findings_search import SLICE
from grey_current.desk.shell.idle_garbage_collector import freeze
from grey_current.shop import edits
from grey_current.shop.duct_edits import drawn_on
from grey_current.shop.room_edits import rectangle
from grey_current.workspace.computed import DerivedState
from grey_current.workspace.helpers import helpers
from grey_current.workspace.placing import Placeable, place
from tests.core.shops import demo, machine, shop
from tests.core.test_network import comb

compiled.load()


def reference(solver: Solver, gates: np.ndarray, start: np.ndarray) -> np.ndarray:
    """One scenario by `scipy.optimize.root` on the pickup flows, with the solver's own lumped
    laws."""
    tree = solver.network.tree
    ready = Bank(solver.table, laws.cases(gates[None, :]))
    path, joined_at = tree.path, tree.joined_at
    onto = path.T

    def residual(leaf_flow: np.ndarray) -> np.ndarray:
        flow = path @ leaf_flow
        return onto @ ready.evaluate(flow[:, None], flow[joined_at][:, None])[0][:, 0]

    answer = root(residual, start, method="hybr")
    assert answer.success
    return answer.x


@pytest.fixture(scope="module")
def loft():
    project = demo()
    network = trace(project).networks["cyclone"]
    gates = np.stack(
        [gate_settings(project, network, scenario) for scenario in alone_scenarios(project)]
    )
    return project, network, gates


def test_all_uses_of_the_loft(benchmark, loft):
    _, network, gates = loft
    solver = Solver(network)
    given = laws.cases(gates)
    benchmark(lambda: solver.solve(given))
    mine = best(lambda: solver.solve(given))
    starts = solver.first_guess(Bank(solver.table, given)).T
    theirs = best(lambda: [reference(solver, g, s) for g, s in zip(gates, starts, strict=True)], 3)
    report(
        f"all {len(gates)} uses of the loft in one call: {mine * 1e3:.2f} ms, root "
        f"{theirs / mine:.0f} times"
    )


def test_ten_thousand_scenarios(benchmark, loft):
    _, network, gates = loft
    solver = Solver(network)
    rng = np.random.default_rng(7)
    many = gates[rng.integers(0, len(gates), 10_000)] | (rng.random((10_000, gates.shape[1])) < 0.1)
    given = laws.Cases(many, rng.normal(1, 0.05, 10_000), rng.normal(1, 0.1, 10_000))
    outcome = benchmark.pedantic(lambda: solver.solve(given), rounds=3)
    assert outcome.converged.all()
    mine = best(lambda: solver.solve(given), 3) / 10_000
    starts = solver.first_guess(Bank(solver.table, laws.cases(many[:40]))).T
    theirs = (
        best(lambda: [reference(solver, g, s) for g, s in zip(many[:40], starts, strict=True)], 3)
        / 40
    )
    report(f"10,000 scenarios: {mine * 1e6:.1f} µs each, root {theirs / mine:.0f} times")


def test_two_hundred_pickups(benchmark):
    network = comb(200)
    gates = np.zeros((1, 200), dtype=bool)
    gates[0, [3, 60, 150]] = True
    solver = Solver(network)
    outcome = benchmark(lambda: solver.solve(laws.cases(gates)))
    assert outcome.converged.all()
    mine = best(lambda: solver.solve(laws.cases(gates)))
    start = solver.first_guess(Bank(solver.table, laws.cases(gates))).T[0]
    theirs = best(lambda: reference(solver, gates[0], start), 1)
    report(f"200 pickups, one scenario: {mine * 1e3:.1f} ms, root {theirs / mine:.0f} times")


def test_growth_with_size():
    sizes = [50, 100, 200, 400, 800]
    seconds = []
    for size in sizes:
        gates = np.zeros((1, size), dtype=bool)
        gates[0, ::20] = True
        solver = Solver(comb(size, 0.3))
        per_round = solver.solve(laws.cases(gates)).iterations[0] + 1
        seconds.append(best(lambda s=solver, g=gates: s.solve(laws.cases(g))) / per_round)
    slope = np.polyfit(np.log(sizes), np.log(seconds), 1)[0]
    report(f"time for one Newton step grows as pieces^{slope:.2f} from 50 to 800 pickups")


def large_shop(machines: int = 30):
    """A long shop with a main and machines on both sides, each connected by itself."""
    shop_ = shop([], collectors=())
    room = shop_.rooms[0].replaced(outline=rectangle(-3, -5, 46, 10))
    project, end = place(
        shop_.replaced(rooms=(room,)),
        Placeable("collector", "5 hp cyclone, 15 1/2 in impeller", "Cyclone"),
        -2,
        0,
    )
    project, _ = drawn_on(project, end, 42.0, 0.0)
    for i in range(machines):
        one = machine(f"machine-{i + 1}", 2.0 + 1.3 * i, 2.5 if i % 2 else -2.5)
        project = connected(edits.added(project, one), f"{one.id}/port")
    return project


def test_one_edit_of_a_large_shop(benchmark):
    project = large_shop()
    before = assess(project)
    assert all(u.converged for u in before.answers)
    benchmark(lambda: assess(edits.moved(project, "machine-7", 0.05, 0.0), before=before))
    mine = best(lambda: assess(edits.moved(project, "machine-7", 0.05, 0.0), before=before))
    report(f"one edit of a shop with 30 machines ({len(project.runs)} runs): {mine * 1e3:.0f} ms")


def test_why(benchmark, loft):
    now = assess(loft[0])
    found = symptoms(now)
    benchmark.pedantic(lambda: diagnose(now, None, found), rounds=3)
    whole, one = (best(lambda m=m: diagnose(now, m, found)) for m in (None, "planer"))
    seen = best(lambda: symptoms(now))
    report(
        f"why the loft is short of air: {whole * 1e3:.0f} ms, the planer {one * 1e3:.0f} ms, "
        f"the findings they are held against {seen * 1e3:.0f} ms"
    )


def test_what_would_help_most(benchmark, loft):
    now = assess(loft[0])
    count = len(benchmark.pedantic(lambda: improvements(now, "planer"), rounds=3))
    mine = best(lambda: improvements(now, "planer"))
    report(f"what would help the planer most, {count} changes: {mine * 1e3:.0f} ms")
    count = len(shop_improvements(now))
    mine = best(lambda: shop_improvements(now))
    report(
        f"what would help the whole shop most, {count} changes, without helpers: "
        f"{mine * 1e3:.0f} ms"
    )
    with helpers() as crew:
        crew.wait()
        mine = best(lambda: shop_improvements(now, crew=crew))
    report(f"the same with {len(crew.helpers)} helpers: {mine * 1e3:.0f} ms")


def test_sizing_the_collector(benchmark, loft):
    now = assess(loft[0])
    found = benchmark.pedantic(lambda: sizing(now, "cyclone"), rounds=3)
    mine = best(lambda: requirements(loft[0], "cyclone"))
    report(
        f"what the collector must do, {len(found.requirements)} scenarios worked backwards: "
        f"{mine * 1e3:.0f} ms"
    )
    mine = best(lambda: sizing(now, "cyclone"))
    report(
        f"the same with {len(found.offers)} candidates and other kinds of system: "
        f"{mine * 1e3:.0f} ms"
    )


@pytest.mark.parametrize(("name", "project"), [("the loft", demo()), ("30 machines", large_shop())])
def test_the_longest_hold_of_the_search_for_findings(name, project):
    """The window's longest wait for one piece of the search, and the whole of it."""
    pieces: list[float] = []
    freeze()  # as the program does when it is up

    def once() -> None:
        computed = DerivedState(project)
        last = time.perf_counter()

        def told() -> bool:
            nonlocal last
            now = time.perf_counter()
            pieces.append(now - last)
            last = now
            return False

        computed.find(told)

    whole = best(once, 5)
    pieces.sort()
    report(
        f"findings in {name}: {whole * 1e3:.0f} ms with the air; the longest piece "
        f"{pieces[-5] * 1e3:.1f} ms, "
        f"the window goes on after every {SLICE * 1e3:.0f} ms"
    )
