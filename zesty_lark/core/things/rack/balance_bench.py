"""The balance bench: from what was seen in each trial to what is done next, until what is left is within the grade.

On level ways two weights are spread until nothing hangs down. With trial runs the unbalance is found from a run without
and three with a trial weight at 0°, 120° and 240°; then weights or screws are placed, and a run tells what is left.
"""

import cmath
import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Literal

from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.core.things.rack.entries import BalanceTrial, Weight
from zesty_lark.core.wheel.balance import Permissible, ring, trial_runs, two_weights
from zesty_lark.core.wheel.flanges import Flange
from zesty_lark.core.wheel.level_ways import level_ways

TRIAL_DEGS = (0.0, 120.0, 240.0)
Stage = Literal["bare", "trial", "place", "hang", "done", "stuck"]


@dataclass(frozen=True)
class BalanceNow:
    """What is done next at the bench.

    Attributes
    ----------
    stage : {"bare", "trial", "place", "hang", "done", "stuck"}
        A run as it is; a run with the trial weight; weights placed and run, or hung; balanced; it cannot go on so.
    words : str
        What to do.
    weights : tuple of Weight
        What is to be in place for it: angle [°], mass [g].
    trial_deg : float or None
        Where the trial weight sits [°].
    unbalance_gmm, heavy_deg : float or None
        Of the bare wheel, once it is known.
    residual_gmm : float or None
        What is left by the last trial, or will be when the weights are in place.
    """

    stage: Stage
    words: str
    weights: tuple[Weight, ...] = ()
    trial_deg: float | None = None
    unbalance_gmm: float | None = None
    heavy_deg: float | None = None
    residual_gmm: float | None = None
    measured_gmm: float | None = None
    per_gmm: float | None = field(default=None, repr=False)


def bench_ways(trials: Sequence[BalanceTrial], flange: Flange, *, again: bool = False) -> BalanceNow:
    """Tell what comes next on level ways; ``again`` once it was dressed since it hung nowhere."""
    masses = flange.masses_g
    if flange.kind != "weights":
        return BalanceNow("stuck", "Level ways want two equal weights in a groove. A ring of screws wants trial runs.")
    told = [trial for trial in trials if trial.method == "ways"]
    ends = [place for place, each in enumerate(told) if each.hangs == "nowhere"]
    if ends and again and ends[-1] == len(told) - 1:
        words = "It was dressed since. Let it go with the weights as they are: what hangs down?"
        return BalanceNow("hang", words, told[-1].weights)
    if ends and ends[-1] < len(told) - 1:
        told = told[ends[-1] + 1 :]
    heavy = next((each.heavy_deg for each in told if each.heavy_deg is not None), None)
    if heavy is None:
        return BalanceNow("bare", "Weights off. Let it settle on the ways, and read the angle that hangs down.")
    made = level_ways(heavy_deg=heavy, trials=[each.hangs for each in told if each.hangs])
    placed: tuple[Weight, ...] = ((made.first_deg, masses[0]), (made.second_deg, masses[1]))
    stage: Stage = "done" if made.balanced else "hang" if made.enough else "stuck"
    return BalanceNow(stage, made.words, placed, heavy_deg=heavy)


@dataclass(frozen=True)
class _Cycle:
    """A run as it was and the three with the trial weight, with what was in place in all of them."""

    bare: BalanceTrial
    with_weight: tuple[BalanceTrial, ...]


def bench_runs(
    trials: Sequence[BalanceTrial], flange: Flange, allowed: Permissible | None, *, again: bool = False
) -> BalanceNow:
    """Tell what comes next with trial runs; without an allowed unbalance the wheel's mass has to be set down first.
    ``again`` once it was dressed since it was balanced."""
    if flange.kind == "plain":
        return BalanceNow("stuck", f"{flange.name} has nothing to balance with.")
    if allowed is None:
        return BalanceNow("stuck", "Set down the mass of wheel and flange: from it comes what may be left.")
    told = [trial for trial in trials if trial.method == "runs" and trial.amplitude is not None]
    if told and told[-1].trial_deg is None and told[-1].residual_gmm is not None:
        last = told[-1].residual_gmm
        shows = _shows(told)
        if again and shows is not None:
            words = "It was dressed since. Run it up with the weights as they are, and read the amplitude."
            return BalanceNow("place", words, told[-1].weights, measured_gmm=last, per_gmm=shows)
        if last <= allowed.most_gmm:
            words = f"{last:.0f} g·mm are left of {allowed.most_gmm:.0f} allowed: balanced."
            return BalanceNow("done", words, told[-1].weights, residual_gmm=last, measured_gmm=last)
    cycle = _cycle(told)
    if cycle is None:
        return BalanceNow("bare", "Weights off. Run it up, standing aside, and read the amplitude.")
    on = cycle.bare.weights
    count = len(cycle.with_weight)
    if count < len(TRIAL_DEGS):
        words = f"Stop it. Trial weight at {TRIAL_DEGS[count]:.0f}°, run it up, read the amplitude."
        return BalanceNow("trial", words, on, TRIAL_DEGS[count], measured_gmm=cycle.bare.residual_gmm)
    return _placed(cycle, flange)


