"""What the work floor makes of the demonstration's wheels, set_ups, formed set-ups and maps, thing by thing."""

from collections.abc import Iterator
from dataclasses import fields, replace
from datetime import UTC, datetime, timedelta
from decimal import Decimal
from pathlib import Path
from threading import Event
from uuid import uuid4

import pytest
from sqlalchemy import select
from sqlalchemy.orm import Session

from tests.shopfloor.test_as_it_stands import job_of
from tests.told import compare, told
from zesty_lark.core.measure.maps.surface_map import SurfaceMap
from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.core.things.gauge import check_words
from zesty_lark.core.wheel.dressing import DRESSES
from zesty_lark.core.work.job_state import JobState
from zesty_lark.shopfloor import gauges, looking, mapping, setting_up, wheels
from zesty_lark.shopfloor.acts.acting import InShop
from zesty_lark.shopfloor.acts.gauges import check_repeat
from zesty_lark.shopfloor.forming_up import formed_set_up, is_formed
from zesty_lark.shopfloor.setting_up import laid_out_of
from zesty_lark.store import gauge_checks, maps, people, shop
from zesty_lark.store.maps import Begun
from zesty_lark.store.models import ChuckRow, InstrumentRow, MachineRow, Person, SurfaceMapRow, WheelRow

HERE = Path(__file__).parent / "told"
NOW = datetime.now(UTC)
D = Decimal


def of_wheel(session: Session, row: WheelRow) -> Iterator[str]:
    """A wheel as it stands on the rack, its next dresses, its balance and its face."""
    wheel = wheels.on_rack(session, row)
    busy = None if wheel.busy is None else wheel.busy.number
    yield f"{row.name}: {told(wheel.life)} {told(wheel.says)} at work on {told(busy)}"
    yield f"  ready {wheel.stands.ready}, on {told(wheel.stands.machine)}, {told(wheel.stands.taken_off_mm)} off"
    machine = wheels.machine_of(session, wheel)
    assert machine is not None
    yield f"  of {machine.name}"
    for kind in (None, *DRESSES, "odd"):
        made = wheels.dressing(session, wheel, machine, kind)
        yield f"  {told(kind)}: {made.kind}, deepest {told(made.deepest_mm)}, {told(made.plan)}"
        yield f"    {told(made.diamond)}"
    balance = wheels.balance_now(wheel, machine)
    yield f"  balance {told(balance)}"
    for feeds in ("to_back", "both", "odd"):
        face = wheels.face_now(session, wheel, feeds)
        if face is not None:
            yield f"  {feeds}: {face.strokes_to_dress} strokes, S {face.sharpness:.5g} of {face.fresh:.5g}"
            yield f"    step {face.depth_mm:.5g} {face.dressed_at is not None} {told(face.face)[:700]}"


def test_the_rack_comes_to_what_is_told_of_it(demo: Session) -> None:
    rows = shop.listed(demo, WheelRow)
    ranked = [told(wheel) for wheel in wheels.rack_wheels(demo)]
    compare(HERE / "rack.txt", [*(line for row in rows for line in of_wheel(demo, row)), *ranked])
    rows[1].scrapped = True
    assert [each.row.name for each in wheels.rack(demo)] == [
        *(each.name for each in rows if each is not rows[1]),
        rows[1].name,
    ]


def test_a_wheel_s_machine_is_where_it_is_then_what_is_asked_then_its_job_s(demo: Session) -> None:
    machines = shop.listed(demo, MachineRow)
    spare = next(row for row in shop.listed(demo, WheelRow) if row.name == "W5 finishing")
    wheel = wheels.on_rack(demo, spare)
    assert wheel.stands.machine is None and wheel.busy is None
    assert (
        wheels.machine_of(demo, wheel) is machines[0] and wheels.machine_of(demo, wheel, machines[1].id) is machines[1]
    )
    job, _ = job_of(demo, "TR-140")
    assert job.machine is machines[1] and wheels.machine_of(demo, replace(wheel, busy=job)) is machines[1]
    assert wheels.machine_of(demo, replace(wheel, busy=job), machines[0].id) is machines[0]
    up = next(each for each in wheels.rack(demo) if each.stands.machine == machines[0].name)
    assert wheels.machine_of(demo, up, machines[1].id) is machines[0]


