"""A thousand kills at random moments of editing and saving: nothing that was on the disk may be
lost."""

from __future__ import annotations

import os
import time
from pathlib import Path

from bench.conftest import report
from tests.core.test_journal import kills

COUNT = int(os.environ.get("KILLS", "1000"))


def test_a_thousand_kills(tmp_path: Path) -> None:
    begun = time.perf_counter()
    kills(COUNT, tmp_path, 11)
    report(
        f"{COUNT} kills while editing and saving: nothing lost; {time.perf_counter() - begun:.0f} s"
    )
