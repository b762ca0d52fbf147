"""What the command line says of one small shop: read through by hand once, and the same since.

Two machines, one collector, a day's work, two readings, four lines of a logbook. Where a sentence
or a rule is changed on purpose, `GREY_CURRENT_RENEW=1` writes the new answer down; the difference is
then to be read. What hangs on the catalogue's collectors is left out.
"""

import os
import re
from pathlib import Path

from grey_current import cli

SAVED = Path(__file__).with_name("saved") / "small"
SHOP = SAVED / "small.greycurrent.json"
SAID = SAVED / "said.txt"
ASKED = """
air; air --on planer; reach; check; gates; why planer; parts; assembly; cuts; phases; steps; day;
room; chores; separators; arrangements; sure; fit; faults; next-reading; monthly; forecast;
log list; reasons hose-long; compare
"""


def said(asked: str, capsys) -> str:
    command, *options = asked.split()
    arguments = [command, str(SHOP), *options]
    cli.main(arguments)
    told = capsys.readouterr()
    # Today is no part of the answer.
    return re.sub(r"now \(.*?\)", "now", told.out + told.err)


def test_what_is_said_of_a_small_shop(capsys):
    answers = [
        f"## {asked.strip()}\n{said(asked.strip(), capsys)}" for asked in ASKED.strip().split(";")
    ]
    text = "\n".join(answers)
    if os.environ.get("GREY_CURRENT_RENEW"):
        SAID.write_text(text, encoding="utf-8")
    assert text == SAID.read_text(encoding="utf-8")
