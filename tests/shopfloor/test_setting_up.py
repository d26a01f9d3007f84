"""Set-ups at work: what is on the set-up, what stops it, its list before the touch-off, when it is looked at again."""

from dataclasses import replace
from datetime import UTC, datetime
from decimal import Decimal

import pytest
from sqlalchemy.orm import Session

from tests.shopfloor.test_as_it_stands import job_of
from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.core.setup.before import needed_at_least
from zesty_lark.core.setup.layout import Layout, Piece
from zesty_lark.core.work.entries import CautionWaived
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.machine_acts import Prepared
from zesty_lark.shopfloor import forming_up, looking, setting_up
from zesty_lark.shopfloor.forming_up import formed_set_up
from zesty_lark.shopfloor.setting_up import laid_out_of
from zesty_lark.store import people, shop
from zesty_lark.store.models import BlockSetRow, Person

NOW = datetime.now(UTC)
D = Decimal


def lead(session: Session) -> Person:
    found = people.by_sign_in_name(session, "isa")
    assert found is not None
    return found


def test_the_pieces_on_a_set_up_are_those_of_the_load_else_those_to_come_as_far_as_there_is_room(demo: Session) -> None:
    _, job_state = job_of(demo, "TR-140")
    up, side = job_state.setup("2"), job_state.setup("3+4")
    assert up is not None and side is not None
    assert setting_up._load(job_state, up, 2, 3) == job_state.runs[2].pieces == (1, 2, 3, 4, 5, 6)
    assert (
        setting_up._load(job_state, side, 3, 4) == job_state.live[:4]
        and setting_up._load(job_state, side, 3, 99) == job_state.live
    )
    assert setting_up._load(job_state, replace(up, key="7"), 2, 2) == job_state.live[:2]
    first = job_state.setup("1")
    assert first is not None and not any(
        job_state.pieces[n].wants(job_state.spec.wanted.surfaces[1]) for n in job_state.live
    )
    assert setting_up._load(job_state, replace(first, key="8"), 1, 2) == job_state.live[:2], "nobody wants it any more"
    bare = replace(job_state, runs={**job_state.runs, 2: replace(job_state.runs[2], plan=None)})
    assert setting_up._load(bare, up, 2, 2) == job_state.live[:2]


def test_a_new_piece_takes_the_place_of_one_that_left(demo: Session) -> None:
    job, job_state = job_of(demo, "TR-140")
    setup = job_state.setup("2")
    assert setup is not None
    made = laid_out_of(demo, job, job_state, NOW.date(), setup=setup, face=2, room=3)
    facts = replace(made.facts, pieces=(1, 3, 4, 8))
    layout = Layout(pieces=tuple(Piece(n, 10.0 * n, 75.0) for n in (1, 2, 3, 5, 9)))
    found = setting_up._with_load(layout, facts)
    assert [(piece.number, piece.x_mm) for piece in found.pieces] == [(1, 10.0), (3, 30.0), (4, 20.0), (8, 50.0)]


def test_what_hands_found_is_a_fact_of_the_set_up(demo: Session) -> None:
    job, job_state = job_of(demo, "TR-101")
    setup, run = job_state.setup("2"), job_state.runs[2]
    assert setup is not None

    def facts(*said: tuple[str, str]) -> tuple[str, bool]:
        told = [
            Prepared(
                entry_id=f"felt-0000{n}",
                at=NOW,
                surface=2,
                setup=run.setup,
                load=run.load,
                item=item,
                answer=answer,
                seq=job_state.last_seq + n + 1,
            )
            for n, (item, answer) in enumerate(said)
        ]
        now = replace(job_state, history=(*job_state.history, *told))
        made = laid_out_of(demo, job, now, NOW.date(), setup=setup, face=2, room=3)
        return made.facts.high_side, made.facts.rocks

    assert facts() == ("", False), "level, as it was said"
    assert facts(("high side", "front"), ("rock", "spins")) == ("front", True)
    assert facts(("high side", "level"), ("rock", "pivots"), ("pushed", "moves")) == ("", False)


