"""How many helpers this machine has room for, and what makes one ready."""

from __future__ import annotations

import importlib
import os

from grey_current.air import compiled
from grey_current.workers.pool import Crew

# Helpers at most; each takes some 160 MB.
MOST = 1
# Modules in which helpers search.
SEARCHES = (
    "grey_current.design.improve.shop_search",
    "grey_current.design.laying.places",
    "grey_current.design.laying.proposals",
)


def helpers() -> Crew:
    """As many helpers as there are processors to spare, none where there is one only. Raises
    nothing.
    """
    spare = len(os.sched_getaffinity(0)) - 1
    return Crew(min(spare, MOST), (f"{__name__}:ready",))


def ready() -> None:
    """Load in a helper what it searches with."""
    compiled.load()
    for module in SEARCHES:
        importlib.import_module(module)
