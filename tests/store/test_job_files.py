"""A job's file into the shop: whole, once, and nothing of one that contradicts itself or what is here."""

import json
import re
from collections.abc import Callable, Iterator
from contextlib import suppress
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from decimal import Decimal
from random import Random
from typing import Any
from uuid import uuid4

import pytest
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from tests.store.test_take_in import AT, what
from zesty_lark.core.part.sizes import Reading
from zesty_lark.core.part.taken_in import TakeIn
from zesty_lark.core.work.entries import Measured, Noted, Undone
from zesty_lark.core.work.entry import Entry
from zesty_lark.core.work.machine_acts import PassFed, SparkedOut
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.core.work.record import JobRecord
from zesty_lark.exchange.job_json import JobFileError, entry_from, read_job, write_job
from zesty_lark.store import job_files, job_states, jobs, log_rows, people, read_in, shop, shoplog, summaries
from zesty_lark.store.job_files import ReadInError
from zesty_lark.store.models import InstrumentRow, Job, LogEntry, Person, SizeRun, WheelRow
from zesty_lark.store.read_in import ReadIn, read_back
from zesty_lark.store.shoplog import Draft

__all__ = ["what"]

D = Decimal
NOW = datetime(2026, 5, 4, 9, tzinfo=UTC)
GAUGE = "Bench comparator B1"
READINGS = (Reading("middle", D("22.16")), Reading("left", D("22.17")))


def who(session: Session, name: str = "isa") -> Person:
    found = people.by_sign_in_name(session, name)
    assert found is not None
    return found


@pytest.fixture
def record(demo: Session, what: TakeIn) -> JobRecord:
    """The file of a job with something in every field."""
    job = jobs.take_in(demo, what, AT)
    return read_job(write_job(job_files.write_out(demo, job)))


def test_a_file_brings_all_that_was_taken_in(demo: Session, what: TakeIn, record: JobRecord) -> None:
    again, fresh = job_files.read_in(demo, record, ReadIn(who(demo), NOW))
    assert again.number == "TR-190" and fresh == 0, "the job that is here is that of the file"
    other = replace(record, job=dict(record.job) | {"number": "TR-191"})
    job, _ = job_files.read_in(demo, other, ReadIn(who(demo), NOW))
    demo.expire_all()
    assert jobs.take_in_of(job) == replace(what, number="TR-191")


def with_part(record: JobRecord, **more: object) -> JobRecord:
    return replace(record, part=dict(record.part) | more)


WRONG: list[tuple[Callable[[JobRecord], JobRecord], str]] = [
    (lambda file: with_part(file, quantity=4), "another quantity"),
    (lambda file: replace(file, pieces=[*file.pieces, file.pieces[0]]), "a piece twice"),
    (lambda file: replace(file, pieces=[*file.pieces, dict(file.pieces[0]) | {"number": 4}]), "There is no piece"),
    (lambda file: replace(file, characteristics=[*file.characteristics] * 2), "asks for .* already"),
    (
        lambda file: replace(file, characteristics=[dict(file.characteristics[0]) | {"to_surface": 7}]),
        "of a face that a block has not",
    ),
    (
        lambda file: replace(file, characteristics=[dict(file.characteristics[0]) | {"surface": 0}]),
        "of a face that a block has not",
    ),
    (lambda file: replace(file, faces=file.faces[1:]), "six faces"),
    (lambda file: replace(file, sizes=[*file.sizes, file.sizes[0]]), "a size twice"),
    (lambda file: replace(file, people=[]), "without saying who"),
    (lambda file: with_part(file, route="{"), "route cannot be read"),
    (lambda file: with_part(file, features="{"), "cannot be read"),
    (
        lambda file: replace(file, faces=[dict(face) | {"condition": "wet"} for face in file.faces]),
        "condition .* is not known",
    ),
]


@pytest.mark.parametrize(("change", "says"), WRONG)
def test_a_file_that_contradicts_itself_or_what_is_here_changes_nothing(
    demo: Session, record: JobRecord, change: Callable[[JobRecord], JobRecord], says: str
) -> None:
    before = demo.scalar(select(func.count()).select_from(Job))
    with pytest.raises(ReadInError, match=says):
        job_files.read_in(demo, change(record), ReadIn(who(demo), NOW))
    assert demo.scalar(select(func.count()).select_from(Job)) == before


