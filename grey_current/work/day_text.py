"""A day as people jot it down, and back: "saw 20 min, jointer 15, planer 25 walnut, sand 40 after
saw".

A working place of a combination machine stands in brackets: "planer (thicknessing) 25".
"""

from __future__ import annotations

import contextlib
import difflib
import math
import re
from collections.abc import Sequence

from grey_current.errors import InputError
from grey_current.numerals import compact, decimal
from grey_current.shop.day_edits import A_CLICK
from grey_current.shop.machines import Machine
from grey_current.shop.model import Project
from grey_current.shop.work_plan import DayJob, Unread
from grey_current.spelling import spelled, spellings
from grey_current.units import GALLON, Display, System, parse_length, parse_number
from grey_current.work.day_usual import FILLERS, as_called, only_words, parts_of, usual_job
from grey_current.work.materials import HAND_SANDING, UNSAID, allowance, wood_by_word, wood_words

MOST_MINUTES = 720
# Letters of a day: sixty jobs, each with a name of the longest sort.
MOST_TEXT = 6000
# Work that no machine does and whose vapours no dust filter stops.
HAND = {
    "glue": "hand-glue",
    "gluing": "hand-glue",
    "glue up": "hand-glue",
    "glueing": "hand-glue",
    "finish": "hand-finish",
    "finishing": "hand-finish",
    "oil": "hand-finish",
    "varnish": "hand-finish",
    "lacquer": "hand-finish",
    "paint": "hand-finish",
}
# Work by hand that makes dust as a machine does.
SANDING = dict.fromkeys(
    ("hand sanding", "hand sand", "hand-sanding", "sanding by hand", "sand by hand", "sandpaper"),
    HAND_SANDING,
)
# And work, or rest, that leaves nothing in the air.
QUIET = {
    **dict.fromkeys(("lunch", "break", "coffee", "tea", "dinner"), "hand-break"),
    **dict.fromkeys(("assembly", "assemble", "assembling", "clamping", "layout"), "hand-assembly"),
}
HAND_NAMES = {
    "hand-glue": "Gluing",
    "hand-finish": "Finishing",
    HAND_SANDING: "Hand sanding",
    "hand-break": "Break",
    "hand-assembly": "Assembly",
}
TYPED = {
    "hand-glue": "glue",
    "hand-finish": "finish",
    HAND_SANDING: "hand sanding",
    "hand-break": "break",
    "hand-assembly": "assembly",
}
VAPOURS = frozenset(HAND.values())
# How alike a typed word and a wood are that one may have meant, and letters of a wood at least.
ALIKE, LEAST_WOOD = 0.66, 3
# And a typed word and a machine's, where nobody is asked before.
MEANT = 0.72
RULE = 'write it such as "saw 20 min, planer 25 walnut, sand 40 after saw"'
_JOB = re.compile(
    r"(?P<machine>.+?)\s+(?P<number>[-+−]?\d[\d.,]*(?:\s*½|\s*¼|\s*¾)?|½|¼|¾)\s*"
    r"(?P<unit>h|hr|hrs|hour|hours|m|min|mins|minute|minutes|')?\b\.?(?P<rest>.*)",
    re.IGNORECASE,
)
_BOARDS = re.compile(
    r"(?P<count>\d+)?\s*boards?\s+(?P<sides>[^,;]+?\s+x\s+[^,;]+?\s+x\s+[\d.,/]+(?:\s+\d+/\d+)?\s*(?:mm|cm|m|in|ft|\"|')?)(?=\s|$)",
    re.IGNORECASE,
)
MOST_LITRES = 5000
# Letters that a line which is not understood keeps.
MOST_LINE = 400
_TIME = re.compile(r"(\d+(?:[.,]\d+)?|[½¼¾])\s*(h|m)?")
_UNITS = frozenset(("h", "hr", "hrs", "hour", "hours", "m", "min", "mins", "minute", "minutes"))
_TABLE_SAW = re.compile(r"(table|cabinet|contractor|open-stand|site) saw", re.IGNORECASE)
_FRACTIONS = {"½": 0.5, "¼": 0.25, "¾": 0.75}


