"""Grain sizes by grit, and what the peel method may do with them (ISO 8486 mean sizes, rounded)."""

import json
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from importlib import resources

from zesty_lark.core.quantities.numbers import Count, InputError, Positive, Ratio

PEEL_CROSSFEED_SHARE = 0.375
PEEL_MOST_SHARE = 0.5


@dataclass(frozen=True)
class PeelLimits:
    """Grain, crossfeed chosen and greatest, greatest depth [mm]."""

    grain_mm: float
    crossfeed_mm: float
    crossfeed_max_mm: float
    depth_max_mm: float


@cache
def grains() -> Mapping[int, float]:
    """Return grain size [mm] by grit number, from ``grains.json`` beside this module."""
    table = json.loads(resources.files("zesty_lark.core.wheel").joinpath("grains.json").read_text("utf-8"))
    return {int(grit): size for grit, size in table.items()}


def grain_size(grit: int) -> float:
    """Return the grain size of a grit [mm].

    Raises
    ------
    InputError
        If the grit is not in the table.
    """
    if grit not in grains():
        raise InputError("grit", f"grit must be one of {', '.join(map(str, grains()))}, or grain_mm must be given")
    return grains()[grit]


def peel_limits(
    *,
    grit: Count | None = None,
    crossfeed_share: Ratio = PEEL_CROSSFEED_SHARE,
    depth_share: Ratio = PEEL_MOST_SHARE,
    grain_mm: Positive | None = None,
) -> PeelLimits:
    """Return the peel method's crossfeed and depth for a grit, or for the shop's measured corner.

    Parameters
    ----------
    grit : int, optional
        Grit number; not needed when the corner was measured.
    crossfeed_share, depth_share : float
        Shares of a grain: crossfeed ¼ to ⅜, never over ½; depth at most ½.
    grain_mm : float, optional
        The corner measured, instead of the table [mm].

    Raises
    ------
    InputError
        If there is neither a known grit nor a measured corner, or a share is over ½.
    """
    for field, share in (("crossfeed_share", crossfeed_share), ("depth_share", depth_share)):
        if share > PEEL_MOST_SHARE:
            raise InputError(field, f"{field} must be at most {PEEL_MOST_SHARE} of a grain")
    if grain_mm is None and grit is None:
        raise InputError("grit", "grit is missing, and so is grain_mm")
    grain = grain_mm if grain_mm is not None else grain_size(grit or 0)
    return PeelLimits(grain, crossfeed_share * grain, PEEL_MOST_SHARE * grain, depth_share * grain)