def test_a_wheel_whose_diameters_or_marking_are_not_set_down_has_no_life_and_says_nothing(demo: Session) -> None:
    row = next(each for each in shop.listed(demo, WheelRow) if each.name == "W3 open white")
    with demo.no_autoflush:
        assert wheels.on_rack(demo, row).life is not None
        for name in ("new_diameter_mm", "least_diameter_mm"):
            before = getattr(row, name)
            setattr(row, name, None)
            assert wheels._life(row, wheels.WheelState()) is None
            setattr(row, name, before)
        row.marking = "white, soft"
        assert wheels._on_rack(row, wheels.WheelState()).says is None
        demo.expire(row)


def of_set_ups(session: Session, number: str) -> Iterator[str]:
    """Each set-up of a job at its laid_out: what it is laid out with, what stops it, its list."""
    job, job_state = job_of(session, number)
    for setup in job_state.setups:
        face = setup.up[0]
        yield f"{setup.key}:"
        if is_formed(job_state, face):
            yield from _formed(session, job_state, number, setup.key)
            continue
        made = laid_out_of(session, job, job_state, NOW.date(), setup=setup, face=face, room=3)
        facts = {
            field.name: getattr(made.facts, field.name)
            for field in fields(made.facts)
            if field.name not in ("machine", "wheel", "mounted", "chuck", "fixtures", "accessories", "chuck_map")
        }
        yield f"  {told(facts)}"
        yield f"  shelf {len(made.facts.fixtures)} {len(made.facts.accessories)} {len(made.facts.chuck_map)}"
        stop, cautions = setting_up._found(made.checked)
        yield f"  laid out {told(made.layout)} version {made.version}: {stop} {told(cautions)}"
        yield f"  list {told([each.item.key for each in looking.list_of(session, made, NOW)])}"
        thin = setting_up.thin_of(made)
        if thin is not None:
            yield f"  thin {told(thin)}"
            after = setting_up.in_turns(made, thin.planned + 1)
            yield f"  in turns {told({axis: each.turns for axis, each in after.pairs.items()})}"
        yield f"  into the plan {setting_up.taken_into_plan(made) == made.choices}"


def _formed(session: Session, job_state: JobState, number: str, key: str) -> Iterator[str]:
    job, _ = job_of(session, number)
    setup = job_state.setup(key)
    assert setup is not None
    for face in setup.up:
        made = formed_set_up(session, job, job_state, NOW, setup=setup, face=face)
        yield f"  {face} in {made.holder}, safety {told(made.safety)}, stop {made.stop}, list {len(made.listed)}"
        yield f"    {told(made.answer)[:900]}"


@pytest.mark.parametrize("number", ("TR-101", "TR-114", "TR-120", "TR-133"))
def test_set_ups_come_to_what_is_told_of_them(demo: Session, number: str) -> None:
    compare(HERE / f"set_ups-{number}.txt", list(of_set_ups(demo, number)))


def lead(session: Session) -> Person:
    found = people.by_sign_in_name(session, "isa")
    assert found is not None
    return found


def gauge_of(session: Session) -> InstrumentRow:
    found = shop.by_name(session, InstrumentRow, "Lever indicator L1")
    assert found is not None
    return found


