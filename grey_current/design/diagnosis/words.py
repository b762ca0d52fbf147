"""Causes in words: what it is, what would put it right, what that brings and what it costs."""

from __future__ import annotations

from grey_current.design.diagnosis.cause import Cause, Cure
from grey_current.design.diagnosis.diagnose import Diagnosis
from grey_current.design.words import how_many_get
from grey_current.numerals import decimal
from grey_current.shop.model import Project
from grey_current.units import Display

# From which share of what lacks on, still lacking, a cure is not enough.
NOT_ENOUGH = 0.5
# From which share of what all causes hold the first is almost certainly the one, or probably.
ALMOST_CERTAIN, PROBABLE = 0.75, 0.5


def cause_sentence(cause: Cause) -> str:
    """What the cause is, as a sentence."""
    return f"{cause.suspect.says}."


def brings_words(project: Project, diagnosis: Diagnosis, cure: Cure) -> str:
    """What a cure brings: machines that then get their air, else airflow, else chips; and whether
    most of what lacks is still lacking then.

    "7 of 8 machines get enough air, 0 now" · "+62 CFM at the planer" · "chips are
    carried better" · "+2 CFM where it is short, not enough".
    """
    brings = _brings(project, diagnosis, cure)
    return f"{brings}, not enough" if _is_not_enough(cure) else brings


def _is_not_enough(cure: Cure) -> bool:
    return cure.left is not None and cure.left > NOT_ENOUGH


def _brings(project: Project, diagnosis: Diagnosis, cure: Cure) -> str:
    display = Display(project.settings.units)
    machine = diagnosis.machine
    if machine is None and cure.met_after > cure.met_before:
        then = f"{how_many_get(cure.met_after, cure.machines)} enough air"
        return f"{then}, {cure.met_before} now" if cure.machines > 1 else f"{then} then"
    gain = cure.gain if machine is not None else cure.gain / max(cure.machines, 1)
    if gain > 0 and display.airflow(gain, unit=False) != "0":
        if machine is not None:
            return f"+{display.airflow(gain)} at the {project.machine[machine].name.lower()}"
        if cure.machines == 1:
            return f"+{display.airflow(gain)}"
        if display.airflow(max(cure.towards, 0.0), unit=False) != "0":
            return f"+{display.airflow(cure.towards)} where it is short"
        return f"+{display.airflow(gain)} a machine on average"
    return "chips are carried better"


def cost_words(project: Project, cure: Cure) -> str:
    """What is to be bought for a cure: "about 160 USD", "nothing to buy"; empty where no price is
    known.
    """
    money = cure.money
    if money is None or (not money.money and not money.known):
        return ""
    if not money.money:
        return "nothing to buy"
    about = "about " if money.by_usual else ""
    more = "" if money.known else " and more without a price"
    return f"{about}{decimal(money.money)} {project.build.currency}{more}"


def worse_words(cure: Cure, *, brief: bool = False) -> str:
    """What a cure makes worse: the worst in words and how much more there is; empty for nothing.

    In brief it does not say where: neither of what gets worse nor of what that does.
    """
    if not cure.costs:
        return ""
    more = f", and {len(cure.costs) - 1} more" if cure.costs[1:] else ""
    return f"but {_without_place(cure.costs[0]) if brief else cure.costs[0]}{more}"


def _without_place(worse: str) -> str:
    """Return "the elbow then is not sold" of "the elbow in the main then is not sold"."""
    what, then, does = worse.partition(" then ")
    return f"{what.partition(' in the ')[0]}{then}{does.partition(' in the ')[0]}"


def cure_words(project: Project, diagnosis: Diagnosis, cause: Cause) -> str:
    """What would put a cause right, with what it brings and costs, in one line."""
    if cause.cure is None:
        return cause.suspect.instead or "No single change puts it right: draw that part anew."
    cure = cause.cure
    facts = (brings_words(project, diagnosis, cure), cost_words(project, cure), worse_words(cure))
    return f"{cure.change.words}: {'; '.join(fact for fact in facts if fact)}."


def root_words(project: Project, diagnosis: Diagnosis) -> str:
    """The root cause with what putting it right brings, for the sentence at the top; empty without
    one.
    """
    cause = diagnosis.root
    if cause is None:
        return ""
    if cause.cure is None:
        return cause_sentence(cause)
    facts = (brings_words(project, diagnosis, cause.cure), cost_words(project, cause.cure))
    return f"{cause_sentence(cause)} Put right: {', '.join(fact for fact in facts if fact)}."


def sure_words(cause: Cause) -> str:
    """How sure it is that this is the one to mend, beside the others that were found; a cure that
    is not enough makes it one of several. Nothing where there is nothing to mend.
    """
    if cause.cure is not None and _is_not_enough(cause.cure):
        return "One of several, or the whole asks for too much"
    if cause.cure is not None and cause.cure.left is None and not cause.explains:
        return ""
    if cause.sure >= ALMOST_CERTAIN:
        return "Almost certainly the main cause"
    if cause.sure >= PROBABLE:
        return "Probably the main cause"
    return f"One of several: it holds {cause.sure:.0%} of what they take"


def explains_words(cause: Cause) -> str:
    """How many problems a cause is behind; empty for none."""
    count = len(cause.explains)
    if not count:
        return ""
    return "Explains 1 problem" if count == 1 else f"Explains {count} problems"
