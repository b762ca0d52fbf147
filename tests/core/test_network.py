"""The solver against an independent formulation, and what must hold in every network."""

import importlib

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from scipy.optimize import root

from grey_current.air import compiled, fan, fittings, laws, newton
from grey_current.air.network import Branch, Network
from grey_current.air.solver import Solver, solve
from tests.core.random_networks import random_shop, solved
from tests.core.strategies import AIR, LAWS, bank, gate_rows, networks, piece

SOME = settings(max_examples=40, deadline=None, suppress_health_check=[HealthCheck.too_slow])


def independent(network: Network, gates: np.ndarray, guess: np.ndarray) -> np.ndarray:
    """Flows of one scenario from the full equations: every branch flow and junction pressure an
    unknown."""
    size = len(network.branches)
    together = bank(
        [p.law for p in network.pieces],
        network.air,
        network.branch_of_piece.tolist(),
        gates[None, :],
    )
    down = [branch.joins for branch in network.branches]
    inner = [b for b in range(size) if network.tree.joining[b]]

    def residual(unknowns: np.ndarray) -> np.ndarray:
        flow = unknowns[:size] * 0.1
        pressure = dict(zip(inner, unknowns[size:] * 1000, strict=True))
        joined = flow[[max(d, 0) for d in down]]
        drop = together.evaluate(flow[:, None], joined[:, None])[0][:, 0]
        energy = [
            pressure.get(b, 0.0) - (pressure[down[b]] if down[b] >= 0 else 0.0) - drop[b]
            for b in range(size)
        ]
        mass = [flow[b] - sum(flow[leg] for leg in network.tree.joining[b]) for b in inner]
        return np.array([e / 1000 for e in energy] + [m * 10 for m in mass])

    start = np.concatenate([guess / 0.1, np.zeros(len(inner))])
    return (
        root(residual, start, method="hybr", options={"xtol": 1e-13, "maxfev": 20_000}).x[:size]
        * 0.1
    )


@SOME
@given(st.data())
def test_flows_agree_with_the_full_equations_and_balance(data):
    network = data.draw(networks())
    rows = data.draw(gate_rows(network))
    solved = solve(network, laws.cases(rows))
    assert solved.converged.all()
    tree = network.tree
    for row, gates in enumerate(rows):
        flow = solved.flow[row]
        reference = independent(network, gates, flow * 1.05 + 1e-3)
        assert flow == pytest.approx(reference, rel=1e-6, abs=1e-6 * np.abs(flow).max())
        for branch, legs in enumerate(tree.joining):
            if legs:
                assert flow[branch] == pytest.approx(sum(flow[leg] for leg in legs), abs=1e-12)
        for leaf in tree.leaves:
            path = network.path(int(leaf))
            assert abs(solved.loss[row, path].sum()) < 1e-6 * np.abs(solved.loss[row]).max()
            assert solved.before[row, path[0]] == pytest.approx(0.0, abs=1e-4)
            assert solved.before[row, path[1:]] == pytest.approx(
                solved.after[row, path[:-1]], abs=1e-6
            )


@SOME
@given(st.data())
def test_with_fixed_wyes_resistance_and_gates_act_the_right_way(data):
    """More resistance never raises a branch's airflow; opening a gate never lowers the fan's."""
    network = data.draw(networks(with_wyes=False))
    rows = data.draw(gate_rows(network, 1))
    before = solve(network, laws.cases(rows))
    which = data.draw(st.integers(0, len(network.branches) - 1))
    more = piece(laws.Constant(data.draw(st.floats(0.1, 20)), 0.1), 0.1)
    branches = list(network.branches)
    old = branches[which]
    branches[which] = Branch((more, *old.pieces), old.joins, old.pickup)
    after = solve(Network("c", tuple(branches), network.gates, AIR), laws.cases(rows))
    assert after.flow[0, which] <= before.flow[0, which] * (1 + 1e-6) + 1e-9
    if not rows.all():
        opened = rows.copy()
        opened[0, int(np.flatnonzero(~rows[0])[0])] = True
        wider = solve(network, laws.cases(opened))
        assert wider.flow[0, 0] >= before.flow[0, 0] * (1 - 1e-6) - 1e-9


@settings(SOME, suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow])
@given(st.data())
def test_both_linear_algebras_and_any_start_give_one_answer(only_numpy, data):
    network = data.draw(networks())
    rows = data.draw(gate_rows(network, 4))
    given_rows = laws.cases(rows)
    few = Solver(network).solve(given_rows)
    many = Solver(network).solve(laws.cases(np.tile(rows, (newton.DENSE_CASES, 1))))
    leaves = network.tree.leaves
    start = np.full((4, len(leaves)), data.draw(st.floats(1e-4, 0.3)))
    other = Solver(network).solve(given_rows, start)
    biggest = np.abs(few.flow).max()
    assert few.converged.all() and many.converged.all() and other.converged.all()
    assert many.flow[:4] == pytest.approx(few.flow, abs=1e-7 * biggest)
    assert other.flow == pytest.approx(few.flow, abs=1e-6 * biggest)


