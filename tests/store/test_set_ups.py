"""SetUps on the shop's own records: the plan's own force, a pile to go back through, files and the way back down."""

import json
from collections.abc import Callable
from datetime import UTC, datetime, timedelta

import pytest
from sqlalchemy import select
from sqlalchemy.orm import Session

from zesty_lark.core.setup.checks import check
from zesty_lark.core.setup.layout import Layout, Piece, dumped
from zesty_lark.core.work.machine_acts import Prepared
from zesty_lark.exchange.job_json import JobFileError, read_job, write_job
from zesty_lark.shopfloor.setting_up import LaidOut, laid_out_of
from zesty_lark.store import job_files, job_states, jobs, log_rows, people, set_ups, shoplog
from zesty_lark.store.models import Job, Person
from zesty_lark.store.read_in import ReadIn
from zesty_lark.store.shoplog import Draft


def laid_out(session: Session, number: str, face: int) -> LaidOut:
    job = jobs.by_number(session, number)
    assert job is not None
    job_state = job_states.state_of(session, job)
    setup = next(each for each in job_state.setups if face in each.up)
    return laid_out_of(session, job, job_state, datetime.now(UTC).date(), setup=setup, face=face, room=1)


def someone(session: Session) -> Person:
    who = people.by_sign_in_name(session, "bryn")
    assert who is not None
    return who


@pytest.mark.parametrize(("number", "face"), [("TR-114", 1), ("TR-114", 5), ("TR-120", 1), ("TR-140", 2)])
def test_the_set_up_holds_a_part_as_the_plan_reckons_it(demo: Session, number: str, face: int) -> None:
    made = laid_out(demo, number, face)
    plan = made.route.faces[face].plan
    assert plan is not None and made.facts.holder is None
    at = (made.facts.length / 2, made.facts.width / 2)
    alone = Layout(pieces=(Piece(1, *at, made.route.faces[face].choice.skew_deg),))
    for thing in made.layout.things:
        if thing.role == "shim":
            alone = alone.with_thing(thing.name, "shim", *at)
    hold = check(alone, made.facts).holds["p1"]
    assert hold is not None
    expected = min(hold.slide, hold.tip) if not made.route.faces[face].held.blocks else hold.slide
    assert expected == pytest.approx(plan.hold_safety, rel=0.04)


def keep(session: Session, job: Job, layout: Layout, version: int | None, *, back: bool = False) -> int:
    row = set_ups.keep(
        session, job, someone(session), "2", layout=layout, stop="", cautions=[], version=version,
        at=datetime.now(UTC), back=back,
    )  # fmt: skip
    return row.version


def test_a_set_up_goes_back_as_far_as_it_was_moved_and_no_pile_grows_for_ever(demo: Session) -> None:
    job = jobs.by_number(demo, "TR-114")
    assert job is not None
    version: int | None = None
    for x in range(60):
        version = keep(demo, job, Layout(pieces=(Piece(1, float(x), 75.0),)), version)
    row = set_ups.of(demo, job, "2")
    assert row is not None and len(json.loads(row.before)) == set_ups.MOST_BEFORE
    for x in range(58, 58 - set_ups.MOST_BEFORE, -1):
        before = set_ups.before(row)
        assert before is not None and before.pieces[0].x_mm == x
        version = keep(demo, job, before, version, back=True)
    assert set_ups.before(row) is None
    with pytest.raises(set_ups.LaidOutMeanwhile, match="Bryn Tallow moved something"):
        keep(demo, job, Layout(), 1)


def test_a_set_up_travels_with_its_job_and_a_wrong_one_is_refused(demo: Session) -> None:
    job = jobs.by_number(demo, "TR-114")
    assert job is not None
    keep(demo, job, Layout(pieces=(Piece(1, 12.5, 75.0, 20.0),)), None)
    text = write_job(job_files.write_out(demo, job))
    assert '"format": "zesty-lark job 10"' in text
    demo.delete(set_ups.of(demo, job, "2"))
    demo.flush()
    job_files.read_in(demo, read_job(text), ReadIn(someone(demo), datetime.now(UTC)))
    row = set_ups.of(demo, job, "2")
    assert row is not None and set_ups.layout_of(row).pieces[0].turn_deg == 20.0
    told = json.loads(text)
    told["set_ups"][0]["layout"] = "{}"
    with pytest.raises(JobFileError, match="this is no set-up"):
        read_job(json.dumps(told))
    told.pop("set_ups")
    assert not read_job(json.dumps(told)).set_ups
    told["format"] = "zesty-lark job 3"
    with pytest.raises(JobFileError, match="format"):
        read_job(json.dumps(told))


