"""Why a layout is as it is, in a sentence or two: what rules it, what it leaves, what it gave up,
what had no way.
"""

from __future__ import annotations

from collections.abc import Container, Iterable, Sequence
from typing import Protocol

import numpy as np
import shapely

from grey_current.air import laws
from grey_current.air.needs import MET_FROM, NEARLY
from grey_current.air.solver import solve
from grey_current.design.collector.estimate import rough_network
from grey_current.design.flow import fittings as make
from grey_current.design.flow.trace import shop_air
from grey_current.design.judgement import SAME, Judgement
from grey_current.design.laying.free_ground import OFF_THE_FLOOR
from grey_current.design.laying.how_it_lies import lies_beside_walls, main_of
from grey_current.design.laying.search import Grounds, Site
from grey_current.design.laying.sizes import SizeSearch
from grey_current.shop.model import Project
from grey_current.shop.names import Names, pickup_words
from grey_current.shop.places import distance, position
from grey_current.units import Display

NAMED = 3
# What is said where it is the collector, and no layout of ducts, that falls short.
TOO_WEAK = "is too weak"
# m of duct aslant across the room from which that is said. Allowance.
WORTH_A_WORD = 0.5


class Told(Protocol):
    """What is compared: a proposal's lengths, judgement and count of those served."""

    @property
    def duct(self) -> float: ...
    @property
    def aslant(self) -> float: ...
    @property
    def served(self) -> tuple[int, int]: ...
    @property
    def judgement(self) -> Judgement: ...
    @property
    def project(self) -> Project: ...


def reason(project: Project, judged: Judgement, search: SizeSearch | None) -> str:
    """What decides a layout: the pickup with the least to spare, the main, and what another size of
    it would do.
    """
    if not judged.pickups:
        return ""
    display = Display(project.settings.units)
    # Whose trouble is largest; without any, whoever has the least to spare.
    key = min(judged.pickups, key=lambda k: (-judged.pickups[k].trouble, judged.pickups[k].share))
    ruling = f"Limited by {_who(project, key)}."
    main = main_of(project)
    if not main:
        return ruling
    length = sum(distance(project, project.run[run]) for run in main)
    sizes = sorted({project.run[run].diameter for run in main}, reverse=True)
    if len(sizes) == 1:
        wide = display.diameter(sizes[0])
    else:
        wide = f"{display.diameter(sizes[0])} to {display.diameter(sizes[-1])}"
    where = " along the wall" if lies_beside_walls(project, main) else ""
    other = _other_size(project, search, display) if search is not None else ""
    return f"{ruling} Main {wide}, {display.about(length)} long{where}{other}."


def _other_size(project: Project, search: SizeSearch, display: Display) -> str:
    """What the main in the next size down or up would do to whom."""
    best = search.best()
    if not best:
        return ""
    widest = max(best)
    # All of the widest size that hang together from the collector on.
    trunk = tuple(
        i for i, at in enumerate(best) if at == widest and search.segments.each[i].after is None
    )
    trunk += tuple(
        i
        for i, at in enumerate(best)
        if at == widest and i not in trunk and _feeds(search, i, trunk)
    )
    now = search.judged(best)
    # A size less first: whether it could be cheaper is asked more often than whether it should be
    # larger.
    for step in (-1, 1):
        at = widest + step
        other = search.segments.resized(best, trunk, step)
        # Where a port or what is pinned forbids that size somewhere, it is no such main.
        if not 0 <= at < len(search.sizes) or any(other[i] != at for i in trunk):
            continue
        worse = _worst_change(project, now, search.judged(other))
        if worse:
            return f"; a {display.diameter(search.sizes[at])} main would {worse}"
    return ""


def _feeds(search: SizeSearch, number: int, trunk: tuple[int, ...]) -> bool:
    after = search.segments.each[number].after
    while after is not None:
        if after in trunk:
            return True
        after = search.segments.each[after].after
    return False


def _worst_change(project: Project, before: Judgement, after: Judgement) -> str:
    """What gets worse most from one judgement to another: "leave the saw 12 % short"."""
    worst: tuple[float, str] = (0.01, "")
    for key, now in after.pickups.items():
        was = before.pickups[key]
        added = now.trouble - was.trouble
        if added > worst[0]:
            short = (1 - now.share) if now.share < MET_FROM else 0.0
            if now.transport is not None and now.transport < 1 - SAME:
                slow = 1 - now.transport
            else:
                slow = 0.0
            # Said is what grew most: too little air, or chips that lie.
            grew_short = short - max(1 - was.share, 0.0)
            if short and grew_short >= slow - max(1 - (was.transport or 1.0), 0.0):
                worst = added, f"leave {_who(project, key)} {short:.0%} short"
            else:
                worst = added, f"let more of {_owner(project, key)} chips lie"
    return worst[1]


