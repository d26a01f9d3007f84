"""Quick answers about what a part stands on and against: a fence ground in place, rails, shimmed parallels."""

import math
from decimal import Decimal

from zesty_lark.core.angles_slots.answers import Answer
from zesty_lark.core.angles_slots.drawn import Outline
from zesty_lark.core.angles_slots.fences import fence_plan, rails_level
from zesty_lark.core.quantities.numbers import InputError

CAUTIONS = (
    "Only a wheel whose maker allows work on its side; guard closed, stand aside, local rules first.",
    "A part registered on the fence is parallel to the travel only as well as the fence is: sweep it again when done.",
)
SHOWN_SHARE = 0.1
"""What is out is drawn about so large a share of the whole."""


def larger(out_um: float, long_mm: float) -> float:
    """Return how many times as large a drawing shows what is out: a round number."""
    return 10.0 ** math.floor(math.log10(SHOWN_SHARE * long_mm * 1000 / max(out_um, 0.1)))


def fence_answer(*, readings_um: list[float], length_mm: float, height_mm: float, graduation_mm: Decimal) -> Answer:
    """A fence swept by an indicator on the wheel head [µm], from end to end [mm]."""
    if len(readings_um) < 2:
        raise InputError("readings", "At least two readings: one at each end.")
    made = fence_plan(readings_um=readings_um, length_mm=length_mm, height_mm=height_mm, graduation_mm=graduation_mm)
    told = [
        ("Out of parallel to the travel", f"{made.out_um:.2f} µm"),
        ("It runs out by", f"{made.slope_um_100:+.2f} µm in 100 mm"),
        ("To take at its highest place", f"{made.stock_mm.normalize():f} mm"),
        ("Infeeds", f"{made.steps} × {made.step_mm.normalize():f} mm, the last {made.last_steps} after a dress"),
        ("Then", f"{made.spark_passes} passes without feed"),
        ("The relieved back clears by", f"{made.behind_mm:.3f} mm at the fence's top"),
    ]
    steps = [
        "Clean the fence and the chuck's back edge; screws tight, bosses seated, swarf able to fall out behind.",
        "Relieve the wheel's back by 1°, so that only its edge cuts.",
        "Sweep the fence; begin where it stands out most.",
        "Creep up to the first spark; one graduation each pass, the whole length each time.",
        "Dress again before the last; spark out until it dies.",
        "Sweep again, and write what it reads on the chuck's page under Shop: ground in place.",
    ]
    low = min(readings_um)
    places = [length_mm * number / (len(readings_um) - 1) for number in range(len(readings_um))]
    times = larger(made.out_um, length_mm)
    line = [(x, (z - low) / 1000 * times) for x, z in zip(places, readings_um, strict=True)]
    deep = max(y for _, y in line) + length_mm * 0.12
    drawn = [
        Outline("tool", [*line, (length_mm, deep), (0.0, deep)]),
        Outline("ground", [(0.0, 0.0), (length_mm, 0.0)], closed=False, words="the travel"),
    ]
    title = f"From above, what is out {times:,.0f} times as large"
    return Answer(f"{made.stock_mm.normalize():f} mm", told, [(title, drawn)], steps, list(CAUTIONS))


def rails_answer(*, ends_um: tuple[float, float, float, float], span_mm: float, width_mm: float) -> Answer:
    """Two rails by their ends, front left, front right, back left, back right [µm]; a part of a width on them [mm]."""
    fl, fr, bl, br = ends_um
    made = rails_level(
        front_left_um=fl, front_right_um=fr, back_left_um=bl, back_right_um=br, span_mm=span_mm, part_width_mm=width_mm
    )
    shim = f"{made.shim_um:.2f} µm under the {made.lower} one" if made.lower else "none: they are of one height"
    names = ("front left", "front right", "back left", "back right")
    told = [
        ("Coplanar within", f"{made.coplanar_um:.2f} µm"),
        ("Shim", shim),
        ("A part leans across them by", f"{made.lean_arcsec:+.2f}″, {made.out_um:+.2f} µm over its width"),
        *((f"Off {name}, both in one pass", f"{um:.2f} µm") for name, um in zip(names, made.stock_um, strict=True)),
    ]
    front, back = (fl + fr) / 2, (bl + br) / 2
    low, high = min(front, back), 12.0
    times = larger(made.shim_um, span_mm)
    tops = [high + (each - low) / 1000 * times for each in (front, back)]
    wide = 10.0
    drawn = [
        Outline("table", [(-wide, 0.0), (span_mm + 2 * wide, 0.0)], closed=False),
        Outline("tool", [(0.0, 0.0), (wide, 0.0), (wide, tops[0]), (0.0, tops[0])], words="front"),
        Outline(
            "tool", [(span_mm, 0.0), (span_mm + wide, 0.0), (span_mm + wide, tops[1]), (span_mm, tops[1])],
            words="back",
        ),
        Outline("face", [(wide / 2, tops[0]), (span_mm + wide / 2, tops[1])], closed=False),
    ]  # fmt: skip
    steps = [
        "Rails that have to be coplanar: clamp both on the chuck, magnet on, and grind both in one pass, spark out.",
        "Parallels that are there: foil of the difference under the lower one, then read all four ends again.",
        "Turn the pair end for end: what turns with them is theirs, what stays is the chuck's.",
    ]
    title = f"From the end, what is out {times:,.0f} times as large"
    return Answer(f"{made.coplanar_um:.2f} µm", told, [(title, drawn)], steps, [CAUTIONS[1]])