def test_a_caution_is_open_until_a_lead_released_it_and_where_nothing_stops(demo: Session) -> None:
    job, job_state = job_of(demo, "TR-101")
    who = people.by_sign_in_name(demo, "bryn")
    setup = job_state.setup("2")
    assert who is not None and setup is not None
    made = laid_out_of(demo, job, job_state, NOW.date(), setup=setup, face=2, room=3)
    kept = setting_up.kept(demo, made, made.layout, who, version=made.version, at=NOW)
    assert kept.row is not None
    kept.row.stop, kept.row.cautions = "", "weak hold\nlong way"
    assert setting_up.open_cautions(job, job_state, "2") == ["weak hold", "long way"]
    assert setting_up.open_cautions(job, job_state, "1") == []
    let = [
        CautionWaived(entry_id=f"let-{key:0>6}", at=NOW, setup=key, item="weak hold", note="Blocked.")
        for key in ("1", "2")
    ]
    for said, left in ((let[:1], ["weak hold", "long way"]), (let, ["long way"])):
        now = replace(job_state, history=(*job_state.history, *said))
        assert setting_up.open_cautions(job, now, "2") == left
        assert set(replace(made, job_state=now).waived) == ({"weak hold"} if len(said) == 2 else set())
    kept.row.stop = "It strikes."
    assert setting_up.open_cautions(job, job_state, "2") == []


def test_a_set_up_that_was_laid_out_is_checked_again_before_the_wheel_touches(
    demo: Session, monkeypatch: pytest.MonkeyPatch
) -> None:
    job, job_state = job_of(demo, "TR-101")
    setup, run = job_state.setup("2"), job_state.runs[2]
    assert setup is not None
    bare = setting_up.in_force(demo, job, job_state, run, now=NOW)
    assert bare is not None
    setting_up.recheck(demo, bare)
    assert setting_up.set_ups.of(demo, job, "2") is None, "nothing was laid out"
    made = laid_out_of(demo, job, job_state, NOW.date(), setup=setup, face=2, room=3)
    kept = setting_up.kept(demo, made, Layout(pieces=(Piece(1, -500.0, 75.0),)), lead(demo), version=None, at=NOW)
    assert kept.row is not None and kept.row.stop and kept.version == kept.row.version > 0 == made.version
    kept.row.stop = "Something of before."
    assert setting_up.in_force(demo, job, job_state, replace(run, setup="9"), now=NOW) is None
    assert setting_up.in_force(demo, job, replace(job_state, setups=()), run, now=NOW) is None

    def busy(*_given: object, **_named: object) -> None:
        raise setting_up.StillWorking(1.0, 60.0)

    for pieces, room in ((run.pieces, 1), ((), 1), ((1, 2, 3), 3)):
        with monkeypatch.context() as patched:
            asked: list[dict[str, object]] = []
            patched.setattr(
                setting_up, "laid_out_of", lambda *_given, asked=asked, **named: asked.append(named) or busy()
            )
            assert setting_up.in_force(demo, job, job_state, replace(run, pieces=pieces), now=NOW) is None
        assert (asked[0]["room"], asked[0]["in_force"], asked[0]["face"]) == (room, True, 2)
    now = setting_up.in_force(demo, job, job_state, run, now=NOW)
    assert now is not None
    setting_up.recheck(demo, now)
    assert kept.row.stop == setting_up._found(kept.checked)[0] != "Something of before."


def test_what_a_set_up_wants_looked_at_is_asked_by_its_layout_and_in_any_case_the_least(
    demo: Session, monkeypatch: pytest.MonkeyPatch
) -> None:
    job, job_state = job_of(demo, "TR-120")
    plan = job_of(demo, "TR-101")[1].runs[2].plan
    assert plan is not None
    run = replace(job_state.runs[1], plan=plan)
    least = [key for key in needed_at_least(plan, job.machine.coolant) if key != "warm up"]
    monkeypatch.setattr(looking.set_ups, "warmed_up_at", lambda *_given: NOW)
    asked = looking.asked(demo, job, job_state, run, now=NOW)
    assert "shimmed" in asked and set(least) <= set(asked), "a bowed strip is shimmed under its hollow"
    monkeypatch.setattr(looking.set_ups, "warmed_up_at", lambda *_given: None)
    assert set(looking.asked(demo, job, job_state, run, now=NOW)) - set(asked) == {"warm up"}
    monkeypatch.setattr(looking, "in_force", lambda *_given, **_named: None)
    assert looking.asked(demo, job, job_state, run, now=NOW) == ("warm up", *least)
    held = replace(run, plan=replace(plan, holder="Vise"))
    assert {"proud", "below"} <= set(looking.asked(demo, job, job_state, held, now=NOW))
    wedge, its_state = job_of(demo, "TR-133")
    formed = looking.asked(demo, wedge, its_state, its_state.runs[7], now=NOW)
    assert {"stack", "foil", "guard", "pushed"} <= set(formed)


