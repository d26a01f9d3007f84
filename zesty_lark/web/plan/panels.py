"""What opens under a face's plan on demand: the curve, why a figure is so, the heat picture, a batch on the chuck."""

from flask import Response, abort, jsonify, render_template
from flask.typing import ResponseReturnValue

from zesty_lark.core.planning.hollow import finish_map
from zesty_lark.core.planning.reasons import FIGURES, reason
from zesty_lark.core.process.heat import HeatMap
from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.shopfloor import long_work
from zesty_lark.shopfloor.loads import chuck_size
from zesty_lark.shopfloor.planning import Planning
from zesty_lark.web.plan.context import blueprint
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
    if figure not in FIGURES or planning.plan is None or planning.asked is None:
        abort(404, "There is no such figure in this plan.")
    return render_template("plan/_why.html", reason=reason(planning.asked, planning.plan, figure))


@blueprint.post("/jobs/<number>/plan/heat")
@access(job="look", takes=FaceForm)
def heat(number: str) -> ResponseReturnValue:
    """The hollow this plan leaves, straight and turned."""
    planning = as_sent().planning
    if planning.plan is None or planning.problem is None:
        abort(404, "There is no plan to work the heat out for.")
    turned = sorted({*TURNS, planning.face_plan.choice.skew_deg})
    by_turn = {skew: _heat(planning, skew) for skew in turned}
    here, most = by_turn[planning.face_plan.choice.skew_deg], max(dealt.hollow_um for dealt in by_turn.values())
    maps = [(skew, each, share_bar(each.hollow_um, most)) for skew, each in by_turn.items()]
    return render_template("plan/_heat.html", planning=planning, maps=maps, here=here, plate=plate(here))


def _heat(planning: Planning, skew: float) -> HeatMap:
    problem, plan = planning.asked, planning.plan
    assert problem is not None and plan is not None
    return long_work.run(
        finish_map,
        problem,
        crossfeed=plan.finish_crossfeed_mm,
        table=plan.finish_table_mm_s,
        passes=plan.finish_passes,
        energy_j_mm=plan.finish_energy_j_mm,
        skew_deg=skew,
    )


@blueprint.post("/jobs/<number>/plan/batch")
@access(job="look", takes=FaceForm)
def batch(number: str) -> ResponseReturnValue:
    """How many parts lie on the chuck, and the minutes a part."""
    sent = as_sent()
    where, planning = sent.where, sent.planning
    if planning.plan is None or planning.problem is None:
        abort(404, "There is no plan to lay a batch out for.")
    nest, wrong = None, ""
    try:
        nest = where.nested(planning)
    except InputError as error:
        wrong = f"{error}."
    return render_template(
        "plan/_batch.html",
        planning=planning,
        nest=nest,
        problem=wrong,
        quantity=where.how_many(planning),
        picture=nest_plan(nest, *chuck_size(where.job), where.load_at(planning)) if nest else "",
    )


@blueprint.post("/jobs/<number>/plan/question.json")
@access(job="look", takes=FaceForm)
def question_json(number: str) -> Response:
    """What the planner is asked for this face, as ``pass.optimise`` and ``pass.schools`` take it."""
    planning = as_sent().planning
    if planning.problem is None:
        abort(404, "There is no plan to ask for.")
    return jsonify(planning.problem.request())