@pytest.fixture
def only_numpy(monkeypatch):
    """As on a first start, before the compiled kernel is loaded."""
    monkeypatch.setattr(compiled, "_loaded", [])


@pytest.fixture(params=["numpy", "compiled"])
def both_ways(request, monkeypatch):
    """A test is run with NumPy alone, then with the compiled kernel."""
    compiled.load()
    if request.param == "numpy":
        monkeypatch.setattr(compiled, "_loaded", [])


def test_the_compiled_kernel_says_what_numpy_says():
    """One truth: every law forward, backward and at rest, and whole networks, to 1e-10."""
    compiled.load()
    kernel = importlib.import_module("grey_current.air.kernel")
    rng = np.random.default_rng(3)
    for number, law in enumerate(LAWS):
        one = bank([law])
        for flow, joined in rng.uniform(-0.5, 0.5, (40, 2)) * rng.choice(
            [1.0, 1e-2, 1e-4], (40, 1)
        ):
            at = np.array([flow]), np.array([joined])
            wanted = [v[0, 0] for v in one.evaluate(*(v[:, None] for v in at))]
            made = [
                np.zeros(2) for _ in range(3)
            ]  # the second slot only says what the first one joins
            table = bank([law, laws.Constant(0.0, 0.1)]).table
            quadratic = np.zeros(2)
            lifts = np.zeros(len(table.fan_at))
            kernel.set_gates(table, np.ones(9, dtype=bool), 1.0, quadratic)
            kernel.set_fans(table, np.ones(9, dtype=bool), 1.0, lifts)
            kernel.evaluate(
                table,
                quadratic,
                lifts,
                1.0,
                np.concatenate(at),
                np.concatenate(at),
                np.array([1, -1]),
                *made,
            )
            assert [v[0] for v in made] == pytest.approx(wanted, rel=1e-10, abs=1e-12), (
                number,
                flow,
                joined,
            )


@SOME
@given(st.data())
def test_the_compiled_solver_gives_the_same_flows(data):
    network = data.draw(networks())
    rows = laws.cases(data.draw(gate_rows(network, 4)))
    compiled.load()
    ours = Solver(network).solve(rows)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(compiled, "_loaded", [])
        theirs = Solver(network).solve(rows)
        plain = solve(network, rows).loss
    assert ours.converged.all() and theirs.converged.all()
    assert ours.flow == pytest.approx(theirs.flow, rel=1e-10, abs=1e-10 * np.abs(theirs.flow).max())
    assert solve(network, rows).loss == pytest.approx(
        plain, rel=1e-9, abs=1e-9 * np.abs(plain).max()
    )


def comb(pickups: int, bore: float = 0.2) -> Network:
    """A long main with a wye every metre."""
    curve = fan.curve_from_points([(0, 4500.0), (0.5, 3500.0), (0.94, 0.0)])
    root_pieces = (
        piece(laws.Friction(2, bore, 9e-5), bore),
        piece(laws.Fan(curve), bore),
        piece(laws.FilterMedium(200), bore),
    )
    branches = [Branch(root_pieces, -1)]
    joins = 0
    for i in range(pickups):
        leaf = (
            piece(laws.Constant(0.5, 0.1), 0.1),
            piece(laws.Gate(0.35, fittings.leak(0.005), 0.1, i), 0.1),
        )
        wye = (piece(laws.Wye(False, 45, 0.1, bore, 0.1), 0.1),) if i < pickups - 1 else ()
        branches.append(
            Branch((*leaf, piece(laws.Friction(2, 0.1, 4e-4), 0.1), *wye), joins, ("m", str(i)))
        )
        if i < pickups - 2:
            main = (
                piece(laws.Friction(1, bore, 9e-5), bore),
                piece(laws.Wye(True, 45, 0.1, bore, bore), bore),
            )
            branches.append(Branch(main, joins))
            joins = len(branches) - 1
    return Network("c", tuple(branches), tuple(map(str, range(pickups))), AIR)


def test_a_large_tree_is_solved_by_elimination(both_ways):

    network = comb(200)
    gates = np.zeros((3, 200), dtype=bool)
    gates[0, :3] = gates[1, -4:] = gates[2, ::25] = True
    solved = solve(network, laws.cases(gates))
    assert solved.converged.all()
    assert (solved.residual < 1e-8).all()
    for leaf in (network.tree.leaves[0], network.tree.leaves[-1]):
        assert abs(solved.loss[0, network.path(int(leaf))].sum()) < 1e-3


