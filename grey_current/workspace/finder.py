"""Finds commands, settings, things of the shop, problems, parts and pages by what somebody types.

A word counts where it begins a word of the title, less where it begins one of the synonyms or of
the rest, least where it is nearly one; every typed word must be found somewhere.
"""

from __future__ import annotations

import json
import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from difflib import SequenceMatcher
from functools import cache, lru_cache, partial
from importlib.resources import files
from typing import Literal

from grey_current.design.parts.keys import part_words
from grey_current.design.reasons.reasons import reasons
from grey_current.shop.names import capital
from grey_current.units import Display
from grey_current.workspace.commands import COMMANDS, Command
from grey_current.workspace.desk import Desk
from grey_current.workspace.manual import manual_pages
from grey_current.workspace.settings import CHOICES, SETTINGS
from grey_current.workspace.workspace import Workspace

Kind = Literal["Command", "Setting", "In the shop", "Problem", "Part", "Page"]
# What a found word is worth, by where it stands, and how alike a mistyped one must be.
IN_TITLE, IN_SYNONYM, IN_DETAIL, NEARLY, ALIKE = 4.0, 3.0, 1.5, 1.0, 0.75
# Of two that are found alike the command comes first, then the thing.
OF_KIND = {"Command": 0.4, "In the shop": 0.2}
# A shorter word is not looked for with a slip of the finger in it.
LEAST_LETTERS = 4
MOST = 12


@dataclass(frozen=True)
class Entry:
    """Something that can be found.

    Attributes:
        detail: Where it is, or what more there is to say.
        key: Its shortcut.
        synonyms: Other words by which it is looked for.
        act: What choosing it does; None for a command that makes no sense just now.
    """

    kind: Kind
    title: str
    detail: str
    key: str = ""
    synonyms: tuple[str, ...] = ()
    act: Callable[[Desk], object] | None = field(default=None, compare=False)


@cache
def synonyms() -> dict[str, tuple[str, ...]]:
    """Other words for each command, by its id."""
    text = (files("grey_current.workspace") / "data" / "synonyms.json").read_text(encoding="utf-8")
    return {ident: tuple(words) for ident, words in json.loads(text)["commands"].items()}


def entries(workspace: Workspace, put_setting: Callable[[str, str], object]) -> list[Entry]:
    """Everything that can be found now; `put_setting` chooses a declared setting."""
    return [
        *map(partial(_of_command, workspace), COMMANDS),
        *_settings(put_setting),
        *_things(workspace),
        *_problems(workspace),
        *_parts(workspace),
        *_pages(),
    ]


def _of_command(workspace: Workspace, command: Command) -> Entry:
    able = command.enabled(workspace)
    where = command.group.replace("/", " ▸ ")
    return Entry(
        "Command",
        command.title.rstrip("…"),
        where if able else f"{where}, not now",
        command.usual_key,
        synonyms().get(command.id, ()),
        command.act if able else None,
    )


def _settings(put_setting: Callable[[str, str], object]) -> Iterator[Entry]:
    for setting in CHOICES:
        where = "View" if setting in SETTINGS else "Preferences, new shops"
        for choice, words in zip(setting.choices, setting.words, strict=True):
            put = partial(_put, put_setting, setting.name, choice)
            yield Entry("Setting", f"{setting.title}: {words}", where, act=put)


def _put(put_setting: Callable[[str, str], object], name: str, choice: str, desk: Desk) -> None:
    del desk
    put_setting(name, choice)


def _open(ident: str, desk: Desk) -> None:
    desk.show_manual(ident)


def _things(workspace: Workspace) -> Iterator[Entry]:
    """Machines, collectors, ducts and what stands in the shop, each by its name."""
    project, names = workspace.project, workspace.computed.names
    for ident, item in project.element.items():
        if ident in project.point:
            continue
        stage = "air" if ident in project.run or ident in project.gate else ""
        if ident in project.machine:
            stage = "machines"
        elif ident in project.collector:
            stage = "collector"
        kind = getattr(item, "kind", "") or getattr(item, "model", "")
        go = partial(_show, stage=stage or "shop", element=ident)
        yield Entry("In the shop", capital(names.of(ident)), str(kind), act=go)


