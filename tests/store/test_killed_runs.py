"""Whole simulated runs logged by processes that are killed at any moment, and sent again until they are answered: in
the end the log has each entry once, in its order, as it was sent.

The moments are those at which something is asked of the database: before it, and when it is asked and not answered."""

import os
import random
import signal
from collections.abc import Callable, Iterator
from dataclasses import fields, replace
from decimal import Decimal
from pathlib import Path

import pytest
from pymysql.connections import Connection
from sqlalchemy import Engine, text
from sqlalchemy.exc import OperationalError
from sqlalchemy.orm import Session

from tests.shopfloor.hands import BEGIN, GAUGE, MACHINE, WHEEL, Hands, job_of
from zesty_lark.core.part.sizes import Size
from zesty_lark.core.part.taken_in import FaceIn, SizeIn, TakeIn
from zesty_lark.core.things.log import ThingEntry
from zesty_lark.core.things.machine import WheelOn
from zesty_lark.core.work.entries import Measured
from zesty_lark.core.work.entry import Entry
from zesty_lark.core.work.folding import stand
from zesty_lark.core.work.machine_acts import Planned
from zesty_lark.core.work.next_act import next_act
from zesty_lark.running.mariadb import PrivateMariaDB, free_port
from zesty_lark.store import job_states, jobs, log_rows, machines, migrate, people, shop, shoplog
from zesty_lark.store.database import connect, sessions
from zesty_lark.store.models import InstrumentRow, Job, MachineRow, WheelRow
from zesty_lark.store.models.people import Role
from zesty_lark.store.shoplog import Draft

D = Decimal
PRINT = Size(D(22), D("0.003"), D("0.003"))
SEEDS = (2, 5, 7)
KILLS_AND_RESENDS = 200
DATABASE_KILLS = 3
KILLS_AN_ENTRY = 2


@pytest.fixture
def durable(tmp_path: Path) -> Iterator[PrivateMariaDB]:
    """A database server of the test's own, as safe as the shop's: it is killed too."""
    made = PrivateMariaDB(tmp_path / "db", free_port())
    made.create()
    made.start()
    yield made
    made.stop()


def take_in(session: Session, number: str) -> Job:
    """The job that the hands work, kept in the database, on a machine of its own."""
    like = job_of(PRINT)
    owner = people.by_sign_in_name(session, "bryn")
    machine, wheel = shop.by_name(session, MachineRow, number), shop.by_name(session, WheelRow, number)
    assert owner is not None and machine is not None and wheel is not None
    part = like.part
    what = TakeIn(
        number=number, title="Pad", print_unit="mm", due_on=None, owner_id=owner.id, machine_id=machine.id,
        wheel_id=wheel.id, quantity=1, material=part.material, hardness_hrc=part.hardness_hrc, parallel_mm=None,
        square_mm=None, flat_mm=None, ra_um=None, mark_corner=part.mark_corner, reference_face=1,
        min_skin_mm=part.min_skin_mm, first_share=None, remarks="",
        sizes={size.axis: SizeIn(size.to_core(), size.measured_max_mm, size.measured_min_mm) for size in part.sizes},
        faces={face.face: FaceIn(face.condition, face.cleanup_mm, face.purpose) for face in part.faces},
    )  # fmt: skip
    return jobs.take_in(session, what, BEGIN)


def log_once(engine: Engine, number: str, entry: Entry) -> None:
    """Log one entry as a web worker does: a connection, a session, one transaction."""
    with sessions(engine)() as session:
        job, who = jobs.by_number(session, number), people.by_sign_in_name(session, "bryn")
        assert job is not None and who is not None
        if isinstance(entry, Planned):
            shoplog.release_plan(
                session, job, who, entry.plan, entry_id=entry.entry_id, at=entry.at, seen=None, pieces=entry.pieces
            )
        else:
            gauge = shop.by_name(session, InstrumentRow, GAUGE["name"]) if isinstance(entry, Measured) else None
            shoplog.append(session, job, who, Draft(entry, None, gauge))
        session.commit()


def at_each_moment(tell: Callable[[], None], patch: pytest.MonkeyPatch) -> None:
    """Let ``tell`` be called before anything is asked of a database, and once it is asked and not yet answered."""
    ask = Connection._execute_command

    def asking(self: Connection, *what: object) -> None:
        tell()
        ask(self, *what)
        tell()

    patch.setattr(Connection, "_execute_command", asking)


