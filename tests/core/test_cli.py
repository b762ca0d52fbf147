"""The command line, and the JSON report recomputed by a program of its own that knows `fluids`
only."""

import json
import math
import os
import re
import subprocess
import sys
from collections import defaultdict
from pathlib import Path

import fluids
import numpy as np
import pytest

from grey_current import cli, cli_design
from grey_current.files import project_file
from grey_current.shop import edits
from grey_current.shop.demo_shops import demo_path
from grey_current.shop.kept_designs import kept
from grey_current.workspace.stages import STAGES
from tests.core.bad_files import write_bad_files
from tests.core.crane import crane_branch
from tests.core.shops import demo

LOFT = str(demo_path("loft"))
SHED = str(demo_path("allotment"))


def output(capsys, *arguments, status=0):
    assert cli.main(list(arguments)) == status
    return capsys.readouterr()


def loss_of(piece, air):
    """A piece's loss from its own description, with `fluids` and textbook formulas only."""
    rho, flow = air["density_kg_m3"], piece["airflow_m3_s"]
    area = math.pi / 4 * piece["diameter_m"] ** 2
    kind = piece["kind"]
    if "curve" in piece:
        points = np.array(piece["curve"])
        return -float(np.interp(flow, points[:, 0], points[:, 1]))
    if "resistance_pa_s_m3" in piece:
        return piece["resistance_pa_s_m3"] * flow
    if "resistance_pa_s2_m6" in piece:
        return piece["resistance_pa_s2_m6"] * flow * abs(flow)
    if kind in ("duct", "hose"):
        reynolds = rho * abs(flow) / area * piece["diameter_m"] / air["viscosity_pa_s"]
        if 1900 < reynolds < 4100:
            return piece["total_pressure_loss_pa"]
        f = fluids.friction_factor(Re=reynolds, eD=piece["roughness_m"] / piece["diameter_m"])
        k = f * piece["length_m"] / piece["diameter_m"]
    elif kind in ("wye_branch", "wye_main"):
        combined = piece["combined_diameter_m"]
        whole = piece["combined_airflow"]
        branch = piece["diameter_m"] if kind == "wye_branch" else piece["other_diameter_m"]
        share = flow / whole if kind == "wye_branch" else 1 - flow / whole
        if kind == "wye_branch":
            k = crane_branch(combined, branch, share, piece["angle_deg"])
        else:
            k = fluids.fittings.K_run_converging_Crane(
                combined, branch, 1 - share, share, piece["angle_deg"]
            )
        return k * rho / 2 * (whole / (math.pi / 4 * combined**2)) ** 2
    else:
        k = expected_k(piece, kind)
        if piece["coefficient_on"] == "free_area_m2":
            area = piece["free_area_m2"]
    return k * rho / 2 * (flow / area) * abs(flow / area)


def expected_k(piece, kind):
    f = piece.get("friction_factor")
    assert piece.get("radius_ratio", 2.0) == {"elbow": 1.5}.get(
        kind, 2.0
    )  # as bought; a drooping hose's are 2
    if kind == "elbow":
        gores = {"smooth": 1.0, "five gores": 1.1, "three gores": 1.4}[piece["construction"]]
        return gores * fluids.fittings.bend_rounded(
            Di=piece["diameter_m"],
            angle=piece["angle_deg"],
            fd=f,
            bend_diameters=piece["radius_ratio"],
        )
    small, large = piece.get("diameter_small_m"), piece.get("diameter_large_m")
    if kind == "expansion":
        return fluids.fittings.diffuser_conical(
            Di1=small, Di2=large, angle=piece["angle_deg"], fd=f
        )
    if kind == "contraction":
        return fluids.fittings.contraction_conical(
            Di1=large, Di2=small, angle=piece["angle_deg"], fd=f
        )
    if kind == "leak":
        return 1 / (0.62 * piece["leak_share"]) ** 2
    if kind in ("intake", "return_opening"):
        return 1 / 0.62**2
    if kind == "entry":
        return {"flanged": 0.49, "tapered": 0.20, "plain": 0.92}[piece["construction"]]
    if kind == "gate":
        return {"stepped": 0.35, "full bore": 0.10}[piece["construction"]]
    assert piece.get("allowance"), f"{kind} has no formula and is no allowance"
    return piece["loss_coefficient"]