def _show(desk: Desk, *, stage: str, element: str) -> None:
    desk.workspace.go(stage)
    desk.workspace.select(element)


def _problems(workspace: Workspace) -> Iterator[Entry]:
    for finding in workspace.known_findings:
        go = partial(_show, stage=finding.stage, element=finding.element)
        yield Entry("Problem", finding.message, finding.severity, act=go)


def _parts(workspace: Workspace) -> Iterator[Entry]:
    """What is to be bought; nothing as long as it is not counted yet."""
    if not workspace.project.runs:
        return
    display = Display(workspace.project.settings.units)
    for line in workspace.computed.bill.lines:
        key = line.part.key
        yield Entry("Part", part_words(key, display), line.part.group, act=partial(_part, key=key))


def _part(desk: Desk, *, key: str) -> None:
    desk.workspace.go("build")
    desk.workspace.choose_part(key)


def _pages() -> Iterator[Entry]:
    for page in reasons().values():
        read = partial(_read, ident=page.id)
        yield Entry("Page", page.title, page.group, act=read)
    for told in manual_pages().values():
        yield Entry("Page", told.title, "Manual", act=partial(_open, told.id))


def _read(desk: Desk, *, ident: str) -> None:
    desk.workspace.read(ident)


# -- the search


def ranked(found: list[Entry], text: str, most: int = MOST) -> list[Entry]:
    """The entries that a text may mean, the likeliest first; the commands for an empty text.

    What can be done now stands before what cannot.
    """
    typed = _words(text)
    if not typed:
        return [entry for entry in found if entry.kind == "Command" and entry.act][:most]
    scored = [(score, entry) for entry in found if (score := _score(entry, typed)) > 0]
    scored.sort(key=lambda pair: (-pair[0], pair[1].act is None, len(pair[1].title)))
    return [entry for _, entry in scored][:most]


# Asked of every entry at every key that is typed.
@lru_cache(maxsize=10_000)
def _words(text: str) -> tuple[str, ...]:
    return tuple(re.findall(r"[\w°µ]+", text.lower()))


def _score(entry: Entry, typed: tuple[str, ...]) -> float:
    title, others = _words(entry.title), _words(" ".join(entry.synonyms))
    detail = _words(entry.detail)
    total = 0.0
    for word in typed:
        worth = max(
            IN_TITLE * _begins(word, title),
            IN_SYNONYM * _begins(word, others),
            IN_DETAIL * _begins(word, detail),
            NEARLY * _nearly(word, title + others),
        )
        if worth <= 0:
            return 0.0
        total += worth
    # A whole title, or a whole synonym, is what is meant.
    if typed == title or typed in [_words(each) for each in entry.synonyms]:
        total += IN_TITLE * len(typed)
    return total / len(typed) + OF_KIND.get(entry.kind, 0.0)


def _begins(word: str, words: tuple[str, ...]) -> float:
    """1 for a word that is there, somewhat less for the beginning of one, 0 for none."""
    best = 0.0
    for known in words:
        if known.startswith(word):
            best = max(best, 1.0 if known in (word, f"{word}s") else 0.8)
    return best


def _nearly(word: str, words: tuple[str, ...]) -> float:
    """How alike a word is to the most alike of some; 0 for none that is alike."""
    if len(word) < LEAST_LETTERS:
        return 0.0
    alike = [_alike(word, known) for known in words if abs(len(known) - len(word)) < 3]
    best = max(alike, default=0.0)
    return best if best >= ALIKE else 0.0


@lru_cache(maxsize=100_000)
def _alike(word: str, known: str) -> float:
    """How alike two words are; 0 where their letters alone tell that they are not."""
    matcher = SequenceMatcher(None, word, known)
    return matcher.ratio() if matcher.quick_ratio() >= ALIKE else 0.0
