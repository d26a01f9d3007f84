"""One face's plan: every way of grinding it side by side, sliders, and its release to the machine."""

from dataclasses import dataclass
from decimal import Decimal

from flask import abort, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from zesty_lark.core.faces import FaceError
from zesty_lark.core.process.optimise import kept_curve
from zesty_lark.core.process.planner import Plan
from zesty_lark.core.route.choices import HABITS, FaceChoice, Habit, RouteChoices
from zesty_lark.core.shoplog.rules import LogError
from zesty_lark.core.shoplog.standing import Standing
from zesty_lark.store import part_plans, shoplog
from zesty_lark.store.models import Job
from zesty_lark.web.plan.door import APPRENTICE, Desk, blueprint, conflict_of, desk, keep, may_release
from zesty_lark.web.plan.forms import FaceForm, choice_of, fill
from zesty_lark.web.plan.planning import Planning, curve_points, plan_face
from zesty_lark.web.shared import database, guard
from zesty_lark.web.shared.guard import access
from zesty_lark.web.shared.svg.curve import Point, curve
from zesty_lark.web.shared.svg.ladder import LadderPlan, Rung, ladder
from zesty_lark.web.shared.wording import entry_id, now, tongue
from zesty_lark.web.shared.work import zone_depths

__all__ = ["as_sent", "curve_line", "curve_of_face"]


def face_asked(where: Desk, standing: Standing) -> int | None:
    """The face this request is about: the one it names, else the one at work, else the first there is."""
    named = request.values.get("face", type=int)
    if named is not None:
        return named
    return standing.face or next(iter(where.asks.worked(where.choices).faces), None)


@dataclass(frozen=True)
class Sent:
    """What this request is about: the desk, its form, the choices with the form's in them, and the face worked out with them."""

    where: Desk
    form: FaceForm
    choices: RouteChoices
    planning: Planning


@blueprint.get("/jobs/<number>/plan")
@access(job="look")
def passes(number: str) -> ResponseReturnValue:
    where = desk()
    face = face_asked(where, guard.standing())
    if face is None:
        return render_template("plan/nothing.html")
    choice, habit = where.choices.face(face), request.args.get("habit")
    if habit in HABITS and habit != "own":
        choice = choice.under(habit, choice.skew_deg)
    return _page(_sent(where, FaceForm(formdata=None), face, choice))


@blueprint.post("/jobs/<number>/plan/preview")
@access(job="look")
def preview(number: str) -> ResponseReturnValue:
    """Answer with the planning as the inputs have it now; nothing is kept."""
    return _page(as_sent(), only_part=True)


def as_sent() -> Sent:
    """What the form of this request chooses."""
    where, form = desk(), FaceForm()
    face = face_asked(where, guard.standing())
    if face is None:
        abort(404, f"There is no face of {where.job.number} left to plan.")
    form.validate()
    return _sent(where, form, face, choice_of(form, where.choices.face(face), where.job))


def _sent(where: Desk, form: FaceForm, face: int, choice: FaceChoice) -> Sent:
    choices = where.choices.with_face(face, choice)
    try:
        return Sent(where, form, choices, plan_face(where.job, guard.standing(), face, where.asks.worked(choices)))
    except FaceError as error:
        abort(404, str(error))


@blueprint.post("/jobs/<number>/plan/keep")
@access(job="work")
def keep_face(number: str) -> ResponseReturnValue:
    """Keep what is chosen as a new version of the part's plan."""
    sent = as_sent()
    if sent.form.errors:
        return _page(sent)
    try:
        row = keep(sent.where, sent.choices, sent.planning.route)
    except part_plans.NewerVersion as error:
        return _page(sent, newer=error)
    flash(f"Kept as version {row.number}.")
    return redirect(url_for("plan.passes", number=number, face=sent.planning.face), 303)


