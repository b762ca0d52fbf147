"""The commands to practise: a shop with hidden faults, and the stand-ins for instruments that
others may ask.
"""

from __future__ import annotations

import argparse
import datetime
import json
import shlex
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from grey_current import terminal
from grey_current.air import compiled
from grey_current.cli_files import file_name, save_project
from grey_current.cli_keep import FINE
from grey_current.design.flow.assess import assess
from grey_current.errors import GreyCurrentError, InputError
from grey_current.files import practice_report, project_file
from grey_current.keep.debrief import debrief
from grey_current.keep.fit import ReadingSpec
from grey_current.keep.guessing import ROUNDS, Answer, answered, misses_words, questions
from grey_current.keep.lessons import lesson_of, lesson_shop, lessons
from grey_current.keep.practice import (
    LEVELS,
    MEASURE_MINUTES,
    begun,
    done,
    looked,
    measured,
    mended,
    world_of,
)
from grey_current.keep.reading_words import place_words
from grey_current.shop.demo_shops import demo_path
from grey_current.shop.model import Project
from grey_current.shop.names import Names, lower_first
from grey_current.standins.instruments import INSTRUMENTS, StandIn
from grey_current.standins.line import LineServer
from grey_current.units import Display, parse_airflow

SHOPS = ("loft", "allotment")
LONGEST_TYPED = 300
EXAMPLES = """\
  grey-current practise --lesson 1                        a short lesson: read a gauge
  grey-current practise --seed 7 --level 2                a hidden fault: measure, look, mend
  grey-current guess loft.greycurrent.json                guess what changes give, and see why
  grey-current standin gauge --port 7431  a simulated gauge, for 'log add --from'"""


def add_practice(commands: Any) -> None:
    """Add the commands to practise."""
    practise = commands.add_parser(
        "practise", help="a shop with hidden faults: find them with stand-in instruments"
    )
    _which(practise)
    practise.add_argument(
        "--lesson", type=_whole, metavar="N", help=f"a short lesson instead, 1 to {len(lessons())}"
    )
    practise.add_argument(
        "-o", "--output", type=file_name, metavar="FILE", help="only write the shop, to be opened"
    )
    practise.add_argument(
        "--json", action="store_true", help="the truth and the program's own way as JSON"
    )
    practise.set_defaults(command=_practise)
    guess = commands.add_parser(
        "guess", help="guess what changes of a shop give, before it is computed"
    )
    guess.add_argument("file", type=Path, metavar="FILE", help="a project file")
    guess.add_argument("--seed", type=_whole, default=1, metavar="N", help="which questions")
    guess.set_defaults(command=_guess)
    standin = commands.add_parser(
        "standin", help="a simulated instrument that is asked by lines on a local port"
    )
    standin.add_argument(
        "kind", choices=list(INSTRUMENTS), metavar="KIND", help=", ".join(INSTRUMENTS)
    )
    standin.add_argument(
        "--port", type=_port, default=0, metavar="PORT", help="where it listens (usual: a free one)"
    )
    standin.add_argument(
        "--file", type=Path, metavar="FILE", help="the shop that it is held in (usual: a demo shop)"
    )
    _which(standin)
    standin.set_defaults(command=_standin)


def _which(parser: argparse.ArgumentParser) -> None:
    parser.add_argument(
        "--seed", type=_whole, default=1, metavar="N", help="which practice (0 to 999999)"
    )
    levels = "; ".join(f"{n}: {words}" for n, words in LEVELS.items())
    parser.add_argument("--level", type=_whole, default=1, metavar="L", help=levels)
    parser.add_argument(
        "--shop", choices=SHOPS, default="loft", metavar="SHOP", help=" or ".join(SHOPS)
    )


def _whole(text: str) -> int:
    if not text.isdecimal():
        raise argparse.ArgumentTypeError(f"{text!r} is no whole number")
    return int(text)


def _port(text: str) -> int:
    if not text.isdecimal() or not 1 <= int(text) <= 65_535:
        raise argparse.ArgumentTypeError(
            f"{text!r} is no port; choose one from 1 to 65535, or leave it out"
        )
    return int(text)


def _begun(options: argparse.Namespace) -> Project:
    shop = project_file.load(demo_path(options.shop))
    return begun(shop, options.seed, options.level, datetime.date.today())


