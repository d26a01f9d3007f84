"""Every setting, read from the environment as ``LARK_*``; ``lark config`` lists them."""

import ipaddress
import os
import re
import secrets
from pathlib import Path

from pydantic import Field, SecretStr
from pydantic_settings import BaseSettings, SettingsConfigDict

from zesty_lark.files import written_whole

SECRET_LEAST_LENGTH = 32
KEPT_SECRET = re.compile(r"[A-Za-z0-9_-]{32,}")


class SettingError(RuntimeError):
    """A setting is missing or unusable; the message says which and what would do."""


class Settings(BaseSettings):
    """The application's settings."""

    model_config = SettingsConfigDict(env_prefix="LARK_", extra="ignore")

    home: Path = Field(default=Path("var"), description="Where the database, secrets and logs of this shop are kept")
    host: str = Field(default="127.0.0.1", description="Address the web server listens on")
    port: int = Field(default=8420, ge=0, le=65535, description="Port of the web server; 0 takes a free one")
    workers: int = Field(default=2, ge=1, le=64, description="Web server processes")
    threads: int = Field(default=6, ge=1, le=64, description="Threads in each web server process")
    calculators: int = Field(
        default=2, ge=0, le=64, description="Processes for what takes long; with 0 it is worked out where it is asked"
    )
    database_url: SecretStr | None = Field(
        default=None, description="An outside MariaDB as mariadb+pymysql://…; without it a private one is started"
    )
    secret: SecretStr | None = Field(
        default=None, description="Key that signs sessions, 32 characters or more; made at first start otherwise"
    )
    secure_cookies: bool = Field(default=False, description="Send cookies over HTTPS only; set it behind a TLS proxy")
    trusted_proxy: str | None = Field(
        default=None,
        description="Address of the TLS proxy in front, whose word on who asks is taken; nobody else gets in then",
    )
    header_seconds: float = Field(default=10, gt=0, le=600, description="How long a request's head may take to arrive")
    body_seconds: float = Field(default=60, gt=0, le=3600, description="How long a whole request may take to arrive")
    idle_seconds: int = Field(default=30, ge=1, le=3600, description="How long a connection may stay silent")
    gauge_hosts: str = Field(
        default="127.0.0.1:8421-8424",
        description="Hosts and ports that gauges, readouts and meters may be read from, apart by commas",
    )
    dask: str | None = Field(
        default=None, description="Address of a Dask scheduler, such as tcp://192.0.2.30:8786, for “lark calc --batch”"
    )
    session_hours: int = Field(default=12, ge=1, le=72, description="How long a sign-in lasts without use")


def unknown_settings() -> list[str]:
    """Return the ``LARK_*`` variables in the environment that mean nothing here."""
    known = {f"LARK_{name.upper()}" for name in Settings.model_fields}
    return sorted(name for name in os.environ if name.startswith("LARK_") and name not in known)


def ensure_secret(settings: Settings) -> str:
    """Return the session key, making one in the home directory (mode 600) at first start.

    Raises
    ------
    SettingError
        If a key was given that is too short to be safe.
    """
    if settings.secret is not None:
        key = settings.secret.get_secret_value()
    else:
        key = kept_secret(settings.home / "session.key")
    if len(key) < SECRET_LEAST_LENGTH:
        raise SettingError(f"LARK_SECRET must have at least {SECRET_LEAST_LENGTH} characters.")
    return key


def kept_secret(path: Path) -> str:
    """Return the secret in a file, making both (mode 600) when there is none.

    Raises
    ------
    SettingError
        If the file cannot be read or made, or holds no secret.
    """
    try:
        if not path.exists():
            path.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
            with written_whole(path) as file:
                file.write(secrets.token_urlsafe(48).encode())
        value = path.read_text("ascii").strip()
    except (OSError, UnicodeDecodeError) as error:
        raise SettingError(f"The key file {path} cannot be read or made: {error}.") from error
    if not KEPT_SECRET.fullmatch(value):
        raise SettingError(
            f"The key file {path} is empty or damaged. Put it back from a copy, or remove it: a new key is made "
            "at the next start, and everybody signs in again."
        )
    return value


def is_loopback(host: str) -> bool:
    """Tell whether an address is this machine itself."""
    if host == "localhost":
        return True
    try:
        return ipaddress.ip_address(host).is_loopback
    except ValueError:
        return False


def check_reach(settings: Settings) -> None:
    """Refuse to be reached from other machines without what protects what is sent on the way.

    Raises
    ------
    SettingError
        If the host is not loopback and a TLS proxy in front is not set up.
    """
    if settings.trusted_proxy is not None:
        try:
            ipaddress.ip_address(settings.trusted_proxy)
        except ValueError as error:
            raise SettingError(f"LARK_TRUSTED_PROXY has to be one address, not “{settings.trusted_proxy}”.") from error
        if not settings.secure_cookies:
            raise SettingError("LARK_TRUSTED_PROXY needs LARK_SECURE_COOKIES=true: cookies go over HTTPS only then.")
    if not is_loopback(settings.host) and settings.trusted_proxy is None:
        raise SettingError(
            f"LARK_HOST={settings.host} can be reached from other machines, and passwords could be read on the way. "
            "Put a proxy that speaks TLS in front, set LARK_TRUSTED_PROXY to its address and LARK_SECURE_COOKIES=true; "
            "docs/running.md shows how."
        )
