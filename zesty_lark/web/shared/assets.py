"""What ships with the application: style sheets, scripts, fonts, drawings.

Each lies under an address that changes when any of them does, ``/static/v-DIGEST/NAME``, so that a browser keeps it for
good and asks again only after an upgrade; what they name beside themselves - modules, fonts - comes along. Under its
plain address a file is asked for anew each time.
"""

import hashlib
import re
from collections.abc import Iterable
from functools import cache
from pathlib import Path
from typing import TYPE_CHECKING

from flask import Flask, request, url_for

if TYPE_CHECKING:
    from _typeshed.wsgi import StartResponse, WSGIApplication, WSGIEnvironment

WEB = Path(__file__).parents[1]
VERSIONED = re.compile(r"^/static/v-([0-9a-f]{1,64})/")
VERSION = "lark.static_version"


def install(app: Flask) -> None:
    """Let the application answer for versioned addresses too."""
    app.wsgi_app = _versioned(app.wsgi_app)  # type: ignore[assignment, method-assign]
    app.add_template_global(address, "asset")


def address(name: str) -> str:
    """Return where a browser finds a file of the static folder, or, as ``STATION/NAME``, of a station's."""
    return url_for("static", filename=f"v-{_digest()}/{name}")


def plain(path: str) -> str:
    """Return a path as it is without a version."""
    return VERSIONED.sub("/static/", path)


def for_good() -> bool:
    """Whether what this request asks for is the same as long as its address is."""
    return request.environ.get(VERSION) == _digest()


@cache
def _digest() -> str:
    """Name the present state of all that ships."""
    seen = hashlib.sha256()
    for folder in (WEB / "static", *sorted(WEB.glob("*/static"))):
        for file in sorted(path for path in folder.rglob("*") if path.is_file()):
            seen.update(str(file.relative_to(WEB)).encode() + b"\0" + hashlib.sha256(file.read_bytes()).digest())
    return seen.hexdigest()[:12]


def _versioned(inner: "WSGIApplication") -> "WSGIApplication":
    """Find a file under any version: an old page may still ask for what it was made with."""

    def answer(environ: "WSGIEnvironment", start_response: "StartResponse") -> Iterable[bytes]:
        match = VERSIONED.match(environ.get("PATH_INFO", ""))
        if match:
            environ[VERSION] = match[1]
            environ["PATH_INFO"] = plain(environ["PATH_INFO"])
        return inner(environ, start_response)

    return answer
