"""One face's plan: every method side by side, sliders, and its release to the machine; or the plan that runs."""

from dataclasses import dataclass
from decimal import Decimal

from flask import abort, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from zesty_lark.core.part.faces import FaceError
from zesty_lark.core.planning.plan import Plan
from zesty_lark.core.squaring.choices import FaceChoice, RouteChoices
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.core.work.next_act import next_act
from zesty_lark.core.work.plans import METHODS, Method
from zesty_lark.core.work.telling import brief_step_words
from zesty_lark.shopfloor.acts import plans
from zesty_lark.shopfloor.part_planning import PartPlanning
from zesty_lark.shopfloor.planning import SHORT, Planning, curve_at_hand, curve_points, plan_face
from zesty_lark.shopfloor.rights import may_release, may_work_on
from zesty_lark.store import part_plans, shoplog
from zesty_lark.store.models import Job
from zesty_lark.web.plan.context import blueprint, conflict_of, kept_over, pieces_asked, planning_here, version_asked
from zesty_lark.web.plan.forms import FaceForm, choice_of, fill
from zesty_lark.web.plan.load import load_drawn
from zesty_lark.web.shared import guard
from zesty_lark.web.shared.acting import acting
from zesty_lark.web.shared.guard import access
from zesty_lark.web.shared.plan_ladder import plan_ladder, zone_depths
from zesty_lark.web.shared.svg.curve import Point, curve
from zesty_lark.web.shared.svg.ladder import LadderPlan, Rung, ladder
from zesty_lark.web.shared.wording import entry_id, units


def face_asked(where: PartPlanning, job_state: JobState) -> int | None:
    """The face this request is about: the one it names, else the one at work, else the first there is."""
    named = request.values.get("face", type=int)
    if named is not None:
        return named
    return job_state.surface or next(iter(where.basis.worked(where.choices).faces), None)


@dataclass(frozen=True)
class Sent:
    """What this request is about: its context, its form, the choices with the form's in them, and the face worked out
    with them."""

    where: PartPlanning
    form: FaceForm
    choices: RouteChoices
    planning: Planning


@blueprint.get("/jobs/<number>/plan")
@access(job="look")
def passes(number: str) -> ResponseReturnValue:
    where = planning_here()
    face = face_asked(where, guard.job_state())
    if face is None:
        return render_template("plan/nothing.html")
    running = _running(where, face)
    if running and not request.args.get("again"):
        return _running_page(where, face)
    choice, method = where.choices.face(face), request.args.get("method")
    margin = min(max(request.args.get("margin", 100 * choice.margin, type=float), 0.0), 70.0) / 100
    if method in METHODS and method != "custom":
        choice = choice.under(method, choice.skew_deg, margin)
    return _plan_page(_sent(where, FaceForm(formdata=None), face, choice))


@blueprint.post("/jobs/<number>/plan/preview")
@access(job="look", takes=FaceForm)
def preview(number: str) -> ResponseReturnValue:
    """Answer with the planning as the inputs have it now; nothing is kept."""
    return _plan_page(as_sent(), only_part=True)


def as_sent() -> Sent:
    """What the form of this request chooses."""
    where, form = planning_here(), FaceForm()
    face = face_asked(where, guard.job_state())
    if face is None:
        abort(404, f"There is no face of {where.job.number} left to plan.")
    form.validate()
    return _sent(where, form, face, choice_of(form, where.choices.face(face), where.job))


def _sent(where: PartPlanning, form: FaceForm, face: int, choice: FaceChoice) -> Sent:
    choices = where.choices.with_face(face, choice)
    try:
        return Sent(
            where,
            form,
            choices,
            plan_face(
                where.basis, face, where.basis.worked(choices), guard.person(), reason=(form.reason.data or "").strip()
            ),
        )
    except FaceError as error:
        abort(404, str(error))


@blueprint.post("/jobs/<number>/plan/keep")
@access(job="work", takes=FaceForm)
def keep_face(number: str) -> ResponseReturnValue:
    """Keep what is chosen as a new version of the part's plan."""
    sent = as_sent()
    if sent.form.errors:
        return _plan_page(sent)
    try:
        row = plans.keep_plan(
            acting(), choices=sent.choices, version=version_asked(), over=kept_over(), pieces=pieces_asked()
        )
    except part_plans.NewerVersion as error:
        return _plan_page(sent, newer=error)
    flash(f"Kept as version {row.number}.")
    return redirect(url_for("plan.passes", number=number, face=sent.planning.face), 303)


@blueprint.post("/jobs/<number>/plan")
@access(job="work", takes=FaceForm)
def release(number: str) -> ResponseReturnValue:
    """Keep the plan, release it, and log it for the face at work."""
    sent = as_sent()
    if sent.form.errors:
        return _plan_page(sent, refused=True)
    try:
        plans.release_face(
            acting(),
            face=sent.planning.face,
            choices=sent.choices,
            version=version_asked(),
            over=kept_over(),
            pieces=pieces_asked(),
            reason=sent.form.reason.data or "",
        )
    except part_plans.NewerVersion as error:
        return _plan_page(sent, newer=error)
    except shoplog.BehindError as error:
        flash(str(error))
        return redirect(url_for("plan.passes", number=number), 303)
    except plans.NotReleased as error:
        sent.form.reason.errors = [str(error)]
        return _plan_page(sent, refused=True)
    except LogError as error:
        sent.form.method.errors = [str(error)]
        return _plan_page(sent)
    return redirect(url_for("grind.station", number=number), 303)