@pytest.mark.parametrize(("file", "runs"), [(LOFT, []), (LOFT, ["saw", "planer"]), (SHED, [])])
def test_an_independent_program_can_recompute_the_report(file, runs, capsys):
    out = output(capsys, "air", file, "--json", *(x for r in runs for x in ("--run", r))).out
    report = json.loads(out, parse_constant=lambda name: pytest.fail(f"{name} in the report"))
    assert report["format"] == "grey-current/air/1"
    assert len(report["uses"]) == (1 if runs else (9 if file == LOFT else 5))
    for scenario in report["uses"]:
        assert scenario["converged"]
        pressure = {node["id"]: node["total_pressure_pa"] for node in scenario["nodes"]}
        balance: dict[str, float] = defaultdict(float)
        leaving = {}
        for piece in scenario["pieces"]:
            balance[piece["from"]] -= piece["airflow_m3_s"]
            balance[piece["to"]] += piece["airflow_m3_s"]
            leaving[piece["from"]] = piece["airflow_m3_s"]
        for piece in scenario["pieces"]:
            piece["combined_airflow"] = leaving.get(piece["to"])
            fall = pressure[piece["from"]] - pressure[piece["to"]]
            assert fall == pytest.approx(piece["total_pressure_loss_pa"], abs=1e-3)
            assert loss_of(piece, report["air"]) == pytest.approx(
                piece["total_pressure_loss_pa"], rel=6e-3, abs=0.5
            ), piece
        assert all(abs(sum_) < 1e-9 for sum_ in balance.values())
        for pickup in scenario["pickups"]:
            assert pickup["met"] == (pickup["airflow_m3_s"] >= 0.995 * pickup["need_m3_s"])


def test_air_in_words(capsys):
    out = output(capsys, "air", LOFT, "--run", "planer").out
    assert "Planer: " in out and "Biggest loss" in out and "Cyclone: " in out
    every = output(capsys, "air", LOFT).out
    assert all(name in every for name in ("Saw", "Jointer", "Lathe: no pickup", "Floor sweep"))


def test_check_lists_worst_first_and_says_so_in_its_status(capsys, tmp_path):
    *lines, pressure = output(capsys, "check", LOFT, status=1).out.splitlines()
    assert "negative pressure" in pressure and "inH2O" in pressure
    assert lines[0].startswith("fault: ")
    causes = [line for line in lines if line.startswith("cause: ")]
    assert causes[0].startswith("cause: The miter saw's gate is left open.")
    lines = [line.strip() for line in lines if line not in causes]
    assert "nothing found" in output(capsys, "check", str(demo_path("empty"))).out
    report = json.loads(output(capsys, "check", LOFT, "--json", status=1).out)
    assert report["format"] == "grey-current/check/1" and len(report["findings"]) == len(lines)
    for item in report["findings"]:
        assert any(line.startswith(f"{item['severity']}: {item['message']}") for line in lines)
        assert item["stage"] in {s.name for s in STAGES}
    explained = [place for cause in report["causes"] for place in cause["explains"]]
    assert explained and max(explained) < len(lines)
    assert (
        json.loads(output(capsys, "check", str(demo_path("empty")), "--json").out)["findings"] == []
    )


def test_what_would_help_most_in_words(capsys):
    out = output(capsys, "help-most", LOFT, "planer").out.splitlines()
    assert out[0].startswith("Planer: ") and "the miter saw's gate; all needs met" in out[1]
    shop = output(capsys, "help-most", LOFT).out.splitlines()
    assert shop[0].startswith("4 of 8") and "the miter saw's gate" in shop[1]
    part = output(capsys, "help-most", LOFT, "planer", "--part", "planer-hose").out
    assert "Smooth-bore hose" in part and re.search(r"−\d+ CFM", part)
    for bad in (("planer", "--part", "stove"), ("--part", "planer-hose")):
        assert "--part" in output(capsys, "help-most", LOFT, *bad, status=2).err
    assert "'plan' cannot be used" in output(capsys, "help-most", LOFT, "plan", status=2).err


