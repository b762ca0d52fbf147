"""House rules that no linter knows: sources and units, no Qt in the core, the built wheel works."""

import ast
import os
import re
import subprocess
import sys
import tomllib
import zipfile
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[2]
PACKAGE = ROOT / "grey_current"
PHYSICS = ["gas", "friction", "fittings", "fan", "needs", "network", "newton"]
UNITS = ("m", "m²", "m³/s", "Pa", "kg/m³", "degrees", "-", "m/s", "°C", "W", "Hz", "share")


def public_functions(path: Path) -> list[ast.FunctionDef]:
    tree = ast.parse(path.read_text(encoding="utf-8"))
    return [n for n in tree.body if isinstance(n, ast.FunctionDef) and not n.name.startswith("_")]


@pytest.mark.parametrize("module", PHYSICS)
def test_physics_functions_name_units_errors_and_source(module):
    for function in public_functions(PACKAGE / "air" / f"{module}.py"):
        text = ast.get_docstring(function) or ""
        assert "Source" in text, f"{module}.{function.name} names no source"
        assert "aises" in text, f"{module}.{function.name} does not say what it raises"
        words = text.replace("(", " ").replace(")", " ").replace(",", " ").replace(".", " ").split()
        assert any(unit in words for unit in UNITS), f"{module}.{function.name} names no unit"


def test_every_public_thing_has_a_docstring():
    for path in PACKAGE.rglob("*.py"):
        tree = ast.parse(path.read_text(encoding="utf-8"))
        assert ast.get_docstring(tree), path
        for node in tree.body:
            if isinstance(node, ast.FunctionDef | ast.ClassDef) and not node.name.startswith("_"):
                small = isinstance(node, ast.ClassDef) and node.end_lineno - node.lineno < 6
                assert small or ast.get_docstring(node), f"{path.name}: {node.name}"


def test_a_shop_is_open_before_the_slow_libraries_are_loaded():
    """Each of these takes a tenth of a second or more, and is asked for when something wants it."""
    script = (
        "import sys\n"
        "from grey_current.workspace.workspace import demo_workspace\n"
        "assert demo_workspace().verdict\n"
        "print(' '.join(n for n in ('scipy.stats', 'numba', 'ezdxf', 'pyqtgraph', 'scipy.integrate') if n in sys.modules))"
    )
    done = subprocess.run(
        [sys.executable, "-c", script], capture_output=True, text=True, check=False
    )
    assert done.returncode == 0 and not done.stdout.strip(), done.stdout + done.stderr


def test_what_the_project_asks_for_is_pinned_for_set_up():
    """A dependency that is named and not pinned is missing on every machine but its author's."""
    project = tomllib.loads((ROOT / "pyproject.toml").read_text(encoding="utf-8"))["project"]
    extras = project["optional-dependencies"]
    asked = {
        "runtime.txt": project["dependencies"] + extras["build"],
        "dev.txt": project["dependencies"] + extras["build"] + extras["dev"],
    }
    for name, wanted in asked.items():
        lines = (ROOT / "requirements" / name).read_text(encoding="utf-8").lower().splitlines()
        pinned = {line.split("==")[0] for line in lines if re.match(r"[a-z0-9]", line)}
        missing = {re.split(r"[<>=!~; \[]", line)[0].lower() for line in wanted} - pinned
        assert not missing, f"requirements/{name} lacks {missing}"


def test_core_has_no_qt_at_all():
    """Everything but the desk imports and works with PyQt6 out of reach."""
    script = (
        "import sys; sys.modules['PyQt6'] = None\n"
        "from grey_current import cli\n"
        "from grey_current.workspace.workspace import demo_workspace\n"
        "assert demo_workspace().verdict\n"
        "sys.exit(cli.main(['check', sys.argv[1]]))"
    )
    loft = PACKAGE / "shop" / "demos" / "net-loft.greycurrent.json"
    done = subprocess.run(
        [sys.executable, "-c", script, str(loft)], capture_output=True, text=True, check=False
    )
    assert done.returncode == 1, done.stderr


def test_the_built_wheel_carries_everything_and_runs(tmp_path):
    build = [
        sys.executable,
        "-m",
        "pip",
        "wheel",
        "-q",
        "--no-deps",
        "--no-build-isolation",
        "-w",
        str(tmp_path),
        str(ROOT),
    ]
    done = subprocess.run(build, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
    wheel = next(tmp_path.glob("*.whl"))
    target = tmp_path / "site"
    zipfile.ZipFile(wheel).extractall(target)
    version = tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]["version"]
    script = (
        "import sys, grey_current; assert grey_current.__file__.startswith(sys.argv[1])\n"
        "from grey_current import cli; from grey_current.shop.demo_shops import demo_path\n"
        "from importlib.resources import files\n"
        "assert (files('grey_current.desk') / 'fonts' / 'Lato-Regular.ttf').is_file()\n"
        "assert (files('grey_current.desk') / 'icons' / 'undo.svg').is_file()\n"
        "assert cli.main(['air', str(demo_path('loft')), '--run', 'planer']) == 0\n"
        "cli.main(['--version'])"
    )
    run = subprocess.run(
        [sys.executable, "-c", script, str(target)],
        capture_output=True,
        text=True,
        check=False,
        cwd=tmp_path,
        env={**os.environ, "PYTHONPATH": str(target)},
    )
    assert run.returncode == 0, run.stderr
    assert f"Grey Current {version}" in run.stdout


def test_no_name_is_ever_read_as_markup():
    """Labels that guess at rich text open what a file's author names; only `desk/plain.py` makes
    labels."""
    for path in (PACKAGE / "desk").rglob("*.py"):
        text = path.read_text(encoding="utf-8")
        assert path.name == "plain.py" or " QLabel(" not in text.replace("isinstance", ""), path
        tips = re.findall(r"setToolTip\((?!tip\()f?\"[^\"]*{", text)
        assert not [t for t in tips if "command" not in t] or path.name == "menus.py", (path, tips)


def test_the_tests_that_are_called_slow_are_there():
    listed = (ROOT / "tests/slow.txt").read_text().splitlines()
    assert listed == sorted(set(listed))
    for name in listed:
        # A number before it: one of so many of its cases is left in.
        path, _, test = name.lstrip("0123456789 ").partition("::")
        assert f"def {test.partition('[')[0]}(" in (ROOT / path).read_text(), name


# Figures that nobody reads: part keys, keys of choices, tables and drawings in files, lines to an
# instrument; and those of which `numerals` itself is made.
UNREAD = frozenset(
    [
        "numerals",
        "takeoffs",
        "app",
        "collector_parts",
        "drawing_page",
        "duct_pages",
        "joint_page",
        "machine_page",
        "stock_fields",
        "build_report",
        "drawing_svg",
        "keep_report",
        "log_report",
        "price_csv",
        "space_files",
        "reading_words",
        "spelling",
        "instruments",
    ]
)


def test_figures_that_are_read_have_the_readers_marks():
    """A figure with decimals or thousands goes through `decimal` or `compact`."""
    bare = re.compile(r"\{[^{}]*:(?:,?\.[1-9]f|,|,\.0f|(?:\.\d)?g)\}")
    found = {p.stem for p in PACKAGE.rglob("*.py") if bare.search(p.read_text(encoding="utf-8"))}
    assert found <= UNREAD, found - UNREAD
