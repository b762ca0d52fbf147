"""What the command line says of one small shop: read through by hand once, and the same since.

Two machines, one collector, a day's work, two readings, four lines of a logbook. Where a sentence
or a rule is changed on purpose, `GREY_CURRENT_RENEW=1` writes the new answer down; the difference is
then to be read. What hangs on the catalogue's collectors is left out.
"""

import re
from pathlib import Path

import pytest

from grey_current import cli
from grey_current.files import project_file
from grey_current.shop.edits import with_settings
from tests.core.kept import same_as_kept

SAVED = Path(__file__).with_name("saved") / "small"
SHOP = SAVED / "small.greycurrent.json"
ASKED = """
air; air --on planer; reach; check; gates; why planer; parts; assembly; cuts; phases; steps; day;
room; chores; separators; arrangements; sure; fit; faults; next-reading; monthly; forecast;
log list; reasons hose-long; compare
"""

# Figures in units of the other system; dust is weighed in milligrams everywhere.
METRIC = re.compile(r"\d (?:mm|cm|m|m³/h|m²|m³|Pa|l|kg|m/s|°C|W)\b")
US = re.compile(r"\d (?:CFM|inH2O|gal|ft|fpm|lb|sq ft|sq in|°F)\b|\d['\"]")


def said(shop: Path, asked: str, capsys) -> str:
    command, *options = asked.split()
    arguments = [command, str(shop), *options]
    cli.main(arguments)
    told = capsys.readouterr()
    # Today is no part of the answer.
    return re.sub(r"now \(.*?\)", "now", told.out + told.err)


def all_said(shop: Path, capsys) -> str:
    return "\n".join(
        f"## {asked.strip()}\n{said(shop, asked.strip(), capsys)}"
        for asked in ASKED.strip().split(";")
    )


def test_what_is_said_of_a_small_shop(capsys):
    text = all_said(SHOP, capsys)
    assert not METRIC.findall(text)
    same_as_kept(text, SAVED / "said.txt")


@pytest.mark.sweep
def test_a_metric_shop_is_told_nothing_in_feet(capsys, tmp_path):
    project = project_file.load(SHOP)
    project_file.save(with_settings(project, units="metric"), tmp_path / "metric.json")
    assert not US.findall(all_said(tmp_path / "metric.json", capsys))
