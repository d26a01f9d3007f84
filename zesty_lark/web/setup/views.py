"""Set up: the set-up view. Every act is kept at once, checked, and can be undone."""

from urllib.parse import urlencode

from flask import redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from zesty_lark.core.quantities.units import LengthError
from zesty_lark.core.setup.fixes import FIXES
from zesty_lark.core.setup.layout import LIES, ROLES, Piece
from zesty_lark.core.setup.looked_at import not_looked_at, well
from zesty_lark.core.setup.suggest import suggest
from zesty_lark.core.things.shop import ACCESSORY_KINDS
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.shopfloor.acts import set_ups as acts
from zesty_lark.shopfloor.looking import list_of
from zesty_lark.shopfloor.rights import may_work_on
from zesty_lark.shopfloor.setting_up import LaidOut, known_set_ups, moved_by, taken_into_plan, thin_of
from zesty_lark.store import part_plans, people, set_ups, shoplog
from zesty_lark.store.models.people import Role
from zesty_lark.web.setup.acts import WrongAct, changed
from zesty_lark.web.setup.context import blueprint, here
from zesty_lark.web.setup.forming import forming_here, forming_page
from zesty_lark.web.setup.forms import FaceActForm, SetUpForm, WaiverForm
from zesty_lark.web.shared import database, guard
from zesty_lark.web.shared.acting import acting
from zesty_lark.web.shared.guard import access
from zesty_lark.web.shared.svg.set_up import setup_front, setup_plan
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
    """Show a set-up on its laid_out; that of a slot, an angle or an edge with its own figures."""
    made = forming_here()
    return page(here()) if made is None else forming_page(made)


@blueprint.post("/jobs/<number>/set-up")
@access(job="work", takes=SetUpForm)
def act(number: str) -> ResponseReturnValue:
    """Change the layout: kept, checked and shown again; from a set-up that was behind it is refused and shown why."""
    laid_out = here()
    version = request.form.get("version", type=int)
    try:
        layout, chosen = changed(laid_out)
        back = request.form.get("act") == "undo"
        laid_out = acts.lay_out(acting(), face=laid_out.face, layout=layout, version=version, back=back)
    except (WrongAct, LengthError) as error:
        return page(laid_out, wrong=str(error)), 422
    except set_ups.LaidOutMeanwhile as error:
        said = str(error)
        return page(here(), wrong=said), 409
    if request.headers.get("HX-Request"):
        return page(laid_out, chosen=chosen)
    more = urlencode({"face": laid_out.face, "chosen": chosen})
    return redirect(f"{url_for('setup.station', number=number)}?{more}", 303)


def page(laid_out: LaidOut, *, chosen: str | None = None, wrong: str = "") -> str:
    """Render the set-up: whole, or only what changes where the page asks for that."""
    if chosen is None:
        chosen = request.values.get("chosen", "")
    thing = laid_out.layout.find(chosen)
    template = "setup/_setup.html" if request.headers.get("HX-Request") else "setup/station.html"
    solid = next((each for each in laid_out.checked.built.solids if each.key == chosen), None)
    listed = list_of(database.session(), laid_out, now())
    return render_template(
        template,
        well=well(laid_out.checked, listed, laid_out.job_state.runs.get(laid_out.face)),
        not_looked_at=not_looked_at(laid_out.checked, listed),
        names={who.sign_in_name: who.name for who in people.everyone(database.session())},
        laid_out=laid_out,
        checked=laid_out.checked,
        chosen=chosen if thing is not None else "",
        thing=thing,
        solid=solid,
        is_piece=isinstance(thing, Piece),
        plan=setup_plan(laid_out.checked, chosen, moves=may_work_on(guard.person(), laid_out.job)),
        front=setup_front(laid_out.checked, chosen),
        set_ups=known_set_ups(laid_out.job_state),
        own_things=_own_things(laid_out),
        fixes=FIXES,
        roles=ROLES,
        lies=LIES,
        stroke_fields=STROKE_FIELDS,
        setting_fields=SETTING_FIELDS,
        ways=suggest(laid_out.facts) if request.values.get("ways") else [],
        holding=_holding(laid_out),
        thin=thin_of(laid_out),
        may_work=may_work_on(guard.person(), laid_out.job),
        is_lead=guard.person().role == Role.LEAD,
        wrong=wrong,
    )