def test_no_flow_and_backflow_are_normal_answers(both_ways):

    weak = piece(laws.Fan(fan.curve_from_points([(0, 300.0), (0.2, 0.0)])), 0.1)
    own = piece(laws.Fan(fan.curve_from_points([(0, 2500.0), (0.4, 0.0)])), 0.1)
    sealed = piece(laws.Constant(fittings.leak(1e-6), 0.1), 0.1)
    plain = piece(laws.Constant(1.0, 0.1), 0.1)
    duct = piece(laws.Friction(20, 0.06, 3e-3), 0.06)

    def two(first: tuple, second: tuple, root_pieces: tuple) -> Network:
        wye = [piece(laws.Wye(m, 45, 0.1, 0.1, 0.1), 0.1) for m in (False, True)]
        legs = (Branch((*first, wye[0]), 0, ("a", "a")), Branch((*second, wye[1]), 0, ("b", "b")))
        return Network("c", (Branch(root_pieces, -1), *legs), (), AIR)

    none = laws.cases(np.zeros((1, 0), dtype=bool))
    shut = solve(two((sealed,), (sealed,), (duct, weak)), none)
    assert shut.converged.all() and abs(shut.flow[0, 0]) < 1e-5
    blown = solve(two((own, plain), (plain,), (duct, weak)), none)
    assert blown.converged.all() and blown.flow[0, 2] < -1e-3 < blown.flow[0, 1]
    off = solve(two((plain,), (plain,), (duct,)), none)
    assert off.converged.all() and np.abs(off.flow).max() < 1e-6


def test_a_case_without_an_answer_fails_alone(both_ways):

    network = comb(3)
    rows = laws.cases(np.ones((3, 3), dtype=bool))
    broken = laws.Cases(rows.gates, np.array([1.0, np.nan, 1.0]), rows.loss)
    solved = solve(network, broken)
    assert solved.converged.tolist() == [True, False, True]
    assert np.isnan(solved.flow[1]).all() and np.isfinite(solved.flow[[0, 2]]).all()


@pytest.mark.parametrize("downstream", [(-1, 2, 0), (0, 1), (-1, -1)])
def test_a_tree_must_be_a_tree(downstream):
    with pytest.raises(ValueError, match=r"root|after"):
        newton.Tree(downstream)


def test_more_scenarios_than_one_piece_of_work_takes_are_those_of_each_alone(both_ways):
    network = comb(3)
    rows = np.array(
        [[n % 2, n // 2 % 2, n // 4 % 2] for n in range(2 * newton.CHUNK + 3)], dtype=bool
    )
    together = Solver(network).solve(laws.cases(rows))
    alone = Solver(network).solve(laws.cases(rows[:8]))
    assert together.converged.all()
    assert together.flow == pytest.approx(alone.flow[np.arange(len(rows)) % 8], rel=1e-9, abs=1e-12)


@pytest.mark.sweep
def test_wild_shops_are_answered_in_few_steps():
    """Humps in curves, fans against one another, gates without a leak: every scenario has its
    answer."""
    compiled.load()
    for seed in (404, 458, 1594, 5644, 8678, *range(400)):
        answer = solved(seed)
        assert answer.converged.all() and (answer.iterations < 30).all(), seed
        assert np.isfinite(answer.flow).all() and (answer.residual < 1e-8).all()


@pytest.mark.parametrize(
    ("seed", "at_once"), [(1458, True), (9638, True), (14126, True), (22456, False)]
)
def test_what_turns_round_a_hump_is_steadied_or_begun_otherwise_compiled_as_in_numpy(
    seed, at_once, monkeypatch
):
    compiled.load()
    shop = random_shop(seed)
    solver, cases = Solver(shop.network), laws.cases(shop.rows)
    quick = solver.solve(cases)
    monkeypatch.setattr(compiled, "_loaded", [])
    slow = solver.solve(cases)
    assert (
        quick.converged.all()
        and slow.converged.all()
        and (quick.iterations == slow.iterations).all()
    )
    assert (
        (quick.iterations < 30).all() if at_once else quick.iterations.max() > newton.MAX_ITERATIONS
    )
    assert np.allclose(quick.flow, slow.flow, rtol=1e-10, atol=1e-12 * np.abs(slow.flow).max())


def test_a_start_that_leads_nowhere_is_forgotten(both_ways):
    network = comb(5)
    given_rows = laws.cases(np.eye(5, dtype=bool))
    nowhere = np.full((5, len(network.tree.leaves)), np.nan)
    led = Solver(network).solve(given_rows, nowhere)
    assert led.converged.all() and np.allclose(
        led.flow, Solver(network).solve(given_rows).flow, rtol=1e-10
    )