def test_five_lifts_come_first_where_u_takes_more_than_a_quarter_of_the_zone(demo: Session) -> None:
    gauge, u = gauge_of(demo), D("0.001")

    def due(width: str, at: datetime = NOW) -> bool:
        return gauges.repeat_due(demo, gauge, D(width), u, at=at)

    assert [due("0.0081"), due("0.008"), due("0.0079")] == [False, False, True]
    good = check_repeat(
        InShop(demo, lead(demo), NOW, str(uuid4())), gauge=gauge.name, readings_um=[0.0, 0.1, 0.0, 0.1, 0.0]
    )
    assert good.good and not due("0.0079")
    shift = timedelta(hours=gauges.REPEAT_HOURS)
    assert not due("0.0079", NOW + shift) and due("0.0079", NOW + shift + timedelta(seconds=1))
    bad = check_repeat(
        InShop(demo, lead(demo), NOW, str(uuid4())), gauge=gauge.name, readings_um=[0.0, 9.0, 0.0, 9.0, 0.0]
    )
    assert not bad.good and due("0.0079")
    last = gauge_checks.state_of(demo, gauge).latest("repeat")
    assert last is not None and last[1] == bad and last[0].by == lead(demo).name
    assert "Nothing measured means anything yet." in check_words(bad) and "Range 9.00 µm" in check_words(bad)


def test_a_real_gauge_s_probe_is_moved_by_hand(demo: Session, monkeypatch: pytest.MonkeyPatch) -> None:
    asked: list[object] = []
    monkeypatch.setattr(gauges.socket, "create_connection", lambda *where: asked.append(where))
    gauge = gauge_of(demo).to_core()
    for simulated, port in ((False, "socket://127.0.0.1:8421"), (False, None)):
        gauges.move_probe(replace(gauge, simulated=simulated, port=port), 1.0, 2.0)
    assert asked == []
    with pytest.raises(TypeError):
        gauges.move_probe(replace(gauge, simulated=True, port="socket://127.0.0.1:8421"), 1.0, 2.0)
    assert asked == [(("127.0.0.1", 8421), 1.0)]


def test_a_gauge_is_listened_to_until_the_server_stops(demo: Session, monkeypatch: pytest.MonkeyPatch) -> None:
    stopping, seen = Event(), list[int]()

    class Port:
        def __init__(self, _gauge: object) -> None:
            self.unplugged = False

        def __enter__(self) -> "Port":
            return self

        def __exit__(self, *_error: object) -> None:
            self.unplugged = True

        def events(self) -> Iterator[int]:
            for number in range(9):
                if number == 2:
                    stopping.set()
                yield number

    monkeypatch.setattr(gauges, "GaugePort", Port)
    seen += gauges.live(gauge_of(demo).to_core(), stopping)  # type: ignore[arg-type]
    assert seen == [0, 1, 2]


POINTS = ((0.0, 0.0, 0.0), (60.0, 0.0, 4.0), (60.0, 30.0, 8.0), (0.0, 30.0, 1.0))


def test_a_map_s_depths_are_the_plan_s_passes_else_eighths_of_its_range(demo: Session) -> None:
    job, job_state = job_of(demo, "TR-101")
    row = maps.add_whole(demo, Begun("machine", NOW, job=job, surface=2, piece=1), SurfaceMap("machine", POINTS, 0.0))
    plan = job_state.runs[2].plan
    assert plan is not None
    passes = [float(step.depth_mm) * 1000 for step in plan.passes]
    assert mapping.depths_of(row, job_state) == pytest.approx(passes)
    whole = row.whole.analysis.range_um
    eighths = [whole * part / 8 for part in range(1, 9)]
    assert mapping.depths_of(row, None) == eighths and whole == 8.0
    for surface in (None, 99, 5):
        row.surface = surface
        assert mapping.depths_of(row, job_state) == eighths
    row.surface = 2
    bare = replace(job_state, runs={**job_state.runs, 2: replace(job_state.runs[2], plan=replace(plan, steps=()))})
    assert mapping.depths_of(row, bare) == eighths
    assert mapping.size_of_surface(job, 2) == (88.0, 54.0) and mapping.size_of_surface(job, 4) == (54.0, 22.0)


