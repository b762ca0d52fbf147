"""A pytest plugin that makes every import of Qt fail, so that core tests show they need none."""

import sys

sys.modules["PyQt6"] = None  # type: ignore[assignment]
