"""Passwords and guessing; jobs that travel as files."""

import threading
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from datetime import UTC, datetime, timedelta

import pytest
from argon2 import PasswordHasher
from sqlalchemy import select, text
from sqlalchemy.exc import OperationalError
from sqlalchemy.orm import Session

from tests.store.test_migrate import made
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.exchange.job_json import JobFileError, read_job, write_job
from zesty_lark.exchange.log_csv import read_log, write_log
from zesty_lark.running.mariadb import PrivateMariaDB
from zesty_lark.store import guessing, job_files, job_states, jobs, log_rows, migrate, people, sign_ins
from zesty_lark.store.database import sessions
from zesty_lark.store.models import Person, SignedIn, SignInAttempt
from zesty_lark.store.models.people import Role
from zesty_lark.store.read_in import ReadIn, read_back

NOW = datetime(2026, 5, 4, 9, tzinfo=UTC)
PASSWORD = "long enough 1"


@pytest.fixture
def lead(session: Session) -> Person:
    return people.add_person(session, sign_in_name="Isa", name="Isa", role=Role.LEAD, password=PASSWORD, at=NOW)


def test_only_the_right_password_signs_in(session: Session, lead: Person) -> None:
    assert people.matching(session, "ISA ", "long enough 1") is lead
    assert people.matching(session, "isa", "Long enough 1") is None
    assert people.matching(session, "nobody", "long enough 1") is None
    assert lead.password_hash.startswith("$argon2id$")
    people.shut_out(session, lead)
    assert people.matching(session, "isa", "long enough 1") is None


def test_a_password_is_only_hashed_anew_when_it_was_hashed_more_cheaply(session: Session, lead: Person) -> None:
    before = lead.password_hash
    assert people.matching(session, "isa", PASSWORD) is lead and lead.password_hash == before
    lead.password_hash = PasswordHasher(time_cost=2, memory_cost=8, parallelism=1).hash(PASSWORD)
    other = lead.password_hash
    assert people.matching(session, "isa", PASSWORD) is lead and lead.password_hash not in (before, other)
    assert people.matching(session, "isa", PASSWORD) is lead


def test_the_shop_s_own_passwords_are_dear_to_guess(quick_passwords: PasswordHasher) -> None:
    assert quick_passwords.memory_cost >= 47104 and quick_passwords.time_cost >= 2
    assert quick_passwords.hash("long enough 1").startswith("$argon2id$")
    assert not quick_passwords.check_needs_rehash(people.NOBODY), "an unknown name takes as long as a wrong password"


def wrong(session: Session, name: str, address: str, at: datetime) -> timedelta:
    return guessing.count(session, name, address, at).wait


def test_waits_grow_with_wrong_passwords_and_are_forgiven(session: Session, lead: Person) -> None:
    now, waits = NOW, []
    for _ in range(12):
        while wait := wrong(session, "isa", "::1", now):
            waits.append(wait)
            now += wait
    assert waits == [min(guessing.FIRST_WAIT * 2**number, guessing.LONGEST_WAIT) for number in range(len(waits))]
    assert len(waits) == 12 - guessing.FREE["both"] - 1
    assert not wrong(session, "isa", "::2", now), "nobody's wrong passwords lock out another address"
    assert not wrong(session, "isa", "::1", now + guessing.LATELY + timedelta(seconds=1))


def test_a_right_password_begins_anew(session: Session, lead: Person) -> None:
    for second in range(4):
        assert not wrong(session, "isa", "::1", NOW + timedelta(seconds=second))
    right = guessing.count(session, "isa", "::1", NOW + timedelta(seconds=5))
    guessing.succeeded(session, right, NOW)
    assert not [second for second in range(6, 10) if wrong(session, "isa", "::1", NOW + timedelta(seconds=second))]


def test_one_address_cannot_try_every_name(session: Session) -> None:
    assert [bool(wrong(session, f"name{number}", "::1", NOW)) for number in range(31)] == [False] * 30 + [True]


def test_many_addresses_cannot_try_one_name_but_its_own_address_can(session: Session, lead: Person) -> None:
    guessing.succeeded(session, guessing.count(session, "isa", "home", NOW), NOW)
    at = NOW + timedelta(seconds=1)
    assert [bool(wrong(session, "isa", f"::{number}", at)) for number in range(101)] == [False] * 100 + [True]
    assert not wrong(session, "isa", "home", at)


