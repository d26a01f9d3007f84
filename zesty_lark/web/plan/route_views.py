"""The part's route: six faces in order, every method of squareness, error chains, stock of the pairs, versions."""

from flask import abort, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from zesty_lark.core.part.faces import ALL_FACES
from zesty_lark.core.part.surfaces.part import AXES
from zesty_lark.core.squaring.changes import differences
from zesty_lark.core.squaring.choices import RouteChoices
from zesty_lark.core.squaring.planned import RoutePlan, bow_if
from zesty_lark.core.work.entries import RouteChange
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.machine_rules import LogError, may_grind
from zesty_lark.core.work.telling import tell
from zesty_lark.shopfloor.acts import plans
from zesty_lark.shopfloor.part_planning import PartPlanning
from zesty_lark.shopfloor.rights import NotYours, may_release, may_work_on
from zesty_lark.shopfloor.units import as_unit
from zesty_lark.shopfloor.whole_time import runs_now, whole_time
from zesty_lark.store import part_plans, shoplog
from zesty_lark.store.models import Job
from zesty_lark.web.plan.context import blueprint, conflict_of, kept_over, pieces_asked, planning_here, version_asked
from zesty_lark.web.plan.forms import ChangeForm, ReferenceForm, RouteForm, route_form, route_of
from zesty_lark.web.shared import database, guard
from zesty_lark.web.shared.acting import acting
from zesty_lark.web.shared.fields import set_units
from zesty_lark.web.shared.guard import access
from zesty_lark.web.shared.svg.chain import chain_bar, chain_scale
from zesty_lark.web.shared.svg.net import large_net
from zesty_lark.web.shared.wording import entry_id, units


@blueprint.route("/jobs/<number>/faces", methods=["GET", "POST"])
@access(job="look", takes=ReferenceForm)
def faces(number: str) -> ResponseReturnValue:
    """Show the route; a POST chooses the reference."""
    job, job_state = guard.job(), guard.job_state()
    reference = ReferenceForm(data={"reference": job.part.reference_face})
    if request.method == "POST":
        if not may_work_on(guard.person(), job):
            raise NotYours(f"{job.number} is {job.owner.name}’s job; the order is theirs to choose.")
        if reference.validate_on_submit():
            try:
                plans.choose_reference(acting(), face=reference.reference.data)
            except LogError as error:
                reference.reference.errors = [str(error)]
            else:
                return redirect(url_for("plan.faces", number=number), 303)
    where = planning_here()
    return _route_page(
        where, job_state, route_form(where.choices, job, where.based_on), where.choices, reference=reference
    )


def _as_sent() -> tuple[PartPlanning, JobState, RouteForm, RouteChoices]:
    where, form = planning_here(), RouteForm()
    set_units(form, as_unit(where.job.print_unit))
    form.validate()
    return where, guard.job_state(), form, route_of(form, request.form, where.choices)


@blueprint.post("/jobs/<number>/route/preview")
@access(job="look", takes=RouteForm)
def route_preview(number: str) -> ResponseReturnValue:
    """Answer with the route as the inputs have it now; nothing is kept."""
    where, job_state, form, choices = _as_sent()
    return _route_page(where, job_state, form, choices, only_part=True)


@blueprint.post("/jobs/<number>/route")
@access(job="work", takes=RouteForm)
def keep_route(number: str) -> ResponseReturnValue:
    """Keep the route as a new version of the part's plan."""
    where, job_state, form, choices = _as_sent()
    if request.form.get("move") or form.errors:
        return _route_page(where, job_state, form, choices)
    try:
        row = plans.keep_plan(
            acting(), choices=choices, version=version_asked(), over=kept_over(), pieces=pieces_asked()
        )
    except part_plans.NewerVersion as error:
        return _route_page(where, job_state, form, choices, newer=error)
    flash(f"Kept as version {row.number}.")
    return redirect(url_for("plan.faces", number=number), 303)


@blueprint.post("/jobs/<number>/route/release")
@access(job="work", takes=RouteForm)
def release_route(number: str) -> ResponseReturnValue:
    """Keep the route and release the whole plan; the face at work is logged as planned if that is what comes next."""
    where, job_state, form, choices = _as_sent()
    if form.errors:
        return _route_page(where, job_state, form, choices)
    try:
        made = plans.release_route(
            acting(),
            choices=choices,
            version=version_asked(),
            over=kept_over(),
            pieces=pieces_asked(),
            reason=form.reason.data or "",
        )
    except part_plans.NewerVersion as error:
        return _route_page(where, job_state, form, choices, newer=error)
    except plans.NotReleased as error:
        return _route_page(where, job_state, form, choices, refused=error.why)
    except LogError as error:
        return _route_page(where, job_state, form, choices, refused=[str(error)])
    flash(f"Version {made.row.number} is released to {where.job.machine.name}. {made.words}".strip())
    return redirect(url_for("plan.faces", number=number), 303)


