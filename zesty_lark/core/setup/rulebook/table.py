"""Feeds, travel, the chuck’s fence and the coolant."""

from zesty_lark.core.process.strokes import projected
from zesty_lark.core.setup.rulebook.data import CLEAR_MM, Finding, SetUpData, finding, wrong_or_well
from zesty_lark.core.wheel.grain import grain_size

SLOW_MM_S = 80.0
"""A table slower than this is slow for shallow cuts where no plan says otherwise; an own estimate [mm/s]."""
OFF_PLAN = 1.25
"""Further from the plan than this is no longer the plan."""
HALF_A_GRAIN = 0.5

LONG_DRY_SHARE = 2.0
DEEP_DRY_MM = 0.025


def _feeds(s: SetUpData) -> list[Finding]:
    found = wrong_or_well(
        "stroke too short to clear",
        "feeds",
        s.feeds.end_clearance_mm < min(CLEAR_MM, s.wheel.width_mm),
        "The wheel does not clear the part before the crossfeed moves.",
        remedy="about 25 mm at each end",
        well="Strokes clear the part.",
        level="caution",
        number=s.feeds.end_clearance_mm,
    )
    if s.vise and s.feeds.towards_solid_jaw is not None:
        found += wrong_or_well(
            "vise the wrong way round",
            "feeds",
            not s.feeds.towards_solid_jaw,
            "It feeds away from the solid jaw.",
            remedy="turn the vise: feed towards the solid jaw",
            well="It feeds towards the solid jaw.",
        )
    return found


def _speeds(s: SetUpData) -> list[Finding]:
    """Table and downfeed against the plan's; without one against a usual table, and half a grain."""
    planned_table, planned_down = s.feeds.planned_table_mm_s, s.feeds.planned_downfeed_mm
    least = SLOW_MM_S if planned_table is None else planned_table / OFF_PLAN
    found = wrong_or_well(
        "table too slow",
        "feeds",
        s.feeds.table_mm_s < least,
        f"The table runs at {s.feeds.table_mm_s:g} mm/s: the wheel stays too long over each place, and heat goes in.",
        remedy=f"at least {least:.0f} mm/s",
        well="The table is quick enough.",
        level="caution",
        number=s.feeds.table_mm_s,
    )
    if planned_down is None and s.wheel.grit is None:
        return found
    most = HALF_A_GRAIN * grain_size(s.wheel.grit or 46) if planned_down is None else planned_down * OFF_PLAN
    return found + wrong_or_well(
        "downfeed too deep for the wheel",
        "feeds",
        s.feeds.downfeed_mm > most,
        f"{s.feeds.downfeed_mm:g} mm a pass is over {most:.3g} mm, "
        + ("half a grain of this wheel." if planned_down is None else "what was planned for this wheel."),
        remedy="a smaller downfeed, or a coarser, softer wheel",
        well="The wheel takes this downfeed.",
        number=s.feeds.downfeed_mm,
    )


def _travel(s: SetUpData) -> list[Finding]:
    """Whether table, saddle and column reach: stroke = part along + clearance at both ends; across = part + wheel."""
    if s.travel is None:
        return []
    along, across = projected(s.part.length_mm, s.part.width_mm, s.travel.skew_deg)
    stroke, span = along + 2 * s.feeds.end_clearance_mm, across + s.wheel.width_mm
    found = wrong_or_well(
        "table travel too short",
        "machine",
        stroke > s.travel.along_mm,
        f"A stroke needs {stroke:.0f} mm and the table travels {s.travel.along_mm:g} mm.",
        remedy="turn the part, a shorter overrun, or another machine",
        well=f"The table travels {s.travel.along_mm:g} mm.",
        number=stroke,
    )
    found += wrong_or_well(
        "saddle travel too short",
        "machine",
        span > s.travel.across_mm,
        f"The wheel needs {span:.0f} mm across to leave the part on both sides and the saddle travels "
        f"{s.travel.across_mm:g} mm.",
        remedy="turn the part, or grind it in two places and match them",
        well=f"The saddle travels {s.travel.across_mm:g} mm.",
        number=span,
    )
    if s.travel.height_mm is not None:
        found += wrong_or_well(
            "no room under the wheel",
            "machine",
            s.part.height_mm >= s.travel.height_mm,
            f"The part stands {s.part.height_mm:g} mm high and there is {s.travel.height_mm:g} mm under the wheel.",
            remedy="a lower fixture or another machine",
            well="There is room under the wheel.",
            number=s.travel.height_mm,
        )
    return found


def _fence(s: SetUpData) -> list[Finding]:
    """A part registered on the fence is parallel to the travel only as well as the fence is."""
    if s.fence is None:
        return []
    out, allowed = s.fence.out_of_parallel_um, s.fence.allowed_um
    found = wrong_or_well(
        "fence not ground in place",
        "fence",
        not s.fence.ground_in_place,
        "It was not ground where it stands, so its line is only as true as its mounting.",
        remedy="grind it in place: a wheel relieved about 1°, light cuts, spark-out, a fresh dress before the last",
        well="It was ground in place.",
        level="caution",
    )
    if out is None:
        return found + finding(
            "fence not checked",
            "fence",
            "caution",
            "How parallel the fence is to the travel is not known.",
            remedy="sweep it with an indicator on the wheelhead",
        )
    if allowed is not None:
        found += wrong_or_well(
            "fence out of line",
            "fence",
            out > allowed,
            f"The fence is {out:g} µm out of parallel to the travel, and {allowed:g} µm is allowed.",
            remedy="grind it in place, or indicate the part instead",
            well="The fence is true enough.",
            number=out,
        )
    return found


def _cooling(s: SetUpData) -> list[Finding]:
    wet = s.coolant != "dry" and s.nozzle_on
    found = wrong_or_well(
        "no coolant",
        "coolant",
        not wet and s.feeds.downfeed_mm > DEEP_DRY_MM,
        "A deep cut runs dry.",
        remedy="aim the nozzle just before the contact, or take less and wait",
        well="Cooling suits the cut.",
        level="caution",
        number=s.feeds.downfeed_mm,
    )
    long_dry = not wet and s.part.length_mm / s.part.width_mm >= LONG_DRY_SHARE
    found += wrong_or_well(
        "long side along the travel, dry",
        "part",
        long_dry,
        "Each stroke returns over the same hot middle; it will be hollow when cold.",
        remedy="turn the part 15 to 30°, or crosswise",
        well="Orientation suits the heat.",
        level="caution",
        number=s.part.length_mm / s.part.width_mm,
    )
    return found


RULES = (_feeds, _speeds, _travel, _fence, _cooling)