def test_guesses_at_the_same_moment_are_counted_before_any_is_looked_at(server: PrivateMariaDB) -> None:
    engine = made(server, "lark_guessing")
    migrate.upgrade(engine)
    together = threading.Barrier(12)

    def guess(address: str) -> bool:
        with sessions(engine)() as session:
            together.wait(60)
            return not guessing.count(session, "isa", address, NOW).wait

    with ThreadPoolExecutor(12) as pool:
        for number in range(4):
            assert sum(pool.map(guess, [f"::{number}"] * 12)) == guessing.FREE["both"] + 1
    with sessions(engine)() as first, sessions(engine)() as second:
        first.execute(guessing.ONE_AT_A_TIME)
        second.execute(text("set innodb_lock_wait_timeout = 0"))
        with pytest.raises(OperationalError, match="Lock wait timeout"):
            guessing.count(second, "isa", "::9", NOW)
        second.rollback()
        first.commit()
        assert not guessing.count(second, "isa", "::9", NOW).wait
    engine.dispose()


def test_a_sign_in_ends_on_the_server(session: Session, lead: Person) -> None:
    here, there = (sign_ins.begin(session, lead, address="::1", browser=each, now=NOW) for each in ("here", "there"))
    idle = timedelta(hours=12)

    def of(token: str, at: datetime = NOW) -> SignedIn | None:
        return sign_ins.of_token(session, token, now=at, idle=idle)

    first = of(here)
    assert first is not None and first.browser == "here" and here not in first.token_digest
    assert of(here, NOW + timedelta(hours=11)) and of(here, NOW + timedelta(hours=22)), "it lasts with use"
    assert of(there, NOW + timedelta(hours=13)) is None and of("made up") is None
    people.set_password(session, lead, "another one 22", but=first)
    assert of(here) and of(there) is None
    people.shut_out(session, lead)
    people.set_password(session, lead, "a third one 333")
    assert people.matching(session, "isa", "a third one 333") is None, "a password does not let a shut-out person in"
    people.let_in(lead)
    assert of(here) is None and people.matching(session, "isa", "a third one 333") is lead


def test_a_sign_in_is_kept_as_far_as_there_is_room_and_until_it_was_idle_too_long(
    session: Session, lead: Person
) -> None:
    idle = timedelta(hours=12)
    token = sign_ins.begin(session, lead, address="a" * 60, browser="b" * 300, now=NOW)
    found = sign_ins.of_token(session, token, now=NOW + idle, idle=idle)
    assert found is not None and (found.address, found.browser) == ("a" * 45, "b" * 200)
    assert found.last_at == NOW + idle and len(token) >= 40
    soon = found.last_at + sign_ins.SEEN_EVERY
    assert sign_ins.of_token(session, token, now=soon, idle=idle) is found and found.last_at == NOW + idle
    later = soon + timedelta(microseconds=1)
    assert sign_ins.of_token(session, token, now=later, idle=idle) is found and found.last_at == later
    assert sign_ins.of_token(session, token, now=later + idle + timedelta(microseconds=1), idle=idle) is None
    sign_ins.begin(session, lead, address="", browser="", now=later + sign_ins.FORGOTTEN)
    assert len(sign_ins.of_person(session, lead)) == 2
    sign_ins.begin(session, lead, address="", browser="", now=later + sign_ins.FORGOTTEN + timedelta(seconds=1))
    assert len(sign_ins.of_person(session, lead)) == 2, "what was long unused is forgotten"


def test_only_a_person_s_own_sign_in_is_ended(session: Session, lead: Person) -> None:
    other = people.add_person(session, sign_in_name="nim", name="Nim", role=Role.APPRENTICE, password=PASSWORD, at=NOW)
    for number, who in enumerate((lead, other, lead)):
        sign_ins.begin(session, who, address="", browser=str(number), now=NOW + timedelta(minutes=number))
    newest, oldest = sign_ins.of_person(session, lead)
    assert (newest.browser, oldest.browser) == ("2", "0")
    assert not sign_ins.end(session, other, newest.id) and not sign_ins.end(session, lead, -5)
    assert sign_ins.end(session, lead, newest.id) and sign_ins.of_person(session, lead) == [oldest]


def test_a_name_is_guessed_at_by_what_can_be_kept_of_it(session: Session) -> None:
    long, far = "n" * 40, "9" * 45
    tries = [(long + "x", far + "1"), (" " + long.upper() + "yz ", far + "22"), (long, far)] * 4
    assert [bool(wrong(session, *attempt, NOW)) for attempt in tries].index(True) == guessing.FREE["both"] + 1
    assert not wrong(session, "m" + long, "8" + far, NOW)


