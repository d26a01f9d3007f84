"""Two application hosts on one database; sweeps over a cluster; the audit of what is locked."""

import json
import os
import re
import signal
import subprocess
import sys
import urllib.error
import urllib.parse
import urllib.request
from collections.abc import Iterator
from http.cookiejar import CookieJar
from pathlib import Path
from typing import Any

import pytest
from sqlalchemy import Engine, text

from tests.browser.conftest import PAGE_SECONDS, Running
from tests.store.test_migrate import made
from zesty_lark.core import headless
from zesty_lark.demo.crew import PASSWORD
from zesty_lark.running import audit, sweeps
from zesty_lark.running.mariadb import PrivateMariaDB
from zesty_lark.store import migrate, rows
from zesty_lark.store.database import alone, connect

TOKEN = re.compile(r'name="csrf_token"[^>]*value="([^"]+)"')


class Tablet:
    """A browser that keeps its cookies, whichever host it is sent to."""

    def __init__(self) -> None:
        self.cookies = CookieJar()
        self._opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self.cookies))
        self.page = ""

    def open(self, address: str, fields: dict[str, str] | None = None) -> int:
        found = TOKEN.search(self.page)
        sent = None if fields is None else {"csrf_token": found.group(1) if found else "", **fields}
        data = None if sent is None else urllib.parse.urlencode(sent).encode()
        try:
            with self._opener.open(address, data, timeout=PAGE_SECONDS) as answer:
                self.page, status = answer.read().decode(), answer.status
        except urllib.error.HTTPError as error:
            self.page, status = error.read().decode(), error.code
        return int(status)


@pytest.fixture
def shared(server: PrivateMariaDB, demo_engine: Engine) -> Iterator[Engine]:
    engine = made(server, "lark_hosts")
    with rows.as_one_moment(demo_engine) as tables:
        rows.put_in(engine, migrate.newest_revision(engine) or "", tables)
    yield engine
    engine.dispose()


def test_sign_ins_presses_and_pages_work_across_two_hosts_and_one_s_death_loses_nothing(
    shared: Engine, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("LARK_DATABASE_URL", shared.url.render_as_string(hide_password=False))
    monkeypatch.setenv("LARK_SECRET", "the same secret on every one of the hosts")
    first, second = Running(tmp_path / "one", "up"), Running(tmp_path / "two", "up")
    one, two, tablet = first.address, second.address, Tablet()
    tablet.open(f"{one}/sign-in")
    assert tablet.open(f"{one}/sign-in", {"sign_in_name": "bryn", "password": PASSWORD}) == 200
    for cookie in tablet.cookies:
        assert cookie.domain == "127.0.0.1", "both hosts have one name here, as behind one proxy"
    told = []
    for number, host in enumerate((one, two, one, two, one), start=1):
        assert tablet.open(f"{host}/jobs/TR-101/grind") == 200
        note = {"act": "note", "note": f"word {number}", "entry_id": f"across-{number:04d}"}
        assert tablet.open(f"{host}/jobs/TR-101/grind", note) == 200
        told.append(note)
    first.process.send_signal(signal.SIGKILL)
    first.process.wait()
    assert tablet.open(f"{two}/jobs/TR-101/grind") == 200
    for note in told:
        assert tablet.open(f"{two}/jobs/TR-101/grind", note) == 200, "sent again to the other host"
    with shared.connect() as connection:
        kept = connection.execute(text("select note from log_entry where note like 'word %' order by seq")).scalars()
        assert list(kept) == [f"word {number}" for number in range(1, 6)]
    assert tablet.open(f"{two}/sign-out", {}) == 200 and "Sign-in name" in tablet.page
    assert second.stop() == 0


def test_only_one_machine_changes_the_tables_at_a_time(shared: Engine, monkeypatch: pytest.MonkeyPatch) -> None:
    other = connect(shared.url)
    monkeypatch.setattr("zesty_lark.store.database.STEP_SECONDS", 1)
    with alone(shared, 1) as first, alone(other, 1) as second:
        assert first and not second
    with alone(other, 1) as second:
        assert second
    other.dispose()


LINES = [
    json.dumps({"name": "edge.break", "input": {"size_mm": 0.1 * number}}).encode() + b"\n" for number in range(1, 131)
]


def started(module: str, *arguments: str) -> tuple[subprocess.Popen[str], str]:
    process = subprocess.Popen(
        [sys.executable, "-m", module, *arguments],
        stderr=subprocess.PIPE,
        stdout=subprocess.DEVNULL,
        text=True,
        env=dict(os.environ, DASK_DISTRIBUTED__WORKER__DAEMON="False"),
    )
    assert process.stderr is not None
    for line in process.stderr:
        found = re.search(r"(?:Scheduler at|Registered to): +(tcp://\S+)", line)
        if found:
            return process, found.group(1)
    raise AssertionError(f"{module} never said where it is")


def test_a_sweep_over_a_cluster_is_the_one_worked_out_here() -> None:
    quiet = ["--host", "127.0.0.1", "--no-dashboard"]
    scheduler, address = started("distributed.cli.dask_scheduler", *quiet, "--port", "0")
    worker, _ = started("distributed.cli.dask_worker", address, *quiet, "--nthreads", "1", "--no-nanny")
    try:
        code = "import sys; from zesty_lark.door import main; sys.exit(main(['--batch']))"
        told = subprocess.run(
            [sys.executable, "-c", code],
            input=b"".join(LINES),
            capture_output=True,
            env=dict(os.environ, LARK_DASK=address),
            timeout=PAGE_SECONDS,
        )
        assert told.stdout.decode().splitlines() == list(headless.batch(LINES)), told.stderr[-800:]
        assert list(sweeps.answered(iter(LINES), None)) == list(headless.batch(LINES))
    finally:
        for process in (worker, scheduler):
            process.kill()
            process.communicate()


@pytest.mark.parametrize(
    ("found", "code", "words"),
    [
        ([{"name": "a", "version": "1", "vulns": []}], 0, ""),
        (
            [{"name": "a", "version": "1", "vulns": [{"id": "X-1"}, {"id": "X-2"}]}],
            1,
            "a 1 has known weaknesses: X-1, X-2",
        ),
        ([{"name": "a", "skip_reason": "away"}], 0, "nobody could be asked"),
        ([], 0, "nobody could be asked"),
    ],
)
def test_what_an_audit_finds_is_said(found: list[dict[str, Any]], code: int, words: str) -> None:
    said: list[str] = []
    assert audit.told_of(found, said.append) == code
    assert words in "\n".join(said) and bool(said) == bool(words)
