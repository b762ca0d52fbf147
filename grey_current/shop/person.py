"""Who works in the shop: how far a hand reaches, how high a head is, what is lifted.

For somebody whose height is not said the usual figures hold, of 1.75 m. Allowances: a comfortable
reach upwards grows with height (Pheasant and Haslegrave, Bodyspace, 2006, on overhead reach);
seated, or with a shoulder that hurts, one says it.
"""

from __future__ import annotations

from grey_current.shop.model import Settings

# m; a lever that hangs higher is out of reach from the floor, and a level duct that hangs lower is
# walked into, for somebody of usual height.
REACH_UP, HEAD_ROOM = 1.9, 1.9
# A comfortable reach upwards over one's height; m that shoes and a step in walking add to it.
REACH_SHARE, ABOVE_HEAD = 1.086, 0.15


def reach_up(settings: Settings) -> float:
    """How high (m) a hand moves a lever from the floor: as it is said, or by one's height."""
    if settings.reaches is not None:
        return settings.reaches
    return REACH_UP if settings.tall is None else round(REACH_SHARE * settings.tall, 3)


def head_room(settings: Settings) -> float:
    """How high (m) a level duct must hang for nobody to walk into it: the usual height, or more
    for somebody tall. For somebody small it stays, for others come in too.
    """
    own = 0.0 if settings.tall is None else round(settings.tall + ABOVE_HEAD, 3)
    return max(HEAD_ROOM, own)
