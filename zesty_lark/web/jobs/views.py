"""Jobs: one strip a job, and taking a part in."""

from dataclasses import dataclass, replace
from datetime import timedelta
from decimal import Decimal
from typing import get_args

from flask import Blueprint, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue
from markupsafe import Markup

from zesty_lark.core.part.taken_in import TakeIn, differences
from zesty_lark.core.process.materials import materials
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.core.work.record import JobRecord
from zesty_lark.core.work.summary import Summary, WaitsFor
from zesty_lark.exchange.job_json import JobFileError, read_job
from zesty_lark.shopfloor.acts import jobs as acts
from zesty_lark.shopfloor.reading_in import Differs, Source, read_job_in
from zesty_lark.shopfloor.rights import NotYours, may_work_on
from zesty_lark.shopfloor.units import as_unit
from zesty_lark.store import jobs, people, shop, summaries
from zesty_lark.store.job_files import ReadInError
from zesty_lark.store.models import Job, MachineRow, WheelRow
from zesty_lark.store.models.jobs import AXES
from zesty_lark.store.models.people import Role
from zesty_lark.web.jobs.features import FEATURES, drawn_features, feature_fields
from zesty_lark.web.jobs.forms import ReadInForm, TakeInForm, filled_from, take_in_from
from zesty_lark.web.jobs.sense import makes_sense
from zesty_lark.web.shared import database, guard
from zesty_lark.web.shared.acting import acting, in_shop
from zesty_lark.web.shared.fields import choice_list
from zesty_lark.web.shared.frame import next_url
from zesty_lark.web.shared.guard import access
from zesty_lark.web.shared.incoming import is_sent, named, read_file
from zesty_lark.web.shared.svg.block import SizeDrawn, block, sliver
from zesty_lark.web.shared.svg.net import small_net
from zesty_lark.web.shared.wording import now

blueprint = Blueprint("jobs", __name__, static_folder="static", static_url_path="/static/jobs")


@dataclass(frozen=True)
class Strip:
    """One job on the list: its net, what is next and where to do it."""

    job: Job
    net: Markup
    told: Summary
    url: str
    mine: bool

    @property
    def finished(self) -> bool:
        """Whether it was signed off."""
        return self.told.finished_at is not None


@dataclass(frozen=True)
class Filter:
    """A press that narrows the list: its words, its address, and whether it is on."""

    name: str
    url: str
    on: bool


@blueprint.get("/")
@access()
def strips() -> ResponseReturnValue:
    """List the jobs that are under way, or what a filter or words ask for, a page at a time."""
    asked = _asked()
    found = summaries.find(database.session(), asked, guard.person())
    drawn = [
        Strip(
            job,
            small_net(job.part, told.states, told.up),
            told,
            next_url(job.number, told),
            job.owner_id == guard.person().id,
        )
        for job, told in found.rows
    ]
    machines = shop.listed(database.session(), MachineRow)
    return render_template(
        "jobs/strips.html",
        strips=drawn,
        found=found,
        filters=_filters(asked, machines),
        words=asked.words,
        narrowed=asked != summaries.Wanted(),
        more=_page_url(found, 1),
        less=_page_url(found, -1),
        kept={name: value for name, value in request.args.items() if name not in ("q", "page")},
    )


def _asked() -> summaries.Wanted:
    due = {"today": now().date(), "week": now().date() + timedelta(days=7)}.get(request.args.get("due", ""))
    return summaries.Wanted(
        owner_id=guard.person().id if request.args.get("mine") else None,
        machine_id=request.args.get("machine", type=int),
        waits_for=request.args.get("waits", "")[:12],
        due_by=due,
        finished=bool(request.args.get("finished")),
        words=request.args.get("q", "").strip()[:80],
        page=request.args.get("page", 1, type=int),
    )


