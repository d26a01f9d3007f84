"""The load: which pieces go up together, whether they lie on the chuck, and how."""

from markupsafe import Markup

from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.core.squaring.nest import Nest, nest
from zesty_lark.shopfloor.loads import chuck_size, room_in
from zesty_lark.shopfloor.planning import Planning
from zesty_lark.web.plan.context import PlanContext
from zesty_lark.web.shared.svg.nest import nest_plan


def how_many(where: PlanContext, planning: Planning) -> int:
    """The pieces that go up together at the face at work; at one that is still to come all there are."""
    at_work = planning.face == where.basis.job_state.surface
    return len(where.basis.load) if at_work and where.basis.load else where.job.part.quantity


def load_at(where: PlanContext, planning: Planning) -> tuple[int, ...]:
    """The pieces that go up together at the face at work, the highest first."""
    job_state = where.basis.job_state
    if planning.face != job_state.surface:
        return ()
    size = job_state.spec.wanted.surfaces[planning.face].size
    return tuple(sorted(where.basis.load, key=lambda number: -job_state.pieces[number].sizes[size].by_collar_mm))


def nest_of(where: PlanContext, planning: Planning) -> Nest:
    """Lay the pieces that go up together out on the chuck.

    Raises
    ------
    InputError
        If not one lies on it with its blocks.
    """
    problem, plan = planning.problem, planning.plan
    assert problem is not None and plan is not None
    length, width = chuck_size(where.job)
    return nest(
        length_mm=problem.part.length_mm,
        width_mm=problem.part.width_mm,
        height_mm=problem.part.height_mm,
        quantity=how_many(where, planning),
        chuck_length_mm=length,
        chuck_width_mm=width,
        wheel_width_mm=problem.wheel.width_mm,
        rough_passes=plan.rough_passes,
        finish_passes=plan.finish_passes,
        spark_outs=plan.finish_spark_outs,
        crossfeed_mm=plan.crossfeed_mm,
        finish_crossfeed_mm=plan.finish_crossfeed_mm,
        table_mm_s=plan.table_mm_s,
        finish_table_mm_s=plan.finish_table_mm_s,
        reversal_s=problem.machine.reversal_s,
        worn_a_pass_mm=plan.worn_a_pass_mm,
        dress_minutes=problem.dress_minutes,
        gap_mm=where.choices.gap_mm,
        feed_every=problem.machine.feed_every,
    )


def too_many(where: PlanContext, planning: Planning) -> str:
    """Why these pieces do not go up together; empty when they do."""
    job_state = where.basis.job_state
    if planning.face != job_state.surface:
        return ""
    room, load = room_in(where.job, job_state, planning.face, where.choices.gap_mm), len(where.basis.load)
    if load <= room:
        return ""
    where_to = (
        "lie on the chuck with their blocks"
        if job_state.on_magnet(job_state.runs[planning.face])
        else "goes into the fixture"
    )
    return f"{room} {where_to}, not {load}: untick some, they make the next load."


def load_drawn(where: PlanContext, planning: Planning) -> Markup | str:
    """Draw the load on its chuck, where several pieces go up together."""
    if (
        planning.plan is None
        or planning.problem is None
        or len(load_at(where, planning)) < 2
        or too_many(where, planning)
    ):
        return ""
    try:
        return nest_plan(nest_of(where, planning), *chuck_size(where.job), load_at(where, planning))
    except InputError:
        return ""
