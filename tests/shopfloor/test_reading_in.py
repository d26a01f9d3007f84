"""What a file states is judged anew from its readings: moved readings are no longer in, a small U is the gauge's."""

from dataclasses import replace
from datetime import UTC, datetime
from decimal import Decimal

import pytest
from sqlalchemy.orm import Session

from tests.shopfloor.test_as_it_stands import JOBS, in_its_date, job_of
from zesty_lark.core.part.prints import Characteristic
from zesty_lark.core.part.sizes import Reading
from zesty_lark.core.work.entries import Measured, Noted, SignedOff
from zesty_lark.core.work.entry import Entry
from zesty_lark.core.work.record import JobRecord
from zesty_lark.exchange.job_json import read_job, write_job
from zesty_lark.shopfloor.reading_in import Differs, Source, judged_anew, read_job_in, read_log_in
from zesty_lark.shopfloor.squaring import sides_of
from zesty_lark.store import job_files, job_states, jobs, log_rows, people
from zesty_lark.store.models import InstrumentRow, Person
from zesty_lark.store.models.people import Role

NOW = datetime(2026, 12, 1, 12, tzinfo=UTC)


@pytest.fixture
def reader(session: Session) -> Person:
    """Whoever reads in, in an empty shop."""
    return people.add_person(session, sign_in_name="reader", name="R", role=Role.LEAD, password=None, at=NOW)


def file_of(demo: Session, number: str) -> JobRecord:
    job, _ = job_of(demo, number)
    return read_job(write_job(job_files.write_out(demo, job)))


def changed(record: JobRecord, **fields: object) -> tuple[JobRecord, list[Measured]]:
    """A file whose verdicts that are "in" have other fields; and those as they were."""
    was = [each for each in record.entries if isinstance(each, Measured) and each.verdict == "in"]
    entries: list[Entry] = []
    for entry in record.entries:
        if entry in was and isinstance(entry, Measured):
            moved = {name: value(entry) if callable(value) else value for name, value in fields.items()}
            entry = replace(entry, **moved)
        entries.append(entry)
    return replace(record, entries=entries), was


@pytest.mark.parametrize("number", JOBS)
def test_what_was_lived_in_a_shop_is_the_same_in_another(demo: Session, session: Session, number: str) -> None:
    """Read into an empty shop no figure differs; written out again, only a sign-off is missing."""
    reader = people.add_person(session, sign_in_name="reader", name="R", role=Role.LEAD, password=None, at=NOW)
    record = file_of(demo, number)
    job, fresh = read_job_in(session, record, Source(reader, NOW, "from.json"))
    told = [entry for entry in record.entries if not isinstance(entry, SignedOff)]
    assert fresh == len(told)
    again = job_files.write_out(session, job)
    bare = [replace(instrument, port=None, simulated=False) for instrument in record.instruments]
    assert write_job(again) == write_job(replace(record, entries=told, instruments=bare))
    assert {each.read_in_from for each in log_rows.entries_of(session, job)} == {"from.json"}
    assert read_job_in(session, record, Source(reader, NOW, "from.json")) == (job, 0)


def test_readings_that_were_moved_are_not_in_whatever_the_file_says(
    demo: Session, session: Session, reader: Person
) -> None:
    record, was = changed(
        file_of(demo, "TR-140"),
        readings=lambda each: tuple(Reading(one.place, one.value_mm + 1) for one in each.readings),
    )
    assert was
    with pytest.raises(Differs) as told, session.begin_nested():
        read_job_in(session, record, Source(reader, NOW, "forged.json"))
    moved = [difference for difference in told.value.differences if difference.field == "verdict"]
    assert [each.entry.entry_id for each in moved] == [each.entry_id for each in was]
    assert {each.in_file for each in moved} == {"in"} and {each.here for each in moved} <= {"out", "not yet"}
    job, _ = read_job_in(session, record, Source(reader, NOW, "forged.json", agreed=True))
    kept = {each.entry_id: each for each in log_rows.entries_of(session, job)}
    for each in was:
        entry = kept[each.entry_id]
        assert isinstance(entry, Measured) and entry.verdict in ("out", "not yet") and entry.read_in_by == "R"
    assert read_job_in(session, record, Source(reader, NOW, "forged.json"))[1] == 0, "seen already, entry for entry"


@pytest.mark.parametrize("u", ["0", "0.0000001"])
def test_a_u_smaller_than_the_gauge_s_is_the_gauge_s(demo: Session, session: Session, reader: Person, u: str) -> None:
    record, was = changed(file_of(demo, "TR-133"), uncertainty_mm=Decimal(u))
    assert was
    with pytest.raises(Differs) as told:
        read_job_in(session, record, Source(reader, NOW))
    smaller = [difference for difference in told.value.differences if difference.field == "± U"]
    assert len(smaller) == len(was)
    assert [each.here for each in smaller] == [f"{each.uncertainty_mm.normalize():f} mm" for each in was]


