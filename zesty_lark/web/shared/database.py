"""One database session a request, committed in one place before the answer leaves."""

from flask import Flask, Response, current_app, g
from sqlalchemy.orm import Session

__all__ = ["install", "session"]


def session() -> Session:
    """Return the request's session, opening it at first use."""
    if "database_session" not in g:
        g.database_session = current_app.config["LARK_SESSIONS"]()
    current: Session = g.database_session
    return current


def install(app: Flask) -> None:
    """Commit after an answer that went well, roll back after any other, close always."""
    app.after_request(_commit)
    app.teardown_request(_close)


def _commit(response: Response) -> Response:
    current: Session | None = g.get("database_session")
    if current is not None:
        if response.status_code < 400 or g.get("keep_despite_error", False):
            current.commit()
        else:
            current.rollback()
    return response


def _close(error: BaseException | None) -> None:
    current: Session | None = g.pop("database_session", None)
    if current is not None:
        current.close()
