"""Balancing a wheel: level ways first, or trial runs, trial by trial on the drawing."""

from flask import abort, render_template, request
from flask.typing import ResponseReturnValue

from zesty_lark.core.things.rack.balance_bench import BalanceNow, last_trial_g, run_trial
from zesty_lark.core.things.rack.entries import BalanceTrial
from zesty_lark.core.things.rack.telling import trial_words
from zesty_lark.shopfloor.wheels import Balancing, balance_now
from zesty_lark.store.models.people import Role
from zesty_lark.web.shared.guard import access
from zesty_lark.web.shared.svg.wheels import flange_drawing
from zesty_lark.web.shared.wording import entry_id
from zesty_lark.web.wheels.context import About, about, blueprint, logged, said_in
from zesty_lark.web.wheels.forms import TrialForm

__all__: list[str] = []

HANGS = ("heavy", "light", "nowhere")


@blueprint.get("/wheels/<int:key>/balance")
@access()
def balance(key: int) -> ResponseReturnValue:
    """What comes next on the balance bench, drawn on the flange."""
    return _balancing_page(about(key), _fresh())


def _fresh() -> TrialForm:
    form = TrialForm(formdata=None)
    form.entry_id.data = entry_id()
    return form


@blueprint.post("/wheels/<int:key>/balance")
@access(Role.LEAD, Role.MACHINIST, takes=TrialForm)
def trial(key: int) -> ResponseReturnValue:
    """A trial, and what it showed."""
    of, form = about(key), TrialForm()
    bench = None if of.machine is None else balance_now(of.wheel, of.machine)
    if bench is None:
        abort(404, "This wheel is on no flange that is set down, or there is no machine.")
    if not form.validate():
        return _balancing_page(of, form)
    what = _ways(form, bench.ways) if form.method.data == "ways" else _runs(form, of, bench.runs)
    if what is None:
        return _balancing_page(of, form, "What was seen? A number, or what hung down.")
    return logged(of, said_in(form, what, of), lambda words: _balancing_page(of, form, words), "balance")


def _ways(form: TrialForm, now: BalanceNow) -> BalanceTrial | None:
    if now.stage == "bare":
        heavy = form.heavy_deg.number
        return None if heavy is None else BalanceTrial(method="ways", heavy_deg=float(heavy))
    if form.hangs.data not in HANGS or now.stage != "hang":
        return None
    return BalanceTrial(method="ways", weights=now.weights, hangs=form.hangs.data)


def _runs(form: TrialForm, of: About, now: BalanceNow) -> BalanceTrial | None:
    read, mass, flange = form.amplitude.number, form.trial_g.number, of.row.flange
    if read is None or flange is None:
        return None
    return run_trial(now, float(read), flange.to_core(), None if mass is None else float(mass))


def _balancing_page(of: About, form: TrialForm, wrong: str = "") -> ResponseReturnValue:
    bench = None if of.machine is None else balance_now(of.wheel, of.machine)
    method = _method(of, bench)
    now = None if bench is None else bench.ways if method == "ways" else bench.runs
    if not form.trial_g.data:
        form.trial_g.data = _last_trial_g(of)
    page = render_template(
        "wheels/balance.html",
        about=of,
        bench=bench,
        now=now,
        method=method,
        form=form,
        wrong=wrong,
        drawn="" if now is None else _drawn(of, now),
        trials=[(number, trial_words(each)) for number, each in enumerate(of.wheel.stands.trials, start=1)][::-1],
    )
    return page, 422 if wrong or form.errors else 200


def _method(of: About, bench: Balancing | None) -> str:
    """Level ways first, where the flange has two weights; what was begun is gone on with."""
    asked = request.args.get("way") or request.form.get("method")
    if asked in ("ways", "runs"):
        return asked
    trials = of.wheel.stands.trials
    if trials:
        return trials[-1].method
    return "ways" if bench is not None and bench.ways.stage != "stuck" else "runs"


def _last_trial_g(of: About) -> str:
    """The trial weight of the last run with one [g]; empty before the first."""
    flange = of.row.flange
    found = None if flange is None else last_trial_g(of.wheel.stands.trials, flange.to_core())
    return "" if found is None else f"{found:.4g}"


def _drawn(of: About, now: BalanceNow) -> str:
    flange = of.row.flange
    assert flange is not None
    return flange_drawing(
        float(flange.diameter_mm),
        float(flange.radius_mm),
        holes=flange.holes if flange.kind == "ring" else None,
        weights=now.weights,
        heavy_deg=now.heavy_deg,
        trial_deg=now.trial_deg,
        clockwise=of.clockwise,
    )