def test_what_a_file_has_as_unsure_is_never_in(demo: Session, session: Session, reader: Person) -> None:
    record, was = changed(file_of(demo, "TR-140"), verdict="unsure")
    job, _ = read_job_in(session, record, Source(reader, NOW))
    kept = {each.entry_id: each for each in log_rows.entries_of(session, job)}
    assert was and all(kept[each.entry_id].verdict == "unsure" for each in was)  # type: ignore[attr-defined]


def test_no_sign_off_comes_with_a_file(demo: Session, session: Session, reader: Person) -> None:
    record = file_of(demo, "TR-101")
    signed = SignedOff(entry_id="signed-by-file", at=record.entries[-1].at, by="bryn")
    after = Noted(entry_id="noted-by-file", at=signed.at, by="bryn", note="Fine.")
    whole = replace(record, entries=[*record.entries, signed, after])
    job, _ = read_job_in(session, whole, Source(reader, NOW))
    assert job_states.state_of(session, job).signed_off is None
    assert log_rows.entries_of(session, job)[-1].note == "Fine."


def test_a_log_read_back_in_is_judged_anew_too(demo: Session) -> None:
    job, _ = job_of(demo, "TR-133")
    isa = people.by_sign_in_name(demo, "isa")
    assert isa is not None
    entries = log_rows.entries_of(demo, job)
    measured = next(entry for entry in reversed(entries) if isinstance(entry, Measured) and entry.verdict)
    far = replace(
        measured,
        entry_id="moved-reading",
        verdict="in",
        at=entries[-1].at,
        readings=tuple(Reading(reading.place, reading.value_mm + 3) for reading in measured.readings),
    )
    with pytest.raises(Differs):
        read_log_in(demo, job, [*entries, far], Source(isa, NOW))
    demo.rollback()
    assert read_log_in(demo, job, [*entries, far], Source(isa, NOW, "log.csv", agreed=True)) == 1
    newest = log_rows.entries_of(demo, job)[-1]
    assert isinstance(newest, Measured) and newest.verdict != "in" and newest.read_in_from == "log.csv"


def test_no_address_of_a_gauge_comes_out_of_a_file(demo: Session, session: Session, reader: Person) -> None:
    record = file_of(demo, "TR-101")
    gauges = [replace(instrument, port="socket://127.0.0.1:9", simulated=True) for instrument in record.instruments]
    job, _ = read_job_in(session, replace(record, instruments=gauges), Source(reader, NOW))
    assert jobs.by_number(session, "TR-101") is job
    written = job_files.write_out(session, job)
    assert written.instruments and not any(each.port or each.simulated for each in written.instruments)


def measured_in(demo: Session, number: str) -> Measured:
    job, _ = job_of(demo, number)
    found = [each for each in log_rows.entries_of(demo, job) if isinstance(each, Measured) and each.verdict == "in"]
    return found[-1]


def test_a_gauge_that_nobody_knows_proves_nothing(demo: Session) -> None:
    job, job_state = job_of(demo, "TR-133")
    entry = measured_in(demo, "TR-133")
    assert judged_anew(job, job_state, entry, None).verdict == "unsure"


def test_each_kind_of_characteristic_is_judged_by_its_own_rule(demo: Session, gauge: InstrumentRow) -> None:
    base, kinds = measured_in(demo, "TR-133"), set[str]()
    for job, job_state in (job_of(demo, number) for number in ("TR-101", "TR-133")):

        def word(asked: Characteristic, *values: tuple[str, Decimal]) -> str | None:
            readings = tuple(Reading(place, value) for place, value in values)
            entry = replace(
                base, characteristic=asked.name, surface=asked.surfaces[0], readings=readings, how="by hand"
            )
            entry = replace(entry, at=in_its_date(gauge), uncertainty_mm=Decimal("0.0001"), verdict="in", how="by hand")
            return judged_anew(job, job_state, entry, gauge).verdict  # noqa: B023

        for asked in job_state.spec.wanted.characteristics:
            kinds.add(asked.kind)
            sides = sides_of(asked) if asked.kind == "square" else ()
            places = [f"face {side}" for side in sides] or ["middle"]
            if asked.is_zone:
                assert word(asked, *((place, asked.allowed_mm / 10) for place in places)) == "in"
                assert word(asked, *((place, asked.allowed_mm * 3) for place in places)) == "out"
            if len(sides) > 1:
                assert word(asked, (places[0], asked.allowed_mm / 10)) == "unsure", "a side is missing"
            if asked.kind == "angle":
                assert word(asked, ("angle", asked.limits.target_mm)) == "in"
                assert word(asked, ("angle", asked.limits.upper_mm + 1)) == "out"
                due, gauge.due_on = gauge.due_on, gauge.calibrated_on
                assert word(asked, ("angle", asked.limits.target_mm)) == "unsure", "past its date"
                gauge.due_on = due
    assert {"square", "parallel", "angle", "size"} <= kinds