def _running(where: PartPlanning, face: int) -> bool:
    """Whether a face's plan is at work: released, and neither done nor measured since it was cut."""
    job_state = guard.job_state()
    return face == job_state.surface and next_act(job_state).act not in ("plan", "measure_again", "lead", "stopped")


def _running_page(where: PartPlanning, face: int) -> ResponseReturnValue:
    """The plan that runs, with what is done of it; another one is a press away, not armed."""
    job_state, words = guard.job_state(), units(where.job)
    here = job_state.runs[face]
    assert here.plan is not None
    told = [
        (step, brief_step_words(step, words), step.number <= here.done, step.number in here.skipped)
        for step in here.plan.steps
    ]
    return render_template(
        "plan/running.html",
        face=here,
        plan=here.plan,
        told=told,
        where=where,
        ladder=plan_ladder(where.job, job_state, here, height=520),
        may_release=may_release(guard.person(), where.job),
    ), 200


def _plan_page(
    sent: Sent, *, only_part: bool = False, newer: part_plans.NewerVersion | None = None, refused: bool = False
) -> ResponseReturnValue:
    where, form, planning, face = sent.where, sent.form, sent.planning, sent.planning.face
    known = planning.offered_of is not None and curve_at_hand(planning.offered_of)
    best = curve_line(planning) if known else None
    fill(form, planning.face_plan.choice, planning.plan, planning.problem)
    form.based_on.data, form.face.data = where.based_on, face
    form.entry_id.data = form.entry_id.data or entry_id()
    if not form.is_submitted():
        form.seen.data = guard.job_state().last_seq
    page = "plan/_planning.html" if only_part else "plan/passes.html"
    wrong = (bool(form.errors) or refused) and not only_part
    return render_template(
        page,
        form=form,
        planning=planning,
        face=face,
        load_drawn=load_drawn(where, planning),
        too_many=where.too_many(planning.face),
        where=where,
        choice=planning.face_plan.choice,
        newer=newer,
        conflict=conflict_of(where, planning.route, newer.newest) if newer else [],
        ladder=_ladder(where.job, guard.job_state(), planning),
        curve_known=known,
        learned=where.basis.learned,
        curve=curve_of_face(where, planning, best, waiting=True),
        wheel_stops=guard.job_state().spec.stops,
        may_keep=may_work_on(guard.person(), where.job),
        may_release=may_release(guard.person(), where.job),
    ), 409 if newer else 422 if wrong else 200


def curve_line(planning: Planning) -> list[tuple[float, float]]:
    """The curve of the quickest plans, as margins and minutes."""
    points = [] if planning.offered_of is None else curve_points(planning.offered_of)
    return [(point.temperature_margin, point.minutes) for point in points if point.minutes is not None]


def curve_of_face(
    where: PartPlanning, planning: Planning, best: list[tuple[float, float]] | None = None, *, waiting: bool = False
) -> object:
    """Draw the methods of a face on the curve; choosing one, or a point with less or more margin, is a link."""
    links = [
        (
            margin,
            minutes,
            url_for(
                "plan.passes",
                number=where.job.number,
                face=planning.face,
                method="quickest",
                again=1,
                margin=round(100 * margin),
                version=where.based_on or None,
            ),
        )
        for margin, minutes in best or []
    ]
    return curve(
        [_point(where, planning, column.key, column.plan) for column in planning.columns if column.plan],
        links,
        waiting=waiting,
    )


def _point(where: PartPlanning, planning: Planning, method: Method, plan: Plan) -> Point:
    url = url_for(
        "plan.passes",
        number=where.job.number,
        face=planning.face,
        method=method,
        again=1,
        version=where.based_on or None,
    )
    return Point(
        SHORT[method],
        plan.temperature_margin,
        plan.minutes,
        plan.within_limits,
        method == planning.face_plan.choice.method,
        url,
    )


def _ladder(job: Job, job_state: JobState, planning: Planning) -> object:
    steps, words = planning.steps, units(job)
    if steps is None:
        return ""
    start = job_state.runs[planning.face].reading_mm if planning.carries_on else Decimal(0)
    rungs = [Rung(one_pass.depth_mm, start + one_pass.depth_mm, one_pass.kind) for one_pass in steps.passes]
    at_work = planning.face == job_state.surface
    band = zone_depths(job_state, planning.face, steps.stock_mm) if at_work else (steps.stock_mm, steps.stock_mm)
    foot = "to size" if not at_work else f"{words.small(steps.stock_mm)} off"
    return ladder(LadderPlan(rungs, steps.stock_mm, band, Decimal(0), 0, (), (), foot), words, height=400)
