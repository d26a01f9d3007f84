"""Where in a plan's roughing the wheel is dressed again."""

from zesty_lark.core.planning.cutting import Face, Setting, face_of
from zesty_lark.core.planning.plan import Plan
from zesty_lark.core.planning.problem import Problem
from zesty_lark.core.planning.rough import Rough
from zesty_lark.core.planning.wearing import fresh, next_pass


def dressed_before(problem: Problem, plan: Plan) -> list[int]:
    """Return the roughing passes, counted from 0, before which the wheel is dressed again."""
    rough = Rough(
        plan.rough_passes,
        plan.first_graduations,
        plan.downfeed_graduations,
        plan.crossfeed_mm,
        plan.table_mm_s,
        plan.leading_chamfer_mm,
        plan.rough_dress,
    )
    face: Face = face_of(problem, bounded=False)
    setting: Setting = rough.setting(problem)
    now, before = fresh(setting), []
    for number in range(plan.rough_passes):
        dresses = now.dresses
        now = next_pass(face, setting, now, number)
        if now.dresses > dresses:
            before.append(number)
    return before
