"""How long laying ducts takes, and how near the size search comes to trying every choice."""

from __future__ import annotations

import os
import time

from bench.conftest import report
from grey_current.air import compiled
from grey_current.design.laying.places import where_to_stand
from grey_current.design.laying.proposal import Proposals
from grey_current.design.laying.proposals import propose, quickly_laid
from grey_current.design.laying.sizes import SizeSearch, allowed_sizes, size_runs
from grey_current.shop.laying_edits import with_laying
from grey_current.shop.model import Project
from tests.core import laid_shops
from tests.core.shops import demo
from tests.core.test_laying import brute_force

SHOPS = int(os.environ.get("SMALL_SHOPS", "300"))
SIZES = (0.075, 0.1, 0.125, 0.15)


def _laid(name: str, project: Project) -> Proposals:
    compiled.load()
    begun, first = time.perf_counter(), 0.0

    def hear(found: Proposals) -> None:
        nonlocal first
        if found.proposals and not first:
            first = time.perf_counter() - begun

    found = propose(project, on_progress=hear)
    took = time.perf_counter() - begun
    best = found.proposals[0]
    report(
        f"laying {name}: first proposal {first:.1f} s, all {took:.1f} s, {found.tried} "
        f"layouts, best {best.served}"
    )
    return found


def test_laying_the_loft() -> None:
    assert _laid("the loft", laid_shops.without_ducts(demo())).proposals


def test_laying_thirty_machines() -> None:
    found = _laid("30 machines", laid_shops.many(30))
    assert not laid_shops.faults(found.proposals[0].project, found.proposals[0].stranded)


def test_where_the_loft_s_cyclone_should_stand() -> None:
    compiled.load()
    begun = time.perf_counter()
    found = where_to_stand(laid_shops.without_ducts(demo()))
    report(
        f"places for the loft's cyclone: {found.tried} looked at, "
        f"{time.perf_counter() - begun:.1f} s"
    )
    assert found.places


def test_the_size_search_against_brute_force() -> None:
    """Every choice of four sizes for small random shops; the search as it is for large ones,
    without trying all."""
    compiled.load()
    shops = same = near = judged = choices = 0
    for seed in range(10 * SHOPS):
        laid = quickly_laid(with_laying(laid_shops.small(seed), sizes=SIZES), 6)
        if laid is None or not size_runs(laid.project):
            continue
        project = laid.project
        search = SizeSearch(
            project,
            size_runs(project),
            allowed_sizes(project, project.collectors[0].inlet),
            exact=0,
        )
        every = SizeSearch(project, size_runs(project), search.sizes)
        found, truth = search.key(search.best()), brute_force(every)
        shops, judged, choices = shops + 1, judged + len(search.known), choices + len(every.known)
        same += found[:2] <= truth[:2]
        near += found[0] <= truth[0] * 1.01 + 1e-4
        if shops == SHOPS:
            break
    report(
        f"sizes of {shops} small shops: the brute-force best in {same / shops:.1%}, trouble "
        "within 1 % in "
        f"{near / shops:.1%}; {judged / shops:.0f} choices judged of {choices / shops:.0f}"
    )
    assert same >= 0.97 * shops
    assert near == shops
