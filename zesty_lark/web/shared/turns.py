"""Whose a request is, before anything is done with it: for threads that are shared out by person."""

from collections.abc import Callable

from flask import Flask
from itsdangerous import BadSignature
from werkzeug.http import parse_cookie


def teller(app: Flask) -> Callable[[str, str], str]:
    """Return a function of a request's cookies and address that returns whose it is: the person's key, where the
    cookie is one that this shop has signed, or else the address."""
    serializer = app.session_interface.get_signing_serializer(app)  # type: ignore[attr-defined]
    name = app.config["SESSION_COOKIE_NAME"]

    def whose(cookies: str, address: str) -> str:
        signed = parse_cookie(cookies).get(name)
        if signed:
            try:
                return f"person {serializer.loads(signed)['person']}"
            except (BadSignature, KeyError, TypeError):
                pass
        return address

    return whose
