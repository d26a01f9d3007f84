"""Headers that close the browser's doors: no foreign script, no frame, no sniffing, nothing cached but assets."""

from flask import Flask, Response, request

from zesty_lark.web.shared import assets
from zesty_lark.web.shared.guard import is_static

POLICY = "; ".join(
    (
        "default-src 'none'",
        "script-src 'self'",
        "style-src 'self'",
        "img-src 'self' data:",
        "font-src 'self'",
        "connect-src 'self'",
        "form-action 'self'",
        "frame-ancestors 'none'",
        "base-uri 'none'",
        "manifest-src 'self'",
    )
)


def install(app: Flask) -> None:
    """Add the headers to every answer."""
    app.after_request(_add)


def _add(response: Response) -> Response:
    response.headers["Content-Security-Policy"] = POLICY
    response.headers["X-Content-Type-Options"] = "nosniff"
    response.headers["X-Frame-Options"] = "DENY"
    response.headers["Referrer-Policy"] = "same-origin"
    response.headers["Cross-Origin-Opener-Policy"] = "same-origin"
    response.headers["Permissions-Policy"] = "camera=(), microphone=(), geolocation=(), payment=(), usb=()"
    if not is_static():
        response.headers["Cache-Control"] = "no-store"
    elif assets.for_good():
        response.headers["Cache-Control"] = "public, max-age=31536000, immutable"
    else:
        response.headers["Cache-Control"] = "no-cache"
    if request.path.endswith("/js/worker.js"):
        response.headers["Service-Worker-Allowed"] = "/"
    if request.is_secure:
        response.headers["Strict-Transport-Security"] = "max-age=31536000"
    return response
