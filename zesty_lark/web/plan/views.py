"""One face's plan: every way of grinding it side by side, sliders, and its release to the machine."""

from decimal import Decimal

from flask import abort, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from zesty_lark.core.faces import FaceError
from zesty_lark.core.process.optimise import kept_curve
from zesty_lark.core.route.choices import HABITS, RouteChoices
from zesty_lark.core.shoplog.rules import LogError
from zesty_lark.core.shoplog.standing import Standing
from zesty_lark.store import part_plans, shoplog
from zesty_lark.store.models import Job
from zesty_lark.web.plan.door import Desk, blueprint, conflict_of, desk, keep, may_release
from zesty_lark.web.plan.forms import FaceForm, choice_of, fill
from zesty_lark.web.plan.planning import Column, Planning, curve_points, plan_face
from zesty_lark.web.shared import database, guard
from zesty_lark.web.shared.guard import access
from zesty_lark.web.shared.svg.curve import Point, curve
from zesty_lark.web.shared.svg.ladder import LadderPlan, Rung, ladder
from zesty_lark.web.shared.wording import entry_id, now, tongue
from zesty_lark.web.shared.work import zone_depths

__all__ = ["curve_line", "curve_of_face", "face_asked", "planned_as_sent"]


def face_asked(where: Desk, standing: Standing) -> int | None:
    """The face this request is about: the one it names, else the one at work, else the first there is."""
    named = request.values.get("face", type=int)
    if named is not None:
        return named
    return standing.face or next(iter(where.asks.worked(where.choices).faces), None)


@blueprint.get("/jobs/<number>/plan")
@access(job="look")
def passes(number: str) -> ResponseReturnValue:
    where, standing = desk(), guard.standing()
    face = face_asked(where, standing)
    if face is None:
        return render_template("plan/nothing.html")
    choice, habit = where.choices.face(face), request.args.get("habit")
    if habit in HABITS and habit != "own":
        choice = choice_of(FaceForm(formdata=None, data={"habit": habit}), choice, where.job)
    return _page(where, standing, FaceForm(formdata=None), where.choices.with_face(face, choice), face)


@blueprint.post("/jobs/<number>/plan/preview")
@access(job="look")
def preview(number: str) -> ResponseReturnValue:
    """Answer with the planning as the inputs have it now; nothing is kept."""
    where, standing, form, choices, face = as_sent()
    return _page(where, standing, form, choices, face, only_part=True)


def as_sent() -> tuple[Desk, Standing, FaceForm, RouteChoices, int]:
    """What the form of this request chooses."""
    where, standing, form = desk(), guard.standing(), FaceForm()
    face = face_asked(where, standing)
    if face is None:
        abort(404, f"There is no face of {where.job.number} left to plan.")
    form.validate()
    choices = where.choices.with_face(face, choice_of(form, where.choices.face(face), where.job))
    return where, standing, form, choices, face


def planned_as_sent() -> tuple[Desk, Planning]:
    """The planning as the form of this request has it."""
    where, standing, _, choices, face = as_sent()
    return where, _planned(where, standing, face, choices)


def _planned(where: Desk, standing: Standing, face: int, choices: RouteChoices) -> Planning:
    try:
        return plan_face(where.job, standing, face, where.asks, choices)
    except FaceError as error:
        abort(404, str(error))


@blueprint.post("/jobs/<number>/plan/keep")
@access(job="work")
def keep_face(number: str) -> ResponseReturnValue:
    """Keep what is chosen as a new version of the part's plan."""
    where, standing, form, choices, face = as_sent()
    planning = _planned(where, standing, face, choices)
    if form.errors:
        return _page(where, standing, form, choices, face)
    try:
        row = keep(where, choices, planning.route)
    except part_plans.NewerVersion as error:
        return _page(where, standing, form, choices, face, newer=error)
    flash(f"Kept as version {row.number}.")
    return redirect(url_for("plan.passes", number=number, face=face), 303)


@blueprint.post("/jobs/<number>/plan")
@access(job="work")
def release(number: str) -> ResponseReturnValue:
    """Keep the plan, release it, and log it for the face at work."""
    where, standing, form, choices, face = as_sent()
    if not may_release(guard.person(), where.job):
        raise guard.NotYours("An apprentice’s plan is released by a lead: keep it, and ask.")
    planning = _planned(where, standing, face, choices)
    if form.errors or planning.steps is None or face != standing.face:
        return _page(where, standing, form, choices, face, refused=True)
    try:
        row = keep(where, choices, planning.route)
        shoplog.release_plan(database.session(), where.job, guard.person(), planning.steps,
                             entry_id=form.entry_id.data or entry_id(), at=now(), seen=form.seen.data)
        part_plans.release(database.session(), row, guard.person(), now())
    except part_plans.NewerVersion as error:
        return _page(where, standing, form, choices, face, newer=error)
    except shoplog.BehindError as error:
        flash(str(error))
        return redirect(url_for("plan.passes", number=number), 303)
    except LogError as error:
        form.habit.errors = [str(error)]
        return _page(where, standing, form, choices, face)
    return redirect(url_for("grind.station", number=number), 303)


def _page(where: Desk, standing: Standing, form: FaceForm, choices: RouteChoices, face: int, *, only_part: bool = False,
          newer: part_plans.NewerVersion | None = None, refused: bool = False) -> ResponseReturnValue:
    planning = _planned(where, standing, face, choices)
    known = planning.question is not None and kept_curve(planning.question) is not None
    best = curve_line(planning) if known else None
    fill(form, choices.face(face), planning.plan, planning.question)
    form.based_on.data = where.based_on
    page = "plan/_planning.html" if only_part else "plan/passes.html"
    wrong = (bool(form.errors) or refused) and not only_part
    return render_template(
        page, form=form, planning=planning, face=face, where=where, choice=choices.face(face), newer=newer,
        conflict=conflict_of(where, planning.route, newer.newest) if newer else [],
        ladder=_ladder(where.job, standing, planning), curve_known=known,
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
    chosen = planning.made.choice.habit
    points = [_point(where, planning.face, column, column.key == chosen) for column in planning.columns if column.plan]
    return curve([point for point in points if point], best or [], waiting=waiting)


def _point(where: Desk, face: int, column: Column, chosen: bool) -> Point | None:
    plan = column.plan
    if plan is None:
        return None
    url = url_for("plan.passes", number=where.job.number, face=face, habit=column.key, version=where.based_on or None)
    return Point(column.name, plan.temperature_margin, plan.minutes, plan.within_limits, chosen, url)


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