def test_what_a_map_proves_is_logged_of_its_surface_its_piece_and_its_gauge(demo: Session) -> None:
    job, job_state = job_of(demo, "TR-133")
    gauge = gauge_of(demo)
    at = datetime.combine(gauge.due_on, datetime.min.time(), tzinfo=UTC) + timedelta(hours=12)
    given = {"job": job, "surface": 2, "instrument": gauge, "plate_um": D("0.4")}
    row = maps.add_whole(demo, Begun("plate", at, **given), SurfaceMap("plate", POINTS, 0.0))  # type: ignore[arg-type]
    (told_of,) = mapping.proves(row, job_state)
    assert told_of.asked.name == "parallel" and told_of.value_mm == D("0.008") and told_of.why_not == ""
    made = mapping.measured_by(row, told_of, job_state, entry_id=str(uuid4()), at=at)
    assert (made.piece, made.surface, made.instrument, made.map_key) == (1, 2, gauge.name, row.key)
    assert made.how == "map of 4 points over the plate" and made.uncertainty_mm == told_of.budget.expanded_mm
    small = replace(told_of, value_mm=D("0.0002"))
    words = [
        mapping.measured_by(row, small, job_state, entry_id="m", at=each).verdict
        for each in (at, at + timedelta(days=1))
    ]
    assert words == ["in", "unsure"], "on the day the gauge is due it is good"
    machine = maps.add_whole(demo, Begun("machine", at, **given), SurfaceMap("machine", POINTS, 0.0))  # type: ignore[arg-type]
    assert all("no proof" in each.why_not for each in mapping.proves(machine, job_state))
    for name, value in (("state", "refused"), ("surface", None), ("instrument", None)):
        before = getattr(row, name)
        with demo.no_autoflush:
            setattr(row, name, value)
            assert mapping.proves(row, job_state) == []
            setattr(row, name, before)


def test_a_map_tells_of_the_flatness_of_its_own_surface_alone(demo: Session) -> None:
    _, job_state = job_of(demo, "TR-101")
    flat, parallel = job_state.spec.wanted.named("flat"), job_state.spec.wanted.named("parallel")
    assert flat is not None and parallel is not None and flat.surfaces == (2, 1)
    whole = SurfaceMap("plate", POINTS, 0.0)
    told_of = [[mapping._told(asked, surface, whole) for surface in (2, 1, 3)] for asked in (flat, parallel)]
    flatness, across = whole.analysis.minzone_flatness_um, whole.parallel_um
    assert told_of == [[flatness, None, None], [across, across, None]]
    square = replace(flat, kind="square")
    assert mapping._told(square, 2, whole) is None and mapping._told(replace(parallel, kind="flat"), 1, whole) is None


def test_a_chuck_s_outlook_is_of_its_maps_in_use_oldest_first(demo: Session) -> None:
    for chuck in demo.scalars(select(ChuckRow)):
        rows = [each for each in maps.of_chuck(demo, chuck) if each.state == "in use"]
        found = mapping.chuck_outlook(demo, chuck, NOW)
        assert (found is None) is (not rows)
        for row in rows:
            row.state = "withdrawn"
        assert mapping.chuck_outlook(demo, chuck, NOW) is None
    bare = SurfaceMapRow(frame="machine", points="[[0,0,0],[60,0,4],[60,30,8],[0,30,1]]", key="k", taken_at=NOW)
    assert mapping._range_of(bare) == 8.0
    bare.range_um = D("7.5")
    assert mapping._range_of(bare) == 7.5


def test_a_dial_too_coarse_for_a_dress_is_said(demo: Session) -> None:
    wheel = wheels.rack(demo)[0]
    machine = shop.listed(demo, MachineRow)[0]
    with demo.no_autoflush:
        machine.graduation_mm = D(1)
        with pytest.raises(InputError):
            wheels.dressing(demo, wheel, machine)
        demo.expire(machine)