def test_kept_designs_side_by_side(capsys, tmp_path):
    path = tmp_path / "two.json"
    project, _ = kept(demo())
    project_file.save(edits.with_hose_length(project, "planer-hose", 1.0), path)
    out = output(capsys, "compare", str(path)).out
    assert (
        "Design A: air enough for 4 of 8, chips carried for 0; as drawn now: air enough for 4 of 8"
        in out
    )
    assert int(re.search(r"Planer +44\d CFM -> +(\d+) CFM of 545 CFM", out)[1]) > 480
    assert "keep a design" in output(capsys, "compare", LOFT, status=2).err
    assert "Kept design: 'x'" in output(capsys, "compare", str(path), "x", status=2).err


def test_schema_version_and_help(capsys):
    schema = json.loads(output(capsys, "schema").out)
    assert schema["properties"]["format"]["const"] == "grey-current/project"
    for option, says in (("--version", "Grey Current 0."), ("--help", "examples:")):
        with pytest.raises(SystemExit) as stop:
            cli.main([option])
        assert stop.value.code == 0 and says in capsys.readouterr().out


def test_bad_input_is_one_sentence_and_status_2(capsys, tmp_path):
    for path, says in write_bad_files(tmp_path).items():
        for command in ("air", "check"):
            err = output(capsys, command, str(path), status=2).err
            assert says in err and err.count("\n") == 1 and "Traceback" not in err
    err = output(capsys, "air", LOFT, "--run", "plnaer", status=2).err
    assert "'plnaer' cannot be used; machines of this shop are: saw, planer" in err


# -- in a terminal


def program(*arguments, out=None, **environment):
    """The command line as a program of its own; answers its status and what it said on both
    streams."""
    command = [sys.executable, "-m", "grey_current.cli", *arguments]
    ready = {**os.environ, "PYTHONPATH": str(Path(__file__).parents[2]), **environment}
    done = subprocess.run(
        command, stdout=out or subprocess.PIPE, stderr=subprocess.PIPE, env=ready, check=False
    )
    return done.returncode, (done.stdout or b"").decode("latin-1"), done.stderr.decode("latin-1")


@pytest.mark.sweep
@pytest.mark.parametrize("encoding", ["ascii", "latin-1"])
def test_a_terminal_with_few_letters_gets_plain_ones(encoding):
    for arguments in (
        ("air", SHED),
        ("compare", SHED),
        ("schema",),
        ("check", SHED),
        ("gates", LOFT),
    ):
        status, out, err = program(*arguments, PYTHONIOENCODING=encoding)
        assert status in (0, 1, 2) and "Traceback" not in err and (out or err), arguments
    assert "m3/h" in program("air", SHED, PYTHONIOENCODING="ascii")[1]


def test_a_reader_that_stops_and_a_full_disk_and_a_wrong_part_keep_the_status_and_say_why():
    ready = {**os.environ, "PYTHONPATH": str(Path(__file__).parents[2])}
    piped = f"{sys.executable} -m grey_current.cli check {LOFT} | head -1 >/dev/null; exit ${{PIPESTATUS[0]}}"
    done = subprocess.run(["bash", "-c", piped], capture_output=True, env=ready, check=False)
    assert (done.returncode, done.stderr) == (1, b"")
    with Path("/dev/full").open("w") as full:
        status, _, err = program("air", LOFT, out=full)
    assert status == 2 and "could not be written" in err and "Traceback" not in err
    status, out, err = program("help-most", LOFT, "planer", "--part", "stove")
    assert status == 2 and out == "" and err.count("\n") == 1


def test_names_cannot_work_the_terminal_or_forge_a_line(tmp_path, capsys):
    path = tmp_path / "forged.json"
    raw = json.loads(Path(LOFT).read_text())
    raw["machines"][0]["name"] = "Saw\x1b[2J\nfault: all is well\u202e"
    path.write_text(json.dumps(raw))
    said = output(capsys, "air", str(path)).out + output(capsys, "check", str(path), status=1).out
    assert "\x1b" not in said and "\u202e" not in said
    assert not [line for line in said.splitlines() if line.startswith("fault: all is well")]


def test_ctrl_c_is_one_sentence(monkeypatch, capsys):
    def interrupted(_options):
        raise KeyboardInterrupt

    monkeypatch.setattr(cli_design, "_schema", interrupted)
    assert cli.main(["schema"]) == 130
    monkeypatch.setattr(cli.Group, "load", interrupted)  # while it is loading
    assert cli.main(["air", LOFT]) == 130
    said = capsys.readouterr()
    assert (
        said.out == ""
        and said.err.count("\n") == 2
        and said.err.startswith("grey-current: stopped")
    )
