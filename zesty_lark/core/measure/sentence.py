"""The verdict as one plain sentence: what it is, and what to do about it."""

from decimal import Decimal

from zesty_lark.core.measure.next_cut import NextCut
from zesty_lark.core.measure.thickness import Judgement
from zesty_lark.core.part.shown_units import ShownUnits


def sentence(judged: Judgement, cut: NextCut, units: ShownUnits, *, parallel_mm: Decimal | None = None) -> str:
    """Say what a measurement comes to.

    Parameters
    ----------
    judged : Judgement
        What the readings came to.
    cut : NextCut
        What to do about the size.
    units : ShownUnits
        The units to speak: sizes in the print's, what to take in the dial's.
    parallel_mm : Decimal, optional
        Parallelism asked for [mm].
    """
    value = f"{units.size(judged.greatest.value_mm)} ± {units.size(judged.uncertainty_mm)}"
    if judged.under:
        past = "Over size" if judged.grows else "Under size"
        return (
            f"{past}: {judged.least.place} is {units.size(judged.least.value_mm)}. "
            "It cannot be put back; stop and tell the lead."
        )
    if judged.verdict == "in":
        return f"In: {value}. Nothing more to take."
    if judged.hopeless:
        return (
            f"Unsure: with ± {units.size(judged.uncertainty_mm)} this gauge could call nothing in. "
            "Do not cut yet; measure with a better one."
        )
    if judged.over:
        return f"Not there yet: {value}. {_take(judged, cut, units)}"
    if judged.hot:
        return f"Unsure: {value}, but the part is warm. Let it cool to the room and measure again; do not cut yet."
    if judged.overdue:
        return f"Unsure: {value}, but this gauge is past its calibration date. Measure with another."
    if judged.parallel in ("out", "unsure") and parallel_mm is not None:
        return (
            f"{'Not parallel' if judged.parallel == 'out' else 'Unsure'}: {units.size(judged.spread_mm)} from "
            f"{judged.least.place} to {judged.greatest.place}, {units.size(parallel_mm)} allowed. "
            "Clean everything and measure again before another cut."
        )
    side = "short of" if judged.grows else "over"
    over = f" ({units.small(judged.remaining_mm)} {side} the middle of the zone)" if judged.remaining_mm > 0 else ""
    if cut.what == "take":
        return (
            f"Unsure: {value}{over}. Measure better; or take {units.small(cut.amount_mm)}: then it is in whichever "
            "end of ± is true."
        )
    return f"Unsure: {value}{over}. Do not cut: measure better, with another gauge or more readings."


def _take(judged: Judgement, cut: NextCut, units: ShownUnits) -> str:
    if cut.what == "spark out":
        return "The springs still hold that much back: spark out and measure again."
    if cut.what == "nothing":
        return (
            "One graduation of this dial would pass the zone: it cannot be split here. Tell the lead, or finish it "
            "on a finer dial."
        )
    return f"Take {units.small(cut.amount_mm)} more, then spark out."
