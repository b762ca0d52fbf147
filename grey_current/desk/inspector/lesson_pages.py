"""The page of a practice lesson: what it is about, one thing to do after another, and what one
would do at home.
"""

from __future__ import annotations

from functools import partial

from grey_current.desk.inspector.fields import ActionField, Fact, Item, Page, Picture, Section
from grey_current.keep.causes import fault_kinds, fault_words
from grey_current.keep.lessons import Lesson, lesson_of, lesson_step, lessons, read_in_lesson
from grey_current.keep.pictures import picture_of
from grey_current.keep.practice import looked, measured, mended
from grey_current.keep.reading_words import figure, place_words
from grey_current.shop.model import Project
from grey_current.shop.names import Names, capital, lower_first
from grey_current.units import Display
from grey_current.workspace.workspace import Workspace


def lesson_page(workspace: Workspace) -> Page | None:
    """The page of the lesson that is open; None where none is."""
    project = workspace.project
    lesson = lesson_of(project)
    if lesson is None:
        return None
    head = (Picture(picture_of(lesson.picture), lesson.title), Fact("", lesson.learn, prose=True))
    items = (*_what_was_read(project, lesson), *_what_was_found(project), *_next(workspace, lesson))
    return Page(
        f"Lesson {lesson.number} of {len(lessons())}: {lower_first(lesson.title)}",
        "A made-up shop; nothing here can be spoiled.",
        (
            Section("What it is about", head, open_first=True),
            Section("Try it", items, open_first=True),
        ),
        (),
        problems=False,
    )


def _what_was_read(project: Project, lesson: Lesson) -> list[Item]:
    """Each reading that was taken: the figure, what it was when all was well, what that means."""
    display, names = Display(project.settings.units), Names(project)
    items: list[Item] = []
    for reading in lesson.readings:
        pair = read_in_lesson(project, reading)
        if pair is None:
            continue
        well, now = (figure(display, reading.kind, value) for value in pair)
        words = place_words(names, *reading.spec)
        items.append(Fact("", f"{words}: {now}; when all was well {well}."))
        items.append(Fact("", reading.means, prose=True))
    return items


def _what_was_found(project: Project) -> list[Item]:
    """Each fault that was looked for and found, and whether it is mended."""
    practice, names = project.keep.practice, Names(project)
    kinds = fault_kinds().by_name
    items: list[Item] = []
    for act in practice.acts if practice is not None else ():
        if act.kind == "mended" and act.what in kinds:
            words = fault_words(project, kinds[act.what], act.place)
            items.append(Fact(capital(names.of(act.place)), f"{words}: mended", "good"))
    return items


def _next(workspace: Workspace, lesson: Lesson) -> list[Item]:
    """The one thing to do next, or what one would do at home."""
    project, names = workspace.project, workspace.computed.names
    step = lesson_step(project)
    kinds = fault_kinds().by_name
    if step.todo == "over":
        return _over(workspace, lesson)
    if step.reading is not None:
        reading = step.reading
        words = place_words(names, *reading.spec)
        return [
            ActionField(
                "lesson/measure",
                "Hold the instrument there",
                "Measure",
                edit=lambda p: measured(p, reading.spec),
                detail=words,
                primary=True,
            )
        ]
    kind, fault, place = kinds[step.fault], step.fault, step.place
    if step.todo == "look":
        return [
            Fact("", kind.look, prose=True),
            ActionField(
                "lesson/look",
                f"Look at {names.of(place)}",
                "Look",
                edit=lambda p: looked(p, fault, place),
                primary=True,
            ),
        ]
    return [
        Fact(capital(names.of(place)), fault_words(project, kind, place), "starved"),
        Fact("", kind.mend, prose=True),
        ActionField(
            "lesson/mend", "Mend it", "Mend", edit=lambda p: mended(p, fault, place), primary=True
        ),
    ]


def _over(workspace: Workspace, lesson: Lesson) -> list[Item]:
    last = lesson.number == len(lessons())
    items: list[Item] = [Fact("At home", lesson.home, prose=True)]
    if not last:
        following = lessons()[lesson.number]
        items.append(
            ActionField(
                "lesson/next",
                f"Next lesson: {lower_first(following.title)}",
                "",
                act=partial(workspace.begin_lesson, following.number),
                primary=True,
            )
        )
    else:
        items.append(Fact("", "Now the free shops: Tools, Fault-finding practice.", prose=True))
    return items