def parse_day(text: str, project: Project) -> tuple[DayJob, ...]:
    """The jobs of a day as typed. Raises `InputError` for what cannot be read, with what would
    do.
    """
    return _read(text, project, None)


def read_day(text: str, project: Project) -> tuple[tuple[DayJob, ...], tuple[Unread, ...]]:
    """The jobs of a day as typed, and the lines that are not understood. Raises `InputError` for a
    text that is too long, and as `parse_day` where nothing can be made of any of it.
    """
    unread: list[Unread] = []
    jobs = _read(text, project, unread)
    if not jobs and not any(guess(line.text, project) for line in unread):
        return parse_day(text, project), ()
    return jobs, tuple(unread)


def _read(text: str, project: Project, unread: list[Unread] | None) -> tuple[DayJob, ...]:
    """The jobs of a day; what is not understood goes to `unread`, or is raised without it."""
    if len(text) > MOST_TEXT:
        rule = f"a day is at most {decimal(MOST_TEXT)} letters long; write each job once, with its "
        rule += "minutes"
        raise InputError("the day", f"{decimal(len(text))} letters", rule)
    text = _with_signs(as_called(text, lambda words: _is_machine(words, project)), project)
    pieces = [piece.strip() for piece in re.split(r"[;\n]|,(?!\d)", text) if piece.strip()]
    if len(pieces) > 60:
        raise InputError("the day", f"{len(pieces)} jobs", "sixty are the most for one day")
    jobs: list[DayJob] = []
    for piece in pieces:
        # A wood that was set apart by a comma belongs to the job before it.
        woods = only_words(piece, wood_by_word) if jobs else []
        wood = wood_by_word(woods[-1]) if woods else None
        if wood is not None and not (unread and unread[-1].after_jobs == len(jobs)):
            jobs[-1] = jobs[-1].replaced(wood=wood.name)
            continue
        try:
            jobs += _jobs(piece, project, jobs)
        except InputError:
            if unread is None:
                raise
            line = _as_typed(piece, project)[:MOST_LINE]
            unread.append(Unread(text=line, after_jobs=len(jobs)))
    return tuple(jobs)


def why_unread(text: str, project: Project) -> str:
    """What is the matter with a line that is not understood; nothing where it is understood now,
    its machine having come.
    """
    try:
        parse_day(text, project)
    except InputError as problem:
        return problem.rule
    return ""


def guess(text: str, project: Project) -> DayJob | None:
    """The job that a line which is not understood most likely means; None without a likely one."""
    time = _TIME.search(text.lower())
    minutes = A_CLICK
    if time is not None:
        number = _FRACTIONS.get(time[1]) or parse_number(time[1])
        minutes = number * (60 if (time[2] or "").startswith("h") else 1)
    words = [w for w in re.findall(r"[a-z]+", text.lower()) if w not in FILLERS | _UNITS]
    found: dict[str, tuple[float, float]] = {}
    for machine in project.machines:
        alike = _likeness(words, spelled(f"{machine.name} {machine.kind}", "us"))
        found[machine.id] = alike, machine.uses_per_week
    for name, hand in (HAND | SANDING | QUIET).items():
        found[hand] = max(found.get(hand, (0.0, 0.0)), (_likeness(words, name), 0.0))
    best = max(found, key=lambda ident: found[ident])
    if found[best][0] < MEANT:
        return None
    named = spelled(job_name(project, best), "us").lower()
    rest = [word for word in words if _likeness([word], named) < ALIKE]
    woods = [difflib.get_close_matches(word, wood_words(), 1, ALIKE) for word in rest]
    wood = next((wood_by_word(near[0]) for near in woods if near), None)
    bounded = min(max(minutes, 1.0), float(MOST_MINUTES))
    return DayJob(machine=best, minutes=bounded, wood=wood.name if wood is not None else None)


def _likeness(words: Sequence[str], name: str) -> float:
    """How like a name (0 to 1) the word is that is most like a word of it; what is said first
    counts a little more.
    """
    names = re.findall(r"[a-z]{3,}", name.lower())
    likes = [
        difflib.SequenceMatcher(None, spelled(word, "us"), other).ratio() * (1 - number / 100)
        for number, word in enumerate(words)
        for other in names
    ]
    return max(likes, default=0.0)


