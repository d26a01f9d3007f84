"""Whether the shop answers, for whoever keeps it running; nothing about the shop is told."""

from flask import Flask
from flask.typing import ResponseReturnValue

from zesty_lark.store.database import answers
from zesty_lark.web.shared import database
from zesty_lark.web.shared.guard import access

__all__ = ["install"]


def install(app: Flask) -> None:
    """Answer at ``/health``."""
    app.add_url_rule("/health", "health", _health)


@access(public=True)
def _health() -> ResponseReturnValue:
    if answers(database.session()):
        return {"status": "ok"}
    return {"status": "the database does not answer"}, 503