def test_what_undo_goes_back_through_is_neither_too_many_nor_too_long(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(set_ups, "MOST_BEFORE", 3)
    monkeypatch.setattr(set_ups, "LONGEST_BEFORE", 10)
    pile = "[]"
    for layout, kept in (
        ("a", ["a"]), ("b", ["a", "b"]), ("c", ["a", "b", "c"]), ("d", ["b", "c", "d"]),
        ("e" * 8, ["c", "d", "e" * 8]), ("f", ["d", "e" * 8, "f"]), ("g" * 4, ["f", "g" * 4]),
        ("h" * 30, ["h" * 30]), ("i", ["i"]),
    ):  # fmt: skip
        pile = set_ups._pushed(pile, layout)
        assert json.loads(pile) == kept


def test_a_machine_warmed_up_on_one_job_is_warm_for_another(demo: Session) -> None:
    there, began = jobs.by_number(demo, "TR-101"), datetime.now(UTC)
    assert there is not None
    same, other = (
        [
            scalar
            for scalar in demo.scalars(select(Job))
            if (scalar.machine_id == there.machine_id) is here and scalar != there
        ]
        for here in (True, False)
    )
    face = job_states.state_of(demo, there).surface_up
    for number, item in enumerate(("warm up", "stopped")):
        at = began + timedelta(minutes=number)
        entry = Prepared(entry_id=f"prepared-{number}", at=at, by="bryn", surface=face, item=item, answer="")
        shoplog.append(demo, there, someone(demo), Draft(entry))
    assert [set_ups.warmed_up_at(demo, each, began) for each in (there, same[0])] == [began, began]
    assert set_ups.warmed_up_at(demo, other[0], began) is None
    assert set_ups.warmed_up_at(demo, there, began + timedelta(seconds=1)) is None


def test_the_newest_entries_are_those_of_each_job_and_each_machine(
    demo: Session, statements: Callable[[], object]
) -> None:
    all_jobs = list(demo.scalars(select(Job)))
    newest = {job.id: job_states.state_of(demo, job).last_seq for job in all_jobs}
    machines = {each.machine_id for each in all_jobs}
    found = log_rows.newest_entries(demo, list(newest), list(machines))
    assert found["job"] == {key: seq for key, seq in newest.items() if seq}
    assert set(found["machine"]) <= machines and max(found["machine"].values()) <= max(newest.values())
    one = all_jobs[0].id
    with statements() as sent:  # type: ignore[attr-defined]
        assert log_rows.newest_entries(demo, [one], []) == {"job": {one: newest[one]}, "machine": {}}
    assert len(sent) == 1


def test_a_set_up_is_kept_with_its_job_held_against_all_others(demo: Session, statements: Callable[[], object]) -> None:
    job = jobs.by_number(demo, "TR-114")
    assert job is not None
    with statements() as sent:  # type: ignore[attr-defined]
        keep(demo, job, Layout(), None)
    assert any("FROM job" in each and each.endswith("FOR UPDATE") for each in sent)


def test_what_a_check_found_is_kept_as_far_as_there_is_room_and_only_when_it_is_new(demo: Session) -> None:
    job = jobs.by_number(demo, "TR-114")
    assert job is not None
    keep(demo, job, Layout(), None)
    row = set_ups.of(demo, job, "2")
    assert row is not None
    version = row.version
    long = "x" * (set_ups.LONGEST_STOP + 20)
    for stop, cautions, later in ((long, ["a", "b"], 1), (long, ["a", "b"], 1), ("", ["a", "b"], 2), ("", [], 3)):
        set_ups.found(demo, job, row, stop=stop, cautions=cautions)
        assert (row.stop, row.cautions) == (stop[: set_ups.LONGEST_STOP], "\n".join(cautions))
        assert row.version == version + later


def test_who_moved_something_meanwhile_is_told_with_the_set_up_as_it_is(demo: Session) -> None:
    job = jobs.by_number(demo, "TR-114")
    assert job is not None
    there = Layout(pieces=(Piece(1, 5.0, 75.0),))
    keep(demo, job, there, None)
    with pytest.raises(set_ups.LaidOutMeanwhile) as behind:
        keep(demo, job, Layout(), 0)
    assert set_ups.layout_of(behind.value.now) == there
    row = set_ups.of(demo, job, "2")
    assert row is not None and json.loads(row.before) == []
    keep(demo, job, there, row.version)
    assert json.loads(row.before) == [], "laid out as it was, there is nothing to go back to"


def test_a_set_up_that_is_here_is_not_laid_out_anew_by_a_file(demo: Session) -> None:
    job = jobs.by_number(demo, "TR-114")
    assert job is not None
    mine, theirs = Layout(pieces=(Piece(1, 5.0, 75.0),)), dumped(Layout(pieces=(Piece(1, 9.0, 75.0),)))
    keep(demo, job, mine, None)
    set_ups.read_in(demo, job, someone(demo), layouts={"2": theirs, "5": theirs}, at=datetime.now(UTC))
    laid = {key: set_ups.of(demo, job, key) for key in ("2", "5")}
    assert laid["2"] is not None and set_ups.layout_of(laid["2"]) == mine
    assert laid["5"] is not None and laid["5"].layout == theirs and laid["5"].before == "[]"