def test_the_list_before_the_touch_off_knows_a_warm_up_of_this_day(
    demo: Session, monkeypatch: pytest.MonkeyPatch
) -> None:
    job, job_state = job_of(demo, "TR-101")
    setup = job_state.setup("2")
    assert setup is not None
    asked: list[datetime] = []
    monkeypatch.setattr(looking.set_ups, "warmed_up_at", lambda _session, _job, since: asked.append(since))
    made = laid_out_of(demo, job, job_state, NOW.date(), setup=setup, face=2, room=3)
    assert looking.list_of(demo, made, NOW)
    assert asked == [NOW.astimezone().replace(hour=0, minute=0, second=0, microsecond=0)]
    for now, key in ((job_state, "9"), (replace(job_state, runs={}), "2")):
        bare = replace(made, job_state=now, setup=replace(setup, key=key))
        assert looking.list_of(demo, bare, NOW) == []
    unplanned = replace(job_state, runs={**job_state.runs, 2: replace(job_state.runs[2], plan=None)})
    assert looking.list_of(demo, replace(made, job_state=unplanned), NOW) == [] and len(asked) == 1


def test_a_formed_set_up_is_made_with_blocks_of_the_print_s_unit_and_its_list_is_of_its_own_load(
    demo: Session, monkeypatch: pytest.MonkeyPatch
) -> None:
    job, job_state = job_of(demo, "TR-133")
    asked: list[datetime] = []
    monkeypatch.setattr(forming_up.set_ups, "warmed_up_at", lambda _session, _job, since: asked.append(since))
    seen: list[object] = []
    as_it_is = forming_up.set_up_answer

    def noted(block: object, face: int, at: object) -> object:
        seen.append(at)
        return as_it_is(block, face, at)  # type: ignore[arg-type]

    monkeypatch.setattr(forming_up, "set_up_answer", noted)
    setup = job_state.setup("7")
    assert setup is not None

    def made(now: JobState, key: str = "7") -> forming_up.FormedSetUp:
        return formed_set_up(demo, job, now, NOW, setup=replace(setup, key=key), face=7)

    assert made(job_state).listed == [] and asked == []
    plan = replace(job_of(demo, "TR-101")[1].runs[2].plan, surface=7)  # type: ignore[type-var]
    run = replace(job_state.runs[7], plan=plan)
    now = replace(job_state, runs={**job_state.runs, 7: run})
    assert made(now).listed and asked == [NOW.astimezone().replace(hour=0, minute=0, second=0, microsecond=0)]
    assert made(now, "9").listed == [] and len(asked) == 1
    sets = {row.name: row for row in shop.listed(demo, BlockSetRow)}
    assert {at.blocks.name for at in seen} == {"Metric blocks J1" if job.print_unit == "mm" else "Inch blocks J2"}  # type: ignore[attr-defined]
    for each in sets.values():
        each.unit = "in" if job.print_unit == "mm" else "mm"
    seen.clear()
    made(job_state)
    assert seen[0].blocks.name == "Inch blocks J2", "the first there is"  # type: ignore[attr-defined]

    def refuses(*_given: object) -> None:
        raise InputError("angle_deg", "no stack makes it")

    monkeypatch.setattr(forming_up, "set_up_answer", refuses)
    refused = made(job_state)
    assert refused.answer is None and refused.stop == "It cannot be set up: no stack makes it."