def test_a_sign_in_name_is_taken_once(session: Session, lead: Person) -> None:
    with pytest.raises(people.NameTaken):
        people.add_person(session, sign_in_name="isa", name="X", role=Role.LEAD, password="long enough 2", at=NOW)
    fresh = people.add_person(session, sign_in_name="tove", name="T", role=Role.LEAD, password=None, at=NOW)
    with pytest.raises(people.NoPassword):
        people.let_in(fresh)


def test_a_job_written_out_and_read_into_an_empty_shop_is_the_same_job(demo: Session, session: Session) -> None:
    job = jobs.by_number(demo, "TR-140")
    assert job is not None and not people.anyone(session)
    text, story = write_job(job_files.write_out(demo, job)), log_rows.entries_of(demo, job)
    reader = people.add_person(session, sign_in_name="reader", name="R", role=Role.LEAD, password=None, at=NOW)
    again, fresh = job_files.read_in(session, read_job(text), ReadIn(reader, NOW))
    assert fresh == len(story) > 20
    assert write_job(job_files.write_out(session, again)) == text
    job_state = job_states.state_of(session, again)
    assert job_state.at is not None and job_state.at.pieces == (1, 2, 3, 4, 5, 6) and len(job_state.at.proofs) == 5
    assert people.matching(session, "bryn", "") is None, "people read in cannot sign in"
    _, nothing = job_files.read_in(session, read_job(text), ReadIn(reader, NOW))
    assert nothing == 0


def test_a_log_written_as_csv_reads_back_the_same(demo: Session) -> None:
    job = jobs.by_number(demo, "TR-101")
    assert job is not None
    story = log_rows.entries_of(demo, job)
    again = read_log("\ufeff" + write_log(story))
    assert [write_log([each]) for each in again] == [write_log([each]) for each in story]
    known = {person.sign_in_name: person for person in people.everyone(demo)}
    read_in = ReadIn(known["isa"], NOW)
    assert read_back(demo, job, again, known, instruments={}, read_in=read_in) == 0
    with pytest.raises(LogError, match="follow on"):
        read_back(demo, job, [replace(story[0], entry_id="foreign-1")], known, instruments={}, read_in=read_in)


def test_a_log_is_read_back_with_its_job_held_against_all_others(
    demo: Session, statements: Callable[[], object]
) -> None:
    job = jobs.by_number(demo, "TR-101")
    assert job is not None
    known = {person.sign_in_name: person for person in people.everyone(demo)}
    with statements() as sent:  # type: ignore[attr-defined]
        read_back(demo, job, [], known, instruments={}, read_in=ReadIn(known["isa"], NOW))
    assert any("FROM job" in each and each.endswith("FOR UPDATE") for each in sent)


def test_a_cell_that_looks_like_a_formula_is_disarmed(demo: Session) -> None:
    job = jobs.by_number(demo, "TR-101")
    assert job is not None
    entry = log_rows.entries_of(demo, job)[-1]
    nasty = replace(entry, note="=cmd()")
    assert ",'=cmd()," in write_log([nasty]) and read_log(write_log([nasty]))[0].note == "=cmd()"


