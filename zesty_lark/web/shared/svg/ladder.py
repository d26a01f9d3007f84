"""The ladder: the pass plan from where the face is down to size, what is done of it, and where the wheel stands."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from decimal import Decimal

from markupsafe import Markup

from zesty_lark.core.part.shown_units import ShownUnits
from zesty_lark.web.shared.svg.element import drawing, line, polygon, rect, text

TOP, RAIL_X, RUNG_LONG, RUNG_SHORT, LABEL_GAP = 34.0, 86.0, 84.0, 56.0, 15.0


@dataclass(frozen=True)
class Rung:
    """One pass: its depth below the plan's start, its collar reading [mm], and ``rough`` or ``finish``."""

    depth_mm: Decimal
    reading_mm: Decimal
    kind: str


@dataclass(frozen=True)
class LadderPlan:
    """What a ladder shows; lengths [mm].

    Attributes
    ----------
    rungs : sequence of Rung
    stock_mm : Decimal
        Depth at which the face is at size.
    band_mm : tuple of Decimal
        Depths at which the tolerance zone begins and ends; equal when there is none.
    depth_mm : Decimal
        Where the wheel stands.
    done : int
        Rungs that are done.
    dressed_mm, measured_mm : sequence of Decimal
        Depths of dresses and measurements.
    foot : str
        What is written at the foot.
    """

    rungs: Sequence[Rung]
    stock_mm: Decimal
    band_mm: tuple[Decimal, Decimal]
    depth_mm: Decimal
    done: int
    dressed_mm: Sequence[Decimal]
    measured_mm: Sequence[Decimal]
    foot: str


def ladder(plan: LadderPlan, units: ShownUnits, *, height: float = 540) -> Markup:
    """Draw the ladder to scale."""
    lowest = max(
        plan.stock_mm, plan.band_mm[1], plan.rungs[-1].depth_mm if plan.rungs else Decimal(0), Decimal("0.0001")
    )
    run = height - TOP - 40

    def y(depth: Decimal) -> float:
        return TOP + float(depth / lowest) * run

    body = [
        *_band(plan, y),
        line(RAIL_X, TOP, RAIL_X, TOP + run, class_="ladder-rail"),
        line(RAIL_X - 8, TOP, RAIL_X + RUNG_LONG, TOP, class_="ladder-start"),
        text(RAIL_X, TOP - 12, "plan’s start", "ladder-note"),
    ]
    last_label = -LABEL_GAP
    for index, rung in enumerate(plan.rungs):
        at = y(rung.depth_mm)
        state = "done" if index < plan.done else "next" if index == plan.done else "to-do"
        length = RUNG_LONG if rung.kind == "rough" else RUNG_SHORT
        body.append(line(RAIL_X, at, RAIL_X + length, at, class_=f"ladder-rung {rung.kind} {state}"))
        if at - last_label >= LABEL_GAP or index == plan.done:
            body.append(
                text(RAIL_X - 14, at + 4, units.collar_number(rung.reading_mm), f"ladder-reading {state}", anchor="end")
            )
            last_label = at
    body += [
        polygon([(RAIL_X - 10, y(depth)), (RAIL_X, y(depth) - 5), (RAIL_X, y(depth) + 5)], "ladder-dress")
        for depth in plan.dressed_mm
    ]
    body += [rect(RAIL_X - 4, y(depth) - 4, 8, 8, class_="ladder-measure") for depth in plan.measured_mm]
    body += _wheel(y(plan.depth_mm))
    body.append(text(RAIL_X, height - 8, plan.foot, "ladder-note"))
    unit = "thou" if units.dial_unit == "in" else "mm"
    body.append(text(RAIL_X - 14, TOP - 12, unit, "ladder-note", anchor="end"))
    title = f"{plan.done} of {len(plan.rungs)} passes done"
    return drawing(260, height, title, *body, class_="ladder")


def _band(plan: LadderPlan, y: Callable[[Decimal], float]) -> list[Markup]:
    first, last = plan.band_mm
    if last <= first:
        return [line(RAIL_X - 8, y(plan.stock_mm), RAIL_X + RUNG_LONG + 40, y(plan.stock_mm), class_="ladder-size")]
    top = y(max(first, Decimal(0)))
    return [
        rect(RAIL_X - 8, top, RUNG_LONG + 60, y(last) - top, class_="ladder-band"),
        line(RAIL_X - 8, y(plan.stock_mm), RAIL_X + RUNG_LONG + 52, y(plan.stock_mm), class_="ladder-size"),
    ]


def _wheel(at: float) -> list[Markup]:
    """The wheel's edge, standing at its depth."""
    x = RAIL_X + RUNG_LONG + 14
    return [rect(x, at - 26, 40, 26, class_="ladder-wheel"), line(x - 8, at, x + 46, at, class_="ladder-wheel-edge")]
