"""Out of parallel explained: along and across, the likely cause from slope and log, and the act that would tell."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from zesty_lark.core.measure.maps.flatness import least_squares_plane

Direction = Literal["along", "across", "middle"]
WORN_STROKES = 150
"""Strokes since the dress beyond which wear along the pass is looked at first: own estimate."""


@dataclass(frozen=True)
class PlacedReading:
    """A size at a place: x along the travel, y across from the front [mm], and its value [µm]."""

    x_mm: float
    y_mm: float
    um: float


@dataclass(frozen=True)
class Happened:
    """What the log knows of the surface.

    Attributes
    ----------
    spark_outs : int
        Passes without feed since the last that was fed.
    passes_since_dress : int
        Fed passes since the wheel was dressed.
    warm : bool
        The part was measured warm, or with its temperature nobody took soon after grinding.
    seat_checked : bool
        Its seat was tried before the touch-off.
    last_side : {"front", "back"} or None
        The side that each pass ends on, where it is known.
    """

    spark_outs: int = 0
    passes_since_dress: int = 0
    warm: bool = False
    seat_checked: bool = False
    last_side: Literal["front", "back"] | None = None


@dataclass(frozen=True)
class Cause:
    """A likely cause: in words, why it is thought of, and the act that would tell."""

    words: str
    because: str
    tells: str
    points: int


@dataclass(frozen=True)
class Explained:
    """How a pair is out of parallel: from one end to the other along and across [µm], what is left of the middle [µm],
    which of the three matters most, and the causes, the likeliest first."""

    along_um: float
    across_um: float
    middle_um: float
    mostly: Direction | None
    causes: tuple[Cause, ...]

    @property
    def words(self) -> str:
        """The slope in words."""
        said = {
            None: "Parallel as far as this gauge can tell.",
            "along": f"Tapers along the travel: {abs(self.along_um):.1f} µm, "
            f"{'right' if self.along_um > 0 else 'left'} end thick.",
            "across": f"Tapers across: {abs(self.across_um):.1f} µm, "
            f"{'back' if self.across_um > 0 else 'front'} thick.",
            "middle": f"The middle is {abs(self.middle_um):.1f} µm {'high' if self.middle_um > 0 else 'low'}.",
        }
        return said[self.mostly]


def explain(readings: Sequence[PlacedReading], u_um: float, happened: Happened) -> Explained | None:
    """Explain readings of a size at places of a face.

    Parameters
    ----------
    readings : sequence of PlacedReading
    u_um : float
        What two readings of the gauge differ by for no reason, k = 2 [µm].
    happened : Happened

    Returns
    -------
    Explained or None
        ``None`` when the readings are too few, or lie in a line.
    """
    if len(readings) < 4:
        return None
    x, y, z = (
        np.array([getattr(reading, name) for reading in readings], dtype=np.float64) for name in ("x_mm", "y_mm", "um")
    )
    try:
        a, b, c = least_squares_plane(x, y, z)
    except ValueError:
        return None
    along, across = a * float(np.ptp(x)), b * float(np.ptp(y))
    inner = np.argmin((x - x.mean()) ** 2 + (y - y.mean()) ** 2)
    others = np.delete(z - (a * x + b * y + c), inner)
    middle = float((z - (a * x + b * y + c))[inner] - others.mean())
    sizes: dict[Direction, float] = {"along": abs(along), "across": abs(across), "middle": abs(middle)}
    mostly = max(sizes, key=lambda each: sizes[each])
    if sizes[mostly] <= u_um:
        return Explained(along, across, middle, None, ())
    made = {"along": _along, "across": _across, "middle": _middle}[mostly]
    signed = {"along": along, "across": across, "middle": middle}[mostly]
    causes = sorted(made(signed, happened), key=lambda cause: -cause.points)
    return Explained(along, across, middle, mostly, tuple(causes))


def _along(um: float, happened: Happened) -> list[Cause]:
    return [
        Cause(
            "The part is not seated: dirt or a burr under one end",
            "its seat was not tried before the touch-off"
            if not happened.seat_checked
            else "a seat can move when clamped",
            "Clean, turn the part end for end, measure: a taper that turns with it is the seat's or the part's own.",
            1 if happened.seat_checked else 3,
        ),
        Cause(
            "The spark-out was uneven, or too short",
            "no pass without feed since the last cut"
            if not happened.spark_outs
            else f"{happened.spark_outs} without feed",
            "Spark out twice more and measure again: a taper that shrinks was spring.",
            3 if not happened.spark_outs else 1,
        ),
        Cause(
            "The table's way",
            "what stays when the part is turned end for end is the machine's",
            "Sweep the chuck with an indicator on the wheel head, or map it.",
            2,
        ),
    ]


def _across(um: float, happened: Happened) -> list[Cause]:
    high = "back" if um > 0 else "front"
    last = happened.last_side
    worn = happened.passes_since_dress
    return [
        Cause(
            "The wheel wore along the pass: the side it reaches last stays high",
            f"{worn} passes since the dress"
            + ("" if last is None else f"; each ends at the {last}, and the {high} is high"),
            "Dress, and take the finish pass again from the high side.",
            (2 if worn else 0) + (2 if last == high else -1 if last is not None else 0) + (1 if worn > 10 else 0),
        ),
        Cause(
            "The saddle's way",
            "what stays when the part is turned end for end is the machine's",
            "Turn the part end for end and measure: a taper that stays where it was is the saddle's.",
            2,
        ),
        Cause(
            "Heat: one side was still warm while it was cut or measured",
            "the part was warm" if happened.warm else "it was measured cold",
            "Let it lie with the gauge for half an hour and measure again.",
            3 if happened.warm else 0,
        ),
    ]


def _middle(um: float, happened: Happened) -> list[Cause]:
    low = um < 0
    return [
        Cause(
            "Heat: the middle bulged while it was cut, and is hollow cold" if low else "The magnet pulled a bow flat",
            "the middle is low" if low else "the middle is high again once it is free",
            "Dress sharp, take less a pass, more coolant; measure cold."
            if low
            else "Measure its bow free on the plate; shim the hollow.",
            3,
        ),
        Cause(
            "It was measured warm",
            "the part was warm" if happened.warm else "it was measured cold",
            "Let it cool with the gauge and measure again.",
            3 if happened.warm else 0,
        ),
    ]
