"""What opens under a face's plan on demand: the curve, why a figure is so, the heat picture, a batch on the chuck."""

from flask import Response, abort, jsonify, render_template
from flask.typing import ResponseReturnValue

from zesty_lark.core.planner.hollow import finish_map
from zesty_lark.core.planner.reasons import FIGURES, reason
from zesty_lark.core.process.heat import HeatMap
from zesty_lark.core.quantities import InputError
from zesty_lark.core.route.nest import Nest, nest
from zesty_lark.shopfloor.planning import Planning
from zesty_lark.web.plan.context import PlanContext, blueprint
from zesty_lark.web.plan.forms import FaceForm
from zesty_lark.web.plan.views import as_sent, curve_line, curve_of_face
from zesty_lark.web.shared.guard import access
from zesty_lark.web.shared.svg.nest import nest_plan
from zesty_lark.web.shared.svg.plate import plate, share_bar

__all__: list[str] = []

TURNS = (0.0, 15.0, 30.0, 90.0)


@blueprint.post("/jobs/<number>/plan/curve")
@access(job="look", takes=FaceForm)
def curve_panel(number: str) -> ResponseReturnValue:
    """The curve of the quickest plans, which takes longer than all else."""
    sent = as_sent()
    where, planning = sent.where, sent.planning
    return str(curve_of_face(where, planning, curve_line(planning)))


@blueprint.post("/jobs/<number>/plan/why/<figure>")
@access(job="look", takes=FaceForm)
def why(number: str, figure: str) -> ResponseReturnValue:
    """Why a figure is what it is."""
    planning = as_sent().planning
    if figure not in FIGURES or planning.plan is None or planning.problem is None:
        abort(404, "There is no such figure in this plan.")
    return render_template("plan/_why.html", reason=reason(planning.problem, planning.plan, figure))


@blueprint.post("/jobs/<number>/plan/heat")
@access(job="look", takes=FaceForm)
def heat(number: str) -> ResponseReturnValue:
    """The hollow this plan leaves, straight and turned."""
    planning = as_sent().planning
    if planning.plan is None or planning.problem is None:
        abort(404, "There is no plan to work the heat out for.")
    turned = sorted({*TURNS, planning.made.choice.skew_deg})
    made = {skew: _heat(planning, skew) for skew in turned}
    here, most = made[planning.made.choice.skew_deg], max(each.hollow_um for each in made.values())
    maps = [(skew, each, share_bar(each.hollow_um, most)) for skew, each in made.items()]
    return render_template("plan/_heat.html", planning=planning, maps=maps, here=here, plate=plate(here))


def _heat(planning: Planning, skew: float) -> HeatMap:
    problem, plan = planning.problem, planning.plan
    assert problem is not None and plan is not None
    return finish_map(problem, crossfeed=plan.finish_crossfeed_mm, table=plan.finish_table_mm_s, passes=plan.finish_passes,
                      energy_j_mm=plan.finish_energy_j_mm, skew_deg=skew)


@blueprint.post("/jobs/<number>/plan/batch")
@access(job="look", takes=FaceForm)
def batch(number: str) -> ResponseReturnValue:
    """How many parts lie on the chuck, and the minutes a part."""
    sent = as_sent()
    where, planning = sent.where, sent.planning
    if planning.plan is None or planning.problem is None:
        abort(404, "There is no plan to lay a batch out for.")
    made, wrong = None, ""
    try:
        made = _nest(where, planning)
    except InputError as error:
        wrong = f"{error}."
    return render_template("plan/_batch.html", planning=planning, nest=made, problem=wrong, quantity=_how_many(where, planning),
                           picture=nest_plan(made, *_chuck(where)) if made else "")


def _how_many(where: PlanContext, planning: Planning) -> int:
    """The pieces that go up together at the face at work; at one that is still to come all there are."""
    at_work = planning.face == where.basis.standing.surface
    return len(where.basis.load) if at_work and where.basis.load else where.job.part.quantity


def _chuck(where: PlanContext) -> tuple[float, float]:
    machine = where.job.machine
    if machine.chuck is None:
        return float(machine.travel_long_mm), float(machine.travel_cross_mm)
    return float(machine.chuck.length_mm), float(machine.chuck.width_mm)


def _nest(where: PlanContext, planning: Planning) -> Nest:
    problem, plan = planning.problem, planning.plan
    assert problem is not None and plan is not None
    length, width = _chuck(where)
    return nest(
        length_mm=problem.part.length_mm, width_mm=problem.part.width_mm, height_mm=problem.part.height_mm,
        quantity=_how_many(where, planning), chuck_length_mm=length, chuck_width_mm=width, wheel_width_mm=problem.wheel.width_mm,
        rough_passes=plan.rough_passes, finish_passes=plan.finish_passes, blanks=plan.finish_blanks,
        crossfeed_mm=plan.crossfeed_mm, finish_crossfeed_mm=plan.finish_crossfeed_mm, table_mm_s=plan.table_mm_s,
        finish_table_mm_s=plan.finish_table_mm_s, reversal_s=problem.machine.reversal_s,
        worn_a_pass_mm=plan.worn_a_pass_mm, dress_minutes=problem.dress_minutes, gap_mm=where.choices.gap_mm,
        feed_every=problem.machine.feed_every)


@blueprint.post("/jobs/<number>/plan/question.json")
@access(job="look", takes=FaceForm)
def question_json(number: str) -> Response:
    """What the planner is asked for this face, as ``pass.optimise`` and ``pass.schools`` take it."""
    planning = as_sent().planning
    if planning.problem is None:
        abort(404, "There is no plan to ask for.")
    return jsonify(planning.problem.request())