def test_a_piece_is_as_many_as_the_job_has_and_no_more(demo: Session, record: JobRecord) -> None:
    assert [piece["number"] for piece in record.pieces] == [1, 3] and record.part["quantity"] == 3
    job_files.read_in(demo, record, ReadIn(who(demo), NOW))
    with pytest.raises(ReadInError, match="There is no piece 3"):
        job_files.read_in(demo, with_part(record, quantity=2), ReadIn(who(demo), NOW))


def test_a_file_for_a_wheel_that_may_not_run_there_says_why(demo: Session, record: JobRecord) -> None:
    wheel = demo.scalar(select(WheelRow).where(WheelRow.name == record.wheel.name))
    assert wheel is not None
    wheel.max_rpm = 10
    demo.flush()
    with pytest.raises(ReadInError) as error:
        job_files.read_in(demo, record, ReadIn(who(demo), NOW))
    assert len(str(error.value)) > 60 and str(error.value).endswith("Nothing was read in.")


def step(told: dict[str, Any], kind: str) -> dict[str, Any]:
    """A step of the first plan in a file's log."""
    plan = next(each["plan"] for each in told["entries"] if each["kind"] == "planned")
    return next(each for each in plan["steps"] if each["kind"] == kind)  # type: ignore[no-any-return]


def measured(told: dict[str, Any]) -> dict[str, Any]:
    """The first measurement in a file's log."""
    return next(each for each in told["entries"] if each["kind"] == "measured")  # type: ignore[no-any-return]


CANNOT_BE: list[tuple[Callable[[dict[str, Any]], dict[str, Any]], str, object, str]] = [
    (lambda told: told["part"], "parallel_mm", "0", "part.parallel_mm"),
    (lambda told: told["part"], "square_mm", "0", "part.square_mm"),
    (lambda told: told["part"], "flat_mm", "0", "part.flat_mm"),
    (lambda told: told["part"], "mark_corner", "1-2-3", "part.mark_corner: no corner"),
    (lambda told: told["sizes"][0], "target_mm", "0", "sizes.0.target_mm"),
    (lambda told: told["sizes"][0], "measured_min_mm", "0", "sizes.0.measured_min_mm"),
    (lambda told: told["sizes"][0], "measured_min_mm", "999", "less than the least"),
    (lambda told: step(told, "dress"), "step_mm", "0.001", "goes with a rough or finish pass"),
    (lambda told: step(told, "rough"), "step_mm", "0", "goes with a rough or finish pass"),
    (lambda told: step(told, "finish"), "step_mm", "3", "less than what is fed down now"),
    (lambda told: step(told, "rough"), "crossfeed_mm", "0", "crossfeed_mm: this has to be greater than 0."),
    (lambda told: step(told, "rough"), "number", 1, "a step is there twice"),
    (measured, "instrument", None, "with which instrument"),
    (measured, "instrument", "", "with which instrument"),
    (measured, "piece", None, "of which piece"),
    (measured, "uncertainty_mm", None, "how sure it is"),
    (measured, "uncertainty_mm", "-0.001", "uncertainty_mm"),
]


@pytest.mark.parametrize(("where", "name", "value", "says"), CANNOT_BE)
def test_what_the_shop_s_record_cannot_hold_is_named_before_anything_is_read(
    demo: Session, where: Callable[[dict[str, Any]], dict[str, Any]], name: str, value: object, says: str
) -> None:
    job = jobs.by_number(demo, "TR-101")
    assert job is not None
    told = json.loads(write_job(job_files.write_out(demo, job)))
    assert read_job(json.dumps(told))
    where(told)[name] = value
    with pytest.raises(JobFileError, match=re.escape(says)):
        read_job(json.dumps(told))


def test_a_row_of_a_log_names_its_field_or_the_entry_as_a_whole() -> None:
    told = {"entry_id": "row-000001", "kind": "measured", "at": "2026-05-04T09:00:00Z", "by": "bryn", "piece": 1}
    with pytest.raises(JobFileError, match="^the entry: a measurement says"):
        entry_from(told)
    with pytest.raises(JobFileError, match="^piece: this has to be greater"):
        entry_from(told | {"piece": 0})


