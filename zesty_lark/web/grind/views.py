"""Grind: everything the plan asks for, one act at a time. Every press is one entry of the log, once."""

from flask import Blueprint, current_app, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from zesty_lark.core.work.ahead import ahead
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.core.work.next_act import next_act
from zesty_lark.core.work.rules import HeldError
from zesty_lark.core.work.witnesses import AskedAbout
from zesty_lark.shopfloor import simulation
from zesty_lark.shopfloor.acts import jobs
from zesty_lark.store import shop, shoplog
from zesty_lark.store.models import Job
from zesty_lark.web.grind.acts import press
from zesty_lark.web.grind.forms import GrindForm
from zesty_lark.web.grind.page import page
from zesty_lark.web.grind.refused import refused_words
from zesty_lark.web.shared import database, guard
from zesty_lark.web.shared.acting import acting
from zesty_lark.web.shared.forms import ReasonForm
from zesty_lark.web.shared.guard import access
from zesty_lark.web.shared.presses import from_outbox
from zesty_lark.web.shared.streams import Streams
from zesty_lark.web.shared.wording import now

blueprint = Blueprint("grind", __name__, static_folder="static", static_url_path="/static/grind")


@blueprint.get("/jobs/<number>/grind")
@access(job="look")
def station(number: str) -> ResponseReturnValue:
    """Show where the face stands; asked with the newest entry already seen, answers that nothing is new."""
    seen = request.args.get("seen", type=int)
    if seen is not None and seen == guard.job_state().last_seq:
        return "", 204
    return render_template("grind/station.html", refused="", **page(guard.job(), guard.job_state()))


@blueprint.get("/jobs/<number>/grind/live")
@access(job="look")
def live(number: str) -> ResponseReturnValue:
    """Tell, as it happens, that something was logged on the job: server-sent events with the newest entry's number."""
    streams: Streams = current_app.config["LARK_STREAMS"]
    return streams.follow(("job", guard.job().id), guard.this_sign_in(), request.args.get("seen", 0, type=int))


@blueprint.get("/jobs/<number>/grind/ahead")
@access(job="look")
def coming(number: str) -> ResponseReturnValue:
    """What the page shows after each of the next presses, for a screen that nobody answers for a while."""
    job, job_state = guard.job(), guard.job_state()
    steps = [page(job, each, plain=True) for each in ahead(job_state, now(), job.machine.graduation_mm)]
    return render_template("grind/ahead.html", steps=steps, seen=job_state.last_seq)


@blueprint.post("/jobs/<number>/grind")
@access(job="work", takes=GrindForm)
def log(number: str) -> ResponseReturnValue:
    """Log one act. Sent twice, it is logged once; sent from a screen that was behind, it is refused and shown why."""
    job = guard.job()
    act = request.form.get("act", "")
    try:
        appended = press(act, acting(at_machine=True))
    except HeldError as error:
        return _refused(job, str(error), act), 409
    except shoplog.BehindError as error:
        return _refused(job, str(error), ""), 409
    except AskedAbout as error:
        return _refused(job, str(error), act, about=error.about), 422
    except LogError as error:
        return _refused(job, str(error), act), 422
    if from_outbox():
        guard.now_state(appended.job_state)
        return render_template("grind/station.html", refused="", **page(job, appended.job_state))
    return redirect(url_for("grind.station", number=number), 303)


def _refused(job: Job, wrong: str, act: str, about: str = "") -> str:
    job_state = guard.job_state()
    words = refused_words(request.form.get("act", ""), request.form.get("surface", type=int), job_state, wrong)
    return render_template(
        "grind/station.html", refused=words, **page(job, job_state, wrong=wrong, act=act, about=about)
    )


@blueprint.post("/jobs/<number>/grind/take-over")
@access(*jobs.TAKERS, job="look", takes=ReasonForm)
def take_job_over(number: str) -> ResponseReturnValue:
    """Make the job one's own, with a reason."""
    job = guard.job()
    try:
        jobs.take_job_over(acting(), reason=request.form.get("reason", ""))
    except LogError as error:
        return _refused(job, str(error), "take_job_over"), 422
    return redirect(url_for("grind.station", number=number), 303)


@blueprint.post("/jobs/<number>/grind/simulated")
@access(job="work", takes=GrindForm)
def simulated(number: str) -> ResponseReturnValue:
    """Let the simulated grinder do the next act; what it looked like is shown, and nothing is logged."""
    job, job_state = guard.job(), guard.job_state()
    sensor = shop.sensor_of(database.session(), job.machine_id, "position")
    try:
        if sensor is None or not sensor.simulated:
            raise simulation.SimulationError("This machine is not the simulated grinder.")
        flash(simulation.do_next(sensor.to_core(), job, job_state, next_act(job_state)))
    except simulation.SimulationError as error:
        return _refused(job, str(error), ""), 422
    if from_outbox():
        return render_template("grind/station.html", refused="", **page(job, job_state))
    return redirect(url_for("grind.station", number=number), 303)
