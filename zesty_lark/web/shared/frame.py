"""The frame round every page: the stations in the order of the work, and the job's own state beside each."""

from dataclasses import dataclass
from pathlib import Path

from flask import Flask, current_app, g, request, session, url_for

from zesty_lark.core.work.behind import behind
from zesty_lark.core.work.next_act import Next, next_act
from zesty_lark.core.work.run import Run
from zesty_lark.core.work.summary import Summary, next_words
from zesty_lark.store.models import Job
from zesty_lark.web.shared import guard
from zesty_lark.web.shared.svg.net import small_net
from zesty_lark.web.shared.wording import units

SHOP, MEASURE = ("shop", "maps", "gauges", "machines", "wheels"), ("measure", "maps")
"""The stations of the frame that have several rooms."""


@dataclass(frozen=True)
class Station:
    """One station in the frame: its key, name, address, state in a word or two, and whether this page is it."""

    key: str
    name: str
    url: str
    state: str
    here: bool


def install(app: Flask) -> None:
    """Give every template the frame."""
    app.context_processor(_context)


def next_url(number: str, what: Next | Summary) -> str:
    """Return the page where the next act is done."""
    if what.act == "plan":
        return url_for("plan.passes", number=number)
    if what.act in ("measure", "measure_again", "close", "stopped", "lead", "prove"):
        return url_for(
            "measure.station",
            number=number,
            of=what.characteristic if what.act == "prove" else None,
            piece=what.piece if what.piece != 1 else None,
        )
    if what.act in ("sign_off", "finished"):
        return url_for("record.history", number=number)
    return url_for("grind.station", number=number)


def _context() -> dict[str, object]:
    context: dict[str, object] = {"station_styles": _station_styles()}
    if g.get("person") is None:
        return context | {"person": None, "job": None, "stations": []}
    current: Job | None = g.get("job")
    context.update(person=g.person, job=current, shown_unit=session.get("unit", "print"))
    if current is None:
        context["stations"] = _shop_stations()
        return context
    job_state = guard.job_state()
    what = next_act(job_state)
    context.update(
        stations=_job_stations(current),
        job_state=job_state,
        units=units(current),
        net_small=small_net(current.part, job_state.states, job_state.surface_up),
        whats_next=what,
        whats_next_url=next_url(current.number, what),
        whats_next_words=next_words(what, job_state),
        whats_behind=behind(job_state, units(current)),
    )
    return context


def _station_styles() -> list[str]:
    """The style sheets that stand beside the station of this page, its own first."""
    name = request.blueprint or ""
    station = current_app.blueprints.get(name)
    if station is None or station.static_folder is None:
        return []
    return [
        f"{name}/{each.name}"
        for each in sorted(Path(station.static_folder).glob(f"{name}*.css"), key=lambda each: each.stem)
    ]


def _here(*endpoints: str) -> bool:
    return request.endpoint in endpoints


def _shop_stations() -> list[Station]:
    stations = [
        Station("0", "Jobs", url_for("jobs.strips"), "", _here("jobs.strips")),
        Station("8", "Shop", url_for("shop.shelves"), "", request.blueprint in SHOP),
    ]
    if g.person.role == "lead":
        stations.append(Station("9", "People", url_for("account.everyone"), "", _here("account.everyone")))
    return stations


def _job_stations(job: Job) -> list[Station]:
    number, job_state = job.number, guard.job_state()
    what = next_act(job_state)
    run = job_state.at
    planned = f"{len(run.plan.passes)} passes" if run and run.plan else "to do" if run else "done"
    ground = f"{run.passes_done} of {len(run.plan.passes)}" if run and run.plan else ""
    set_up = _set_up_state(job, run)
    measured = "due" if what.act in ("measure", "measure_again", "lead", "prove") else ""
    done, surfaces = job_state.progress
    return [
        Station("0", "Jobs", url_for("jobs.strips"), "", False),
        Station("1", "Take-in", url_for("jobs.edit", number=number), "done", _here("jobs.edit")),
        Station("2", "Faces", url_for("plan.faces", number=number), f"{done} of {surfaces}", _here("plan.faces")),
        Station("3", "Plan", url_for("plan.passes", number=number), planned, _here("plan.passes", "plan.release")),
        Station("4", "Set up", url_for("setup.station", number=number), set_up, request.blueprint == "setup"),
        Station("5", "Grind", url_for("grind.station", number=number), ground, request.blueprint == "grind"),
        Station("6", "Measure", url_for("measure.station", number=number), measured, request.blueprint in MEASURE),
        Station(
            "7",
            "Record",
            url_for("record.history", number=number),
            "signed" if job_state.signed_off else "",
            request.blueprint == "record",
        ),
    ]


def _set_up_state(current: Job, run: Run | None) -> str:
    """How the set-up at work stands: stopped, laid out, or nothing yet."""
    row = next((set_up for set_up in current.set_ups if run is not None and set_up.setup == run.setup), None)
    return "" if row is None else "stops" if row.stop else "laid out"