def leaves(value: object, path: tuple[str | int, ...] = ()) -> Iterator[tuple[str | int, ...]]:
    """The places of all plain values in a file."""
    if isinstance(value, dict):
        for name, each in value.items():
            yield from leaves(each, (*path, name))
    elif isinstance(value, list):
        for number, each in enumerate(value):
            yield from leaves(each, (*path, number))
    else:
        yield path


def spoiled(told: dict[str, Any], path: tuple[str | int, ...], value: object) -> str:
    """The file with another value at one place."""
    copy = json.loads(json.dumps(told))
    *way, last = path
    inner = copy
    for each in way:
        inner = inner[each]
    inner[last] = value
    return json.dumps(copy)


@pytest.mark.parametrize("seed", range(2))
def test_whatever_a_file_says_it_is_read_or_refused_in_words(demo: Session, seed: int) -> None:
    job, rnd = jobs.by_number(demo, ("TR-101", "TR-140")[seed % 2]), Random(seed)
    assert job is not None
    text = write_job(job_files.write_out(demo, job)).replace(job.number, "TR-940")
    for known in sorted(set(re.findall(r'"(?:entry_id|key)": "([^"]+)"', text))):
        text = text.replace(known, str(uuid4()))
    told, read = json.loads(text), 0
    by_name: dict[tuple[str, ...], tuple[str | int, ...]] = {}
    places = list(leaves(told))
    for path in rnd.sample(places, len(places)):
        by_name.setdefault(tuple(each for each in path if isinstance(each, str)), path)
    for path in rnd.sample(sorted(by_name.values(), key=str), 30):
        for value in rnd.sample((None, "", "x" * 700, -1, 0, "-0.5", "99999999.5", 10**9, True), 3):
            with demo.begin_nested() as savepoint:
                with suppress(JobFileError, ReadInError, LogError):
                    job_files.read_in(demo, read_job(spoiled(told, path, value)), ReadIn(who(demo), NOW))
                    read += 1
                savepoint.rollback()
            demo.expire_all()
    assert read > 5, "some of it can be"


class LaidOut:
    """TR-101 with a cut and a measurement more, and then as it was before them in another shop."""

    def __init__(self, session: Session) -> None:
        self.session, self.count = session, 0
        job = jobs.by_number(session, "TR-101")
        assert job is not None
        self.job: Job = job
        self.people = {person.sign_in_name: person for person in people.everyone(session)}
        self.gauges = {row.name: row for row in shop.listed(session, InstrumentRow)}
        self.read_in = ReadIn(self.people["isa"], NOW)

    def entries(self) -> list[Entry]:
        """A cut, its measurement, and that it was taken back."""
        reading = job_states.state_of(self.session, self.job).runs[2].next_reading_mm
        assert reading is not None
        given = (
            (PassFed, {"surface": 2, "reading_mm": reading}),
            (SparkedOut, {"surface": 2}),
            (Measured, {"surface": 2, "readings": READINGS, "instrument": GAUGE, "uncertainty_mm": D("0.001")}),
        )
        at = datetime.now(UTC)
        return [
            kind(entry_id=f"file-00000{number}", at=at + timedelta(minutes=number), by="bryn", **more)  # type: ignore[arg-type]
            for number, (kind, more) in enumerate(given, start=1)
        ]

    def read(self, *fresh: Entry) -> int:
        here = log_rows.entries_of(self.session, self.job)
        return read_back(
            self.session, self.job, [*here, *fresh], self.people, instruments=self.gauges, read_in=self.read_in
        )


@pytest.fixture
def laid_out(demo: Session) -> LaidOut:
    return LaidOut(demo)


