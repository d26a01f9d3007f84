"""The tables on real MariaDB: migrations, exactness, and what the database itself refuses."""

from datetime import UTC, datetime
from decimal import Decimal
from pathlib import Path

import pytest
from sqlalchemy import Connection, Engine, func, inspect, select, text
from sqlalchemy.dialects import mysql
from sqlalchemy.exc import DBAPIError, StatementError
from sqlalchemy.orm import Session

from zesty_lark.core.things.shop import Chuck
from zesty_lark.running.mariadb import PrivateMariaDB
from zesty_lark.store import migrate, rows, shop
from zesty_lark.store.models import ChuckRow, FixtureRow, LogEntry, MachineRow, Person, WheelRow
from zesty_lark.store.models.base import ExactLength, KeptInError


def test_the_secrets_of_the_database_are_for_their_owner_only(server: PrivateMariaDB) -> None:
    assert (server.directory / "database.key").stat().st_mode & 0o777 == 0o600
    assert server.directory.stat().st_mode & 0o777 == 0o700
    assert not server.create(), "made once"


def test_two_servers_on_one_machine_do_not_share_what_is_temporary(server: PrivateMariaDB, engine: Engine) -> None:
    with engine.connect() as connection:
        where = connection.execute(text("select @@tmpdir")).scalar_one()
    assert Path(where) == server.temporary and server.temporary.stat().st_mode & 0o777 == 0o700


@pytest.mark.parametrize(
    "act",
    [
        "update log_entry set note = 'x'",
        "delete from log_entry",
        "update log_reading set value_mm = 1",
        "delete from log_reading",
    ],
)
def test_the_log_cannot_be_changed_even_with_sql(demo: Session, act: str) -> None:
    with pytest.raises(DBAPIError, match="append-only"):
        demo.execute(text(act))


def test_lengths_stay_exact_and_anything_else_is_refused(session: Session) -> None:
    values = {
        "name": "W1",
        "marking": "A 46 H",
        "grit": 46,
        "grade": "H",
        "diameter_mm": Decimal("180.1234567"),
        "width_mm": Decimal("12.7"),
        "bore_mm": Decimal("31.75"),
        "max_rpm": 3600,
    }
    kept = shop.keep(session, WheelRow, values)
    session.expire_all()
    assert kept.diameter_mm == Decimal("180.1234567")
    for wrong in (180.5, Decimal("1.12345678"), Decimal(10_000_000)):
        session.add(WheelRow(**values | {"name": "W2", "diameter_mm": wrong}))
        with pytest.raises(StatementError, match="exact"):
            session.flush()
        session.rollback()


def test_times_need_their_zone_and_come_back_in_utc(session: Session) -> None:
    with pytest.raises(StatementError, match="time zone"):
        session.add(Person(sign_in_name="a", name="A", role="lead", created_at=datetime(2026, 1, 1)))
        session.flush()
    session.rollback()
    moment = datetime(2026, 1, 1, 12, 30, 15, 123456, tzinfo=UTC)
    session.add(Person(sign_in_name="a", name="A", role="lead", created_at=moment))
    session.flush()
    session.expire_all()
    assert session.scalars(select(Person.created_at)).one() == moment


@pytest.mark.parametrize(
    "change",
    [
        {"graduation_mm": Decimal(0)},
        {"per_rev_mm": Decimal("0.001")},
        {"crossfeed_max_mm": Decimal("0.05")},
        {"table_max_mm_s": Decimal(1)},
        {"cut_ratio": Decimal("1.5")},
        {"dial_unit": "ft"},
        {"coolant": "milk"},
    ],
)
def test_the_database_refuses_a_machine_that_cannot_be(demo: Session, change: dict[str, object]) -> None:
    machine = shop.listed(demo, MachineRow)[0]
    values = {
        column.key: getattr(machine, column.key) for column in inspect(MachineRow).column_attrs if column.key != "id"
    }
    with pytest.raises(shop.DoesNotFit) as refused:
        shop.keep(demo, MachineRow, values | {"name": "No. 3"} | change)
    assert refused.value.said and all(words.endswith(".") for words in refused.value.said.values())
    assert shop.by_name(demo, MachineRow, "No. 3") is None
    demo.add(MachineRow(**values | {"name": "No. 3"} | change))
    with pytest.raises(DBAPIError):
        demo.flush()


