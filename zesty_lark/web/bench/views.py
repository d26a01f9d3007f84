"""Set up: the bench view. Every act is kept at once, checked, and can be undone."""

from collections.abc import Callable
from dataclasses import replace
from urllib.parse import urlencode

from flask import redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from zesty_lark.core.bench import moves
from zesty_lark.core.bench.fixes import FIXES, fixed
from zesty_lark.core.bench.layout import LIES, ROLES, Layout, Piece, Stood
from zesty_lark.core.bench.suggest import suggest
from zesty_lark.core.shop import ACCESSORY_KINDS
from zesty_lark.core.units import LengthError, parse_length
from zesty_lark.core.work.entries import Released
from zesty_lark.core.work.rules import LogError
from zesty_lark.shopfloor.benching import Bench, kept, moved_by, taken_into_plan
from zesty_lark.store import benches, part_plans, shoplog
from zesty_lark.store.models.people import Role
from zesty_lark.store.shoplog import Draft
from zesty_lark.web.bench.context import blueprint, here, set_ups
from zesty_lark.web.bench.forms import BenchForm, ReleaseForm
from zesty_lark.web.shared import database, guard
from zesty_lark.web.shared.guard import access
from zesty_lark.web.shared.svg.bench import bench_front, bench_plan
from zesty_lark.web.shared.wording import now

__all__ = ["WrongAct"]

LONGEST_REASON = 500
STROKE_FIELDS = (("left_mm", "Clear left"), ("right_mm", "Right"), ("front_mm", "Front"), ("back_mm", "Back"))
SETTING_FIELDS = (
    ("start", "Start at the", (("front", "front"), ("back", "back"))),
    ("nozzle", "Nozzle", (("entry", "before the contact"), ("exit", "behind it"), ("off", "off"))),
    ("magnet", "Magnet", (("full", "full"), ("low", "low"))),
    ("second_nozzle", "Second, gentle nozzle", (("no", "no"), ("yes", "yes"))),
)


class WrongAct(ValueError):
    """What was asked of the bench cannot be; the message is for the person."""


@blueprint.get("/jobs/<number>/set-up")
@access(job="look")
def station(number: str) -> ResponseReturnValue:
    """Show a set-up on its bench."""
    return page(here())


@blueprint.post("/jobs/<number>/set-up")
@access(job="work", takes=BenchForm)
def act(number: str) -> ResponseReturnValue:
    """Change the layout: kept, checked and shown again; from a bench that was behind it is refused and shown why."""
    bench = here()
    version = request.form.get("version", type=int)
    try:
        layout, chosen = _changed(bench)
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
    groups = [("Fixtures", [(each.name, f"{each.height_mm:g} high") for each in facts.fixtures])]
    for kind, words in ACCESSORY_KINDS.items():
        listed = [
            (each.name, f"{each.length_mm:g} × {each.width_mm:g} × {each.height_mm:g}")
            for each in facts.accessories
            if each.kind == kind
        ]
        if listed:
            groups.append((words, listed))
    return groups


Changed = tuple[Layout, str]


def _changed(bench: Bench) -> Changed:
    """The layout after the act that was asked for, and what is chosen then."""
    asked = request.form.get("act", "")
    if asked not in _ACTS:
        raise WrongAct("That is not something the bench does.")
    key = request.form.get("key", "")
    if asked in ("move", "nudge", "turn", "lie", "off", "place") and bench.layout.find(key) is None:
        raise WrongAct("That is no longer on the bench.")
    return _ACTS[asked](bench, key)


def _mm(name: str) -> float:
    try:
        return float(parse_length(request.form.get(name, "").replace("−", "-").strip(), "mm"))
    except LengthError as error:
        raise WrongAct(str(error)) from error


def _number(name: str, most: float) -> float:
    try:
        value = float(request.form.get(name, "").replace("−", "-").replace("°", "").replace(",", ".").strip())
    except ValueError as error:
        raise WrongAct("A number is wanted, such as 12.5.") from error
    if not -most <= value <= most:
        raise WrongAct(f"It has to be from −{most:g} to {most:g}.")
    return value


def _move(bench: Bench, key: str) -> Changed:
    x, y = _number("x_mm", 2000), _number("y_mm", 2000)
    snap = request.form.get("snap") == "yes"
    return moves.move(bench.layout, bench.facts, key, x_mm=x, y_mm=y, snap=snap), key


def _place(bench: Bench, key: str) -> Changed:
    """Typed numbers: where its middle is, and its turn."""
    layout, _ = _move(bench, key)
    thing = layout.find(key)
    assert thing is not None
    return moves.turn(layout, bench.facts, key, _number("turn_deg", 180) - thing.turn_deg), key


def _nudge(bench: Bench, key: str) -> Changed:
    thing = bench.layout.find(key)
    assert thing is not None
    x, y = thing.x_mm + _number("by_x", 100), thing.y_mm + _number("by_y", 100)
    return moves.move(bench.layout, bench.facts, key, x_mm=x, y_mm=y, snap=False), key