def test_a_thin_part_is_told_of_on_the_magnet_by_its_plan_its_magnet_and_its_turn(
    demo: Session, monkeypatch: pytest.MonkeyPatch
) -> None:
    job, job_state = job_of(demo, "TR-120")
    setup = job_state.setup("1")
    assert setup is not None
    made = laid_out_of(demo, job, job_state, NOW.date(), setup=setup, face=1, room=1)
    asked: list[tuple[float, bool]] = []
    as_it_is = setting_up.bow_turns

    def noted(facts: object, *, hollow_um: float, low: bool) -> object:
        asked.append((hollow_um, low))
        return as_it_is(facts, hollow_um=hollow_um, low=low)  # type: ignore[arg-type]

    monkeypatch.setattr(setting_up, "bow_turns", noted)
    thin = setting_up.thin_of(made)
    plan = made.route.faces[1].plan
    assert thin is not None and plan is not None and asked == [(plan.hollow_um, made.layout.magnet == "low")]
    assert (thin.allowed_um, thin.now) == (made.basis.means.flatness_um, 1)
    for magnet in ("low", "full"):
        setting_up.thin_of(replace(made, layout=replace(made.layout, magnet=magnet)))
        assert asked[-1][1] is (magnet == "low")
    unplanned = replace(made.route.faces[1], plan=None)
    setting_up.thin_of(replace(made, route=replace(made.route, faces={1: unplanned})))
    assert asked[-1][0] == 0.0
    bare = replace(made, job_state=replace(job_state, runs={}))
    again = setting_up.thin_of(bare)
    assert again is not None and again.now == 1
    monkeypatch.setattr(setting_up, "turn_of", lambda _state, _run: 3)
    third = setting_up.thin_of(made)
    assert third is not None and third.now == 3
    held, flat = replace(made.facts, holder="Angle plate P1"), replace(made.facts.part, gap_mm=0.0)
    for facts in (held, replace(made.facts, part=flat)):
        assert setting_up.thin_of(replace(made, facts=facts)) is None
    assert setting_up.thin_of(replace(made, face=3)) is None
    thick, stands = job_of(demo, "TR-101")
    other = stands.setup("2")
    assert other is not None
    assert setting_up.thin_of(laid_out_of(demo, thick, stands, NOW.date(), setup=other, face=2, room=1)) is None


def test_only_the_figures_of_this_face_are_said_to_move(demo: Session, monkeypatch: pytest.MonkeyPatch) -> None:
    job, job_state = job_of(demo, "TR-120")
    setup = job_state.setup("1")
    assert setup is not None
    made = laid_out_of(demo, job, job_state, NOW.date(), setup=setup, face=1, room=1)
    choices = setting_up.in_turns(made, 3)
    route, changes = setting_up.moved_by(made, choices)
    about = route.about({1})
    every = setting_up.differences(made.basis.figures(made.route), made.basis.figures(route))
    assert changes and changes == [each for each in every if each.of in about]
    other = replace(every[0], of="something else")
    monkeypatch.setattr(setting_up, "differences", lambda _before, _after: [*every, other])
    assert setting_up.moved_by(made, choices)[1] == changes
    assert setting_up.moved_by(made, made.choices)[0].faces.keys() == made.route.faces.keys()


def test_the_plan_of_the_face_at_work_is_that_of_the_load_on_the_set_up(demo: Session) -> None:
    job, job_state = job_of(demo, "TR-140")
    up, side = job_state.setup("2"), job_state.setup("5")
    assert up is not None and side is not None and job_state.surface == 2
    for setup, face, load in ((up, 2, (1, 2, 3, 4, 5, 6)), (side, 5, ())):
        assert laid_out_of(demo, job, job_state, NOW.date(), setup=setup, face=face, room=2).basis.load == load


def test_a_layout_is_kept_over_the_version_that_was_seen(demo: Session) -> None:
    job, job_state = job_of(demo, "TR-101")
    setup = job_state.setup("2")
    assert setup is not None
    made = laid_out_of(demo, job, job_state, NOW.date(), setup=setup, face=2, room=1)
    first = setting_up.kept(demo, made, made.layout, lead(demo), version=0, at=NOW)
    assert first.version == 1
    moved = setting_up.kept(demo, first, Layout(), lead(demo), version=first.version, at=NOW)
    assert moved.version == 2 and moved.layout == Layout()
    with pytest.raises(setting_up.set_ups.LaidOutMeanwhile):
        setting_up.kept(demo, moved, first.layout, lead(demo), version=1, at=NOW)
    back = setting_up.kept(demo, moved, first.layout, lead(demo), version=2, at=NOW, back=True)
    assert back.row is not None and back.layout == first.layout and back.row.before == "[]"
    back.row.cautions = "a\n\nb"
    back.row.stop = ""
    assert setting_up.open_cautions(job, job_state, "2") == ["a", "b"]


def test_a_formed_set_up_stops_for_what_refuses_it_or_for_its_first_stop(demo: Session) -> None:
    job, job_state = job_of(demo, "TR-133")
    setup = job_state.setup("7")
    assert setup is not None
    made = formed_set_up(demo, job, job_state, NOW, setup=setup, face=7)
    assert made.answer is not None
    for answer, refused, stop in (
        (None, "", ""), (None, "No plate.", "No plate."), (replace(made.answer, stops=["First.", "2"]), "", "First."),
        (replace(made.answer, stops=[]), "", ""), (replace(made.answer, stops=["First."]), "No plate.", "No plate."),
    ):  # fmt: skip
        assert replace(made, answer=answer, refused=refused).stop == stop
