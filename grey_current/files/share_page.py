"""A page to share: the shop on one HTML page that needs no network, for a forum or a friend.

Prices and the user's own notes are left out unless they are asked for; every name is escaped.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from html import escape

from grey_current.build.bill import Bill, bill
from grey_current.build.plan_drawing import plan_drawing
from grey_current.build.solid.presets import preset
from grey_current.build.solid.shop_solids import shop_solids
from grey_current.build.words import bought_words, money_words, quantity_words, totals_words
from grey_current.dates import date_words
from grey_current.design.findings.all_findings import all_findings
from grey_current.design.findings.verdict import verdict
from grey_current.design.flow.assessment import Assessment
from grey_current.files.drawing_svg import svg
from grey_current.files.space_files import view_svg
from grey_current.shop.model import Project
from grey_current.shop.names import capital
from grey_current.units import Display

# The plan is drawn as if for paper at this scale; the page shows it as wide as it is itself.
PLAN_SCALE = 40.0
VIEW = (1000, 640)
SEVERITIES = {"fault": "Fault", "warning": "Warning", "note": "Note"}
STYLE = """
body { font: 16px/1.45 system-ui, sans-serif; color: #22282c; background: #f4f3ef; margin: 0 auto;
  max-width: 62rem; padding: 1.5rem; }
h1 { margin: 0; } h2 { margin: 2rem 0 .5rem; border-bottom: 1px solid #c9c8c1; }
p.ask { background: #fff; border-left: 4px solid #0b6e7f; padding: .7rem 1rem; }
svg { width: 100%; height: auto; background: #fff; border: 1px solid #c9c8c1; }
table { border-collapse: collapse; width: 100%; }
td, th { text-align: left; padding: .25rem .8rem .25rem 0; border-bottom: 1px solid #dfdfda; }
td.figure, th.figure { text-align: right; white-space: nowrap; }
footer { margin-top: 2rem; color: #5b636a; font-size: .85rem; }
"""
CAUTION = (
    "Estimates for planning, not a certificate. Mains, gas and fire safety: local code and "
    "licensed people."
)


@dataclass(frozen=True)
class Sharing:
    """What of a shop is shared besides its plan, its air and its parts."""

    prices: bool = False
    notes: bool = False
    question: str = ""


def share_page(now: Assessment, wanted: Sharing, found: Bill | None = None) -> str:
    """The page's text. Raises `DuctworkError` where pipe has no stock length that will do."""
    project = now.project
    costs = found or bill(project)
    solids = shop_solids(project, costs.parts.assembly)
    views = [
        _without_head(view_svg(solids, preset(project, name, *VIEW), VIEW))
        for name in ("corner", "main")
    ]
    plan = _without_head(svg(plan_drawing(project, costs.parts.straights, {}, PLAN_SCALE)))
    body = [
        f"<h1>{escape(project.name)}</h1>",
        f"<p>{escape(verdict(now, None))}</p>",
        *([f'<p class="ask">{escape(wanted.question)}</p>'] if wanted.question.strip() else []),
        *_section("In space", views),
        *_section("Plan", [plan]),
        *_section("What each machine gets", [_machines(now)]),
        *_section("Collectors", [_collectors(now)]),
        *_section("Problems", [_problems(now)]),
        *_section("Parts", [_parts(costs, wanted.prices)]),
        *(_section("Notes", list(_notes(project))) if wanted.notes else []),
        f"<footer>{escape(CAUTION)} Made with Grey Current.</footer>",
    ]
    head = (
        '<meta charset="utf-8"><meta name="viewport" content="width=device-width">'
        f"<title>{escape(project.name)}</title><style>{STYLE}</style>"
    )
    text = "\n".join(body)
    return f'<!DOCTYPE html>\n<html lang="en"><head>{head}</head><body>\n{text}\n</body></html>\n'


def _without_head(text: str) -> str:
    """An SVG without the line that says that it is a file of its own."""
    return text[text.index("<svg") :]


def _section(title: str, parts: Sequence[str]) -> list[str]:
    return [f"<h2>{escape(title)}</h2>", *parts] if any(parts) else []


def _table(heads: Sequence[str], rows: Iterable[Sequence[str]], figures: Sequence[int]) -> str:
    """A table; columns in `figures` stand at the right. Empty without rows."""

    def cells(tag: str, row: Sequence[str]) -> str:
        return "".join(
            f"<{tag}{' class=figure' if n in figures else ''}>{escape(text)}</{tag}>"
            for n, text in enumerate(row)
        )

    lines = [f"<tr>{cells('td', row)}</tr>" for row in rows]
    return f"<table><tr>{cells('th', heads)}</tr>{''.join(lines)}</table>" if lines else ""


def _machines(now: Assessment) -> str:
    display = Display(now.project.settings.units)
    rows = []
    for machine in now.project.machines:
        answer = now.of_machine.get(machine.id)
        pickups = answer.pickups if answer is not None and answer.converged else ()
        for item in pickups:
            pickup = next(p for p in machine.pickups if p.id == item.pickup)
            name = machine.name
            if len(machine.pickups) > 1:
                name = f"{machine.name}, {pickup.name.lower()}"
            got = "not connected" if item.loose else display.airflow(item.airflow)
            rows.append(
                (name, got, display.airflow(item.need.airflow), "yes" if item.met else "no")
            )
        if not pickups:
            rows.append((machine.name, "no pickup" if not machine.pickups else "no answer", "", ""))
    return _table(("Machine, alone", "gets", "needs", "enough"), rows, (1, 2))


def _collectors(now: Assessment) -> str:
    display = Display(now.project.settings.units)
    rows = [
        (
            item.name,
            item.model,
            display.diameter(item.inlet),
            display.airflow(now.counted.most_airflow(item.id)),
        )
        for item in now.project.collectors
    ]
    return _table(("Collector", "what it is", "inlet", "most air"), rows, (2, 3))


def _problems(now: Assessment) -> str:
    rows = [
        (SEVERITIES[finding.severity], finding.message)
        for finding in all_findings(now.project, now)
        if finding.severity != "note"
    ]
    return _table(("", "What is wrong"), rows, ()) or "<p>None found.</p>"


def _parts(costs: Bill, prices: bool) -> str:
    project = costs.parts.project
    display, currency = Display(project.settings.units), project.build.currency
    rows = []
    for line in costs.lines:
        row = [quantity_words(line.part, display), bought_words(line, display)]
        rows.append([*row, money_words(line.sum, currency)] if prices else row)
    total = "".join(f"<p>{escape(words)}</p>" for words in totals_words(costs)) if prices else ""
    heads = ("How many", "Part", "sum") if prices else ("How many", "Part")
    return total + _table(heads, rows, (0, 2) if prices else (0,))


def _notes(project: Project) -> Iterator[str]:
    """The user's own notes on machines and in the logbook."""
    rows = [(item.name, item.note) for item in project.machines if item.note.strip()]
    rows += [
        (date_words(entry.date, project.settings.units), f"{capital(entry.kind)}: {entry.note}")
        for entry in project.keep.entries
        if entry.note.strip()
    ]
    yield _table(("Of", "Note"), rows, ())
