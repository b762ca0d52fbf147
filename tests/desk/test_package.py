"""The program as a Debian package, its manual pages and completions."""

from __future__ import annotations

import os
import re
import runpy
import shutil
import subprocess
import sys
import tomllib
from pathlib import Path

import pytest
import shtab

from grey_current.cli import GROUPS
from grey_current.desk.start import LIBRARIES

ROOT = Path(__file__).parents[2]
SYSTEM_PYTHON = "/usr/bin/python3"


def test_manual_pages_and_completions_name_every_command():
    made = runpy.run_path(str(ROOT / "scripts" / "deb"))
    page = made["manual_page"]("grey-current").replace("\\-", "-")
    parser = made["parser_of_commands"]([])
    made["complete_files"](parser)
    bash = shtab.complete(parser, "bash")
    (listed,) = re.findall(r"_shtab_grey_current_subparsers=\((.*)\)", bash)
    for name in (name for group in GROUPS for name in group.commands):
        assert f"grey-current {name}" in page and name in listed.split()
    assert "_shtab_grey_current_air_pos_0_COMPGEN=_shtab_compgen_files" in bash
    assert "--picture" in made["manual_page"]("grey-current-desk").replace("\\-", "-")


def test_without_qts_libraries_it_says_what_to_install(tmp_path):
    broken = tmp_path / "PyQt6"
    broken.mkdir()
    (broken / "__init__.py").write_text(
        "raise ImportError('libEGL.so.1: cannot open shared object file: No such file')"
    )
    done = subprocess.run(
        [sys.executable, "-m", "grey_current.desk.start"],
        capture_output=True,
        text=True,
        check=False,
        cwd=ROOT,
        env={**os.environ, "PYTHONPATH": str(tmp_path)},
    )
    assert done.returncode == 2 and done.stderr.count("\n") == 1
    assert "libEGL.so.1" in done.stderr and "sudo apt install libegl1" in done.stderr
    # The set-up and the package name the same libraries.
    for other in ("setup.sh", "deb"):
        text = (ROOT / "scripts" / other).read_text()
        assert all(name in text for name in LIBRARIES.split())


@pytest.mark.parametrize("language", ["xx_YY.UTF-8", "C", "de_DE.UTF-8", ""])
def test_any_language_of_the_desktop_will_do(tmp_path, language):
    picture = tmp_path / "window.png"
    done = subprocess.run(
        [
            *(sys.executable, "-m", "grey_current.desk.start"),
            *("--settings", str(tmp_path), "--picture", str(picture)),
        ],
        capture_output=True,
        text=True,
        check=False,
        env={**os.environ, "LC_ALL": language, "LANG": language},
    )
    assert done.returncode == 0 and "Traceback" not in done.stderr
    assert picture.stat().st_size > 20_000


@pytest.mark.sweep
@pytest.mark.skipif(shutil.which("dpkg-deb") is None, reason="no Debian-like system")
def test_the_debian_package_is_made_and_what_is_in_it_starts(tmp_path):
    here = f"{sys.version_info.major}.{sys.version_info.minor}"
    asked = [SYSTEM_PYTHON, "-c", "import sys; print('%d.%d' % sys.version_info[:2])"]
    if not Path(SYSTEM_PYTHON).exists() or here not in subprocess.check_output(asked, text=True):
        pytest.skip("the system's Python is another than that of the libraries here")
    command = [sys.executable, str(ROOT / "scripts" / "deb"), str(tmp_path), "--quick", "--try"]
    done = subprocess.run(command, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stdout + done.stderr
    package = next(tmp_path.glob("*.deb"))
    told = subprocess.check_output(["dpkg-deb", "-f", str(package)], text=True)
    version = tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]["version"]
    assert f"Version: {version}-1\n" in told and f"python3 (>= {here})" in told
    listed = subprocess.check_output(["dpkg-deb", "-c", str(package)], text=True)
    for name in ("bin/grey-current-desk", "share/man/man1/grey-current.1.gz", "share/metainfo/"):
        assert f"./usr/{name}" in listed
    assert "/tests/" not in listed and "__pycache__" not in listed
