"""Set up: the bench view. Every act is kept at once, checked, and can be undone."""

from urllib.parse import urlencode

from flask import redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from zesty_lark.core.quantities.units import LengthError
from zesty_lark.core.setup.fixes import FIXES
from zesty_lark.core.setup.layout import LIES, ROLES, Piece
from zesty_lark.core.setup.suggest import suggest
from zesty_lark.core.setup.thin import MOST_TURNS
from zesty_lark.core.squaring.choices import RouteChoices
from zesty_lark.core.things.shop import ACCESSORY_KINDS
from zesty_lark.core.work.entries import Released, Rerouted
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.shopfloor.benching import Bench, in_turns, kept, moved_by, taken_into_plan, thin_of
from zesty_lark.store import benches, part_plans, shoplog
from zesty_lark.store.models.people import Role
from zesty_lark.store.shoplog import Draft
from zesty_lark.web.bench.acts import WrongAct, changed
from zesty_lark.web.bench.context import blueprint, here, set_ups
from zesty_lark.web.bench.forming import forming_here, forming_page
from zesty_lark.web.bench.forms import BenchForm, ReleaseForm
from zesty_lark.web.shared import database, guard
from zesty_lark.web.shared.guard import access
from zesty_lark.web.shared.svg.bench import bench_front, bench_plan
from zesty_lark.web.shared.wording import now, plain

LONGEST_REASON = 500
STROKE_FIELDS = (("left_mm", "Clear left"), ("right_mm", "Right"), ("front_mm", "Front"), ("back_mm", "Back"))
SETTING_FIELDS = (
    ("start", "Start at the", (("front", "front"), ("back", "back"))),
    ("nozzle", "Nozzle", (("entry", "before the contact"), ("exit", "behind it"), ("off", "off"))),
    ("magnet", "Magnet", (("full", "full"), ("low", "low"))),
    ("second_nozzle", "Second, gentle nozzle", (("no", "no"), ("yes", "yes"))),
)


@blueprint.get("/jobs/<number>/set-up")
@access(job="look")
def station(number: str) -> ResponseReturnValue:
    """Show a set-up on its bench; that of a slot, an angle or an edge with its own figures."""
    made = forming_here()
    return page(here()) if made is None else forming_page(made)


@blueprint.post("/jobs/<number>/set-up")
@access(job="work", takes=BenchForm)
def act(number: str) -> ResponseReturnValue:
    """Change the layout: kept, checked and shown again; from a bench that was behind it is refused and shown why."""
    bench = here()
    version = request.form.get("version", type=int)
    try:
        layout, chosen = changed(bench)
        back = request.form.get("act") == "undo"
        bench = kept(database.session(), bench, layout, guard.person(), version=version, at=now(), back=back)
    except (WrongAct, LengthError) as error:
        return page(bench, wrong=str(error)), 422
    except benches.LaidOutMeanwhile as error:
        said = str(error)
        return page(here(), wrong=said), 409
    if request.headers.get("HX-Request"):
        return page(bench, chosen=chosen)
    more = urlencode({"face": bench.face, "chosen": chosen})
    return redirect(f"{url_for('bench.station', number=number)}?{more}", 303)


def page(bench: Bench, *, chosen: str | None = None, wrong: str = "") -> str:
    """Render the bench: whole, or only what changes where the page asks for that."""
    if chosen is None:
        chosen = request.values.get("chosen", "")
    thing = bench.layout.find(chosen)
    template = "bench/_bench.html" if request.headers.get("HX-Request") else "bench/station.html"
    solid = next((each for each in bench.checked.built.solids if each.key == chosen), None)
    return render_template(
        template,
        bench=bench,
        checked=bench.checked,
        chosen=chosen if thing is not None else "",
        thing=thing,
        solid=solid,
        is_piece=isinstance(thing, Piece),
        plan=bench_plan(bench.checked, chosen, moves=guard.may_work_on(guard.person(), bench.job)),
        front=bench_front(bench.checked, chosen),
        set_ups=set_ups(bench.standing),
        own_things=_own_things(bench),
        fixes=FIXES,
        roles=ROLES,
        lies=LIES,
        stroke_fields=STROKE_FIELDS,
        setting_fields=SETTING_FIELDS,
        ways=suggest(bench.facts) if request.values.get("ways") else [],
        holding=_holding(bench),
        thin=thin_of(bench),
        may_work=guard.may_work_on(guard.person(), bench.job),
        is_lead=guard.person().role == Role.LEAD,
        wrong=wrong,
    )


def _holding(bench: Bench) -> bool:
    """Whether this layout holds the part otherwise than the plan has it."""
    return taken_into_plan(bench) != bench.choices


def _own_things(bench: Bench) -> list[tuple[str, list[tuple[str, str]]]]:
    """What the shop owns to put down: by kind, each with its sizes."""
    facts = bench.facts
    groups = [("Fixtures", [(each.name, f"{plain(each.height_mm)} high") for each in facts.fixtures])]
    for kind, words in ACCESSORY_KINDS.items():
        listed = [
            (each.name, " × ".join(plain(size) for size in (each.length_mm, each.width_mm, each.height_mm)))
            for each in facts.accessories
            if each.kind == kind
        ]
        if listed:
            groups.append((words, listed))
    return groups