@blueprint.post("/jobs/<number>/plan")
@access(job="work")
def release(number: str) -> ResponseReturnValue:
    """Keep the plan, release it, and log it for the face at work."""
    sent = as_sent()
    where, form, planning = sent.where, sent.form, sent.planning
    if not may_release(guard.person(), where.job):
        raise guard.NotYours(APPRENTICE)
    if planning.route.stops:
        form.habit.errors = [f"Not released. {stop}" for stop in planning.route.stops]
    if form.errors or planning.steps is None or planning.face != guard.standing().face:
        return _page(sent, refused=True)
    try:
        row = keep(where, sent.choices, planning.route)
        shoplog.release_plan(database.session(), where.job, guard.person(), planning.steps,
                             entry_id=form.entry_id.data or entry_id(), at=now(), seen=form.seen.data)
        part_plans.release(database.session(), row, guard.person(), now())
    except part_plans.NewerVersion as error:
        return _page(sent, newer=error)
    except shoplog.BehindError as error:
        flash(str(error))
        return redirect(url_for("plan.passes", number=number), 303)
    except LogError as error:
        form.habit.errors = [str(error)]
        return _page(sent)
    return redirect(url_for("grind.station", number=number), 303)


def _page(sent: Sent, *, only_part: bool = False, newer: part_plans.NewerVersion | None = None,
          refused: bool = False) -> ResponseReturnValue:
    where, form, planning, face = sent.where, sent.form, sent.planning, sent.planning.face
    known = planning.question is not None and kept_curve(planning.question) is not None
    best = curve_line(planning) if known else None
    fill(form, planning.made.choice, planning.plan, planning.question)
    form.based_on.data = where.based_on
    page = "plan/_planning.html" if only_part else "plan/passes.html"
    wrong = (bool(form.errors) or refused) and not only_part
    return render_template(
        page, form=form, planning=planning, face=face, where=where, choice=planning.made.choice, newer=newer,
        conflict=conflict_of(where, planning.route, newer.newest) if newer else [],
        ladder=_ladder(where.job, guard.standing(), planning), curve_known=known,
        curve=curve_of_face(where, planning, best, waiting=True),
        may_keep=guard.may_work_on(guard.person(), where.job), may_release=may_release(guard.person(), where.job),
    ), 409 if newer else 422 if wrong else 200


def curve_line(planning: Planning) -> list[tuple[float, float]]:
    """The curve of the quickest plans, as margins and minutes."""
    points = [] if planning.question is None else curve_points(planning.question)
    return [(point.temperature_margin, point.minutes) for point in points if point.minutes is not None]


def curve_of_face(where: Desk, planning: Planning, best: list[tuple[float, float]] | None = None, *,
                  waiting: bool = False) -> object:
    """Draw the ways of grinding a face; choosing one is a link."""
    return curve([_point(where, planning, column.key, column.plan) for column in planning.columns if column.plan], best or [],
                 waiting=waiting)


def _point(where: Desk, planning: Planning, habit: Habit, plan: Plan) -> Point:
    url = url_for("plan.passes", number=where.job.number, face=planning.face, habit=habit, version=where.based_on or None)
    return Point(HABITS[habit], plan.temperature_margin, plan.minutes, plan.within_limits,
                 habit == planning.made.choice.habit, url)


def _ladder(job: Job, standing: Standing, planning: Planning) -> object:
    steps, words = planning.steps, tongue(job)
    if steps is None:
        return ""
    start = standing.faces[planning.face].reading_mm if planning.carries_on else Decimal(0)
    rungs = [Rung(each.depth_mm, start + each.depth_mm, each.kind) for each in steps.steps]
    at_work = planning.face == standing.face
    band = zone_depths(job, planning.face, steps.stock_mm) if at_work else (steps.stock_mm, steps.stock_mm)
    foot = "to size" if not at_work else f"{words.small(steps.stock_mm)} off"
    return ladder(LadderPlan(rungs, steps.stock_mm, band, Decimal(0), 0, (), (), foot), words, height=400)