def _filters(asked: summaries.Wanted, machines: list[MachineRow]) -> list[Filter]:
    """Every filter; pressed again it is off."""

    def made(name: str, key: str, value: object, on: bool) -> Filter:
        kept = {each: text for each, text in request.args.items() if each not in (key, "page")}
        return Filter(name, url_for("jobs.strips", **(kept if on else kept | {key: value})), on)

    due = request.args.get("due", "")
    return [
        made("mine", "mine", 1, asked.owner_id is not None),
        made("due by today", "due", "today", due == "today"),
        made("due in a week", "due", "week", due == "week"),
        *(
            made(f"waits for {words}", "waits", words, asked.waits_for == words)
            for words in get_args(WaitsFor)
            if words and not asked.finished
        ),
        *(made(machine.name, "machine", machine.id, asked.machine_id == machine.id) for machine in machines),
        made("finished", "finished", 1, asked.finished),
    ]


def _page_url(found: summaries.Found, step: int) -> str:
    page = found.page + step
    there = found.more if step > 0 else page >= 1
    return url_for("jobs.strips", **(request.args.to_dict() | {"page": page})) if there else ""  # type: ignore[arg-type]


@blueprint.route("/jobs/take-in", methods=["GET", "POST"])
@access(*acts.TAKERS, takes=TakeInForm)
def take_in() -> ResponseReturnValue:
    form = _form(TakeInForm())
    if request.method == "GET":
        form.owner_id.data = guard.person().id
        _offer_what_is_mounted(form)
    if form.is_submitted() and _valid(form):
        try:
            job = acts.take_in(in_shop(), what=take_in_from(form))
        except jobs.NumberTaken as error:
            form.number.errors = [str(error)]
        except acts.TakenInWrong as error:
            _say_beside(form, error)
        else:
            return redirect(url_for("plan.passes", number=job.number), 303)
    return _take_in_page(form, None)


@blueprint.route("/jobs/<number>/take-in", methods=["GET", "POST"])
@access(job="look", takes=TakeInForm)
def edit(number: str) -> ResponseReturnValue:
    job = guard.job()
    before = jobs.take_in_of(job)
    if request.method == "POST" and not may_work_on(guard.person(), job):
        raise NotYours(f"{job.number} is {job.owner.name}’s job; a change has to come from them or a lead.")
    form = _form(TakeInForm(data=filled_from(before, job.version)))
    if form.is_submitted() and _valid(form):
        after = replace(take_in_from(form), pieces=before.pieces, more=before.more)
        if _amend(job, form, after):
            return redirect(url_for("plan.faces", number=job.number), 303)
    return _take_in_page(form, job)


def _amend(job: Job, form: TakeInForm, after: TakeIn) -> bool:
    try:
        acts.change_job(acting(), after=after, version=form.version.data or 0)
    except acts.TakenInWrong as error:
        _say_beside(form, error)
        return False
    except jobs.NumberTaken as error:
        form.number.errors = [str(error)]
        return False
    except jobs.JobChanged as error:
        theirs = differences(take_in_from(form), jobs.take_in_of(job))
        form.version.errors = [
            f"{error} It differs from yours in: {', '.join(theirs) or 'nothing'}. "
            "Yours is still in the form; send it again to put it over theirs."
        ]
        form.version.raw_data, form.version.data = None, job.version
        return False
    return True


def _say_beside(form: TakeInForm, error: acts.TakenInWrong) -> None:
    """Each sentence beside its field; what the form has no field for, beside the number."""
    for name, why in error.fields.items():
        form[name if name in form else "number"].errors = [why]


def _offer_what_is_mounted(form: TakeInForm) -> None:
    """A machine with a wheel on it, and that wheel."""
    session = database.session()
    for machine in shop.listed(session, MachineRow):
        wheel = None if machine.spindle is None else shop.by_name(session, WheelRow, machine.spindle)
        if wheel is not None:
            form.machine_id.data, form.wheel_id.data = machine.id, wheel.id
            return


def _form(form: TakeInForm) -> TakeInForm:
    session = database.session()
    form.owner_id.choices = choice_list([(who.id, who.name) for who in jobs.owners(people.everyone(session))])
    form.machine_id.choices = choice_list([(row.id, row.name) for row in shop.listed(session, MachineRow)])
    form.wheel_id.choices = choice_list([(row.id, row.name) for row in shop.listed(session, WheelRow)])
    form.material.choices = choice_list([(key, key) for key in materials()])
    form.unit_changed = form.take_unit()
    form.ask_less()
    return form


