"""The wheel's face as it is worn now: drawn, and what it costs in size and heat.

Source: a slice k of the face, one crossfeed wide, has worn to depth·P(Poisson(κn) ≥ k + 1) after n strokes; the worn
front stands at κn crossfeeds.
"""

from dataclasses import dataclass
from typing import Annotated, Literal

from annotated_types import Ge, Le

from zesty_lark.core.process.evaluate import Coolant, evaluate
from zesty_lark.core.quantities.numbers import NonNegative, Positive, Rpm, refuse_work
from zesty_lark.core.wheel.wear import DRESS_SHARE, front_lost, slices_of

MOST_SLICES = 2_000
MOST_WORK = {"worn_face": {"slices": MOST_SLICES}}
Edge = Literal["front", "back", "both"]


@dataclass(frozen=True)
class WornFace:
    """A worn face and what it costs.

    Attributes
    ----------
    across_mm, worn_mm : list of float
        Where each slice of the face ends, counted from the front edge, and how far it has worn back [mm].
    worn_share : float
        How far the front has walked, as a share of the face.
    due : bool
        It has reached a third: dress.
    size_lost_mm : float
        How much higher the last slice leaves the work than the collar says [mm].
    fresh_c, now_c : float
        How hot the contact is with a face just dressed, and with this one [°C].
    cuts : {"front", "back", "both"}
        Which edge leads.
    words : str
        Which edge does the work, and why.
    """

    across_mm: list[float]
    worn_mm: list[float]
    worn_share: float
    due: bool
    size_lost_mm: float
    fresh_c: float
    now_c: float
    cuts: Edge
    words: str


def worn_face(
    *,
    wheel_diameter_mm: Positive,
    wheel_width_mm: Positive,
    wheel_rpm: Rpm,
    grain_mm: Positive,
    crossfeed_mm: Positive,
    depth_mm: Annotated[float, Ge(1e-6), Le(2)],
    table_mm_s: Positive,
    front_mm: NonNegative,
    sharpness: Positive,
    fresh_sharpness: Positive,
    coolant: Coolant,
    feeds: Literal["to_back", "to_front", "both"] = "to_back",
) -> WornFace:
    """Draw up the face of a wheel whose worn front has walked so far.

    Parameters
    ----------
    wheel_diameter_mm, wheel_width_mm, wheel_rpm, grain_mm : float
        The wheel [mm] and its spindle [rpm].
    crossfeed_mm, depth_mm, table_mm_s : float
        What it cuts with [mm] [mm/s].
    front_mm : float
        How far the worn front has walked across the face [mm].
    sharpness, fresh_sharpness : float
        S now, and just after the dress.
    coolant : str
    feeds : {"to_back", "to_front", "both"}
        Which way the wheel goes across the work.
    """
    slices = slices_of(wheel_width_mm, crossfeed_mm)
    refuse_work("crossfeed_mm", slices, MOST_SLICES, "slices")
    walked = min(front_mm, wheel_width_mm) / crossfeed_mm
    each = walked / 3 if feeds == "both" else walked
    worn = [depth_mm * front_lost(number + 1, each) for number in range(slices)]
    if feeds == "both":
        worn = [max(one, other) for one, other in zip(worn, worn[::-1], strict=True)]
    elif feeds == "to_back":
        worn = worn[::-1]
    step = wheel_width_mm / slices
    share = min(front_mm / wheel_width_mm, 1.0)
    cuts: Edge = {"to_back": "back", "to_front": "front", "both": "both"}[feeds]  # type: ignore[assignment]

    def hot(edge_mm: float, dull: float) -> float:
        return evaluate(
            wheel_diameter_mm=wheel_diameter_mm,
            wheel_rpm=wheel_rpm,
            table_mm_s=table_mm_s,
            depth_mm=depth_mm,
            crossfeed_mm=crossfeed_mm,
            edge_width_mm=edge_mm,
            sharpness=dull,
            coolant=coolant,
        ).surface_temperature_c

    return WornFace(
        [step * (number + 1) for number in range(slices)],
        worn,
        share,
        share >= DRESS_SHARE,
        depth_mm * front_lost(slices, each),
        hot(grain_mm, fresh_sharpness),
        hot(grain_mm + front_mm, sharpness),
        cuts,
        _WORDS[cuts],
    )


_WORDS: dict[Edge, str] = {
    "back": "The wheel goes to the back: its back edge does nearly all the cutting, the rest of the face wipes.",
    "front": "The wheel comes to the front: its front edge does nearly all the cutting, the rest of the face wipes.",
    "both": "It cuts both ways: both edges work, a third of the wear on each.",
}
