"""A private MariaDB in a data directory of the application's own, on loopback."""

import hashlib
import os
import pwd
import shutil
import signal
import socket
import subprocess
import tempfile
import time
from dataclasses import dataclass
from pathlib import Path

import pymysql
from sqlalchemy import URL

from zesty_lark.running.children import die_with_parent
from zesty_lark.settings import kept_secret

DATABASE = "zesty_lark"
TRY_OUT = "_tryout"
"""Beside a shop's database one that is there while a backup is tried out."""
ACCOUNT = "lark"
SOCKET_PATH_LIMIT = 95
READY_SECONDS = 180.0
STOP_SECONDS = 30.0
DURABLE = ("--innodb-flush-log-at-trx-commit=1",)
THROWAWAY = (
    "--innodb-flush-log-at-trx-commit=0",
    "--innodb-doublewrite=0",
    "--innodb-log-file-size=8M",
    "--innodb-buffer-pool-size=64M",
    "--performance-schema=OFF",
)


class MariaDBError(RuntimeError):
    """The private database cannot be made or started; the message says what to look at."""


def free_port() -> int:
    """Return a TCP port on loopback that nobody listens on."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


@dataclass
class PrivateMariaDB:
    """A MariaDB server of our own.

    Attributes
    ----------
    directory : Path
        Holds the data, the socket, the error log and the account's password (mode 600).
    port : int
        Its port on 127.0.0.1.
    durable : bool
        Every commit reaches the disk before it is answered; only tests go without.
    """

    directory: Path
    port: int
    durable: bool = True
    process: subprocess.Popen[bytes] | None = None
    name = "the database"

    def __post_init__(self) -> None:
        self.directory = self.directory.resolve()

    @property
    def data(self) -> Path:
        """The server's data directory."""
        return self.directory / "data"

    @property
    def socket_path(self) -> Path:
        """The server's socket, kept short enough for the kernel."""
        path = self.directory / "db.sock"
        if len(str(path)) <= SOCKET_PATH_LIMIT:
            return path
        name = hashlib.sha256(str(self.directory).encode()).hexdigest()[:12]
        folder = Path(tempfile.gettempdir()) / f"lark-{os.getuid()}"
        folder.mkdir(mode=0o700, exist_ok=True)
        return folder / f"{name}.sock"

    @property
    def error_log(self) -> Path:
        """Where the server writes what goes wrong."""
        return self.directory / "mariadb.log"

    def url(self) -> URL:
        """Return the address the application connects to."""
        return self._url({"charset": "utf8mb4"})

    def socket_url(self) -> URL:
        """Return the address by its socket, which another command can use while the server runs."""
        return self._url({"charset": "utf8mb4", "unix_socket": str(self.socket_path)})

    def _url(self, query: dict[str, str]) -> URL:
        return URL.create("mariadb+pymysql", ACCOUNT, self._password(), "127.0.0.1", self.port, DATABASE, query=query)

    def _password(self) -> str:
        return kept_secret(self.directory / "database.key")

    def create(self) -> bool:
        """Make the data directory when there is none; return whether it was made now."""
        finished = self.directory / "created"
        if finished.exists():
            return False
        shutil.rmtree(self.data, ignore_errors=True)
        self.directory.mkdir(mode=0o700, parents=True, exist_ok=True)
        self.directory.chmod(0o700)
        self.temporary.mkdir(mode=0o700, exist_ok=True)
        user = _account_name()
        made = subprocess.run(
            [
                "mariadb-install-db",
                "--no-defaults",
                f"--datadir={self.data}",
                f"--tmpdir={self.temporary}",
                f"--user={user}",
                "--skip-test-db",
                "--skip-name-resolve",
                f"--auth-root-socket-user={user}",
            ],
            capture_output=True,
            text=True,
        )
        if made.returncode != 0:
            wrong = [line for line in (made.stdout + made.stderr).splitlines() if "ERROR" in line]
            said = "\n".join(wrong[:5]) or made.stdout[-600:] + made.stderr[-600:]
            raise MariaDBError(f"The database could not be made in {self.data}:\n{said}")
        finished.touch()
        return True

    @property
    def temporary(self) -> Path:
        """The server's own folder for what it needs for a moment: a server that starts clears such a folder of all
        there is."""
        return self.directory / "tmp"

    def start(self) -> None:
        """Start the server and wait until it answers.

        Raises
        ------
        MariaDBError
            If it stops or does not answer in time; the end of its log is in the message.
        """
        self._clear_orphan()
        self.error_log.touch(mode=0o600)
        self.error_log.chmod(0o600)
        self.temporary.mkdir(mode=0o700, exist_ok=True)
        self.process = subprocess.Popen(
            self._command(),
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
            umask=0o077,
            preexec_fn=die_with_parent(),
        )
        until = time.monotonic() + READY_SECONDS
        while time.monotonic() < until:
            if self.process.poll() is not None:
                raise MariaDBError(f"MariaDB stopped at once. The end of {self.error_log}:\n{self._log_end()}")
            if self._bootstrap():
                return
            time.sleep(0.05)
        raise MariaDBError(f"MariaDB did not answer within {READY_SECONDS:.0f} s; see {self.error_log}")

    def _command(self) -> list[str]:
        return [
            "mariadbd",
            "--no-defaults",
            f"--datadir={self.data}",
            f"--socket={self.socket_path}",
            f"--pid-file={self.directory / 'mariadb.pid'}",
            f"--log-error={self.error_log}",
            f"--port={self.port}",
            f"--tmpdir={self.temporary}",
            "--bind-address=127.0.0.1",
            "--skip-name-resolve",
            "--character-set-server=utf8mb4",
            "--collation-server=utf8mb4_unicode_ci",
            "--sql-mode=STRICT_ALL_TABLES,NO_ENGINE_SUBSTITUTION",
            *(["--user=root"] if os.getuid() == 0 else []),
            *(DURABLE if self.durable else THROWAWAY),
        ]

    def _bootstrap(self) -> bool:
        """Make the database and its account through the socket; return whether the server answered."""
        with socket.socket(socket.AF_UNIX) as probe:
            if probe.connect_ex(str(self.socket_path)) != 0:
                return False
        self.make_database(DATABASE)
        return True

    def make_database(self, name: str) -> None:
        """Make a database and let the application's account into it; nothing happens when both are there."""
        connection = pymysql.connect(
            unix_socket=str(self.socket_path), user=_account_name(), connect_timeout=10, ssl_disabled=True
        )
        with connection, connection.cursor() as cursor:
            cursor.execute(f"CREATE DATABASE IF NOT EXISTS {name}")
            for host in ("127.0.0.1", "localhost"):
                cursor.execute(f"CREATE USER IF NOT EXISTS {ACCOUNT}@'{host}'")
                cursor.execute(f"ALTER USER {ACCOUNT}@'{host}' IDENTIFIED BY %s", (self._password(),))
                for each in (name, f"{name}{TRY_OUT}"):
                    cursor.execute(f"GRANT ALL ON `{each}`.* TO {ACCOUNT}@'{host}'")

    def _clear_orphan(self) -> None:
        """End a server that an earlier, killed run left behind on our data directory."""
        pid = _read_pid(self.directory / "mariadb.pid")
        if pid is None or not _is_server_of(pid, self.data):
            return
        os.kill(pid, signal.SIGTERM)
        until = time.monotonic() + STOP_SECONDS
        while _is_server_of(pid, self.data):
            if time.monotonic() > until:
                os.kill(pid, signal.SIGKILL)
            time.sleep(0.05)

    def alive(self) -> bool:
        """Tell whether the server runs."""
        return self.process is not None and self.process.poll() is None

    def stop(self) -> None:
        """Stop the server and wait until it is gone."""
        if self.process is None:
            return
        if self.process.poll() is None:
            self.process.terminate()
            try:
                self.process.wait(STOP_SECONDS)
            except subprocess.TimeoutExpired:
                self.process.kill()
                self.process.wait()
        self.process = None

    def _log_end(self) -> str:
        return self.error_log.read_text("utf-8", "replace")[-1500:] if self.error_log.exists() else "(no log)"


def _account_name() -> str:
    return pwd.getpwuid(os.getuid()).pw_name


def _read_pid(path: Path) -> int | None:
    try:
        return int(path.read_text("ascii").strip())
    except (OSError, ValueError):
        return None


def _is_server_of(pid: int, data: Path) -> bool:
    try:
        command = Path(f"/proc/{pid}/cmdline").read_bytes().decode("utf-8", "replace")
    except OSError:
        return False
    return "mariadbd" in command and f"--datadir={data}" in command