@blueprint.post("/jobs/<number>/route/change")
@access(job="work", takes=ChangeForm)
def change_route(number: str) -> ResponseReturnValue:
    """Leave the route, with a reason: a set-up skipped or taken next, a face ground again."""
    job, form = guard.job(), ChangeForm()
    changes: dict[str, RouteChange] = {"skip": "skip", "first": "first", "grind": "grind"}
    what, _, of = (form.what.data or "").partition("-")
    who = acting()
    try:
        plans.change_route(
            who,
            change=changes.get(what, "first"),
            setup=of,
            surface=int(of) if of.isdigit() else None,
            pieces=_pieces_said(form.pieces.data or ""),
            reason=form.reason.data or "",
        )
    except (LogError, shoplog.BehindError) as error:
        where = planning_here()
        return _route_page(
            where,
            guard.job_state(),
            route_form(where.choices, job, where.based_on),
            where.choices,
            change_wrong=str(error),
        )
    flash(tell(who.job_state.history[-1], units(job)))
    return redirect(url_for("plan.faces", number=number), 303)


def _pieces_said(text: str) -> tuple[int, ...]:
    return tuple(int(part) for part in text.replace(" ", "").split(",") if part.isdigit())


@blueprint.get("/jobs/<number>/plan/versions/<int:version>")
@access(job="look")
def version(number: str, version: int) -> ResponseReturnValue:
    """A version, and what it changed against the one it was made from, or any other."""
    session, job = database.session(), guard.job()
    rows = {row.number: row for row in part_plans.versions(session, job)}
    if version not in rows:
        abort(404, f"{job.number} has no plan version {version}.")
    row = rows[version]
    other = rows.get(request.args.get("against", type=int) or row.based_on)
    changes = differences(part_plans.figures_of(other), part_plans.figures_of(row)) if other else []
    return render_template(
        "plan/version.html",
        row=row,
        other=other,
        changes=changes,
        versions=list(rows.values()),
        released=part_plans.in_force(list(rows.values())),
    )


def _route_page(
    where: PartPlanning,
    job_state: JobState,
    form: RouteForm,
    choices: RouteChoices,
    *,
    only_part: bool = False,
    newer: part_plans.NewerVersion | None = None,
    refused: list[str] | None = None,
    reference: ReferenceForm | None = None,
    change_wrong: str = "",
) -> ResponseReturnValue:
    job = where.job
    route = where.basis.worked(choices)
    form.based_on.data, form.was_squareness.data = where.based_on, choices.squareness
    form.entry_id.data = form.entry_id.data or entry_id()
    scale = chain_scale(route.relations)
    reference = reference or ReferenceForm(formdata=None, data={"reference": job.part.reference_face})
    wrong = not only_part and (bool(form.errors) or bool(refused) or bool(reference.errors) or bool(change_wrong))
    return render_template(
        "plan/_route.html" if only_part else "plan/faces.html",
        form=form,
        where=where,
        route=route,
        whole=whole_time(where, route),
        runs_now=runs_now(job_state),
        choices=choices,
        axes=AXES,
        bars=[(relation, chain_bar(relation, scale)) for relation in route.relations],
        newer=newer,
        refused=refused or [],
        conflict=conflict_of(where, route, newer.newest) if newer else [],
        moved=where.moved(route) if choices == where.choices else [],
        asks_reason=plans.asks_reason(route),
        bow_if=bow_if(where.basis.block, route, where.basis.means),
        fixtures=where.basis.shop.fixtures,
        reference=reference,
        net=_net(job, job_state, route),
        change_form=ChangeForm(formdata=None),
        change_wrong=change_wrong,
        route_now=job_state.setups,
        versions=where.versions,
        released=where.released,
        guarded=_guarded(where, job_state),
        positions_open=any(
            field.typed or field.data is not None for axis in AXES for field in form.position_fields(axis)
        ),
        may_keep=may_work_on(guard.person(), job),
        may_release=may_release(guard.person(), job),
    ), 409 if newer else 422 if wrong else 200


def _guarded(where: PartPlanning, job_state: JobState) -> list[str]:
    """Why the faces that are done are not ground again."""
    said = []
    for face in where.basis.done:
        try:
            may_grind(face, job_state)
        except LogError as error:
            said.append(str(error))
    return said


def _net(job: Job, job_state: JobState, route: RoutePlan) -> object:
    left = {face: each.stock_mm for face, each in route.faces.items()}
    links = {
        face: url_for("plan.passes", number=job.number, face=face)
        if face in route.faces
        else url_for("plan.faces", number=job.number)
        for face in ALL_FACES
    }
    return large_net(job.part, job_state, left, units(job), links=links)
