"""Pages for what goes wrong: each says what happened, what was kept, and what to do."""

import errno
import logging

from flask import Flask, current_app, flash, g, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue
from flask_wtf.csrf import CSRFError
from itsdangerous import BadSignature, URLSafeSerializer
from pydantic import ValidationError
from sqlalchemy.exc import DBAPIError, IntegrityError, StatementError
from sqlalchemy.orm.exc import StaleDataError
from werkzeug.exceptions import HTTPException

from zesty_lark.core.calc import input_error_words
from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.core.things.log import ThingError
from zesty_lark.shopfloor.long_work import Crowded, Lost, StillWorking, TooLong
from zesty_lark.shopfloor.rights import NotYours
from zesty_lark.web.shared import database, guard
from zesty_lark.web.shared.guard import PressedByAnother
from zesty_lark.web.shared.presses import KEEP, from_outbox

_WORDS = {
    400: ("That could not be read", "The request was not one this page sends. Nothing was changed."),
    401: ("You are signed out", "Sign in again; what you entered is kept and offered once you are back."),
    403: ("Not for your role", "This page is not open to your role. A lead can change that."),
    404: ("Not here", "There is nothing at this address."),
    405: ("Not like that", "This address does not take that kind of request."),
    413: ("Too large", "The file or form is larger than this page takes. Nothing was changed."),
    500: ("Something broke", "That is a fault in the program, not in what you did. What was logged before is safe."),
    429: ("Too much at once", "So much of yours is open or waiting already. Close or wait for some of it first."),
    503: ("The database does not answer", "It is usually back within seconds. What you pressed is kept; try again."),
}
_FULL = (
    "No room on the disk",
    "The server’s disk is full: nothing new can be kept until whoever looks after it makes room. What you pressed is "
    "kept in this browser and sent again by itself; what was logged before is safe.",
)
_AT_ONCE = (
    "Someone else was quicker",
    "The same was kept or changed by someone else at this moment. Nothing of yours was changed; open the page again, "
    "see what it is now, and enter yours again if it still holds.",
)
_REFUSED = (
    "That cannot be kept",
    "A figure or a text in it is beyond what can be kept. Nothing was changed; what you entered is below.",
)
AWAY = frozenset((1040, 1053, 1205, 1213, 1317, 2002, 2003, 2006, 2013))
"""MariaDB's errors that pass by themselves: no connection, going down, waited too long, a deadlock."""
FULL, WRITING, NO_SPACE = frozenset((1021, 1114)), frozenset((3, 1026, 1030, 1180)), "28"
"""MariaDB's errors for a full disk or table; those of writing, and the system's number for no space in their words."""
LOG = logging.getLogger("zesty_lark.web")
SECRET_FIELDS = frozenset({"csrf_token", "password", "old_password", "new_password", "code"})


def install(app: Flask) -> None:
    """Answer errors in plain words."""
    app.register_error_handler(CSRFError, _expired)
    app.register_error_handler(NotYours, _not_yours)
    app.register_error_handler(PressedByAnother, _pressed_by_another)
    app.register_error_handler(HTTPException, _http)
    app.register_error_handler(StillWorking, _still_working)
    app.register_error_handler(TooLong, _too_long)
    app.register_error_handler(Crowded, _crowded)
    app.register_error_handler(Lost, _lost)
    app.register_error_handler(StatementError, _refused_statement)
    app.register_error_handler(OSError, _os_error)
    app.register_error_handler(ValidationError, _cannot_be)
    app.register_error_handler(InputError, _cannot_be)
    app.register_error_handler(ThingError, _cannot_be)
    app.register_error_handler(StaleDataError, _changed_meanwhile)


def kept_fields() -> list[tuple[str, str]]:
    """Return the fields of the form as sent, but for secrets."""
    return [(name, value) for name, values in request.form.lists() if name not in SECRET_FIELDS for value in values]


def _expired(error: CSRFError) -> ResponseReturnValue:
    if g.get("person") is None:
        flash("This page had been open too long to be sent. Please try once more.")
        return redirect(url_for("account.sign_in"))
    return render_template("shared/resend.html", action=request.full_path.rstrip("?"), fields=kept_fields()), 400


def _signed_out() -> ResponseReturnValue:
    kept = None
    if guard.person_before() is not None and from_own_page():
        kept = keep_form(request.full_path.rstrip("?"), kept_fields(), guard.person_before() or 0)
    return render_template("shared/signed_out.html", kept=kept), 401


def from_own_page() -> bool:
    """Whether a browser says that what was posted came from a page of ours."""
    site, origin = request.headers.get("Sec-Fetch-Site"), request.headers.get("Origin")
    return (site or "same-origin") == "same-origin" and origin == request.host_url.rstrip("/")


def keep_form(action: str, fields: list[tuple[str, str]], person: int) -> str:
    """Return a form as a person sent it, signed, so that it can be offered to them again after signing in."""
    return _signer().dumps({"action": action, "fields": fields, "person": person})


def kept_form(token: str, person: int) -> tuple[str, list[tuple[str, str]]] | None:
    """Return the form in a token of ours; ``None`` when it is not one, or another person's."""
    try:
        kept = _signer().loads(token)
    except BadSignature:
        return None
    if kept["person"] != person:
        return None
    return kept["action"], [(name, value) for name, value in kept["fields"]]


