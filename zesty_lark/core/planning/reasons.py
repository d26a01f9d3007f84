"""Why a plan's figures are what they are: the formula with this plan's numbers, its source, how sure it is, and what
would change it most."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from typing import Any

from zesty_lark.core.planning.custom import CustomSettings, custom_plan_of
from zesty_lark.core.planning.finish import DIAMOND_MM, FLATNESS_SHARE, SIZE_SHARE, most_swelling_um
from zesty_lark.core.planning.plan import Plan
from zesty_lark.core.planning.problem import Problem
from zesty_lark.core.process.evaluate import LUBRICATION, STANDARD, Evaluation, evaluate
from zesty_lark.core.process.finish import CHIP_EXPONENT, DEPTH_EXPONENT, FINISH_R1_UM, HEQ_REFERENCE_UM, LEAD_EXPONENT
from zesty_lark.core.process.holding import WET_FRICTION
from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.core.quantities.units import known_text
from zesty_lark.core.wheel.dressing import DRESSES
from zesty_lark.core.wheel.wear import DRESS_SHARE, G_CHIP_UM

FIGURES = {
    "minutes": "minutes",
    "temperature": "peak_temperature_c",
    "power": "power_w",
    "hold": "hold_safety",
    "wear": "worn_share",
    "hollow": "hollow_um",
    "size": "size_lost_um",
    "finish": "ra_um",
    "left": "left_um",
    "swelling": "swelling_um",
}
"""What can be asked about, and its field in the plan."""
UNSURE: dict[str, float] = {
    "minutes": 0.15,
    "temperature": 0.3,
    "power": 0.25,
    "hold": 0.3,
    "wear": 0.5,
    "hollow": 0.5,
    "size": 0.5,
    "finish": 0.4,
    "left": 0.3,
    "swelling": 0.35,
    "chain": 0.3,
}
"""By what share of itself each may be off: no more digits are written than that bears. Of a relation's
chain, too."""
MORE_IS_BETTER = ("hold",)
SMALL_SHARE = 0.02


@dataclass(frozen=True)
class Reason:
    """One figure: its formula, the same with this plan's numbers, where it comes from, how sure it is, and the change
    of one setting that would move it most."""

    figure: str
    formula: str
    numbers: str
    source: str
    sure: str
    changes_most: str


def reason(problem: Problem, plan: Plan, figure: str) -> Reason:
    """Explain one of ``FIGURES``.

    Raises
    ------
    InputError
        If there is no such figure.
    """
    if figure not in FIGURES:
        raise InputError("figure", f"figure must be one of {', '.join(FIGURES)}")
    formula, numbers, source, sure = _TELLERS[figure](problem, plan)
    return Reason(figure, formula, numbers, source, sure, _changes_most(problem, plan, figure))


def _hottest(problem: Problem, plan: Plan) -> Evaluation:
    """The condition the plan is hottest in, evaluated."""
    return evaluate(
        wheel_diameter_mm=problem.wheel.diameter_mm,
        wheel_rpm=problem.wheel.rpm,
        table_mm_s=plan.hottest_table_mm_s,
        depth_mm=plan.hottest_depth_mm,
        crossfeed_mm=plan.hottest_crossfeed_mm,
        edge_width_mm=plan.hottest_edge_mm,
        sharpness=plan.hottest_sharpness,
        coolant=problem.coolant,
    )


def _known(value: float, figure: str) -> str:
    """A figure in as many digits as are known of it."""
    return known_text(value, UNSURE[figure], down=figure in MORE_IS_BETTER)


_Told = tuple[str, str, str, str]


def _minutes(problem: Problem, plan: Plan) -> _Told:
    reversal, rough = problem.machine.reversal_s, plan.passes - plan.finish_passes + plan.spark_outs
    last = plan.finish_passes + plan.finish_spark_outs
    return (
        "passes · strokes · (stroke/speed + reversal) for roughing and finish, + dresses",
        f"{rough} × {problem.strokes(plan.crossfeed_mm)} × ({problem.stroke:.0f} mm / {plan.table_mm_s:g} mm/s + "
        f"{reversal:g} s) + {last} × {problem.strokes(plan.finish_crossfeed_mm)} × ({problem.stroke:.0f} mm / "
        f"{plan.finish_table_mm_s:g} mm/s + {reversal:g} s) + {plan.dresses} dresses × {problem.dress_minutes:g} min "
        f"= {_known(plan.minutes, 'minutes')} min",
        "Counted strokes; 25 mm overrun at each end.",
        "± 15 %, the table alone. Set-up, touch-off, cooling, measuring and what is cut once more come on top.",
    )


def _temperature(problem: Problem, plan: Plan) -> _Told:
    e = _hottest(problem, plan)
    boiled = ", the coolant boiled off" if e.coolant_boiled else ""
    return (
        "T = ambient + (q − q_chips)/(h_w/R + h_coolant); limit by equal tempering, at most 720 °C",
        f"u {e.specific_energy_j_mm3:.1f} J/mm³ × Q {e.removal_rate_mm3_s:.1f} mm³/s over {e.engaged_width_mm:.2f} × "
        f"{e.contact_length_mm:.2f} mm = q {e.heat_flux_w_mm2:.1f} W/mm²; R {e.work_partition:.2f}, side flow "
        f"{e.side_flow_factor:.2f}{boiled}: {_known(plan.peak_temperature_c, 'temperature')} °C. A steel tempered at "
        f"{problem.part.temper_c:g} °C bears {plan.temperature_limit_c:.0f} °C for "
        f"{1000 * e.contact_length_mm / plan.hottest_table_mm_s:.1f} ms",
        "Malkin & Guo, Grinding Technology, ch. 5-6; Rowe, Principles of Modern Grinding Technology, ch. 17-18; "
        "Hollomon-Jaffe.",
        "± 30 %: an estimate. Colour on the face or a harsher sound overrule it.",
    )


def _power(problem: Problem, plan: Plan) -> _Told:
    return (
        "P = u·Q, Q = downfeed · crossfeed · table; "
        f"u = {STANDARD.u_chip:g} + {STANDARD.u_rub:g}·S·λ·({STANDARD.heq_ref_um:g}/h_eq)^"
        f"{STANDARD.rub_exponent:g}, λ {LUBRICATION[problem.coolant]:g}",
        f"{_known(plan.power_w, 'power')} W at the worst of start, middle and end of each pass, "
        f"of {problem.spindle_w:.0f} W that may be used",
        "Malkin & Guo, Grinding Technology, ch. 5-6.",
        "± 25 %: the wheel's sharpness is a guess until the shop calibrates it.",
    )


def _hold(problem: Problem, plan: Plan) -> _Told:
    chuck = problem.chuck
    held = (
        f"{chuck.clamps} clamps of {chuck.clamp_n:g} N, and the fixture’s base on the magnet"
        if chuck.is_fixture
        else f"{chuck.pull_n_cm2:g} N/cm² × {chuck.material_factor:g} for the material × {chuck.surface_factor:g} "
        f"for the lower face, {1000 * chuck.gap_mm:.0f} µm under it"
    )
    return (
        "least of μ·(pull + weight + F_n)/F_t and (pull + weight)·½ℓ/(F_t·h), both ways; in a fixture the weakest "
        f"link; μ {WET_FRICTION:g}",
        f"{held}: {_known(plan.hold_safety, 'hold')}; {problem.hold_wanted:g} is wanted here",
        "First-order model of a magnet, an own estimate.",
        "Uncalibrated until the shop enters a pull test: try it by hand.",
    )


def _wear(problem: Problem, plan: Plan) -> _Told:
    return (
        f"κ·crossfeed·feeding strokes / wheel width; dressed before {DRESS_SHARE:.0%} of the face is worn",
        f"{_known(100 * plan.worn_share, 'wear')} % of {problem.wheel.width_mm:g} mm at most, "
        f"grinding ratio {problem.g_ratio:g} at a chip of {G_CHIP_UM:g} µm",
        "The leading slice cuts, the rest wipes: the worn front walks across the face.",
        "± 50 %: the grinding ratio depends on wheel, steel and coolant.",
    )


def _hollow(problem: Problem, plan: Plan) -> _Told:
    crown = (
        f", {_known(plan.crown_um, 'hollow')} of it the crown that the magnet does not hold down"
        if plan.crown_um
        else ""
    )
    return (
        "the heat map of the finish: cold height = wheel height − α·H·T where the wheel passed; with it the crown "
        "α·ΔT·L²/(8H) that is not held",
        f"{plan.finish_energy_j_mm:.2f} J/mm left in the work by a finish stroke, {problem.part.height_mm:g} mm high: "
        f"{_known(plan.hollow_um, 'hollow')} µm of the {FLATNESS_SHARE * problem.flatness_um:g} µm allowed{crown}",
        "Thin plate, warm while it is cut and hollow when cold; the heat picture shows it over the face.",
        "± 50 %: never a promise.",
    )


def _size(problem: Problem, plan: Plan) -> _Told:
    stop = (
        f"; the stop to measure finds it, and {_known(plan.lost_after_stop_um, 'size')} µm is lost after that"
        if plan.measure_stop
        else ""
    )
    return (
        "step · P(Poisson(κ·strokes) ≥ slices), pass by pass since the last measurement",
        f"{plan.passes} passes, in the finish {plan.finish_step_mm * 1000:g} µm a step in slices of "
        f"{plan.finish_crossfeed_mm:g} mm: {_known(plan.size_lost_um, 'size')} µm in all{stop}",
        "Where the last slice of the wheel's face has worn too, the collar is no longer the size.",
        "± 50 %. Size comes only from measuring.",
    )


def _finish(problem: Problem, plan: Plan) -> _Told:
    dress = DRESSES[plan.finish_dress]
    return (
        f"{FINISH_R1_UM:g}·lead^{LEAD_EXPONENT:g}·depth^{DEPTH_EXPONENT:g}·(h_eq/{HEQ_REFERENCE_UM:g})^{CHIP_EXPONENT:g}",
        f"{plan.finish_dress} dress: lead {DIAMOND_MM / dress.overlap:g} mm, depth {dress.depth_mm:g} mm; h_eq "
        f"{plan.finish_chip_um:.3f} µm at {plan.finish_crossfeed_mm:g} mm crossfeed: Ra "
        f"{_known(plan.ra_um, 'finish')} µm of {problem.ra_um:g}. The finish takes "
        f"{1000 * plan.finish_takes_mm:.1f} µm in all, after this roughing "
        f"{1000 * plan.finish_wanted_mm:.1f} µm are wanted",
        "Fit to usual dresses; the factor becomes the shop's own with its measured parts.",
        "± 40 %.",
    )


def _left(problem: Problem, plan: Plan) -> _Told:
    return (
        f"left = (left + step)·(1 − η)^wipes, once more for each spark-out; {SIZE_SHARE:g} of the tolerance may stay",
        f"η {problem.machine.cut_ratio:g} a wipe, {plan.finish_spark_outs} spark-out "
        f"{'pass' if plan.finish_spark_outs == 1 else 'passes'} after the finish: {_known(plan.left_um, 'left')} µm",
        "Springs of machine and wheel: a pass takes a share of what is asked.",
        "± 30 %; asked and got of each run tell.",
    )


def _swelling(problem: Problem, plan: Plan) -> _Told:
    limit = most_swelling_um(problem.tolerance)
    waits = f"; before that it cools for {plan.wait_s / 60:.1f} min" if plan.wait_s else ""
    return (
        "α·H·T, T ← T·e^(−t/τ) + E/(t·h·A)·(1 − e^(−t/τ)) from pass to pass; at most a quarter of the zone, and twice "
        "what is not known of it a tenth",
        f"{plan.rise_c:.1f} K at the last pass that feeds, {problem.part.height_mm:g} mm high: "
        f"{_known(plan.swelling_um, 'swelling')} µm larger than cold, of {limit:.2f} "
        f"in a zone of {1000 * problem.tolerance:g} µm{waits}",
        "A lumped body on the chuck; where its top is hardly cooled, half the part lies between.",
        "± 35 %: measure cold.",
    )


_TELLERS: dict[str, Callable[[Problem, Plan], _Told]] = {
    "minutes": _minutes,
    "temperature": _temperature,
    "power": _power,
    "hold": _hold,
    "wear": _wear,
    "hollow": _hollow,
    "size": _size,
    "finish": _finish,
    "left": _left,
    "swelling": _swelling,
}


def _changes_most(problem: Problem, plan: Plan, figure: str) -> str:
    """The change of one setting that would move the figure most, to the good if there is one."""
    field = FIGURES[figure]
    now = float(getattr(_with(problem, plan), field))
    best, words = 0.0, ""
    for what, other in _others(problem, plan):
        then = float(getattr(other, field))
        gain = (then - now if figure in MORE_IS_BETTER else now - then) / max(abs(now), 1e-9)
        if gain > best and _known(then, figure) != _known(now, figure):
            best, words = gain, f"{what}: {_known(then, figure)} instead of {_known(now, figure)}"
            broken = [name for name, share in other.used.items() if share > 1]
            words += f", but then {' and '.join(broken)} would be over the limit" if broken else ""
    return words + "." if best > SMALL_SHARE else "Nothing one step away would change it much."


def _others(problem: Problem, plan: Plan) -> Iterator[tuple[str, Plan]]:
    """The same plan with one thing changed."""
    g, machine = problem.graduation, problem.machine
    widest = float(problem.widest_mm)
    low, high = machine.table_min_mm_s, machine.table_max_mm_s
    changes: list[tuple[str, dict[str, Any]]] = [
        ("A fifth less downfeed", {"downfeed_mm": max(g, plan.downfeed_mm * 0.8)}),
        ("A fifth more downfeed", {"downfeed_mm": plan.downfeed_mm * 1.2 + g}),
        ("A fifth less crossfeed", {"crossfeed_mm": plan.crossfeed_mm * 0.8}),
        ("A fifth more crossfeed", {"crossfeed_mm": min(plan.crossfeed_mm * 1.2, widest)}),
        ("The table a fifth slower", {"table_mm_s": max(low, plan.table_mm_s * 0.8)}),
        ("The table a fifth faster", {"table_mm_s": min(high, plan.table_mm_s * 1.2)}),
        ("A rough dress", {"rough_dress": "rough"}),
        ("A chamfer of 1.5 mm on the leading edge", {"leading_chamfer_mm": 1.5}),
    ]
    for words, change in changes:
        if change.get("leading_chamfer_mm") and not problem.wheel.may_chamfer:
            continue
        yield words, _with(problem, plan, **change)
    for words, wetter in (("Water-based coolant", "water"), ("Oil", "oil")):
        if wetter != problem.coolant and problem.coolant not in ("water", "oil"):
            yield words, _with(replace(problem, coolant=wetter), plan)  # type: ignore[arg-type]


def _with(problem: Problem, plan: Plan, **change: Any) -> Plan:
    kept = {
        "downfeed_mm": plan.downfeed_mm or problem.graduation,
        "crossfeed_mm": plan.crossfeed_mm,
        "table_mm_s": plan.table_mm_s,
        "leading_chamfer_mm": plan.leading_chamfer_mm,
        "rough_dress": plan.rough_dress,
        "finish_passes": plan.finish_passes,
        "finish_step_mm": plan.finish_step_mm,
    } | change
    return custom_plan_of(problem, CustomSettings(**kept))
