"""The verdict as one plain sentence: what it is, and what to do about it."""

from decimal import Decimal

from zesty_lark.core.landing.words import chances
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
    if cut.what == "read again":
        return f"{value} {_again(cut)}"
    if judged.over:
        return f"Not there yet: {value}. {_take(cut, units)}{_hopeless(judged, units)}"
    if judged.hopeless:
        return (
            f"Unsure: with ± {units.size(judged.uncertainty_mm)} this gauge could call nothing in. "
            "Do not cut; measure with a better one."
        )
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
            f"Unsure: {value}{over}. Measure better; or take {units.small(cut.amount_mm)}: "
            f"{_chances(cut) or 'then it is in whichever end of ± is true'}."
        )
    return f"Unsure: {value}{over}. Do not cut: measure better, with another gauge or more readings."


def _again(cut: NextCut) -> str:
    if cut.surprised:
        return (
            "is not what was expected. Was the wheel there, is the zero lost, did the part move, is there dirt? Wipe "
            "all, put it back and read it again before another cut."
        )
    return "is one reading, and no cut is safe by it alone. Wipe all, put it back and read it again."


def _take(cut: NextCut, units: ShownUnits) -> str:
    if cut.what == "spark out":
        return "The springs still hold that much back: spark out and measure again."
    if cut.what == "nothing":
        return (
            "One graduation of this dial would pass the zone: it cannot be split here. Tell the lead, or finish it "
            "on a finer dial."
        )
    anew = "Something else happened: the zero is taken anew from these readings; say what it was. "
    told = "" if cut.chance_in is None else f" and measure: {_chances(cut)}"
    return f"{anew if cut.zero_anew else ''}Take {units.small(cut.amount_mm)} more, then spark out{told}."


def _hopeless(judged: Judgement, units: ShownUnits) -> str:
    if not judged.hopeless:
        return ""
    return (
        f" With ± {units.size(judged.uncertainty_mm)} this gauge could call nothing in: measure the last of it with a "
        "better one."
    )


def _chances(cut: NextCut) -> str:
    return "" if cut.chance_in is None else chances(cut.chance_in, cut.chance_under)