def moments_of(engine: Engine, number: str, entry: Entry) -> int:
    """Log an entry; return how many moments that has."""
    seen: list[None] = []
    with pytest.MonkeyPatch.context() as patch:
        at_each_moment(lambda: seen.append(None), patch)
        log_once(engine, number, entry)
    return len(seen)


def killed_in_a_process(engine: Engine, number: str, entry: Entry, moment: int) -> bool:
    """Log an entry in a process of its own that is killed at a moment; return whether it was.

    The process has what its parent has made ready, and connections of its own.
    """
    child = os.fork()
    if child == 0:
        try:
            engine.dispose(close=False)
            left = iter(range(moment))
            with pytest.MonkeyPatch.context() as patch:
                at_each_moment(lambda: next(left, None) is None and os.kill(os.getpid(), signal.SIGKILL), patch)
                log_once(engine, number, entry)
        finally:
            os._exit(0)
    _, status = os.waitpid(child, 0)
    return os.WIFSIGNALED(status)


def said(entry: Entry) -> dict[str, object]:
    """What an entry says: without what the database gave it."""
    told = {field.name: getattr(entry, field.name) for field in fields(entry) if field.name not in ("seq", "machine")}
    if isinstance(entry, Planned):
        told["plan"] = replace(entry.plan, plan_id=0)
    for name in ("asked_mm", "got_mm"):
        told.pop(name, None)
    return told


def test_killed_two_hundred_times_each_entry_is_there_once_in_its_order(durable: PrivateMariaDB) -> None:
    dice, hit = random.Random(13), 0
    engine = connect(durable.url())
    migrate.upgrade(engine)
    with sessions(engine)() as session:
        bryn = people.add_person(
            session, sign_in_name="bryn", name="Bryn", role=Role.MACHINIST, password="tern-rock-light", at=BEGIN
        )
        shop.keep(session, InstrumentRow, GAUGE)
        for number in [f"X-{seed}" for seed in SEEDS]:
            shop.keep(session, WheelRow, WHEEL | {"name": number})
            on = ThingEntry(entry_id=f"wheel-on-{number}", at=BEGIN, what=WheelOn(wheel=number))
            machines.tell(session, shop.keep(session, MachineRow, MACHINE | {"name": number}), bryn, on)
            take_in(session, number)
        session.commit()
    runs = {f"X-{seed}": worked(seed) for seed in SEEDS}
    log_once(engine, "X-2", runs["X-2"][0])
    moments = moments_of(engine, "X-2", runs["X-2"][1])
    fall = {dice.randrange(10, 70) for _ in range(DATABASE_KILLS)}
    for count, (number, entry) in enumerate((number, each) for number, entries in runs.items() for each in entries):
        if count in fall:
            assert durable.process is not None
            durable.process.kill()
            durable.process.wait()
            engine.dispose()
            with pytest.raises(OperationalError):
                log_once(engine, number, entry)  # nobody answers
            durable.start()
            hit += 2
        for _ in range(KILLS_AN_ENTRY):
            hit += killed_in_a_process(engine, number, entry, dice.randrange(moments))
        log_once(engine, number, entry)
        if dice.random() < 0.4:
            log_once(engine, number, entry)  # sent again after its answer was lost
            hit += 1
    assert hit >= KILLS_AND_RESENDS, hit
    with sessions(engine)() as session:
        for number, entries in runs.items():
            job = jobs.by_number(session, number)
            assert job is not None
            kept = log_rows.entries_of(session, job)
            assert [said(each) for each in kept] == [said(each) for each in entries]
            now = job_states.state_of(session, job)
            assert now == stand(job.part.spec(), kept) and next_act(now).surface not in (1, 2)
        total = session.scalar(text("select count(*) from log_entry"))
        assert total == sum(len(entries) for entries in runs.values())
        assert session.scalar(text("select count(*) from plan")) == sum(
            isinstance(each, Planned) for entries in runs.values() for each in entries
        ), "a plan is kept with its release or not at all"


def worked(seed: int) -> list[Entry]:
    """A whole run on the simulated grinder, as the entries that the screen sends."""
    hands = Hands(job_of(PRINT), seed)
    hands.work((1, 2))
    return [replace(entry, entry_id=f"{seed:02d}-{entry.entry_id}") for entry in hands.fold.entries]