def _valid(form: TakeInForm) -> bool:
    """Check every field, and then what fits together, so that all that is wrong is said at once."""
    form.validate()
    if form.unit_changed:
        form.print_unit.errors = [
            *form.print_unit.errors,
            "The print’s unit was changed: every number was converted to it. Look at them, and send again.",
        ]
    return makes_sense(form, _machine(form), shop.find(database.session(), WheelRow, form.wheel_id.data or 0))


def _machine(form: TakeInForm) -> MachineRow | None:
    return shop.find(database.session(), MachineRow, form.machine_id.data or 0)


def _take_in_page(form: TakeInForm, job: Job | None, *, only_part: bool = False) -> ResponseReturnValue:
    may_change = job is None or may_work_on(guard.person(), job)
    return render_template(
        "jobs/_take_in.html" if only_part else "jobs/take_in.html",
        form=form,
        the_job=job,
        axes=AXES,
        features=[(number, form[f"feature{number}_kind"], feature_fields(form, number)) for number in FEATURES],
        may_change=may_change,
        **_drawing(form),
    ), 422 if form.errors else 200


@blueprint.post("/jobs/convert")
@access(*acts.TAKERS, Role.INSPECTOR, takes=TakeInForm)
def convert() -> ResponseReturnValue:
    """Answer with the form as it stands, in the print's unit that was chosen; nothing is kept."""
    form, number = _form(TakeInForm()), request.args.get("number", "")
    job = jobs.by_number(database.session(), number) if number else None
    return _take_in_page(form, job, only_part=True)


@blueprint.post("/jobs/draw")
@access(*acts.TAKERS, Role.INSPECTOR, takes=TakeInForm)
def draw() -> ResponseReturnValue:
    """Answer with the drawing of what has been typed so far."""
    return render_template("jobs/_drawing.html", **_drawing(_form(TakeInForm())))


def _drawing(form: TakeInForm) -> dict[str, object]:
    unit = as_unit(form.shown_unit.data or "mm")
    machine = _machine(form)
    other = as_unit(machine.dial_unit) if machine and machine.dial_unit != unit else ("in" if unit == "mm" else "mm")
    sizes = {axis: SizeDrawn(_positive(form, axis, "target"), _positive(form, axis, "max")) for axis in AXES}
    known = {axis: float(size.target_mm) for axis, size in sizes.items() if size.target_mm}
    return {
        "drawing": block(sizes, unit, other, drawn_features(form, known)),
        "slivers": {axis: sliver(sizes[axis], unit) for axis in AXES},
    }


def _positive(form: TakeInForm, axis: str, part: str) -> Decimal | None:
    length: Decimal | None = form[f"{axis}_{part}"].length()
    return length if length is not None and length > 0 else None


def job_from(_name: str, data: bytes) -> JobRecord:
    """The job in a file.

    Raises
    ------
    JobFileError
        If it is none.
    """
    try:
        return read_job(data.decode("utf-8"))
    except UnicodeDecodeError as error:
        raise JobFileError("That is not a text file in UTF-8; a job file is JSON.") from error


@blueprint.route("/jobs/read-in", methods=["GET", "POST"])
@access(Role.LEAD, takes=ReadInForm)
def read() -> ResponseReturnValue:
    """Read a job in from its JSON file; reading it twice adds nothing."""
    form = ReadInForm()
    if form.validate_on_submit():
        try:
            record = read_file(form, job_from, JobRecord) if is_sent(form) else job_from("", b"")
            source = Source(guard.person(), now(), named(form), agreed=bool(form.agreed.data))
            job, fresh = read_job_in(database.session(), record, source)
        except Differs as error:
            return render_template("shared/differs.html", form=form, differences=error.differences), 422
        except (JobFileError, ReadInError, LogError, jobs.NumberTaken) as error:
            form.file.errors = [str(error)]
        else:
            flash(
                f"{job.number} is in, with {fresh} new log entries."
                if fresh
                else f"{job.number} was here already, entry for entry; nothing was added."
            )
            return redirect(url_for("record.history", number=job.number), 303)
    return render_template("jobs/read_in.html", form=form), 422 if form.errors else 200
