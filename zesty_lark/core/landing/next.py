"""``run.next``: where a run is, what to do next, and how sure it is."""

from dataclasses import dataclass
from typing import Annotated, Any

from annotated_types import Ge, Le, MaxLen

from zesty_lark.core.landing.asked import MOST_ACTS, Act, PassFigures, Piece, Prior, Run, Size, check
from zesty_lark.core.landing.decide import End
from zesty_lark.core.landing.landed import Landed, landed
from zesty_lark.core.landing.words import why
from zesty_lark.core.quantities.numbers import Positive


@dataclass(frozen=True)
class RunNext:
    """What to do next, ending with cool and the stop's two readings, or how it ended; the greatest size as it should be
    cold [mm] and its standard uncertainty, the cut ratio and its, the chances of the acts given that it is read as in
    and that it is truly under, and whether the last measurement agreed with what was expected."""

    acts: list[dict[str, Any]]
    end: End | None
    why: str
    size_mm: float
    size_u_mm: float
    cut_ratio: float
    cut_ratio_u: float
    chance_in: float
    chance_under: float
    agrees: bool


def run_next(
    *,
    goal_mm: Size,
    lower_mm: Size,
    upper_mm: Size,
    greatest_mm: Size,
    least_mm: Size,
    graduation_mm: Positive,
    wheel_width_mm: Positive,
    rough: PassFigures,
    finish: PassFigures,
    measure_u_mm: Positive,
    setting_mm: Positive | None = None,
    rise_kept: Annotated[float, Ge(0), Le(1)] = 0.7,
    prior: Prior | None = None,
    acts: Annotated[list[Act], MaxLen(MOST_ACTS)] | None = None,
) -> RunNext:
    """Estimate a run from what was done, and say what to do next.

    Parameters
    ----------
    goal_mm, lower_mm, upper_mm : float
        The size aimed at and its limits [mm].
    greatest_mm, least_mm : float
        The part before the run, cold [mm].
    graduation_mm, setting_mm : float
        The dial's graduation, and the smallest amount it is set by; a graduation unless told otherwise [mm].
    wheel_width_mm : float
        Wheel's width [mm].
    rough, finish : PassFigures
        The two kinds of pass.
    measure_u_mm : float
        Standard uncertainty of one reading [mm].
    rise_kept : float
        The share of its rise that the part keeps from pass to pass.
    prior : Prior
        What is thought of the cut ratio of one wipe.
    acts : list of Act
        What was done, in order; none at the start. Depths are under the touch-off on the highest place.

    Raises
    ------
    InputError
        If limits or sizes are the wrong way round, or an act cannot be.
    """
    run = Run(
        goal_mm,
        lower_mm,
        upper_mm,
        (Piece(greatest_mm, least_mm),),
        graduation_mm,
        setting_mm or graduation_mm,
        wheel_width_mm,
        rough,
        finish,
        rise_kept,
        measure_u_mm,
        prior or Prior(),
        tuple(acts or ()),
    )
    check(run)
    return _answer(run, landed(run))


def _answer(run: Run, made: Landed) -> RunNext:
    decided = made.decision
    way = decided.way
    return RunNext(
        [{name: value for name, value in vars(act).items() if value is not None} for act in decided.acts],
        decided.end,
        why(run, decided),
        round(made.size_mm, 7),
        round(made.size_u_mm, 7),
        round(made.cut_ratio, 4),
        round(made.cut_ratio_u, 4),
        round(way.chances.inside, 4) if way else float(decided.end == "in"),
        round(way.chances.under, 6) if way else 0.0,
        decided.agrees,
    )