def _practise(options: argparse.Namespace) -> int:
    compiled.load()
    if options.lesson is None:
        project = _begun(options)
    else:
        loft = project_file.load(demo_path("loft"))
        project = lesson_shop(loft, options.lesson, datetime.date.today())
    if options.output is not None:
        print("\n".join(save_project(project, options.output)))
        return FINE
    if options.json:
        report = practice_report.practice_report(project, debrief(project))
        print(json.dumps(report, indent=1, allow_nan=False))
        return FINE
    lesson = lesson_of(project)
    print(practice_report.begun_text(project) if lesson is None else lesson_text(project))
    for line in _typed():
        try:
            words = shlex.split(line)
            if words and words[0].lower() in ("done", "quit", "exit"):
                break
            project = _acted(project, words)
        except ValueError:
            print("A quotation mark is not closed.")
        except GreyCurrentError as problem:
            print(problem)
    if lesson is not None:
        print(f"At home: {lesson.home}")
        return FINE
    project = done(project)
    print(practice_report.debrief_text(project, debrief(project)))
    return FINE


def lesson_text(project: Project) -> str:
    """What a lesson is about, and what to type, line by line. Raises `InputError`."""
    lesson, names = lesson_of(project), Names(project)
    if lesson is None:
        raise InputError("lesson", project.name, "begin one with practise --lesson")
    lines = [f"Lesson {lesson.number}: {lower_first(lesson.title)}", lesson.learn, "Type:"]
    for reading in lesson.readings:
        said = place_words(names, *reading.spec)
        lines.append(f'  measure "{reading.kind}" {reading.machine} {reading.place}    {said}')
        lines.append(f"      {reading.means}")
    for fault, place, _ in lesson.faults:
        lines += [f'  look "{fault}" {place}', f'  mend "{fault}" {place}']
    return "\n".join([*lines, "  done"])


def _typed() -> Iterator[str]:
    """The lines that are typed, each after all that was said before it; overlong ones in pieces."""
    terminal.now()
    while line := sys.stdin.readline(LONGEST_TYPED):
        yield line
        terminal.now()


def _acted(project: Project, words: list[str]) -> Project:
    """The shop after a line that was typed; what came of it is printed. Raises `InputError`."""
    if not words:
        return project
    verb, rest = words[0].lower(), words[1:]
    if verb == "measure" and len(rest) == 3:
        project = measured(project, _asked(rest))
    elif verb in ("look", "mend") and 1 <= len(rest) <= 2:
        act = looked if verb == "look" else mended
        project = act(project, rest[0], rest[1] if len(rest) == 2 else "")
    else:
        raise InputError(
            "practice", " ".join(words), 'say measure, look or mend with what and where, or "done"'
        )
    practice = project.keep.practice
    if practice is not None:
        print(
            practice_report.act_words(project, practice.acts[-1]),
            practice_report.minutes_words(project),
        )
    return project


def _asked(words: list[str]) -> ReadingSpec:
    kind = next((known for known in MEASURE_MINUTES if known == words[0].lower()), None)
    if kind is None:
        raise InputError("measure", words[0], f"measure one of: {', '.join(MEASURE_MINUTES)}")
    return kind, words[1], words[2]


def _guess(options: argparse.Namespace) -> int:
    compiled.load()
    project = project_file.load(options.file)
    now, display, names = assess(project), Display(project.settings.units), Names(project)
    asked, answers = questions(now, options.seed), list[Answer]()
    question, after = next(asked)
    lines = _typed()
    while len(answers) < ROUNDS:
        print(
            f"{question.words}. Now {display.airflow(question.before)} go in at "
            f"{names.of(question.pickup)}; then?"
        )
        text = next(lines, "").strip()
        if not text:
            break
        try:
            guess = parse_airflow(text, project.settings.units, "your guess")
            answer = answered(now, question, after, guess)
        except InputError as problem:
            print(problem)
            continue
        answers.append(answer)
        print(
            f"{display.airflow(answer.after)}: {answer.words}, off by {answer.miss:.0%}.",
            *answer.why,
            sep="\n  ",
        )
        question, after = next(asked)
    print(misses_words(answers))
    return FINE


def _standin(options: argparse.Namespace) -> int:
    compiled.load()
    if options.file is not None:
        shop = project_file.load(options.file)
    else:
        shop = project_file.load(demo_path(options.shop))
    world = world_of(shop, options.seed, options.level)
    server = LineServer(StandIn(INSTRUMENTS[options.kind], world, options.seed), options.port)
    print(f"A simulated {options.kind} listens at {server.address}; Ctrl+C ends it")
    terminal.now()
    with server:
        server.serve_forever()
    return FINE