def _jobs(piece: str, project: Project, before: list[DayJob]) -> list[DayJob]:
    """The jobs of a piece of a day: as the rule has it, or in one of the usual ways."""
    with contextlib.suppress(InputError):
        return [_usual(piece, project, before)]
    parts = parts_of(piece)
    if len(parts) < 2:
        # What is wrong is said of what was typed.
        return [_job(piece, project, before)]
    found: list[DayJob] = []
    for part in parts:
        found.append(_usual(part, project, [*before, *found]))
    return found


def _usual(part: str, project: Project, before: list[DayJob]) -> DayJob:
    """A job in a usual way. Raises what reading it by the rule raises where it is none."""
    try:
        return _job(part, project, before)
    except InputError:
        usual = usual_job(part, lambda words: _is_machine(words, project))
        if usual is None:
            raise
    return _job(usual, project, before)


def _is_machine(words: str, project: Project) -> bool:
    try:
        _machine(words, project, words)
    except InputError:
        return False
    return True


# First of the private signs that stand for machines by their number while a day is read.
SIGN = 0xE000


def _with_signs(text: str, project: Project) -> str:
    """The text with a sign in place of every machine's whole name, the longest first.

    A name may hold what else means something: "Planer 15 in", "Belt and disc sander", "Saw, small".
    """
    bare = "".join(" " if SIGN <= ord(letter) < SIGN + 0x1000 else letter for letter in text)
    for number, machine in sorted(enumerate(project.machines), key=lambda item: -len(item[1].name)):
        for spelling in spellings(machine.name):
            name = r"\s+".join(map(re.escape, spelling.split()))
            bare = re.sub(rf"(?<![\w-]){name}(?![\w-])", chr(SIGN + number), bare, flags=re.I)
    return bare


def _as_typed(text: str, project: Project) -> str:
    """The text with the machines' names again."""
    for number, machine in enumerate(project.machines):
        text = text.replace(chr(SIGN + number), machine.name.lower())
    return text


def _job(signed: str, project: Project, before: list[DayJob]) -> DayJob:
    bare, said = _working_place(signed)
    text, said = _as_typed(signed, project), _as_typed(said, project)
    found = _JOB.fullmatch(bare)
    if found is None:
        raise InputError("the day", text, RULE)
    machine = _machine(found["machine"], project, text)
    place = _place(said, project, machine, text)
    minutes = _minutes(found["number"], (found["unit"] or "min").lower(), text)
    litres, rest = _litres(found["rest"], text, project.settings.units)
    wood, after = _rest(rest, project, before, text, by_hand=machine in HAND_NAMES)
    return DayJob(
        machine=machine, place=place, minutes=minutes, wood=wood, after=after, litres=litres
    )


def _working_place(text: str) -> tuple[str, str]:
    """A job without what stands in brackets behind its machine, and that."""
    found = re.match(r"([^()\d]*[^()]*?)\(([^()]*)\)(.*)", text)
    if found is not None:
        return (f"{found[1].strip()} {found[3].strip()}", found[2].strip())
    return (text, "")


def _place(said: str, project: Project, machine: str, text: str) -> str | None:
    """The working place of a combination machine that some words mean. Raises `InputError` for none
    of its own.
    """
    if not said:
        return None
    item = project.machine.get(machine)
    places = (
        item.pickups if item is not None and item.one_at_a_time and len(item.pickups) > 1 else ()
    )
    name = job_name(project, machine).lower()
    if not places:
        raise InputError(
            "the day", text, f"the {name} has no working places that are used one at a time"
        )
    plain = said.lower()
    found = [p for p in places if plain in (p.name.lower(), p.id)]
    # The whole name first, then a part of it, where only one place has it.
    found = found or [p for p in places if plain in p.name.lower()]
    if len(found) != 1:
        raise InputError(
            "the day",
            text,
            f"working places of the {name} are: {', '.join(p.name for p in places)}",
        )
    return found[0].id


