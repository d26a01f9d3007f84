"""Whether the shop answers, for whoever keeps it running; nothing about the shop is told."""

import shutil

from flask import Flask, current_app
from flask.typing import ResponseReturnValue

from zesty_lark.store.database import answers
from zesty_lark.web.shared import database
from zesty_lark.web.shared.guard import access

LEAST_FREE_BYTES = 32 * 1024 * 1024
"""Under this the database cannot be relied on to write."""


def install(app: Flask) -> None:
    """Answer at ``/health``."""
    app.add_url_rule("/health", "health", _health)


@access(public=True)
def _health() -> ResponseReturnValue:
    if not answers(database.session()):
        return {"status": "the database does not answer"}, 503
    if shutil.disk_usage(current_app.config["LARK_HOME"]).free < LEAST_FREE_BYTES:
        return {"status": "no room on the disk"}, 503
    return {"status": "ok"}