@blueprint.get("/jobs/<number>/set-up/plan")
@access(job="look")
def into_plan(number: str) -> ResponseReturnValue:
    """Show what moves in the plan when the part is held as it is laid out."""
    bench = here()
    choices = taken_into_plan(bench)
    route, changes = moved_by(bench, choices)
    return render_template(
        "bench/_into_plan.html",
        bench=bench,
        changes=changes,
        same=choices == bench.choices,
        refused=route.faces[bench.face].refused if bench.face in route.faces else "",
        may_work=guard.may_work_on(guard.person(), bench.job),
    )


@blueprint.post("/jobs/<number>/set-up/plan")
@access(job="work", takes=BenchForm)
def take_into_plan(number: str) -> ResponseReturnValue:
    """Keep a new version of the part’s plan that holds the part as it is laid out."""
    bench = here()
    try:
        _keep_plan(bench, taken_into_plan(bench))
    except part_plans.NewerVersion as error:
        return page(bench, wrong=f"{error} Look at that one, then take the set-up into it."), 409
    return redirect(url_for("plan.passes", number=number, face=bench.face), 303)


def _keep_plan(bench: Bench, choices: RouteChoices) -> None:
    """Keep a version of the part’s plan, made from the newest.

    Raises
    ------
    NewerVersion
        If someone kept another at this very moment.
    """
    session = database.session()
    newest = part_plans.newest(session, bench.job)
    part_plans.save(
        session,
        bench.job,
        guard.person(),
        choices,
        figures=bench.basis.figures(bench.basis.worked(choices)),
        based_on=newest.number if newest else 0,
        at=now(),
    )


@blueprint.post("/jobs/<number>/set-up/turns")
@access(job="work", takes=BenchForm)
def take_in_turns(number: str) -> ResponseReturnValue:
    """Keep a new version of the part’s plan that takes both sides of a thin part so many times."""
    bench = here()
    turns = request.form.get("value", 0, type=int)
    if not 1 <= turns <= MOST_TURNS:
        return page(bench, wrong=f"Each side is taken 1 to {MOST_TURNS} times."), 422
    try:
        _keep_plan(bench, in_turns(bench, turns))
    except part_plans.NewerVersion as error:
        return page(bench, wrong=f"{error} Look at that one, then plan the turns."), 409
    return redirect(url_for("plan.passes", number=number), 303)


@blueprint.post("/jobs/<number>/set-up/turn-over")
@access(job="work", takes=BenchForm)
def turn_over(number: str) -> ResponseReturnValue:
    """The other side of a thin part comes next, again: in the log, with what is predicted."""
    bench = here()
    other = bench.standing.brief.wanted.surfaces[bench.face].opposite
    thin = thin_of(bench)
    if thin is None or bench.face != bench.standing.surface:
        return page(bench, wrong="Only the face at work of a thin part on the magnet is turned over so."), 422
    entry = Rerouted(
        entry_id=request.form.get("key", ""),
        at=now(),
        by=guard.person().sign_in_name,
        change="grind",
        surface=other,
        note=f"Turned over: a thin part, sides taken in turn; expected {thin.turns[0].out_um:.1f} µm out.",
    )
    try:
        shoplog.append(
            database.session(), bench.job, guard.person(), Draft(entry, request.form.get("version", type=int))
        )
    except (LogError, shoplog.BehindError) as error:
        return page(bench, wrong=str(error)), 422
    return redirect(url_for("bench.station", number=number, face=other), 303)


@blueprint.post("/jobs/<number>/set-up/release")
@access(Role.LEAD, job="work", takes=ReleaseForm)
def release(number: str) -> ResponseReturnValue:
    """A lead lets a caution pass, with a reason, in the log; a stop has no release."""
    bench = here()
    item, reason = request.form.get("item", ""), request.form.get("reason", "").strip()[:LONGEST_REASON]
    if item not in {each.finding.check for each in bench.checked.cautions}:
        return page(bench, wrong="That is no caution of this set-up. A stop has no release."), 422
    entry = Released(
        entry_id=request.form.get("entry_id", ""),
        at=now(),
        by=guard.person().sign_in_name,
        setup=bench.setup.key,
        item=item,
        note=reason,
    )
    try:
        shoplog.append(database.session(), bench.job, guard.person(), Draft(entry, None))
    except LogError as error:
        return page(bench, wrong=str(error)), 422
    return redirect(url_for("bench.station", number=number, face=bench.face), 303)


@blueprint.get("/jobs/<number>/set-up/sheet")
@access(job="look")
def sheet(number: str) -> ResponseReturnValue:
    """The set-up sheet, to print."""
    made = forming_here()
    if made is not None:
        return forming_page(made, sheet=True)
    bench = here()
    return render_template(
        "bench/sheet.html",
        bench=bench,
        checked=bench.checked,
        plan=bench_plan(bench.checked, moves=False),
        front=bench_front(bench.checked),
        roles=ROLES,
        lies=LIES,
        printed_at=now(),
        as_pdf=False,
    )