def _minutes(number: str, unit: str, text: str) -> float:
    whole, fraction = number.strip(), 0.0
    if whole[-1] in _FRACTIONS:
        whole, fraction = whole[:-1].strip(), _FRACTIONS[whole[-1]]
    try:
        value = (parse_number(whole) if whole else 0.0) + fraction
    except ValueError:
        raise InputError("the day", text, RULE) from None
    minutes = value * 60 if unit.startswith("h") else value
    if not 0 < minutes <= MOST_MINUTES:
        raise InputError(
            "the day", text, f"a job takes more than 0 and at most {MOST_MINUTES} minutes"
        )
    return minutes


def _litres(text: str, whole: str, system: System) -> tuple[float | None, str]:
    """The chips of a job where they are said, "40 l" or "6 boards 8 ft x 6 in x 1/8 in", and what
    else is said of it.

    The last size of the boards is what is taken off in all; chips lie loose. Raises `InputError`.
    """
    # Boards are planed away: count times three sides, loosened to chips.
    boards = _BOARDS.search(text)
    if boards is not None:
        sides = [
            parse_length(side, system, "the day")
            for side in re.split(r"\s+x\s+", boards["sides"].strip())
        ]
        litres = float(boards["count"] or 1) * math.prod(sides) * 1000 * allowance("bulking", "mid")
        return _bounded(litres, whole, system), text.replace(boards[0], " ")
    found = re.search(r"(\d[\d.,]*)\s*(l|litres?|liters?|gal|gallons?)\b", text, re.IGNORECASE)
    if found is None:
        return None, text
    try:
        litres = parse_number(found[1])
    except ValueError:
        raise InputError("the day", whole, RULE) from None
    litres *= GALLON if found[2].lower().startswith("g") else 1.0
    return _bounded(litres, whole, system), text.replace(found[0], " ")


def _bounded(litres: float, whole: str, system: System) -> float:
    if not litres <= MOST_LITRES:
        most = Display(system).volume(MOST_LITRES)
        raise InputError("the day", whole, f"at most {most} of chips come from one job")
    return round(litres, 2)


def _rest(
    text: str, project: Project, before: list[DayJob], whole: str, *, by_hand: bool = False
) -> tuple[str | None, tuple[int, ...]]:
    """What stands behind the minutes: a wood, and jobs that come before. What else is said of work
    `by_hand`, "finishing 30 oil", is no wood.
    """
    head, _, tail = re.sub(r"\bin\b|\bof\b", " ", text).partition("after ")
    wood = None
    # Names that one may type were put in place of what stands there: said as it was typed.
    head = _as_typed(head, project)
    odd = re.search(r"[^\s.A-Za-z-]+", head)
    if odd is not None:
        raise InputError("the day", whole, f"“{odd[0]}” isn't understood; {RULE}")
    for word in re.findall(r"[a-zA-Z]+", head):
        known = wood_by_word(word)
        if known is None and by_hand:
            continue
        if known is None:
            # A slip of the finger is asked about; any other wood is one that nobody knows.
            meant = difflib.get_close_matches(word.lower(), wood_words(), 1, ALIKE)
            if meant or len(word) < LEAST_WOOD:
                rule = f"“{word}” is no wood that is known here"
                asked = f"write {meant[0]}, if it was that" if meant else RULE
                raise InputError("the day", whole, f"{rule}; {asked}")
        wood = known.name if known is not None else wood or UNSAID
    after: list[int] = []
    for name in re.split(r"\band\b|\+", tail) if tail.strip() else []:
        machine = _machine(name.strip(), project, whole)
        numbers = [n for n, job in enumerate(before, 1) if job.machine == machine]
        if not numbers:
            raise InputError(
                "the day", whole, f"no job before it is at the {_as_typed(name.strip(), project)}"
            )
        after.append(numbers[-1])
    return wood, tuple(dict.fromkeys(after))


