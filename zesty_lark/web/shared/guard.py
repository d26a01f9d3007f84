"""The guard: closed by default. Every view says who may come in; whatever names a job loads and authorises it first."""

import secrets
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import TypeVar

from flask import Flask, abort, current_app, g, redirect, request, session, url_for
from flask.typing import ResponseReturnValue

from zesty_lark.core.work.job_state import JobState
from zesty_lark.shopfloor import long_work
from zesty_lark.shopfloor.rights import JobUse, check_use
from zesty_lark.store import job_states, jobs, sign_ins
from zesty_lark.store.models import Job, Person, SignedIn
from zesty_lark.store.models.people import Role
from zesty_lark.web.shared import database
from zesty_lark.web.shared.forms import PostedForm, TokenForm
from zesty_lark.web.shared.presses import OUTBOX, of_someone_else

ANYONE = frozenset(Role)
SCREEN_BYTES = 6
NOBODY = "0"
View = TypeVar("View", bound=Callable[..., ResponseReturnValue])


class PressedByAnother(PermissionError):
    """Somebody else pressed this than is signed in; the message says so."""


@dataclass(frozen=True)
class Access:
    """Who may use a view.

    Attributes
    ----------
    roles : frozenset of Role
        The roles that may; empty together with ``public`` for the sign-in pages.
    job : {"look", "work", "inspect"} or None
        What the view does to the job its URL names.
    public : bool
        Answers strangers.
    takes : tuple of form classes
        What is posted to it.
    """

    roles: frozenset[Role]
    job: JobUse | None = None
    public: bool = False
    takes: tuple[type[PostedForm], ...] = (TokenForm,)


def access(
    *roles: Role,
    job: JobUse | None = None,
    public: bool = False,
    takes: type[PostedForm] | tuple[type[PostedForm], ...] = TokenForm,
) -> Callable[[View], View]:
    """Declare who may use a view, and which form is posted to it; a view without it is closed to everyone. No roles
    means every role; a posted name that its form does not know is refused."""
    forms = takes if isinstance(takes, tuple) else (takes,)

    def declare(view: View) -> View:
        view.lark_access = Access(frozenset(roles) or ANYONE, job, public, forms)  # type: ignore[attr-defined]
        return view

    return declare


def person() -> Person:
    """Return who is signed in."""
    current: Person = g.person
    return current


def job() -> Job:
    """Return the job the URL names."""
    current: Job = g.job
    return current


def job_state() -> JobState:
    """Return where the job the URL names stands, worked out once a request."""
    if "job_state" not in g:
        g.job_state = job_states.state_of(database.session(), job())
    current: JobState = g.job_state
    return current


def now_state(newer: JobState) -> None:
    """Let the rest of this request see where the job stands after what was just logged."""
    g.job_state = newer


def sign_in_session(who: Person) -> None:
    """Sign this browser in as a person; what an earlier session held is dropped, its form tokens too."""
    session.clear()
    g.pop("csrf_token", None)
    session.permanent = True
    session["person"] = who.id
    session["screen"] = secrets.token_hex(SCREEN_BYTES)
    session["token"] = sign_ins.begin(
        database.session(),
        who,
        address=request.remote_addr or "",
        browser=request.user_agent.string,
        now=datetime.now(UTC),
    )


def sign_out_session() -> None:
    """End this browser's sign-in, here and on the server: a copy of its cookie is worth nothing."""
    if g.sign_in is not None:
        sign_ins.end(database.session(), g.sign_in.person, g.sign_in.id)
    session.clear()


def person_before() -> int | None:
    """Return the key of whoever this browser was last signed in as, signed in or not."""
    key = session.get("person")
    return key if isinstance(key, int) else None


def screen() -> str:
    """Return this screen's own mark: what it logs at a machine bears it, so that two do not work one run unawares."""
    mark = session.get("screen")
    return mark if isinstance(mark, str) and len(mark) == 2 * SCREEN_BYTES else ""


def this_sign_in() -> SignedIn:
    """Return the sign-in of this request."""
    current: SignedIn = g.sign_in
    return current


def install(app: Flask) -> None:
    """Stand at the door of every request."""
    app.before_request(_guard)


def is_static() -> bool:
    """Whether a request is for a file that ships with the application."""
    return request.endpoint is not None and request.endpoint.rpartition(".")[2] == "static"


def _guard() -> ResponseReturnValue | None:
    g.person = g.sign_in = None
    long_work.asker.set(NOBODY)
    if is_static():
        return None
    if request.endpoint is None:
        load_person()
        return None if g.person else redirect(url_for("account.sign_in"))
    allowed: Access | None = getattr(current_app.view_functions[request.endpoint], "lark_access", None)
    load_person()
    if allowed is not None and allowed.public:
        _refuse_unknown_names(allowed)
        return None
    if g.person is None:
        return _ask_to_sign_in()
    if of_someone_else():
        raise PressedByAnother(f"{g.person.name} is signed in here now; this waits for who pressed it.")
    if allowed is None or Role(g.person.role) not in allowed.roles:
        abort(403)
    _load_job(allowed)
    _refuse_unknown_names(allowed)
    return None


def _refuse_unknown_names(allowed: Access) -> None:
    if request.method != "POST":
        return
    unknown = [name for name in [*request.form, *request.files] if not any(form.takes(name) for form in allowed.takes)]
    if unknown:
        abort(
            400,
            f"This page sent something that nothing here takes: {', '.join(sorted(set(unknown))[:5])[:200]}. "
            "Nothing was changed; open the page again.",
        )


def load_person() -> None:
    """Find out whose request this is."""
    token = session.get("token")
    if not isinstance(token, str):
        return
    idle = timedelta(hours=current_app.config["LARK_SESSION_HOURS"])
    g.sign_in = sign_ins.of_token(database.session(), token, now=datetime.now(UTC), idle=idle)
    if g.sign_in is not None:
        g.person = g.sign_in.person
        long_work.asker.set(str(g.person.id))


def _ask_to_sign_in() -> ResponseReturnValue:
    if request.method == "GET":
        target = request.full_path.rstrip("?") if request.path != "/" else None
        if request.headers.get("HX-Request") or request.headers.get(OUTBOX):
            return "Signed out.", 401, {"HX-Redirect": url_for("account.sign_in")}
        return redirect(url_for("account.sign_in", next=target))
    g.kept_form = True
    abort(401)


def _load_job(allowed: Access) -> None:
    number = (request.view_args or {}).get("number")
    if allowed.job is None or number is None:
        return
    found = jobs.by_number(database.session(), number)
    if found is None:
        abort(404, f"There is no job {number}.")
    g.job = found
    check_use(g.person, found, allowed.job)