def left_over(project: Project, judged: Judgement) -> str:
    """Who is not served, and by how much: what the judgement leaves in words."""
    worst_last = sorted(judged.pickups.items(), key=lambda item: -item[1].share)
    lacking = {_who(project, key): p for key, p in worst_last if not p.met and p.airflow > 0}
    # Nobody notices so little, and it is no failure.
    nearly = [f"{who} {p.share:.0%}" for who, p in lacking.items() if p.share >= NEARLY]
    short = {who: p for who, p in lacking.items() if p.share < NEARLY}
    # A hose that is moved about is at one port of a machine at a time.
    moved = {ref for run in project.runs for ref in (run.start, *run.also_serves)}
    still = [key for key, p in judged.pickups.items() if p.airflow <= 0]
    none = [_who(project, key) for key in still if key[1] not in moved]
    waiting = [_who(project, key) for key in still if key[1] in moved]
    slow = [
        _owner(project, key)
        for key, p in judged.pickups.items()
        if p.transport is not None and not p.carried
    ]
    told = []
    if short:
        worst = sorted(short, key=lambda who: short[who].share)
        figures = [f"{who} {short[who].share:.0%}" for who in worst]
        told.append(f"{_list(figures)} of the need")
    if slow:
        told.append(f"{_list(list(dict.fromkeys(slow)))} chips settle on the way")
    if none:
        told.append(f"{_list(list(dict.fromkeys(none)))} without a duct")
    if waiting:
        told.append(f"{_list(list(dict.fromkeys(waiting)))} while the hose is on the other port")
    names = Names(project)
    hits = sorted(hit for hit in judged.hits if hit.element in project.run)
    told += [f"{names.of(hit.element)} {hit.words(names)}" for hit in hits[:1]]
    if len(hits) > 1:
        more = len(hits) - 1
        told.append(f"{more} more {'thing' if more == 1 else 'things'} in the way")
    sentences = [f"Still short: {'; '.join(told)}."] if told else []
    if nearly:
        sentences.append(f"Nearly enough: {_list(nearly)} of the need.")
    return " ".join(sentences)


def served_by_any(rows: Iterable[Told]) -> set[str]:
    """The pickups that some layout gives their air and carries the chips of, whatever runs."""
    found: set[str] = set()
    for row in rows:
        fine: dict[str, bool] = {}
        for (_, ref), p in row.judgement.pickups.items():
            fine[ref] = fine.get(ref, True) and p.met and p.carried
        found |= {ref for ref, served in fine.items() if served}
    return found


def not_all(rows: Sequence[Told], stranded: Container[str]) -> str:
    """That no layout serves all, and whether the collector itself is too weak for what none serves.

    The collector is asked what it would give each pickup alone on a way of its own; why those that
    are `stranded` have none is said elsewhere. `rows` are the layouts, the best first.
    """
    best = max(rows, key=lambda row: row.served[0])
    fine, asked = best.served
    if fine == asked:
        return ""
    said = f"No layout found serves all: the best serves {fine} of {asked}."
    project, served = best.project, served_by_any(rows)
    if all(ref in served for _, ref in best.judgement.pickups):
        return f"{said} Each machine is served by one of them, but all are by none."
    ducted = {
        ref: p
        for (_, ref), p in best.judgement.pickups.items()
        if p.transport is not None and ref not in stranded
    }
    failing = {
        ref: p for ref, p in ducted.items() if not (p.met and p.carried) and ref not in served
    }
    if not failing:
        return said
    display, air = Display(project.settings.units), shop_air(project)
    wide = max(project.collectors, key=lambda c: c.inlet)
    ref = min(failing, key=lambda r: (failing[r].share, r))
    if failing[ref].met:
        who = _who(project, ("", ref), capital=True)
        return f"{said} {who} has the air, but its chips settle where the duct is wide for others."
    # Even alone on a straight duct: where that is not enough no layout is, and the collector is to
    # blame.
    network = rough_network(project, ref, wide.id, make.collector(wide, air), air)
    alone = float(
        solve(network, laws.cases(np.ones((1, len(network.own_fans)), dtype=bool))).flow[0, 0]
    )
    needed = failing[ref].need
    who = _who(project, ("", ref))
    if alone < MET_FROM * needed:
        got = f"{display.airflow(alone, unit=False)} of {display.airflow(needed)}"
        return (
            f"{said} The {wide.name.lower()} {TOO_WEAK}: {who}, alone on a duct of its "
            f"own, gets about {got}."
        )
    remedy = "a wider port, or a hose or wye less on its way, would help"
    return f"{said} Alone on a duct of its own {who} would be served; {remedy}."