def test_a_chuck_and_a_fixture_come_back_as_they_were_kept(demo: Session) -> None:
    chuck, plate = shop.by_name(demo, ChuckRow, "Chuck B"), shop.by_name(demo, FixtureRow, "Angle plate P1")
    assert chuck is not None and chuck.to_core() == Chuck(
        "Chuck B",
        Decimal(600),
        Decimal(200),
        Decimal(80),
        pull_tested=True,
        low_share=Decimal("0.3"),
        fence_mm=Decimal(6),
        fence_out_um=Decimal("2.5"),
        fence_ground=True,
    )
    assert plate is not None
    assert plate.to_core().base == (150.0, 100.0) and plate.to_core().out_of_square == pytest.approx(0.002 / 100)
    with pytest.raises(shop.DoesNotFit, match="kind"):
        shop.keep(demo, FixtureRow, {"name": plate.name, "kind": "string"}, plate)
    assert plate.kind == "angle_plate", "what is refused leaves it as it was"


def test_a_pass_without_a_reading_is_refused_by_the_database_too(demo: Session) -> None:
    entry = demo.scalars(select(LogEntry).where(LogEntry.kind == "pass").limit(1)).one()
    demo.add(LogEntry(entry_id="x" * 12, job_id=entry.job_id, kind="pass", at=entry.at, by=entry.by, surface=1))
    with pytest.raises(DBAPIError, match="pass_has_reading"):
        demo.flush()


def test_every_entry_id_is_unique(engine: Engine, demo: Session) -> None:
    count, distinct = demo.execute(
        select(func.count(), func.count(LogEntry.entry_id.distinct())).select_from(LogEntry)
    ).one()
    assert count == distinct > 40
    assert any(
        index["unique"] for index in inspect(engine).get_indexes("log_entry") if index["column_names"] == ["entry_id"]
    )


def test_rows_go_in_some_at_a_time_and_none_is_left_out(demo: Session, monkeypatch: pytest.MonkeyPatch) -> None:
    batches: list[int] = []
    whole = rows._insert_all

    def counted(connection: Connection, name: str, batch: list[dict[str, object]]) -> int:
        batches.append(len(batch))
        return whole(connection, name, batch)

    monkeypatch.setattr(rows, "ROWS_AT_ONCE", 3)
    monkeypatch.setattr(rows, "_insert_all", counted)
    job = demo.scalar(text("select min(id) from job"))
    for many, sizes in ((7, [3, 3, 1]), (6, [3, 3]), (0, [])):
        batches.clear()
        words = [{"word": f"put-in-{many}-{number}", "job_id": job} for number in range(many)]
        assert rows._insert(demo.connection(), "job_word", words) == many and batches == sizes
    assert demo.scalar(text("select count(*) from job_word where word like 'put-in-%'")) == 13
    with pytest.raises(ValueError, match="the table job_word has no column colour"):
        rows._insert(demo.connection(), "job_word", [{"word": "put-in", "job_id": job, "colour": "red"}])


def test_a_layout_is_known_or_not(engine: Engine) -> None:
    assert migrate.knows(engine, migrate.newest_revision(engine) or "")
    assert not migrate.knows(engine, "9999")


def test_what_is_kept_but_cannot_be_is_told_by_name_with_what_is_wrong(demo: Session) -> None:
    machine = demo.scalars(select(MachineRow)).first()
    assert machine is not None
    with demo.no_autoflush:
        machine.rpm = -5
        with pytest.raises(KeptInError, match=f"{machine.name} cannot be worked with.*rpm") as error:
            machine.to_core()
        assert error.value.row is machine
        demo.expire(machine)


def test_a_length_fits_just_below_ten_thousand_metres_to_a_tenth_of_a_nanometre() -> None:
    kept = ExactLength()
    most, dialect = Decimal("9999999.9999999"), mysql.dialect()
    for value in (most, -most, Decimal("0.0000001"), Decimal(0)):
        assert kept.process_bind_param(value, dialect) == value
    for wrong in (Decimal(10_000_000), Decimal(-10_000_000), Decimal("0.00000001")):
        with pytest.raises(ValueError, match="exactly"):
            kept.process_bind_param(wrong, dialect)