def _turn(bench: Bench, key: str) -> Changed:
    return moves.turn(bench.layout, bench.facts, key, _number("by_deg", 180)), key


def _lie(bench: Bench, key: str) -> Changed:
    thing = bench.layout.find(key)
    if not isinstance(thing, Stood):
        raise WrongAct("A piece lies as its set-up has it.")
    ways = list(LIES)
    return moves.stand(bench.layout, key, ways[(ways.index(thing.lies) + 1) % len(ways)]), key  # type: ignore[arg-type]


def _off(bench: Bench, key: str) -> Changed:
    if isinstance(bench.layout.find(key), Piece):
        raise WrongAct("The load’s pieces are chosen in the plan.")
    return bench.layout.without(key), ""


def _add(bench: Bench, key: str) -> Changed:
    try:
        layout = moves.add(bench.layout, bench.facts, request.form.get("name", ""), request.form.get("role", ""))
    except KeyError as error:
        raise WrongAct("The shop has nothing of that name.") from error
    return layout, layout.things[-1].key


def _fix(bench: Bench, key: str) -> Changed:
    fix = request.form.get("fix", "")
    if fix not in FIXES:
        raise WrongAct("There is no such remedy.")
    keys = tuple(each for each in request.form.get("keys", "").split(",") if each)
    layout = fixed(bench.layout, bench.facts, fix, keys)
    if layout == bench.layout:
        raise WrongAct(f"The shop has nothing for that now: {_wants(bench, fix)}")
    return layout, keys[0] if keys and layout.find(keys[0]) else ""


def _wants(bench: Bench, fix: str) -> str:
    """What is missing, by size."""
    low = min((piece.final for piece in bench.checked.built.pieces), default=0.0)
    if fix == "support it":
        return f"two blocks that end {low * 2 / 3:.0f} to {low - 0.3:.1f} mm high."
    if fix in ("just under the face", "lower the block"):
        return f"a block that ends {low - 0.3:.1f} to {low - 0.1:.1f} mm high."
    if fix in ("pins under the part", "raise the part"):
        tall = next((each.top for each in bench.checked.built.of_role("fixture")), low)
        return f"two pins or brass strips at least {max(tall + 1 - bench.facts.part.final_mm, 1):.0f} mm high."
    if fix in ("back it up", "a corner of two"):
        return f"a block less than {low - 0.5:.1f} mm high."
    return "put it right by hand."


def _suggest(bench: Bench, key: str) -> Changed:
    ways = suggest(bench.facts)
    number = request.form.get("way", 0, type=int)
    if not 0 <= number < len(ways):
        raise WrongAct("There is no such suggestion.")
    return ways[number].layout, ""


def _strokes(bench: Bench, key: str) -> Changed:
    names = ("left_mm", "right_mm", "front_mm", "back_mm")
    given = {name: _mm(name) for name in names if request.form.get(name, "").strip()}
    if any(not 0 <= value <= 500 for value in given.values()):
        raise WrongAct("The wheel clears the work by 0 to 500 mm.")
    return replace(bench.layout, **given), ""  # type: ignore[arg-type]


def _settings(bench: Bench, key: str) -> Changed:
    form, layout = request.form, bench.layout
    start, nozzle, magnet = (form.get(name, "") for name in ("start", "nozzle", "magnet"))
    if start in ("front", "back"):
        layout = replace(layout, start=start)  # type: ignore[arg-type]
    if nozzle in ("off", "entry", "exit"):
        layout = replace(layout, nozzle=nozzle)  # type: ignore[arg-type]
    if magnet in ("full", "low"):
        layout = replace(layout, magnet=magnet)  # type: ignore[arg-type]
    if form.get("second_nozzle") in ("yes", "no"):
        layout = replace(layout, second_nozzle=form["second_nozzle"] == "yes")
    return layout, ""


def _undo(bench: Bench, key: str) -> Changed:
    layout = None if bench.row is None else benches.before(bench.row)
    if layout is None:
        raise WrongAct("There is nothing to take back.")
    return layout, ""


_ACTS: dict[str, Callable[[Bench, str], Changed]] = {
    "move": _move,
    "place": _place,
    "nudge": _nudge,
    "turn": _turn,
    "lie": _lie,
    "off": _off,
    "add": _add,
    "fix": _fix,
    "suggest": _suggest,
    "strokes": _strokes,
    "settings": _settings,
    "undo": _undo,
}


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
    bench, session = here(), database.session()
    choices = taken_into_plan(bench)
    route, _ = moved_by(bench, choices)
    newest = part_plans.newest(session, bench.job)
    whole = bench.basis.worked(choices)
    part_plans.save(
        session,
        bench.job,
        guard.person(),
        choices,
        figures=bench.basis.figures(whole),
        based_on=newest.number if newest else 0,
        at=now(),
    )
    return redirect(url_for("plan.passes", number=number, face=bench.face), 303)


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