def _holding(laid_out: LaidOut) -> bool:
    """Whether this layout holds the part otherwise than the plan has it."""
    return taken_into_plan(laid_out) != laid_out.choices


def _own_things(laid_out: LaidOut) -> list[tuple[str, list[tuple[str, str]]]]:
    """What the shop owns to put down: by kind, each with its sizes."""
    facts = laid_out.facts
    groups = [("Fixtures", [(fixture.name, f"{plain(fixture.height_mm)} high") for fixture in facts.fixtures])]
    for kind, words in ACCESSORY_KINDS.items():
        listed = [
            (
                accessory.name,
                " × ".join(plain(size) for size in (accessory.length_mm, accessory.width_mm, accessory.height_mm)),
            )
            for accessory in facts.accessories
            if accessory.kind == kind
        ]
        if listed:
            groups.append((words, listed))
    return groups


@blueprint.get("/jobs/<number>/set-up/plan")
@access(job="look")
def into_plan(number: str) -> ResponseReturnValue:
    """Show what moves in the plan when the part is held as it is laid out."""
    laid_out = here()
    choices = taken_into_plan(laid_out)
    route, changes = moved_by(laid_out, choices)
    return render_template(
        "setup/_into_plan.html",
        laid_out=laid_out,
        changes=changes,
        same=choices == laid_out.choices,
        refused=route.faces[laid_out.face].refused if laid_out.face in route.faces else "",
        may_work=may_work_on(guard.person(), laid_out.job),
    )


@blueprint.post("/jobs/<number>/set-up/plan")
@access(job="work", takes=SetUpForm)
def take_into_plan(number: str) -> ResponseReturnValue:
    """Keep a new version of the part’s plan that holds the part as it is laid out."""
    laid_out = here()
    try:
        acts.take_into_plan(acting(), face=laid_out.face)
    except part_plans.NewerVersion as error:
        return page(laid_out, wrong=f"{error} Look at that one, then take the set-up into it."), 409
    return redirect(url_for("plan.passes", number=number, face=laid_out.face), 303)


@blueprint.post("/jobs/<number>/set-up/turns")
@access(job="work", takes=SetUpForm)
def take_in_turns(number: str) -> ResponseReturnValue:
    """Keep a new version of the part’s plan that takes both sides of a thin part so many times."""
    laid_out = here()
    try:
        acts.take_in_turns(acting(), face=laid_out.face, turns=request.form.get("value", 0, type=int))
    except part_plans.NewerVersion as error:
        return page(laid_out, wrong=f"{error} Look at that one, then plan the turns."), 409
    except LogError as error:
        return page(laid_out, wrong=str(error)), 422
    return redirect(url_for("plan.passes", number=number), 303)


@blueprint.post("/jobs/<number>/set-up/turn-over")
@access(job="work", takes=FaceActForm)
def turn_over(number: str) -> ResponseReturnValue:
    """The other side of a thin part comes next, again."""
    laid_out = here()
    other = laid_out.job_state.spec.wanted.surfaces[laid_out.face].opposite
    try:
        acts.turn_over(acting(), face=laid_out.face)
    except (LogError, shoplog.BehindError) as error:
        return page(laid_out, wrong=str(error)), 422
    return redirect(url_for("setup.station", number=number, face=other), 303)


@blueprint.post("/jobs/<number>/set-up/waive")
@access(Role.LEAD, job="work", takes=WaiverForm)
def waive(number: str) -> ResponseReturnValue:
    """A lead lets a caution pass, with a reason, in the log; a stop cannot be waived."""
    laid_out = here()
    item, reason = request.form.get("item", ""), request.form.get("reason", "")
    try:
        acts.waive_caution(acting(), face=laid_out.face, caution=item, reason=reason)
    except LogError as error:
        return page(laid_out, wrong=str(error)), 422
    return redirect(url_for("setup.station", number=number, face=laid_out.face), 303)


@blueprint.get("/jobs/<number>/set-up/sheet")
@access(job="look")
def sheet(number: str) -> ResponseReturnValue:
    """The set-up sheet, to print."""
    made = forming_here()
    if made is not None:
        return forming_page(made, sheet=True)
    laid_out = here()
    return render_template(
        "setup/sheet.html",
        laid_out=laid_out,
        checked=laid_out.checked,
        plan=setup_plan(laid_out.checked, moves=False),
        front=setup_front(laid_out.checked),
        roles=ROLES,
        lies=LIES,
        printed_at=now(),
        as_pdf=False,
    )
