"""The verdict as one plain sentence: what it is, and what to do about it."""

from decimal import Decimal

from zesty_lark.core.measure.next_cut import NextCut
from zesty_lark.core.measure.thickness import Judgement
from zesty_lark.core.work.telling import Tongue

__all__ = ["sentence"]


def sentence(judged: Judgement, cut: NextCut, tongue: Tongue, *, parallel_mm: Decimal | None = None) -> str:
    """Say what a measurement comes to.

    Parameters
    ----------
    judged : Judgement
        What the readings came to.
    cut : NextCut
        What to do about the size.
    tongue : Tongue
        The units to speak: sizes in the print's, what to take in the dial's.
    parallel_mm : Decimal, optional
        Parallelism asked for [mm].
    """
    value = f"{tongue.size(judged.greatest.value_mm)} ± {tongue.size(judged.uncertainty_mm)}"
    if judged.under:
        return (f"Under size: {judged.least.place} is {tongue.size(judged.least.value_mm)}. "
                "It cannot be put back; stop and tell the lead.")
    if judged.verdict == "in":
        return f"In: {value}. Nothing more to take."
    if judged.hopeless:
        return (f"Unsure: with ± {tongue.size(judged.uncertainty_mm)} this gauge could call nothing in. "
                "Do not cut yet; measure with a better one.")
    if judged.over:
        return f"Not there yet: {value}. {_take(judged, cut, tongue)}"
    if judged.hot:
        return f"Unsure: {value}, but the part is warm. Let it cool to the room and measure again; do not cut yet."
    if judged.overdue:
        return f"Unsure: {value}, but this gauge is past its calibration date. Measure with another."
    if judged.parallel in ("out", "unsure") and parallel_mm is not None:
        return (f"{'Not parallel' if judged.parallel == 'out' else 'Unsure'}: {tongue.size(judged.spread_mm)} from "
                f"{judged.least.place} to {judged.greatest.place}, {tongue.size(parallel_mm)} allowed. "
                "Clean everything and measure again before another cut.")
    over = f" ({tongue.small(judged.remaining_mm)} over the middle of the zone)" if judged.remaining_mm > 0 else ""
    if cut.what == "take":
        return (f"Unsure: {value}{over}. Measure better; or take {tongue.small(cut.amount_mm)}: then it is in whichever end of "
                "± is true.")
    return f"Unsure: {value}{over}. Do not cut: measure better, with another gauge or more readings."


def _take(judged: Judgement, cut: NextCut, tongue: Tongue) -> str:
    if cut.what == "spark out":
        return "The springs still hold that much back: spark out and measure again."
    if cut.what == "nothing":
        return ("One graduation of this dial would pass the zone: it cannot be split here. Tell the lead, or finish it on a "
                "finer dial.")
    return f"Take {tongue.small(cut.amount_mm)} more, then spark out."