def _cycle(told: Sequence[BalanceTrial]) -> _Cycle | None:
    """The newest run without the trial weight, and what followed it."""
    at = next((place for place in reversed(range(len(told))) if told[place].trial_deg is None), None)
    return None if at is None else _Cycle(told[at], tuple(told[at + 1 :])[: len(TRIAL_DEGS)])


def _shows(told: Sequence[BalanceTrial]) -> float | None:
    """How much amplitude a gram-millimetre makes, by the newest four runs that tell it."""
    for place in reversed(range(len(told) - len(TRIAL_DEGS))):
        bare, *rest = told[place : place + 1 + len(TRIAL_DEGS)]
        if bare.trial_deg is None and all(each.trial_deg is not None for each in rest):
            return _per_gmm(_Cycle(bare, tuple(rest)))
    return None


def _per_gmm(cycle: _Cycle) -> float:
    trial, a0 = cycle.with_weight[0].trial_gmm or 1.0, cycle.bare.amplitude or 0.0
    squares = sum((each.amplitude or 0.0) ** 2 for each in cycle.with_weight) / len(TRIAL_DEGS)
    return math.sqrt(max(squares - a0**2, 0.0)) / trial


def _placed(cycle: _Cycle, flange: Flange) -> BalanceNow:
    """Where weights or screws go for what the runs told of the bare wheel."""
    trial = cycle.with_weight[0].trial_gmm
    a0, (a1, a2, a3) = cycle.bare.amplitude, (each.amplitude for each in cycle.with_weight)
    assert trial is not None and a0 is not None and a1 is not None and a2 is not None and a3 is not None
    try:
        found = trial_runs(a0=a0, a1=a1, a2=a2, a3=a3, trial_gmm=trial)
    except InputError:
        return BalanceNow("stuck", "The amplitudes contradict each other: take them again, from the run without.")
    bare = _vector(found.unbalance_gmm, found.heavy_deg) - _sum(cycle.bare.weights, flange.radius_mm)
    size, heavy = abs(bare), math.degrees(cmath.phase(bare)) % 360
    try:
        weights = _weights(size, heavy, flange)
    except InputError as error:
        return BalanceNow("stuck", str(error), unbalance_gmm=size, heavy_deg=heavy)
    left = abs(bare + _sum(weights, flange.radius_mm))
    words = f"{size:.0f} g·mm, heavy at {heavy:.0f}°. Place the weights as drawn, run it up, and read what is left."
    return BalanceNow("place", words, weights, None, size, heavy, left, cycle.bare.residual_gmm, _per_gmm(cycle))


def _weights(unbalance_gmm: float, heavy_deg: float, flange: Flange) -> tuple[Weight, ...]:
    masses = flange.masses_g
    if flange.kind == "weights":
        made = two_weights(
            unbalance_gmm=unbalance_gmm, heavy_deg=heavy_deg, mass_g=masses[0], radius_mm=float(flange.radius_mm)
        )
        return (made.first_deg, masses[0]), (made.second_deg, masses[1])
    holes = flange.holes or 1
    placed = ring(
        unbalance_gmm=unbalance_gmm,
        heavy_deg=heavy_deg,
        holes=holes,
        radius_mm=float(flange.radius_mm),
        masses_g=masses,
    ).placed
    return tuple((360.0 * hole / holes, mass) for hole, mass in placed.items())


def left_after(now: BalanceNow, amplitude: float) -> float | None:
    """Return what a run with the weights in place tells is left [g·mm]; ``None`` before the runs have told how much an
    unbalance shows."""
    return None if now.stage != "place" or not now.per_gmm else amplitude / now.per_gmm


def run_trial(now: BalanceNow, amplitude: float, flange: Flange, trial_g: float | None = None) -> BalanceTrial | None:
    """Return the trial that a run was, by what the bench asked for and the amplitude read; ``None`` where it asked for
    none, or for a trial weight [g] that is not told."""
    if now.stage not in ("bare", "trial", "place") or (now.stage == "trial" and trial_g is None):
        return None
    return BalanceTrial(
        method="runs",
        weights=now.weights,
        amplitude=amplitude,
        trial_deg=now.trial_deg,
        trial_gmm=trial_g * float(flange.radius_mm) if now.stage == "trial" and trial_g is not None else None,
        residual_gmm=left_after(now, amplitude),
    )


def last_trial_g(trials: Sequence[BalanceTrial], flange: Flange) -> float | None:
    """Return the trial weight of the last run that had one [g]."""
    found = [trial.trial_gmm for trial in trials if trial.trial_gmm]
    return found[-1] / float(flange.radius_mm) if found else None


def _vector(size: float, deg: float) -> complex:
    return cmath.rect(size, math.radians(deg))


def _sum(weights: Sequence[Weight], radius_mm: object) -> complex:
    radius = float(radius_mm)  # type: ignore[arg-type]
    return sum((_vector(mass * radius, deg) for deg, mass in weights), start=0j)