def _signer() -> URLSafeSerializer:
    return URLSafeSerializer(current_app.secret_key or "", salt="kept form")


def _not_yours(error: NotYours) -> ResponseReturnValue:
    back = url_for("record.history", number=g.job.number)
    return page(403, "Someone else’s job", str(error), back=back)


def _pressed_by_another(error: PressedByAnother) -> ResponseReturnValue:
    """The browser that sent it keeps it."""
    answer = current_app.make_response(page(409, "Pressed by someone else", str(error)))
    answer.headers[KEEP] = "1"
    return answer


def _http(error: HTTPException) -> ResponseReturnValue:
    code = error.code or 500
    if code == 401 and g.get("kept_form"):
        return _signed_out()
    title, words = _WORDS.get(code, (error.name, error.description or ""))
    if code == 400 and error.description and error.description.startswith("This page sent"):
        words = error.description
    if code == 404 and error.description and error.description.startswith("There is no"):
        words = error.description
    return page(code, title, words)


def _refused_statement(error: StatementError) -> ResponseReturnValue:
    """What the database did not do is undone, said, and shown as it was entered."""
    database.drop()
    if isinstance(error, IntegrityError):
        return _entered_again(409, *_AT_ONCE)
    if isinstance(error, DBAPIError) and _is_full(error):
        return _no_room(error)
    if isinstance(error, DBAPIError) and _is_away(error):
        g.person = g.sign_in = None  # nobody can be asked who this is
        return page(503, *_WORDS[503])
    LOG.error("a statement was refused", exc_info=error)
    return _entered_again(422, *_REFUSED)


def _no_room(error: Exception) -> ResponseReturnValue:
    """Nothing is lost: the browser keeps what was pressed, and whoever looks after the server makes room."""
    LOG.error("no room on the disk", exc_info=error)
    database.drop()
    g.person = g.sign_in = None
    return page(503, *_FULL)


def _os_error(error: OSError) -> ResponseReturnValue:
    if error.errno not in (errno.ENOSPC, errno.EDQUOT):
        raise error
    return _no_room(error)


def _is_full(error: DBAPIError) -> bool:
    told = error.orig.args if error.orig is not None else ()
    return told[:1] != () and (told[0] in FULL or (told[0] in WRITING and NO_SPACE in str(told[1:])))


def _is_away(error: DBAPIError) -> bool:
    number = error.orig.args[0] if error.orig is not None and error.orig.args else None
    return error.connection_invalidated or number in AWAY


def _still_working(error: StillWorking) -> ResponseReturnValue:
    """A page that asks again by itself, with scripts or without, and can be left; a form is offered again."""
    what = {"seconds": round(error.seconds), "most_seconds": round(error.most_seconds), "ahead": error.ahead}
    if request.headers.get("HX-Request"):
        return render_template(
            "shared/_working.html", fields=kept_fields(), action=request.full_path.rstrip("?"), **what
        )
    if request.method == "GET":
        return render_template("shared/working.html", **what), 202, {"Retry-After": "1"}
    if from_outbox():  # the browser that keeps it sends it again
        return page(503, "Still being worked out", "That takes a few seconds more. What you pressed is kept.")
    fields, title = [field for field in kept_fields() if field[0] not in ("held", "held_name")], "Working it out"
    if request.files:
        fields.append(("held_name", next(iter(request.files.values())).filename or ""))
    elif "held_name" in request.form:
        fields.append(("held_name", request.form["held_name"]))
    if "held_name" in dict(fields):
        fields.append(("held", error.key))
        title = "The file is being read"
    return render_template(
        "shared/again.html", title=title, fields=fields, action=request.full_path.rstrip("?"), **what
    ), 202


def _too_long(error: TooLong) -> ResponseReturnValue:
    return page(422, "Given up", str(error))


def _crowded(error: Crowded) -> ResponseReturnValue:
    return page(429, "Too much at once", str(error))


def _lost(error: Lost) -> ResponseReturnValue:
    return page(422, "Not here any more", str(error))


def _cannot_be(error: ValidationError | InputError | ThingError) -> ResponseReturnValue:
    """What was sent cannot be what it says it is; nothing of it was built or kept."""
    said = str(input_error_words(error)) if isinstance(error, ValidationError) else str(error)
    return page(422, "That cannot be", f"{said[:300].rstrip('.')}. Nothing was changed.")


def _changed_meanwhile(error: StaleDataError) -> ResponseReturnValue:
    database.drop()
    return _entered_again(409, *_AT_ONCE)


def _entered_again(code: int, title: str, words: str) -> ResponseReturnValue:
    """A page for someone whose own row may have gone with the session: they are loaded anew."""
    if g.get("person") is not None:
        guard.load_person()
    return page(code, title, words)


def page(code: int, title: str, words: str, back: str | None = None) -> ResponseReturnValue:
    """Return a page that says what happened, with what was entered."""
    fields = kept_fields() if request.method == "POST" and code != 413 else []
    return render_template(
        "shared/error.html",
        code=code,
        title=title,
        words=words,
        back=back,
        fields=fields,
        action=request.full_path.rstrip("?"),
    ), code
