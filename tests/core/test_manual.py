"""The manual: every page there and short, its pictures and names true, a page for every problem."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

from grey_current.design.findings.finding import STAGE_OF
from grey_current.workspace.commands import COMMANDS
from grey_current.workspace.manual import (
    ABOUT,
    NEWS,
    OF_FACE,
    OF_STAGE,
    ORDER,
    manual_folder,
    manual_pages,
    page_about,
    page_here,
)
from grey_current.workspace.stages import STAGES
from grey_current.workspace.workspace import Workspace
from tests.core.shops import demo

ROOT = Path(__file__).parents[2]
MOST_WORDS = 230


def test_every_page_is_there_short_and_shows_what_it_says():
    assert {path.stem for path in manual_folder().glob("*.md")} == {*ORDER, NEWS}
    assert (ROOT / "docs" / "manual" / "floor.md").read_text() == manual_pages()["floor"].text
    shown = set()
    for page in manual_pages().values():
        assert page.text.startswith(f"# {page.title}\n")
        assert len(page.text.split()) <= MOST_WORDS or page.id == NEWS
        pictures = re.findall(r"!\[(.+?)\]\((.+?)\)", page.text)
        assert all(words and (manual_folder() / path).exists() for words, path in pictures)
        shown |= {path for _, path in pictures}
    kept = {f"pictures/{path.name}" for path in (manual_folder() / "pictures").iterdir()}
    assert kept == shown and len(shown) >= 15


def test_what_the_manual_names_is_on_screen():
    """Every name with a way to it, and every key, is one of the program's."""
    sources = "".join(path.read_text() for path in (ROOT / "grey_current").rglob("*.py"))
    keys = {part.strip() for c in COMMANDS for part in c.shortcut.split(";")}
    missing = []
    for page in (page for page in manual_pages().values() if page.id != NEWS):
        for name in re.findall(r"\*\*([A-Z][^*\n]* ▸ [^*\n]+)\*\*", page.text):
            last = name.split(" ▸ ")[-1].rstrip(".?")
            found = f'/{last}"' in sources or any(
                f'"{last}{end}' in sources for end in ('"', '?"', '…"', ", ", ':"')
            )
            missing += [] if found else [(page.id, name)]
        for key in re.findall(r"Ctrl\+(?:Shift\+)?[A-Z,]", page.text):
            missing += [] if key in keys else [(page.id, key)]
    assert not missing


@pytest.mark.parametrize("code", STAGE_OF)
def test_every_problem_has_a_page(code):
    assert page_about(code) in manual_pages()


def test_the_page_is_about_what_is_looked_at():
    assert set(OF_STAGE) == {entry.name for entry in STAGES} and set(ABOUT) <= set(STAGE_OF)
    workspace = Workspace(demo())
    for stage, page in OF_STAGE.items():
        workspace.go(stage)
        assert page_here(workspace) == page
    workspace.go("build")
    for face, page in OF_FACE.items():
        workspace.face = face  # type: ignore[assignment]
        assert page_here(workspace) == page
    workspace.go("air")
    for chosen, page in (("planer-hose", "hoses"), ("main-3", "drawing-ducts"), ("planer", "air")):
        workspace.select(chosen)
        assert page_here(workspace) == page
    workspace.select(None)
    workspace.read("no-gates")
    assert page_here(workspace) == "reasons"
    workspace.read(None)
    workspace.begin_guide()
    assert page_here(workspace) == "first-shop"