@pytest.mark.parametrize(
    ("text", "says"),
    [("", "the file"), ("{}", "format"), ("[1]", "the file"), ('{"format": "zesty-lark job 11"}', "format")],
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


def test_a_wrong_password_counts_from_the_moment_after_the_right_one_and_for_so_long(
    session: Session, lead: Person
) -> None:
    right = guessing.count(session, "isa", "::1", NOW)
    guessing.succeeded(session, right, NOW)
    at = [NOW] * 3 + [NOW + timedelta(seconds=1)] * (guessing.FREE["known"] + 2)
    waits = [bool(wrong(session, "isa", "::1", each)) for each in at]
    assert waits.index(True) == 3 + guessing.FREE["known"] + 1, "of the right one's moment none"
    later = NOW + timedelta(seconds=1) + guessing.LATELY
    assert wrong(session, "isa", "::1", later - timedelta(microseconds=1)) == timedelta(0), "the wait is over by then"
    assert [bool(wrong(session, "isa", "::1", later)) for _ in range(4)] == [False] * 4


def test_others_who_guess_at_a_shared_terminal_keep_nobody_out_who_works_there(session: Session, lead: Person) -> None:
    guessing.succeeded(session, guessing.count(session, "isa", "::1", NOW), NOW)
    at = NOW + timedelta(seconds=1)
    guesses = [bool(wrong(session, f"name{number % 3}", "::1", at)) for number in range(60)]
    assert sum(guesses) > 20, "whoever guesses waits"
    assert not any(wrong(session, "isa", "::1", at) for _ in range(10)), "others' tries at one's own name among them"
    right = guessing.count(session, "isa", "::1", at)
    assert right.row is not None and not right.wait
    assert sum(bool(wrong(session, "isa", "::1", at)) for _ in range(60)) > 30, "but there is an end to it"


@pytest.mark.parametrize("back", [timedelta(minutes=2), timedelta(hours=5), timedelta(days=400)])
def test_a_clock_that_was_set_back_makes_nobody_wait(session: Session, lead: Person, back: timedelta) -> None:
    for _ in range(30):
        wrong(session, "isa", "::1", NOW)
    assert wrong(session, "isa", "::1", NOW) > timedelta(0)
    assert wrong(session, "isa", "::1", NOW - back) == timedelta(0)
    assert wrong(session, "isa", "::1", NOW - timedelta(seconds=30)) <= guessing.LONGEST_WAIT


def test_a_lead_changes_names_and_roles_and_that_is_kept(session: Session, lead: Person) -> None:
    other = people.add_person(session, sign_in_name="nim", name="N", role=Role.APPRENTICE, password=None, at=NOW)
    sign_ins.begin(session, other, address="", browser="", now=NOW)
    assert not people.change(session, other, name=" N ", role=Role.APPRENTICE, by=lead, at=NOW)
    assert people.change(session, other, name="Nim", role=Role.APPRENTICE, by=lead, at=NOW)
    assert len(sign_ins.of_person(session, other)) == 1, "a name ends no sign-in"
    assert people.change(session, other, name="Nim", role=Role.MACHINIST, by=lead, at=NOW)
    assert not sign_ins.of_person(session, other)
    told = [(each.was_name, each.was_role, each.now_name, each.now_role) for each in people.changes(session)]
    assert told == [("Nim", "apprentice", "Nim", "machinist"), ("N", "apprentice", "Nim", "apprentice")]
    with pytest.raises(people.NoLead, match="only lead"):
        people.change(session, lead, name="I", role=Role.INSPECTOR, by=lead, at=NOW)
    for sql in ("update person_change set now_role = 'lead'", "delete from person_change"):
        with pytest.raises(OperationalError, match="append-only"), session.begin_nested():
            session.execute(text(sql))


def test_tries_are_kept_so_long_and_then_forgotten(session: Session, lead: Person) -> None:
    for at in (NOW - guessing.KEPT - timedelta(microseconds=1), NOW - guessing.KEPT):
        wrong(session, "isa", "::7", at)
    guessing.succeeded(session, guessing.count(session, "isa", "::1", NOW), NOW)
    left = session.scalars(select(SignInAttempt.at).where(SignInAttempt.address == "::7")).all()
    assert left == [NOW - guessing.KEPT]


def test_whoever_has_no_password_is_nobody_to_every_password(session: Session, lead: Person) -> None:
    fresh = people.add_person(session, sign_in_name="tove", name="T", role=Role.LEAD, password=None, at=NOW)
    assert not people.is_right(fresh, "") and not people.is_right(fresh, PASSWORD)
    assert people.is_right(lead, PASSWORD) and not people.is_right(lead, "long enough 2")
    fresh.active = True
    assert people.matching(session, "tove", "") is None
    with pytest.raises(people.NoPassword):
        people.let_in(fresh)
    people.shut_out(session, lead)
    assert people.is_right(lead, PASSWORD) and people.matching(session, "isa", PASSWORD) is None


def test_a_sign_in_s_token_is_long_and_only_its_digest_is_kept(session: Session, lead: Person) -> None:
    token = sign_ins.begin(session, lead, address="", browser="", now=NOW)
    (row,) = sign_ins.of_person(session, lead)
    assert len(token) == 43 and token not in row.token_digest and len(row.token_digest) == 64


def test_the_longest_wait_is_the_longest_however_often_somebody_tries(session: Session, lead: Person) -> None:
    now = NOW
    for _ in range(60):
        while wait := wrong(session, "isa", "::1", now):
            assert wait <= guessing.LONGEST_WAIT
            now += wait
    assert now - NOW < guessing.LONGEST_WAIT * 60


def test_every_sign_in_ends_but_the_one_that_is_meant(session: Session, lead: Person) -> None:
    for number in range(3):
        sign_ins.begin(session, lead, address="", browser=str(number), now=NOW + timedelta(minutes=number))
    newest = sign_ins.of_person(session, lead)[0]
    sign_ins.end_all(session, lead, but=newest)
    assert sign_ins.of_person(session, lead) == [newest]
    sign_ins.end_all(session, lead)
    assert sign_ins.of_person(session, lead) == []