def gave_up(one: Told, others: Sequence[Told]) -> str:
    """What a layout gives up against the others that are offered."""
    display = Display(one.project.settings.units)
    told = []
    # A hose alone has no duct, and is no shorter layout.
    shortest = min((other.duct for other in others if other.duct > 0), default=0.0)
    if one.duct > shortest * 1.05 > 0:
        told.append(f"{display.about(one.duct - shortest)} more duct than the shortest")
    if one.aslant > WORTH_A_WORD:
        told.append(f"{display.about(one.aslant)} of duct aslant across the room")
    most = max(other.served[0] for other in others)
    if one.served[0] < most:
        told.append(f"{most - one.served[0]} fewer served than the best")
    else:
        spare = (
            max(other.judgement.margin for other in others if other.served[0] == most)
            - one.judgement.margin
        )
        if spare > 0.02:
            told.append(f"{spare:.0%} less spare air than the best")
    if not told:
        return ""
    *first, last = told
    return f"It costs {', '.join(first)} and {last}." if first else f"It costs {last}."


def stranded_because(place: Site, made: Grounds, ref: str) -> str:
    """Why a pickup found no way, as the end of a sentence about it that says what would open
    one.
    """
    names, display = Names(place.base), Display(place.base.settings.units)
    ground = made.ground
    choices = place.base.laying
    # From the collector outwards: the first thing that stops every duct, then what stops this one.
    if made.inlet is not None and made.inlet.blocked is not None:
        item = place.collector.name.lower()
        what = {"wall": "a wall", "ceiling": "the ceiling"}.get(made.inlet.blocked) or names.of(
            made.inlet.blocked
        )
        return (
            f"{what} leaves the {item}'s inlet no room; move or turn the {item}, or choose "
            "another height."
        )
    if not ground.lattice.nodes:
        height = display.about(ground.height)
        return (
            f"no duct of {display.diameter(place.bore)} fits at {height} up; choose another "
            "height or size."
        )
    if made.inlet is not None and ground.foot is None:
        item = f"the {place.collector.name.lower()}'s inlet"
        return (
            f"no main can begin before {item} at {display.about(ground.height)}; choose "
            "another height."
        )
    inside = [
        room for room in place.base.rooms if _in_room(room.outline, position(place.base, ref)[:2])
    ]
    home = [
        room
        for room in place.base.rooms
        if _in_room(room.outline, position(place.base, place.collector.id)[:2])
    ]
    if not choices.through_walls and home and (not inside or inside[0].id != home[0].id):
        return (
            f"a wall stands between it and the {place.collector.name.lower()}; allow a "
            "hole, or move it."
        )
    if ref not in ground.ways and choices.height not in OFF_THE_FLOOR:
        return "no drop fits beside it; move it or what stands round it, or choose another height."
    if made.ground.foot is None and not ground.trunks:
        return (
            f"what is pinned before the {place.collector.name.lower()} cannot be joined; unpin it."
        )
    if choices.height in OFF_THE_FLOOR:
        return f"{choices.height} its duct would lie where people walk; choose another height."
    way = f"{place.collector.name.lower()} at {display.about(ground.height)}"
    return f"what stands there leaves no way to the {way}; choose another height."


def _in_room(outline: Sequence[tuple[float, float]], place: tuple[float, float]) -> bool:
    return bool(shapely.intersects_xy(shapely.Polygon(outline), *place))


def _who(project: Project, key: tuple[object, str], *, capital: bool = False) -> str:
    return f"{'The' if capital else 'the'} {pickup_words(*project.pickup[key[1]])}"


def _owner(project: Project, key: tuple[object, str]) -> str:
    name = project.pickup[key[1]][0].name.lower()
    return f"the {name}'s"


def _list(words: list[str]) -> str:
    if len(words) > NAMED:
        return f"{', '.join(words[:NAMED])} and {len(words) - NAMED} more"
    return " and ".join(filter(None, [", ".join(words[:-1]), words[-1]]))
