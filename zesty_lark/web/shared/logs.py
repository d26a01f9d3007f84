"""What happens, one JSON object a line, each with the id of the request it belongs to; answers carry that id too."""

import json
import logging
import re
import secrets
import sys
import time
from datetime import UTC, datetime

from flask import Flask, Response, g, has_request_context, request

HEADER = "X-Request-ID"
GIVEN_ID = re.compile(r"[A-Za-z0-9._-]{8,64}")
LONGEST_PATH = 300
REQUESTS = logging.getLogger("zesty_lark.requests")
RECORD_FIELDS = ("request", "method", "path", "status", "ms", "person")


class _JsonLines(logging.Formatter):
    """One line a record, whatever is in it."""

    def format(self, record: logging.LogRecord) -> str:
        """Return the record as a line of JSON."""
        line: dict[str, object] = {
            "at": datetime.fromtimestamp(record.created, UTC).isoformat(timespec="milliseconds"),
            "level": record.levelname.lower(),
            "from": record.name,
            "says": record.getMessage(),
        }
        line |= {name: getattr(record, name) for name in RECORD_FIELDS if hasattr(record, name)}
        if "request" not in line and has_request_context():
            line["request"] = g.get("request_id", "")
        if record.exc_info:
            line["trace"] = self.formatException(record.exc_info)
        return json.dumps(line, ensure_ascii=False, default=str)


def to_standard_error() -> None:
    """Send every record from INFO up to standard error, as JSON lines."""
    handler = logging.StreamHandler(sys.stderr)
    handler.setFormatter(_JsonLines())
    logging.basicConfig(level=logging.WARNING, handlers=[handler], force=True)
    logging.getLogger("zesty_lark").setLevel(logging.INFO)
    logging.getLogger("waitress.queue").setLevel(logging.ERROR)  # a queue for a moment is no news


def install(app: Flask) -> None:
    """Give every request an id, and write a line when it is answered."""
    app.before_request(_begin)
    app.after_request(_answered)


def _begin() -> None:
    given = request.headers.get(HEADER, "")
    g.request_id = given if GIVEN_ID.fullmatch(given) else secrets.token_hex(8)
    g.request_began = time.monotonic()


def _answered(response: Response) -> Response:
    began = g.get("request_began")
    if began is None or (request.endpoint or "").rpartition(".")[2] == "static":
        return response
    response.headers[HEADER] = g.request_id
    who = g.get("person")
    fields = {
        "request": g.request_id,
        "method": request.method,
        "path": request.path[:LONGEST_PATH],
        "status": response.status_code,
        "ms": round(1000 * (time.monotonic() - began)),
        "person": who.id if who is not None else None,
    }
    REQUESTS.info("answered", extra=fields)
    return response
