"""What a collector's separator keeps, and what goes on into its bag and filter: how long they
last.
"""

from __future__ import annotations

from grey_current.air.separators import Catch, SeparatorKind, catch
from grey_current.shop.collectors import Collector

# Hours of work after which a filter wants cleaning when all dust reaches it. Allowance; its gauge
# knows better.
CLEAN_AFTER_HOURS = {"bag": 10.0, "felt bag": 25.0, "pleated cartridge": 7.9}
# The share of what blinds a filter that no separator keeps: the finest. Allowance.
FINEST = 0.15
# Cleanings that a filter bears before it is worn. Allowance.
CLEANINGS = 60.0


def kind_of(item: Collector) -> SeparatorKind:
    """The kind of separator that a collector has."""
    return "none" if item.separator is None else item.separator.kind


def caught(item: Collector, airflow: float | None = None, fill: float = 0.0) -> Catch:
    """What a collector's separator keeps at an airflow (m³/s; None: its own) with its bin so full
    (share). Raises `ValueError` for a negative share.
    """
    flow = 1.0
    if item.separator is not None and airflow is not None:
        flow = airflow / item.separator.at_airflow
    return catch(kind_of(item), flow, fill)


def dust_on_filter(kept: Catch) -> float:
    """How much of what blinds a filter reaches it, with all of it as 1. Raises nothing."""
    return FINEST + (1 - FINEST) * (1 - kept.fine.usual)


def hours_between_cleanings(item: Collector, airflow: float | None = None) -> float | None:
    """Hours of work after which a collector's filter wants cleaning; None for one without a
    filter.
    """
    bare = CLEAN_AFTER_HOURS.get(item.filter.kind)
    return None if bare is None else bare / dust_on_filter(caught(item, airflow))


def share_in_bin(item: Collector) -> float:
    """The share of the chips that falls into a collector's bin. Without a separator that is its
    bag, and all of them do.
    """
    return 1.0 if item.separator is None else caught(item).chips.usual