def test_what_is_read_in_stands_as_if_it_was_logged_here(laid_out: LaidOut, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(read_in, "ROWS_AT_ONCE", 2)
    before, runs = (
        log_rows.entries_of(laid_out.session, laid_out.job),
        len(list(laid_out.session.scalars(select(SizeRun)))),
    )
    assert laid_out.read(*laid_out.entries()) == 3
    laid_out.session.expire_all()
    after = log_rows.entries_of(laid_out.session, laid_out.job)
    fresh = after[len(before) :]
    assert [each.entry_id for each in fresh] == ["file-000001", "file-000002", "file-000003"]
    assert [each.seq for each in fresh] == sorted(each.seq for each in fresh)
    assert all(each.read_in_by == laid_out.people["isa"].name for each in fresh)
    assert all(each.read_in_at == NOW for each in fresh)
    size = fresh[2]
    assert isinstance(size, Measured)
    assert [(reading.place, reading.value_mm) for reading in size.readings] == [
        ("middle", D("22.16")),
        ("left", D("22.17")),
    ]
    assert size.asked_mm and size.machine is not None
    newest = laid_out.session.scalar(select(SizeRun).order_by(SizeRun.seq.desc()))
    assert newest is not None and newest.seq == size.seq
    assert len(list(laid_out.session.scalars(select(SizeRun)))) == runs + 1
    kept = laid_out.session.get(summaries.JobSummary, laid_out.job.id)
    assert kept is not None and kept.last_at == fresh[-1].at


def test_what_a_file_takes_back_teaches_nothing_wherever_it_was_logged(laid_out: LaidOut) -> None:
    runs = len(list(laid_out.session.scalars(select(SizeRun))))
    entries = laid_out.entries()
    undo = Undone(
        entry_id="file-undo-1", at=datetime.now(UTC) + timedelta(minutes=9), by="bryn", supersedes="file-000003"
    )
    for files in ([*entries, undo],), (entries, [undo]):
        with laid_out.session.begin_nested() as savepoint:
            for file in files:
                assert laid_out.read(*file) == len(file)
            assert len(list(laid_out.session.scalars(select(SizeRun)))) == runs
            assert all(
                shortfall.at < entries[0].at
                for shortfall in job_states.state_of(laid_out.session, laid_out.job).shortfalls
            )
            savepoint.rollback()
        laid_out.session.expire_all()


def test_a_file_s_entries_are_new_follow_on_and_are_no_other_job_s(
    laid_out: LaidOut, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(read_in, "IDS_AT_ONCE", 2)
    count = laid_out.session.scalar(select(func.count()).select_from(LogEntry))
    other = jobs.by_number(laid_out.session, "TR-140")
    assert other is not None
    here, there = (log_rows.entries_of(laid_out.session, each) for each in (laid_out.job, other))
    fresh = [Noted(entry_id=f"fresh-00{n}", at=datetime.now(UTC), by="bryn", note="A note.") for n in range(4)]
    theirs = [replace(fresh[0], entry_id=there[-1].entry_id)]
    wrong = [Noted(entry_id="x" * 50, at=NOW, by="bryn", note="n")]
    for entries, says in (
        ([*here, *theirs], f"entry {there[-1].entry_id} is another job's"),
        ([*here, *fresh[:2], *theirs], f"entry {there[-1].entry_id} is another job's"),
        ([*here, *wrong], "“" + "x" * 40 + "” is no id"),
        ([*here, fresh[0], fresh[0]], "fresh-000 twice"),
        ([replace(here[0], note="Changed."), *here[1:]], "not what was logged here"),
        ([fresh[0], *here], "do not follow on"),
        ([*here[:-1], fresh[0]], "do not follow on"),
        ([fresh[0]], "do not follow on"),
    ):
        with pytest.raises(LogError, match=says):
            read_back(
                laid_out.session, laid_out.job, entries, laid_out.people, instruments={}, read_in=laid_out.read_in
            )
    assert laid_out.session.scalar(select(func.count()).select_from(LogEntry)) == count
    told = replace(here[0], seq=9, machine="Another", screen="abc", read_in_by="Nim", read_in_at=NOW)
    assert laid_out.read() == 0
    again = [told, *here[1:], *fresh]
    assert (
        read_back(laid_out.session, laid_out.job, again, laid_out.people, instruments={}, read_in=laid_out.read_in) == 4
    )


def test_a_note_on_paper_is_kept_with_the_one_who_wrote_it(laid_out: LaidOut) -> None:
    noted = Noted(entry_id=str(uuid4()), at=datetime.now(UTC), by="bryn", note="Mist on.")
    assert laid_out.read(noted) == 1
    laid_out.session.expire_all()
    last = log_rows.entries_of(laid_out.session, laid_out.job)[-1]
    assert (last.by, last.note, last.read_in_by) == ("bryn", "Mist on.", laid_out.people["isa"].name)
    again = shoplog.append(laid_out.session, laid_out.job, laid_out.people["bryn"], Draft(noted))
    assert again.already
