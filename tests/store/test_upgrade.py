"""A shop of the version before: its rows come along, its logs stand where they stood, and it can go back."""

import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from sqlalchemy import Engine, text

from zesty_lark.core.work.entries import Measured
from zesty_lark.core.work.next_act import next_act
from zesty_lark.running.mariadb import PrivateMariaDB
from zesty_lark.store import jobs, migrate, shoplog
from zesty_lark.store import rows as kept_rows
from zesty_lark.store.database import connect, sessions

DUMP = json.loads((Path(__file__).parent / "earlier" / "demo-0003.json").read_text())


@pytest.fixture(scope="module")
def earlier(server: PrivateMariaDB) -> Iterator[Engine]:
    """A database of the version before with the demonstration of then in it."""
    server.make_database("lark_earlier")
    engine = connect(server.url().set(database="lark_earlier"))
    kept_rows.clear(engine)
    kept_rows.put_in(engine, DUMP["revision"], DUMP["tables"].items())
    yield engine
    kept_rows.clear(engine)
    engine.dispose()


def rows(engine: Engine, table: str, columns: str) -> list[tuple[Any, ...]]:
    with engine.connect() as connection:
        return [tuple(row) for row in connection.execute(text(f"select {columns} from `{table}` order by 1"))]


def test_a_shop_of_the_version_before_comes_along_and_goes_back(earlier: Engine) -> None:
    before = rows(earlier, "log_entry", "seq, entry_id, kind, face, note, reading_mm")
    plans = rows(earlier, "plan", "id, face, stock_mm")
    migrate.upgrade(earlier)
    with sessions(earlier)() as session:
        stands = {}
        for number in ("TR-101", "TR-140"):
            job = jobs.by_number(session, number)
            assert job is not None
            entries = shoplog.entries_of(session, job)
            stands[number] = shoplog.state_of(session, job)
            assert all(entry.piece == 1 and entry.setup for entry in entries if isinstance(entry, Measured))
        half, whole = stands["TR-101"], stands["TR-140"]
        assert half.up == ("2", 1, 2) and half.runs[2].passes_done == 5 and next_act(half).act == "pass"
        assert half.pieces[1].sizes["thickness"].measured and 1 in half.pieces[1].done
        assert (
            whole.signed_off is not None and len(whole.gaps) == 2 and whole.pieces[1].unproved(whole.spec.wanted) == []
        )
        released = jobs.by_number(session, "TR-101")
        assert (
            released is not None
            and released.part.route is not None
            and released.part.route_choices.squareness == "angle_plate"
        )
    migrate.downgrade(earlier, DUMP["revision"])
    assert rows(earlier, "log_entry", "seq, entry_id, kind, face, note, reading_mm") == before
    assert rows(earlier, "plan", "id, face, stock_mm") == plans


def test_what_the_version_before_cannot_say_goes_back_as_a_note(earlier: Engine) -> None:
    migrate.upgrade(earlier)
    with earlier.begin() as connection:
        connection.execute(
            text(
                "insert into log_entry (entry_id, job_id, kind, at, by_id, note, piece, piece_end) "
                "values ('ended-0001', 1, 'ended', now(6), 1, 'Dropped.', 3, 'scrapped')"
            )
        )
        connection.execute(
            text(
                "insert into log_entry (entry_id, job_id, kind, at, by_id, note, surface, setup, `load`, piece, "
                "instrument_id, uncertainty_mm, characteristic, verdict) "
                "values ('other-0001', 1, 'measured', now(6), 1, '', 2, '2', 1, 2, 1, 0.001, 'thickness', 'in')"
            )
        )
    migrate.downgrade(earlier, DUMP["revision"])
    told = dict(rows(earlier, "log_entry", "entry_id, note"))
    kinds = dict(rows(earlier, "log_entry", "entry_id, kind"))
    assert kinds["ended-0001"] == kinds["other-0001"] == "note"
    assert (
        "scrapped 3" in told["ended-0001"]
        and "Dropped." in told["ended-0001"]
        and "of piece 2: in" in told["other-0001"]
    )
    with pytest.raises(Exception, match="append-only"), earlier.begin() as connection:
        connection.execute(text("update log_entry set note = ''"))
