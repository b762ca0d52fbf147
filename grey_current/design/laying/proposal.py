"""A proposal for the ducts of a shop: what it is judged to be and what it takes, and which are
worth a row.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from functools import cached_property

from grey_current.air.pieces import Elbow, Mitre, WyeBranch
from grey_current.design.findings.all_findings import all_findings
from grey_current.design.findings.finding import Finding
from grey_current.design.flow.assess import assess
from grey_current.design.flow.assessment import Assessment
from grey_current.design.flow.scenarios import all_scenarios
from grey_current.design.judgement import HARD, Judgement, judge
from grey_current.design.laying.how_it_lies import lies_along_walls, metres_aslant
from grey_current.shop.catalogue import materials
from grey_current.shop.model import Project
from grey_current.shop.places import distance

# Proposals that are worth talking about.
LEAST, MOST = 3, 5
# Trouble and margin within which two layouts with about as much duct are not worth two rows.
# Allowance.
ALIKE = 0.03
# m of duct aslant across the room that are as much trouble as a machine without air. Allowance.
ACROSS_ROOM = 40.0
# Trouble of a machine that is not quite served, besides what it lacks: as much as some 5 m aslant,
# so that no layout leads because it is straighter where another one serves. Allowance.
UNSERVED = 0.12
Rank = tuple[float, float, float, float]
# m of duct that nobody calls more.
SAME_DUCT = 0.01


@dataclass(frozen=True)
class Proposal:
    """A whole layout: its name and why, the project with it, its air and judgement, and what it
    takes.

    `duct` and `hose` are lengths (m) of all that is drawn then; `stranded` the pickups that found
    no way.
    """

    name: str
    why: str
    project: Project
    assessment: Assessment = field(repr=False, compare=False)
    judgement: Judgement = field(repr=False, compare=False)
    duct: float
    hose: float
    elbows: int
    wyes: int
    gates: int
    stranded: tuple[str, ...]

    @cached_property
    def problems(self) -> tuple[Finding, ...]:
        """The faults and warnings about ducts, gates and building that it leaves, in the order of
        `check`.
        """
        return tuple(
            finding
            for finding in all_findings(self.project, self.assessment)
            if finding.severity != "note" and finding.stage in ("air", "gates", "build")
        )

    @property
    def unsolved(self) -> tuple[str, ...]:
        """The codes of these, each once."""
        return tuple(dict.fromkeys(finding.code for finding in self.problems))

    @property
    def served(self) -> tuple[int, int]:
        """Scenarios in which every need is met and every chip carried, of all."""
        return self.judgement.served()

    @cached_property
    def aslant(self) -> float:
        """M of level duct that run across the room at an angle to its walls."""
        return metres_aslant(self.project)

    @cached_property
    def rank(self) -> Rank:
        """Smaller is better: the one judgement's trouble and margin, then money, then duct and hose
        to be bought.

        Ducts that are drawn anew have no excuse for what cannot be put together, which counts in
        full, a piece that holds badly by half; nor for ducts aslant across the room, unless they
        serve better.
        """
        trouble, margin, money, _ = self.judgement.rank
        trouble += sum(HARD if item.is_fault else HARD / 2 for item in self.judgement.unbuildable)
        served, of = self.served
        trouble += _across(self.aslant) + UNSERVED * (of - served)
        trouble = round(trouble, 3)
        return trouble, margin, money, round(self.duct + 2 * self.hose, 1)


@dataclass(frozen=True)
class Proposals:
    """The answer: proposals, the best first; how many layouts were tried, in how many seconds, from
    which seed.

    `notes` say in one sentence each what could not be laid and what stands in the way. `complete`
    is False while the search goes on, or when it was ended early.
    """

    proposals: tuple[Proposal, ...]
    tried: int
    seconds: float
    seed: int
    notes: tuple[str, ...] = ()
    complete: bool = True


# Names that claim something.
LEAST_DUCT, MOST_AIR, BY_WALLS = "Least duct", "Most air", "Along the walls"
# m of duct aslant across the room from which a layout is named after it.
NAMED_ASLANT = 0.5


def truly_named(rows: list[Proposal]) -> list[Proposal]:
    """Some proposals, each with the first name of its kind that is true of it and that no other
    has.
    """
    # With a vacuum besides fewer ports are led to, and a hose alone is no duct.
    fewest = min((len(p.project.collectors) for p in rows), default=0)
    ducted = [p for p in rows if p.duct > 0 and len(p.project.collectors) == fewest]
    least = min((p.duct for p in ducted), default=0.0)
    most = min((p.judgement.by_air for p in ducted), default=(0.0, 0.0))
    across = max((p.aslant for p in rows), default=0.0)
    taken: set[str] = set()
    made = []
    for one in rows:
        name = one.name
        if name in (LEAST_DUCT, MOST_AIR, BY_WALLS):
            true = {
                LEAST_DUCT: one.duct <= least + SAME_DUCT,
                MOST_AIR: one.judgement.by_air <= most,
                BY_WALLS: lies_along_walls(one.project),
                "Across the room": one.aslant >= max(NAMED_ASLANT, across - SAME_DUCT),
                "Square to the walls": one.aslant < NAMED_ASLANT,
            }
            # Its own name first.
            names = dict.fromkeys([name, *true])
            fitting = [other for other in names if true[other] and other not in taken]
            name = next(iter(fitting), _numbered(taken))
        taken.add(name)
        # What is known of a row stays with it.
        made.append(one if name == one.name else replace(one, name=name))
    return made


def _numbered(taken: set[str]) -> str:
    """A name for one more layout."""
    names = ("Another route", *(f"Another route, {number}" for number in range(2, 9)))
    return next(name for name in names if name not in taken)


def unlike(ranked: list[Proposal]) -> list[Proposal]:
    """Of some proposals, the best first, those that differ from a better one by something that one
    would notice.
    """
    found: list[Proposal] = []
    alike: list[Proposal] = []
    for one in ranked:
        (alike if any(_same(one, other) for other in found) else found).append(one)
    return sorted([*found, *alike[: max(LEAST - len(found), 0)]], key=lambda p: p.rank)[:MOST]


def _same(one: Proposal, other: Proposal) -> bool:
    a, b = one.judgement, other.judgement
    here, there = _corners(one.project), _corners(other.project)
    return (
        len(here & there) > 0.5 * len(here | there)
        and len(one.project.collectors) == len(other.project.collectors)
        and one.served == other.served
        and abs(one.duct - other.duct) < 0.04 * other.duct
        and abs(a.trouble - b.trouble) < ALIKE
        and abs(a.margin - b.margin) < ALIKE
    )


def _corners(project: Project) -> set[tuple[float, float]]:
    """Where ducts turn, join and end in plan, to the decimetre."""
    return {(round(point.x, 1), round(point.y, 1)) for point in project.points}


def trouble_of_lying(project: Project) -> float:
    """What ducts aslant across the room add to the trouble of a layout."""
    return _across(metres_aslant(project))


def _across(aslant: float) -> float:
    return HARD * aslant / ACROSS_ROOM


def as_laid(project: Project, stranded: tuple[str, ...]) -> Proposal:
    """A layout without a name or a why, its air computed and judged; `stranded` are the pickups
    that it leaves out.
    """
    done = assess(project, all_scenarios(project))
    return Proposal("", "", project, done, judge(done), *taken_to_make(project, done), stranded)


def taken_to_make(project: Project, done: Assessment) -> tuple[float, float, int, int, int]:
    """M of duct and of hose, elbows, wyes and gates of a project."""
    duct = hose = 0.0
    for run in project.runs:
        if materials()[run.material].hose:
            hose += run.length or distance(project, run)
        else:
            duct += distance(project, run)
    pieces = {piece.id: piece for piece in done.pieces}.values()
    elbows = sum(isinstance(piece, Elbow | Mitre) for piece in pieces)
    wyes = sum(isinstance(piece, WyeBranch) for piece in pieces)
    return duct, hose, elbows, wyes, len(project.gates)
