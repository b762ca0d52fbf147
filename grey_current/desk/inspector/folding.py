"""What of a page is in sight when it is first shown: its answer, and what still fits; the rest is
folded.
"""

from __future__ import annotations

import itertools
from collections import Counter
from dataclasses import dataclass, replace

from grey_current.desk.inspector.fields import (
    ActionField,
    ChoiceField,
    Fact,
    Item,
    Page,
    Picture,
    Section,
    Table,
    TextField,
)

# Problems that are in sight while the others are folded.
FIRST_FINDINGS = 2
# Words that the heading of the problems and what stands beside it take; words kept free for
# problems that are found a moment after the page is shown.
HEAD_WORDS, KEPT_FREE = 3, 30


@dataclass(frozen=True)
class FirstLook:
    """What is in sight of a page until somebody folds or opens something.

    Attributes:
        opened: For each section's title whether it is open.
        brief: How many items of a folded section are in sight, by its title.
        findings: How many problems are.
    """

    opened: dict[str, bool]
    brief: dict[str, int]
    findings: int


def first_look(page: Page) -> FirstLook:
    """What fits into the page's words: first what is in sight in any case, cut shorter where that
    is too long already; then whole sections in their order.
    """
    opened = {section.title: section.open_first for section in page.sections}
    brief = {section.title: section.brief for section in page.sections}
    findings = min(FIRST_FINDINGS, len(page.findings))

    def words() -> int:
        look = FirstLook(opened, brief, findings)
        return _frame_words(page, findings) + sum(_section_words(s, look) for s in page.sections)

    while words() > page.words and findings > 1:
        findings -= 1
    least = {section.title: _kept(section) for section in page.sections}
    # The page's first section keeps what one comes to the page for: its field, or one item.
    if page.sections:
        first = page.sections[0]
        least[first.title] = max(least[first.title], _up_to_its_field(first))
    while words() > page.words:
        longest = max(brief, key=lambda title: brief[title] - least[title], default="")
        if not longest or brief[longest] <= least[longest]:
            break
        brief[longest] -= 1
    for section in page.sections:
        if not opened[section.title]:
            opened[section.title] = True
            opened[section.title] = words() <= page.words
    return FirstLook(opened, brief, findings)


def _kept(section: Section) -> int:
    """How many of a section's first items stay in sight in any case: up to the one thing to do."""
    for place, item in enumerate(section.items[: section.brief]):
        if isinstance(item, ActionField) and item.primary:
            return place + 1
    return 0


def _up_to_its_field(section: Section) -> int:
    """How many of a section's first items there are up to the first field."""
    for place, item in enumerate(section.items[: section.brief]):
        if isinstance(item, TextField):
            return place + 1
    return min(1, section.brief)


def findings_in_sight(page: Page, look: FirstLook) -> int:
    """How many problems fit beside what is open now; one at least, unless the page names the cause
    of others.
    """
    count = min(FIRST_FINDINGS, len(page.findings))
    sections = sum(_section_words(section, look) for section in page.sections)
    least = 0 if page.explained else 1
    while count > least and _frame_words(page, count) + sections > page.words:
        count -= 1
    return count


def one_title_each(page: Page) -> Page:
    """The page with a number after a heading that stands on it more than once."""
    counts: Counter[str] = Counter()
    sections = []
    for section in page.sections:
        counts[section.title] += 1
        number = counts[section.title]
        title = section.title if number == 1 else f"{section.title} ({number})"
        sections.append(replace(section, title=title))
    return replace(page, sections=tuple(sections))


def words_of(item: Item) -> int:
    """How many words an item puts on the page."""
    if isinstance(item, Fact):
        return _count(f"{item.label} {item.value}")
    if isinstance(item, Picture):
        return 0
    if isinstance(item, Table):
        return _count(" ".join(itertools.chain(item.headings, *item.rows)))
    if isinstance(item, ActionField):
        return _count(f"{item.label} {item.detail}")
    shown = item.value
    if isinstance(item, ChoiceField):
        shown = dict(item.options).get(item.value, "")
    return _count(f"{item.label} {shown}")


def _frame_words(page: Page, findings: int) -> int:
    said = f"{page.title} {page.subtitle} {page.answer} {page.caution}"
    shown = page.findings[:findings]
    found = sum(
        _count(" ".join((finding.message, *(change.words for change in finding.fixes))))
        for finding in shown
    )
    return _count(said) + (max(found, KEPT_FREE) + HEAD_WORDS if page.problems else 0)


def _section_words(section: Section, look: FirstLook) -> int:
    if look.opened[section.title]:
        return _count(section.title) + sum(map(words_of, section.items))
    shown = section.items[: look.brief[section.title]]
    return _count(f"{section.title} {section.summary}") + sum(map(words_of, shown))


def _count(text: str) -> int:
    return len(text.split())
