"""How the program speaks: no sentence of the banned kinds, figures in the shop's units read back."""

import ast
import re
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

import grey_current
from grey_current import cli
from grey_current.design.reasons.reasons import reasons
from grey_current.spelling import AMERICAN, spelled
from grey_current.units import (
    GALLON,
    Display,
    System,
    parse_surface,
    parse_temperature,
    parse_volume,
)
from grey_current.workspace.commands import COMMANDS, GROUPS

ROOT = Path(grey_current.__file__).parent.parent

BANNED = (
    r"\btake (it|this|that|them|the \w+) away\b",
    r"\bput (it|this|them) away\b",
    r"\b(closer|farther)\b",
    r"\blet go\b",
    r"\bput in\b",
    r"\bforget\b(?! to)",
    r"\btick as\b",
    r"\bWhich would do\b",
    r"\bmend first\b",
    r"\bIt rules\b",
    r"\bchokes\b",
    r"\bmust never be short\b",
    r"\bbegins the search anew\b",
    r"\bstumbles\b",
    r"\bheads meet\b",
    r"\bhangs on nothing\b",
    r"\bsucked on\b",
    r"\bof (the|its) doubt\b",
    r"\btells most\b",
    r"\bwants doing\b",
    r"\bThings of the building\b",
    r"\bsays nothing here\b",
)
"""Phrases that a native speaker has to read twice; what is said instead is plain from the others."""


def sentences() -> list[tuple[str, str]]:
    """Every text of the program that is no docstring, with where it stands."""
    found = []
    root = Path(grey_current.__file__).parent
    for path in sorted(root.rglob("*.py")):
        tree = ast.parse(path.read_text(encoding="utf-8"))
        docs = {id(node.value) for node in ast.walk(tree) if isinstance(node, ast.Expr)}
        found += [
            (node.value, f"{path.relative_to(root)}:{node.lineno}")
            for node in ast.walk(tree)
            if isinstance(node, ast.Constant)
            and isinstance(node.value, str)
            and id(node) not in docs
        ]
    return found


def test_the_answers_lead_to_what_is_there() -> None:
    """Every command of docs/answers.md exists, and every heading and field that it names is one."""
    commands = {name for group in cli.GROUPS for name in group.commands}
    sources = "".join(path.read_text() for path in (ROOT / "grey_current").rglob("*.py"))
    rows = [
        [cell.strip() for cell in line.strip("|").split("|")]
        for line in (ROOT / "docs/answers.md").read_text().splitlines()
        if line.startswith("|") and "---" not in line and not line.startswith("| you ask")
    ]
    assert len(rows) > 30
    missing = []
    for _, where, command in rows:
        assert command == "–" or command.strip("`") in commands, command
        for part in re.split(r"[;,]", where):
            words = part.partition(":")[0].rpartition(" ▸ ")[2].strip().removeprefix("the saw's ")
            if words[:1].isupper() and not words.startswith("F11") and f'"{words}' not in sources:
                missing.append((where, words))
    assert not missing
    asked = {each.title for each in reasons().values() if each.group == "What people ask"}
    assert asked <= {question for question, _, _ in rows} and len(asked) > 30


def test_no_sentence_has_a_foreign_accent() -> None:
    banned = re.compile("|".join(BANNED), re.IGNORECASE)
    odd = [f"{where}: {text}" for text, where in sentences() if " " in text and banned.search(text)]
    assert not odd, "\n".join(odd)


# Where a word of the table stands in a sentence: it goes through `spelled`, or is no sentence.
SPELLED = {
    "design/words.py",
    "design/parts/keys.py",
    "design/improve/part_changes.py",
    "desk/inspector/joint_page.py",
    "workspace/first_shop.py",
    "spelling.py",
    "cli_log.py",  # its option is called so
    "design/laying/next_machine.py",  # the catalogue's own names, shown localised
}


def test_words_that_are_spelled_in_two_ways_go_through_the_one_table() -> None:
    both = "|".join([*AMERICAN, *AMERICAN.values()])
    two_ways = re.compile(rf"\b({both})s?\b", re.IGNORECASE)
    odd = [
        f"{where}: {text}"
        for text, where in sentences()
        if (" " in text or text[:1].isupper())
        and two_ways.search(re.sub("grey.current|centre lines", "", text, flags=re.IGNORECASE))
        and where.partition(":")[0] not in SPELLED
        and not re.search(r"[{};\\]", text)
    ]
    assert not odd, "\n".join(odd)


@given(st.sampled_from(sorted(AMERICAN)), st.booleans(), st.booleans())
def test_a_word_keeps_its_capital_and_its_plural(word: str, capital: bool, many: bool) -> None:
    text = (word.capitalize() if capital else word) + "s" * many
    there = spelled(f"A {text}, by Grey Current.", "us")
    made = AMERICAN[word]
    assert there == f"A {made.capitalize() if capital else made}{'s' * many}, by Grey Current."
    assert spelled(there, "us") == there and spelled(text, "metric") == text


def test_menus_say_what_they_do() -> None:
    """Every command stands in a menu, no two of one menu are alike, and no key does two things."""
    assert len({command.id for command in COMMANDS}) == len(COMMANDS)
    assert {command.group.partition("/")[0] for command in COMMANDS} == set(GROUPS)
    titles = [(command.group, command.title) for command in COMMANDS]
    assert len(titles) == len(set(titles))
    keys = [key for command in COMMANDS for key in command.shortcut.split("; ") if key]
    assert len(keys) == len(set(keys))


@given(celsius=st.floats(-30, 50), system=st.sampled_from(["us", "metric"]))
def test_a_temperature_reads_back(celsius: float, system: System) -> None:
    assert parse_temperature(Display(system).temperature(celsius), system) == pytest.approx(
        celsius, abs=0.06
    )


@given(litres=st.floats(0, 5000), system=st.sampled_from(["us", "metric"]))
def test_a_volume_reads_back(litres: float, system: System) -> None:
    half = 0.5 * (GALLON if system == "us" else 1.0)
    assert parse_volume(Display(system).volume(litres), system) == pytest.approx(
        litres, abs=half + 1e-6
    )


@given(area=st.floats(0.05, 500), system=st.sampled_from(["us", "metric"]))
def test_an_area_reads_back(area: float, system: System) -> None:
    assert parse_surface(Display(system).surface(area), system) == pytest.approx(area, abs=0.051)


@pytest.mark.parametrize(
    ("text", "system", "celsius"),
    [
        ("70", "us", 21.1),
        ("70 °F", "metric", 21.1),
        ("21", "metric", 21),
        ("−5 C", "us", -5),
        ("32F", "us", 0),
    ],
)
def test_temperatures_as_people_write_them(text: str, system: System, celsius: float) -> None:
    assert parse_temperature(text, system) == pytest.approx(celsius, abs=0.05)
