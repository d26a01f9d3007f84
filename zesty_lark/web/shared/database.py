"""One database session a request, committed in one place before the answer leaves.

Two transactions that wait for each other are a deadlock: the database ends one of them, and that request is simply
worked through once more, with everything it sent, the ids of its entries too.
"""

from flask import Flask, Response, current_app, g
from flask.typing import ResponseReturnValue
from sqlalchemy.exc import OperationalError, StatementError
from sqlalchemy.orm import Session
from sqlalchemy.orm.exc import StaleDataError

from zesty_lark.store.once import CAME_IN, CameIn
from zesty_lark.web.shared.clock import clock_in_doubt
from zesty_lark.web.shared.presses import digest_of_post, waited

DEADLOCK = 1213
MOST_TRIES = 4


def session() -> Session:
    """Return the request's session, opening it at first use."""
    if "database_session" not in g:
        g.database_session = current_app.config["LARK_SESSIONS"]()
        g.database_session.info[CAME_IN] = CameIn(digest_of_post(), waited(), clock_in_doubt())
    current: Session = g.database_session
    return current


def drop() -> None:
    """Undo what the request has done so far, and let go of its session and of all that came from it."""
    current: Session | None = g.pop("database_session", None)
    if current is not None:
        try:
            current.rollback()
        except StatementError:
            current.invalidate()
        current.close()
    for name in ("job_state", "job"):
        g.pop(name, None)


def is_deadlock(error: BaseException) -> bool:
    """Whether the database ended this transaction because two waited for each other."""
    return isinstance(error, OperationalError) and error.orig is not None and error.orig.args[:1] == (DEADLOCK,)


class Shop(Flask):
    """The application; a request that lost a deadlock is worked through again."""

    def dispatch_request(self) -> ResponseReturnValue:
        """Answer the request."""
        for _ in range(MOST_TRIES - 1):
            try:
                return super().dispatch_request()
            except OperationalError as error:
                if not is_deadlock(error):
                    raise
            drop()
            refused = self.preprocess_request()
            if refused is not None:
                return refused
        return super().dispatch_request()


def install(app: Flask) -> None:
    """Commit after an answer that went well, roll back after any other, close always."""
    app.after_request(_commit)
    app.teardown_request(_close)


def _commit(response: Response) -> Response:
    current: Session | None = g.get("database_session")
    if current is not None:
        if response.status_code < 400:
            try:
                current.commit()
            except (StatementError, StaleDataError) as error:
                return current_app.make_response(current_app.handle_user_exception(error))
        else:
            current.rollback()
    return response


def _close(error: BaseException | None) -> None:
    current: Session | None = g.pop("database_session", None)
    if current is not None:
        current.close()
