"""Passwords and guessing; jobs that travel as files."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta

import pytest
from argon2 import PasswordHasher
from sqlalchemy import Connection
from sqlalchemy.orm import Session

from zesty_lark.core.work.rules import LogError
from zesty_lark.demo import scenario
from zesty_lark.exchange.job_json import JobFileError, read_job, write_job
from zesty_lark.exchange.log_csv import read_log, write_log
from zesty_lark.store import job_files, jobs, people, shoplog
from zesty_lark.store.models import Person
from zesty_lark.store.models.people import Role

NOW = datetime(2026, 5, 4, 9, tzinfo=UTC)


@pytest.fixture
def lead(session: Session) -> Person:
    return people.add_person(session, sign_in_name="Isa", name="Isa", role=Role.LEAD, password="long enough 1", at=NOW)


def test_only_the_right_password_signs_in(session: Session, lead: Person) -> None:
    assert people.sign_in(session, "ISA ", "long enough 1", "::1", now=NOW) is lead
    assert people.sign_in(session, "isa", "Long enough 1", "::1", now=NOW) is None
    assert people.sign_in(session, "nobody", "long enough 1", "::1", now=NOW) is None
    assert lead.password_hash.startswith("$argon2id$")
    lead.active = False
    assert people.sign_in(session, "isa", "long enough 1", "::1", now=NOW) is None


def test_the_shop_s_own_passwords_are_dear_to_guess(quick_passwords: PasswordHasher) -> None:
    assert quick_passwords.memory_cost >= 47104 and quick_passwords.time_cost >= 2
    assert quick_passwords.hash("long enough 1").startswith("$argon2id$")


def test_guessing_is_slowed_down_and_forgiven_after_a_while(session: Session, lead: Person) -> None:
    for second in range(5):
        assert not people.throttled(session, "isa", "::1", NOW + timedelta(seconds=second))
        people.sign_in(session, "isa", "wrong", "::1", now=NOW + timedelta(seconds=second))
    assert people.throttled(session, "isa", "::1", NOW + timedelta(seconds=9))
    assert not people.throttled(session, "isa", "::2", NOW + timedelta(seconds=9)), "others are not locked out"
    assert not people.throttled(session, "isa", "::1", NOW + timedelta(minutes=11))


def test_one_address_cannot_try_every_name(session: Session) -> None:
    for number in range(30):
        people.sign_in(session, f"name{number}", "wrong", "::1", now=NOW)
    assert people.throttled(session, "another", "::1", NOW)


def test_a_sign_in_name_is_taken_once_and_a_new_password_ends_sign_ins(session: Session, lead: Person) -> None:
    with pytest.raises(people.NameTaken):
        people.add_person(session, sign_in_name="isa", name="X", role=Role.LEAD, password="long enough 2", at=NOW)
    stamp = lead.session_stamp
    people.set_password(lead, "another one 22")
    assert lead.session_stamp != stamp


def test_a_job_written_out_and_read_into_an_empty_shop_is_the_same_job(connection: Connection) -> None:
    nested = connection.begin_nested()
    with Session(connection, join_transaction_mode="create_savepoint") as here:
        scenario.load(here, NOW)
        job = jobs.by_number(here, "TR-140")
        assert job is not None
        text = write_job(job_files.write_out(here, job))
        story = shoplog.entries_of(here, job)
    nested.rollback()
    with Session(connection, join_transaction_mode="create_savepoint") as there:
        assert not people.anyone(there)
        reader = people.add_person(there, sign_in_name="reader", name="R", role=Role.LEAD, password=None, at=NOW)
        again, fresh = job_files.read_in(there, read_job(text), reader, NOW)
        assert fresh == len(story) > 20
        assert write_job(job_files.write_out(there, again)) == text
        standing = shoplog.standing_of(again, shoplog.entries_of(there, again))
        assert standing.at is not None and standing.at.pieces == (1, 2, 3, 4, 5, 6) and len(standing.at.proofs) == 5
        assert people.sign_in(there, "bryn", "", "::1", now=NOW) is None, "people read in cannot sign in"
        _, nothing = job_files.read_in(there, read_job(text), reader, NOW)
        assert nothing == 0


def test_a_log_written_as_csv_reads_back_the_same(demo: Session) -> None:
    job = jobs.by_number(demo, "TR-101")
    assert job is not None
    story = shoplog.entries_of(demo, job)
    again = read_log("\ufeff" + write_log(story))
    assert [write_log([each]) for each in again] == [write_log([each]) for each in story]
    known = {person.sign_in_name: person for person in people.everyone(demo)}
    assert shoplog.read_back(demo, job, again, known, instruments={}) == 0
    with pytest.raises(LogError, match="follow on"):
        shoplog.read_back(demo, job, [replace(story[0], entry_id="foreign-1")], known, instruments={})


def test_a_cell_that_looks_like_a_formula_is_disarmed(demo: Session) -> None:
    job = jobs.by_number(demo, "TR-101")
    assert job is not None
    entry = shoplog.entries_of(demo, job)[-1]
    nasty = replace(entry, note="=cmd()")
    assert ",'=cmd()," in write_log([nasty]) and read_log(write_log([nasty]))[0].note == "=cmd()"


@pytest.mark.parametrize(
    ("text", "says"),
    [("", "the file"), ("{}", "format"), ("[1]", "the file"), ('{"format": "zesty-lark job 9"}', "format")],
)
def test_a_file_that_is_no_job_is_refused_in_words(text: str, says: str) -> None:
    with pytest.raises(JobFileError, match=says):
        read_job(text)


@pytest.mark.parametrize(
    ("change", "says"),
    [
        (('"target_mm":"', '"target_mm":"-'), "target_mm"),
        (('"print_unit":"mm"', '"print_unit":"ft"'), "print_unit"),
        (('"remarks":', '"surprise":1,"remarks":'), "surprise"),
        (('"kind":"pass"', '"kind":"jump"'), "kind"),
    ],
)
def test_a_job_file_with_a_wrong_field_names_it(demo: Session, change: tuple[str, str], says: str) -> None:
    job = jobs.by_number(demo, "TR-101")
    assert job is not None
    text = write_job(job_files.write_out(demo, job)).replace('": ', '":')
    assert change[0] in text
    with pytest.raises(JobFileError, match=says):
        read_job(text.replace(*change))


@pytest.mark.parametrize("text", ["", "a,b\n1,2\n", "at,by\n", '"unclosed'])
def test_a_file_that_is_no_log_is_refused(text: str) -> None:
    with pytest.raises(JobFileError):
        read_log(text)