def _machine(words: str, project: Project, text: str) -> str:
    """The machine that some words mean: its name, else the only one whose name has a word with the
    same stem.
    """
    plain = words.strip().lower()
    # One sign stands for a machine whose name was found in the line before.
    if len(plain) == 1 and 0 <= ord(plain) - SIGN < len(project.machines):
        return project.machines[ord(plain) - SIGN].id
    words = _as_typed(words, project)
    plain = words.strip().lower()
    by_hand = HAND | SANDING | QUIET
    if plain in by_hand:
        return by_hand[plain]
    whole = [m.id for m in project.machines if plain in (m.name.lower(), m.id)]
    if whole:
        return whole[0]
    found = [m for m in project.machines if _means(plain, m)]
    # Of several saws "the saw" is the one with a table.
    first = [m for m in found if _TABLE_SAW.search(f"{m.name} {m.kind}")] if plain == "saw" else []
    found = first if len(first) == 1 else found
    if len(found) == 1:
        return found[0].id
    alike = {m.name.lower(): m.name for m in project.machines}
    meant = difflib.get_close_matches(plain, alike, 1, ALIKE)
    if meant and not found:
        rule = f"“{words.strip()}” is no one machine; write {alike[meant[0]]}, if you mean that"
        raise InputError("the day", text, rule)
    names = ", ".join(m.name for m in (found or project.machines)) or "none"
    which = "it may be" if found else "machines of this shop are"
    raise InputError("the day", text, f"“{words.strip()}” is no one machine; {which}: {names}")


def _means(words: str, machine: Machine) -> bool:
    """Whether every typed word has a word of the machine's name with the same stem: "sand" and
    "sander".
    """
    # "mitre" means a miter saw.
    words = spelled(words, "us")
    names = re.findall(r"[a-z0-9]+", spelled(f"{machine.name} {machine.kind}", "us").lower())
    return all(
        any(_same_stem(word, name) for name in names) for word in re.findall(r"[a-z0-9]+", words)
    )


def _same_stem(a: str, b: str) -> bool:
    stems = [re.sub(r"(ing|er|e|s)$", "", word) or word for word in (a, b)]
    return len(stems[0]) >= 3 and stems[0] == stems[1]


def job_name(project: Project, machine: str, place: str | None = None) -> str:
    """What a job is called: its machine, with its working place where one is named, or the work by
    hand.
    """
    found = project.machine.get(machine)
    if found is None:
        return HAND_NAMES.get(machine, f"{machine} (no longer there)")
    pickup = next((p for p in found.pickups if p.id == place), None)
    return found.name if pickup is None else f"{found.name} ({pickup.name.lower()})"


def day_words(project: Project, day: tuple[DayJob, ...], unread: tuple[Unread, ...] = ()) -> str:
    """A day as it would be typed, with the lines of it that are not understood in their places."""
    said: list[str] = []
    for number in range(len(day) + 1):
        last = number == len(day)
        said += [
            line.text
            for line in unread
            if line.after_jobs == number or (last and line.after_jobs > number)
        ]
        said += [] if last else [_job_words(project, day, day[number])]
    return ", ".join(said)


def _volume(litres: float, system: System) -> str:
    """A volume as one would type it: in gallons with as few digits as tell the same litres."""
    if system != "us":
        return f"{compact(litres)} l"
    tried = [round(litres / GALLON, digits) for digits in range(5)]
    told = next((each for each in tried if round(each * GALLON, 2) == litres), tried[-1])
    return f"{compact(told)} gal"


def day_example(project: Project) -> str:
    """How a day in this shop could be jotted down: its two machines that are used most."""
    often = sorted(project.machines, key=lambda machine: -machine.uses_per_week)[:2]
    times = ("20", "25 walnut")
    return ", ".join(
        f"{machine.name.lower()} {time}" for machine, time in zip(often, times, strict=False)
    )


def _job_words(project: Project, day: tuple[DayJob, ...], job: DayJob) -> str:
    names = [_typed(project, day[n - 1].machine, None) for n in job.after]
    after = f" after {' and '.join(names)}" if names else ""
    litres = f" {_volume(job.litres, project.settings.units)}" if job.litres is not None else ""
    wood = f" {job.wood.replace('birch-plywood', 'plywood')}" if job.wood else ""
    return (
        f"{_typed(project, job.machine, job.place)} {compact(job.minutes)} min{litres}{wood}{after}"
    )


def _typed(project: Project, machine: str, place: str | None) -> str:
    if machine in project.machine:
        return job_name(project, machine, place).lower()
    return TYPED.get(machine, machine)
