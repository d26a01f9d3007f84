"""Balancing on level ways, or on rollers: the heavy spot hangs down, and two equal weights are moved until it hangs
nowhere.

Nobody reads an unbalance there, only where it hangs. With both weights on the light side they do the most they can;
what still hangs heavy is more than they reach. From there they are spread alike to both sides, and each trial halves
what the spread can still be.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, Literal

from annotated_types import MaxLen

from zesty_lark.core.quantities.numbers import Angle

Hangs = Literal["heavy", "light", "nowhere"]
FULL_SPREAD_DEG = 90.0
MOST_TRIALS = 24


@dataclass(frozen=True)
class LevelWays:
    """Where the two weights go next [°]: half their spread and their places; whether it is balanced, or needs heavier
    weights; how far the spread can still be off [°]; and in words what to do."""

    half_spread_deg: float
    first_deg: float
    second_deg: float
    balanced: bool
    enough: bool
    within_deg: float
    words: str


def level_ways(*, heavy_deg: Angle, trials: Annotated[Sequence[Hangs], MaxLen(MOST_TRIALS)] = ()) -> LevelWays:
    """Tell where the two weights go next.

    Parameters
    ----------
    heavy_deg : float
        Where the wheel hung down without weights, counted the way it turns [°].
    trials : sequence of {"heavy", "light", "nowhere"}
        What hung down with the weights as they were told each time: the heavy spot still, the light side, or nothing.
    """
    least, most, spread = 0.0, FULL_SPREAD_DEG, 0.0
    balanced, enough = False, True
    for number, hangs in enumerate(trials):
        if hangs == "nowhere":
            balanced = True
            break
        if hangs == "heavy":
            if number == 0:
                enough = False
                break
            most = spread
        else:
            least = spread
        spread = (least + most) / 2
    light = heavy_deg + 180
    first, second = (light - spread) % 360, (light + spread) % 360
    if balanced:
        words = "It stays wherever it is put: lock the weights, and check once more after a quarter turn."
    elif not enough:
        words = "With both weights on the light side it still hangs heavy: these weights are too small."
    elif not trials:
        words = f"Both weights to the light side, {light % 360:.0f}°. Let it go: what hangs down?"
    else:
        words = f"Weights to {first:.0f}° and {second:.0f}°. Let it go: what hangs down?"
    return LevelWays(spread, first, second, balanced, enough, most - least, words)
