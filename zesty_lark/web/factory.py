"""The application factory."""

import threading
from datetime import timedelta
from pathlib import Path

from flask import Flask
from flask_wtf.csrf import CSRFProtect
from jinja2 import ChoiceLoader, FileSystemLoader, StrictUndefined
from sqlalchemy import Engine

from zesty_lark.exchange.instruments import addresses
from zesty_lark.settings import SettingError, Settings, ensure_secret
from zesty_lark.store.database import connect, sessions
from zesty_lark.web import (
    account,
    answers,
    api,
    gauges,
    grind,
    jobs,
    machines,
    maps,
    measure,
    plan,
    record,
    setup,
    shop,
    wheels,
)
from zesty_lark.web.shared import assets, database, errors, frame, guard, headers, health, logs, wording
from zesty_lark.web.shared.streams import Streams

STATIONS = (account, jobs, plan, setup, grind, measure, maps, gauges, machines, wheels, answers, record, shop, api)
LARGEST_UPLOAD_BYTES = 32 * 1024 * 1024
"""The file of a job with as long a log, and as many points of maps, as it may have."""
LARGEST_FORM_BYTES = 256 * 1024
MOST_FORM_FIELDS = 300
REMEMBERED_DAYS = 30
"""How long a cookie may lie about; it signs nobody in once its sign-in has ended on the server."""


def create_app(settings: Settings | None = None, engine: Engine | None = None) -> Flask:
    """Make the web application.

    Parameters
    ----------
    settings : Settings, optional
        From the environment unless given.
    engine : Engine, optional
        From ``settings.database_url`` unless given.

    Raises
    ------
    SettingError
        If there is no database to talk to, or the session key is too weak.
    """
    settings = settings or Settings()
    if engine is None:
        if settings.database_url is None:
            raise SettingError("LARK_DATABASE_URL is not set; “lark up” starts a database and sets it.")
        engine = connect(settings.database_url.get_secret_value(), pool_size=settings.threads)
    app: Flask = database.Shop("zesty_lark.web", root_path=str(Path(__file__).parent))
    app.config.update(
        SECRET_KEY=ensure_secret(settings),
        LARK_HOME=settings.home,
        LARK_SESSIONS=sessions(engine),
        LARK_STOPPING=threading.Event(),
        SESSION_COOKIE_NAME="lark_session",
        SESSION_COOKIE_HTTPONLY=True,
        SESSION_COOKIE_SAMESITE="Lax",
        SESSION_COOKIE_SECURE=settings.secure_cookies,
        SESSION_REFRESH_EACH_REQUEST=False,  # an answer that overtakes another takes nothing back
        PERMANENT_SESSION_LIFETIME=timedelta(days=REMEMBERED_DAYS),
        LARK_SESSION_HOURS=settings.session_hours,
        WTF_CSRF_TIME_LIMIT=None,
        WTF_CSRF_SSL_STRICT=settings.secure_cookies,
        MAX_CONTENT_LENGTH=LARGEST_UPLOAD_BYTES,
        MAX_FORM_MEMORY_SIZE=LARGEST_FORM_BYTES,
        MAX_FORM_PARTS=MOST_FORM_FIELDS,
    )
    addresses.allow(settings.gauge_hosts)
    app.config["LARK_STREAMS"] = Streams(app.config["LARK_SESSIONS"], app.config["LARK_STOPPING"])
    app.jinja_env.undefined = StrictUndefined
    app.jinja_env.trim_blocks = app.jinja_env.lstrip_blocks = True
    rooms = [Path(station.__file__).parent / "templates" for station in STATIONS if station.__file__]
    app.jinja_loader = ChoiceLoader(
        [FileSystemLoader(room) for room in (Path(__file__).parent / "shared" / "templates", *rooms)]
    )
    logs.install(app)
    assets.install(app)
    headers.install(app)
    database.install(app)
    guard.install(app)
    CSRFProtect(app)
    errors.install(app)
    wording.install(app)
    frame.install(app)
    health.install(app)
    for station in STATIONS:
        app.register_blueprint(station.blueprint)
    return app
