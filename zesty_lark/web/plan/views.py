"""Faces and plan: the order of the pair, its stock, and the passes in the machine's own graduations."""

from decimal import Decimal

from flask import Blueprint, abort, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from zesty_lark.core.faces import ALL_FACES, FaceError, may_grind, pair_order
from zesty_lark.core.shoplog.entries import Entry, Kind
from zesty_lark.core.shoplog.rules import LogError
from zesty_lark.core.shoplog.standing import Standing
from zesty_lark.store import shoplog
from zesty_lark.store.models import Job
from zesty_lark.store.shoplog import Draft
from zesty_lark.web.plan.forms import PlanForm, ReferenceForm, choice_of, fill, prepared, within_machine
from zesty_lark.web.plan.planning import Choice, Planning, plan_face
from zesty_lark.web.shared import database, guard
from zesty_lark.web.shared.guard import access
from zesty_lark.web.shared.svg.ladder import LadderPlan, Rung, ladder
from zesty_lark.web.shared.svg.net import large_net
from zesty_lark.web.shared.wording import entry_id, now, tongue
from zesty_lark.web.shared.work import stock_of, zone_depths

__all__ = ["blueprint"]

blueprint = Blueprint("plan", __name__)


@blueprint.route("/jobs/<number>/faces", methods=["GET", "POST"])
@access(job="look")
def faces(number: str) -> ResponseReturnValue:
    job, standing = guard.job(), guard.standing()
    form = ReferenceForm(data={"reference": job.part.reference_face})
    if request.method == "POST":
        if not guard.may_work_on(guard.person(), job):
            raise guard.NotYours(f"{job.number} is {job.owner.name}’s job; the order is theirs to choose.")
        if form.validate_on_submit() and _choose_reference(form, job, standing):
            return redirect(url_for("plan.faces", number=number), 303)
    return _faces_page(form, job, standing)


def _choose_reference(form: ReferenceForm, job: Job, standing: Standing) -> bool:
    if any(entry.kind is Kind.PASS for entry in standing.history):
        form.reference.errors = ["The pair has been ground since; its reference stays what it is."]
        return False
    if form.reference.data != job.part.reference_face:
        job.part.reference_face = form.reference.data
        database.session().flush()
        note = f"face {form.reference.data} is the reference now."
        shoplog.append(database.session(), job, guard.person(),
                       Draft(Entry(0, entry_id(), Kind.AMENDED, now(), "", note=note)))
    return True


def _faces_page(form: ReferenceForm, job: Job, standing: Standing) -> ResponseReturnValue:
    left = {face: stock_of(job, standing, face).on_mm for face in (1, 2)}
    links = {face: url_for("plan.faces", number=job.number, face=face) for face in ALL_FACES}
    for face in (1, 2):
        if face == standing.face:
            links[face] = url_for("plan.passes", number=job.number)
    steps = []
    for step in pair_order(job.part.reference_face):
        try:
            may_grind(step.up, job.part.reference_face, standing.states)
            refusal = ""
        except FaceError as error:
            refusal = str(error)
        steps.append((step, standing.faces[step.up], refusal))
    looked_at = request.args.get("face", type=int)
    return render_template(
        "plan/faces.html", form=form, steps=steps, looked_at=looked_at if looked_at in ALL_FACES else None,
        net=large_net(job.part, standing, left, tongue(job), links),
    ), 422 if form.errors else 200


@blueprint.get("/jobs/<number>/plan")
@access(job="look")
def passes(number: str) -> ResponseReturnValue:
    job, standing = guard.job(), guard.standing()
    if standing.face is None:
        return render_template("plan/nothing.html")
    return _plan_page(prepared(PlanForm(), job), job, standing, Choice())


@blueprint.post("/jobs/<number>/plan/preview")
@access(job="look")
def preview(number: str) -> ResponseReturnValue:
    """Answer with the planning as the inputs have it now; nothing is kept."""
    job, standing = guard.job(), guard.standing()
    if standing.face is None:
        abort(404, f"There is no face of {job.number} left to plan.")
    form = prepared(PlanForm(), job)
    form.validate()
    return _plan_page(form, job, standing, choice_of(form, job), only_part=True)


@blueprint.post("/jobs/<number>/plan")
@access(job="work")
def release(number: str) -> ResponseReturnValue:
    """Release the plan to the machine."""
    job, standing = guard.job(), guard.standing()
    form = prepared(PlanForm(), job)
    if standing.face is None:
        abort(404, f"There is no face of {job.number} left to plan.")
    valid = form.validate()
    within_machine(form, job)
    choice = choice_of(form, job)
    planning = plan_face(job, standing, standing.face, choice)
    _show_problem(form, planning)
    if not valid or form.errors or planning.problem:
        return _plan_page(form, job, standing, choice, planning)
    try:
        _keep_sharing(job, choice, standing)
        shoplog.release_plan(
            database.session(), job, guard.person(), planning.chosen, face=standing.face, stock_mm=planning.stock.on_mm,
            keeps_wheel_height=planning.carries_on, entry_id=form.entry_id.data or entry_id(), at=now(),
            seen=form.seen.data)
    except shoplog.BehindError as error:
        flash(str(error))
        return redirect(url_for("plan.passes", number=number), 303)
    except LogError as error:
        form.school.errors = [str(error)]
        return _plan_page(form, job, standing, choice, planning)
    return redirect(url_for("grind.station", number=number), 303)


def _keep_sharing(job: Job, choice: Choice, standing: Standing) -> None:
    """Keep another skin or share with the part, as long as its reference is not finished."""
    if choice.sharing and standing.face == job.part.reference_face:
        if choice.skin_mm is not None:
            job.part.min_skin_mm = choice.skin_mm
        job.part.first_share = None if choice.share is None else choice.share.quantize(Decimal("0.0001"))


def _show_problem(form: PlanForm, planning: Planning) -> None:
    if planning.problem:
        field = form[planning.problem_field]
        if not field.errors:
            field.errors = [planning.problem]


def _plan_page(form: PlanForm, job: Job, standing: Standing, choice: Choice,
               planning: Planning | None = None, *, only_part: bool = False) -> ResponseReturnValue:
    assert standing.face is not None
    planning = planning or plan_face(job, standing, standing.face, choice)
    within_machine(form, job)
    _show_problem(form, planning)
    fill(form, planning.chosen, job, tongue(job), choice)
    page = "plan/_planning.html" if only_part else "plan/passes.html"
    wrong = bool(form.errors) and not only_part
    return render_template(page, form=form, planning=planning, ladder=_ladder(job, standing, planning),
                           may_release=guard.may_work_on(guard.person(), job)), 422 if wrong else 200


def _ladder(job: Job, standing: Standing, planning: Planning) -> object:
    face = standing.faces[planning.face]
    start = face.reading_mm if planning.carries_on else Decimal(0)
    rungs = [Rung(each.reading_mm, start + each.reading_mm, each.kind) for each in planning.chosen.collar.passes]
    stock = max(planning.stock.on_mm, Decimal(0))
    band = zone_depths(job, planning.face, stock)
    words = tongue(job)
    return ladder(LadderPlan(rungs, stock, band, Decimal(0), 0, (), (), f"to {words.size(planning.stock.goal_mm)}"),
                  words, height=560)
