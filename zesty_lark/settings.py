"""Every setting, read from the environment as ``LARK_*``; ``lark config`` lists them."""

import os
import secrets
from pathlib import Path

from pydantic import Field, SecretStr
from pydantic_settings import BaseSettings, SettingsConfigDict

__all__ = ["SettingError", "Settings", "ensure_secret", "kept_secret", "unknown_settings"]

SECRET_LEAST_LENGTH = 32


class SettingError(RuntimeError):
    """A setting is missing or unusable; the message says which and what would do."""


class Settings(BaseSettings):
    """The application's settings."""

    model_config = SettingsConfigDict(env_prefix="LARK_", extra="ignore")

    home: Path = Field(default=Path("var"), description="Where the database, secrets and logs of this shop are kept")
    host: str = Field(default="127.0.0.1", description="Address the web server listens on")
    port: int = Field(default=8420, ge=0, le=65535, description="Port of the web server; 0 takes a free one")
    workers: int = Field(default=2, ge=1, le=64, description="Web server processes")
    threads: int = Field(default=4, ge=1, le=64, description="Threads in each web server process")
    database_url: SecretStr | None = Field(
        default=None, description="An outside MariaDB as mariadb+pymysql://…; without it a private one is started"
    )
    secret: SecretStr | None = Field(
        default=None, description="Key that signs sessions, 32 characters or more; made at first start otherwise"
    )
    secure_cookies: bool = Field(default=False, description="Send cookies over HTTPS only; set it behind a TLS proxy")
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
    """Return the secret in a file, making both (mode 600) when there is none."""
    if path.exists():
        return path.read_text("ascii").strip()
    path.parent.mkdir(parents=True, exist_ok=True)
    value = secrets.token_urlsafe(48)
    descriptor = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
    with os.fdopen(descriptor, "w") as file:
        file.write(value)
        file.flush()
        os.fsync(file.fileno())
    return value
