"""Checks of gauges, the grinding of chucks step by step, and what a shelf takes: each once, and of its own machine."""

from collections.abc import Callable
from uuid import uuid4

import pytest
from sqlalchemy import select
from sqlalchemy.orm import Session

from tests.store.test_maps import NOW, gauge, who
from zesty_lark.core.measure.maps.chuck import ChuckAct, ChuckJobError
from zesty_lark.core.things.shop import field_names
from zesty_lark.store import gauging, shop
from zesty_lark.store.models import ChuckRow, GaugeCheckRow, InstrumentRow, MachineRow, SensorRow


def test_what_a_check_of_a_gauge_says_is_kept_as_far_as_there_is_room(demo: Session) -> None:
    said = gauging.Check(str(uuid4()), "zero", [0.0, 0.4], False, "it drifts, and " * 40)
    for _ in range(2):
        gauging.keep_check(demo, gauge(demo), said, who(demo), at=NOW)
    (row,) = demo.scalars(select(GaugeCheckRow).where(GaugeCheckRow.entry_id == said.entry_id))
    assert row.words == said.words[:300] and row.readings == "[0.0, 0.4]" and not row.good


def test_a_chuck_is_ground_step_by_step_each_sent_once_and_the_next_grinding_counts_anew(
    demo: Session, statements: Callable[[], object]
) -> None:
    chuck = shop.by_name(demo, ChuckRow, "Chuck B")
    assert chuck is not None and gauging.grinding_of(demo, chuck) is None
    sent = str(uuid4())
    for _ in range(2):
        with statements() as told:  # type: ignore[attr-defined]
            gauging.keep_act(demo, chuck, ChuckAct("fence off", NOW), who(demo), entry_id=sent, passes=1)
        assert any("FROM chuck" in each and each.endswith("FOR UPDATE") for each in told), "held against all others"
    running = gauging.grinding_of(demo, chuck)
    assert running is not None and len(running.acts) == 1 and running.stands.next is not None
    with pytest.raises(ChuckJobError, match="Clean the chuck"):
        gauging.keep_act(demo, chuck, ChuckAct("pass", NOW), who(demo), entry_id=str(uuid4()), passes=1)
    while (running := gauging.grinding_of(demo, chuck)) and running.stands.next:
        step = running.stands.next.name
        act = ChuckAct(step, NOW, "full" if step == "film" else "")
        gauging.keep_act(demo, chuck, act, who(demo), entry_id=str(uuid4()), passes=9)
    assert running is not None and running.number == 1 and running.stands.passes == 1, "as it was begun"
    gauging.keep_act(demo, chuck, ChuckAct("fence off", NOW), who(demo), entry_id=str(uuid4()), passes=3)
    again = gauging.grinding_of(demo, chuck)
    assert again is not None and (again.number, again.stands.passes) == (2, 3)


def test_the_newest_check_is_of_the_gauge_and_of_the_kind_that_is_asked(demo: Session) -> None:
    one = gauge(demo)
    other = demo.scalars(select(InstrumentRow).where(InstrumentRow.id != one.id)).first()
    assert other is not None
    kept = {}
    for number, (of, kind) in enumerate(((one, "zero"), (one, "repeat"), (other, "zero"), (one, "zero"))):
        said = gauging.Check(str(uuid4()), kind, [float(number)], True, f"check {number}")
        gauging.keep_check(demo, of, said, who(demo), at=NOW)
        kept[of.id, kind] = said.entry_id
    for (of_id, kind), entry_id in kept.items():
        of = demo.get_one(InstrumentRow, of_id)
        found = gauging.latest_check(demo, of, kind)
        assert found is not None and found.entry_id == entry_id
    assert gauging.latest_check(demo, other, "repeat") is None


def test_a_machine_is_read_by_its_own_sensors(demo: Session) -> None:
    machines = demo.scalars(select(MachineRow)).all()
    found = {machine.name: shop.sensors_of(demo, machine.id) for machine in machines}
    assert any(found.values())
    for name, sensors in found.items():
        assert all(kind == each.kind and each.machine.name == name for kind, each in sensors.items())


def test_a_form_that_was_behind_is_only_told_so_when_it_would_change_something(demo: Session) -> None:
    machine = demo.scalars(select(MachineRow)).first()
    assert machine is not None
    same = {"name": machine.name, "rpm": machine.rpm}
    assert shop.keep(demo, MachineRow, same, machine, version=machine.version - 1) is machine
    with pytest.raises(shop.ChangedMeanwhile):
        shop.keep(demo, MachineRow, same | {"rpm": machine.rpm - 50}, machine, version=machine.version - 1)


def test_a_chuck_s_steps_are_listed_the_newest_first_and_a_note_as_far_as_there_is_room(demo: Session) -> None:
    chuck = shop.by_name(demo, ChuckRow, "Chuck B")
    assert chuck is not None
    gauging.keep_act(demo, chuck, ChuckAct("fence off", NOW), who(demo), entry_id=str(uuid4()), passes=1)
    running = gauging.grinding_of(demo, chuck)
    assert running is not None and running.stands.next is not None
    second, long = ChuckAct(running.stands.next.name, NOW), "Wiped. " * 90
    gauging.keep_act(demo, chuck, second, who(demo), entry_id=str(uuid4()), passes=1, note=long)
    running = gauging.grinding_of(demo, chuck)
    assert running is not None and [each.step for each in running.acts] == [second.step, "fence off"]
    assert running.acts[0].note == long[:500]


def test_a_gauge_s_checks_are_its_own_the_newest_first(demo: Session) -> None:
    one = gauge(demo)
    other = demo.scalars(select(InstrumentRow).where(InstrumentRow.id != one.id)).first()
    assert other is not None
    before = {each.id: len(gauging.checks_of(demo, each)) for each in (one, other)}
    for number, of in enumerate((one, other, one)):
        check = gauging.Check(str(uuid4()), "zero", [0.0], True, f"{number}")
        gauging.keep_check(demo, of, check, who(demo), at=NOW)
    assert [each.words for each in gauging.checks_of(demo, one)][:2] == ["2", "0"]
    assert [len(gauging.checks_of(demo, each)) - before[each.id] for each in (one, other)] == [2, 1]


def test_a_machine_has_one_chuck_and_one_sensor_of_a_kind(demo: Session) -> None:
    for shelf in (ChuckRow, SensorRow):
        row = demo.scalars(select(shelf)).first()
        assert row is not None
        same = {each: getattr(row, each) for each in field_names(shelf.describes)} | {"machine_id": row.machine_id}
        assert shop.keep(demo, shelf, same, row) is row, "it may stay where it is"
        with pytest.raises(shop.MachineTaken, match=row.name):
            shop.keep(demo, shelf, same | {"name": "Another"})
        machine = {each: getattr(row.machine, each) for each in field_names(MachineRow.describes)}
        free = shop.keep(demo, MachineRow, machine | {"name": f"No. 9 for {row.name}"}).id
        moved = shop.keep(demo, shelf, same | {"name": "Another", "machine_id": free})
        assert moved.machine_id == free
        with pytest.raises(shop.MachineTaken, match=row.name):
            shop.keep(demo, shelf, same | {"name": "Another"}, moved)


def test_a_name_is_one_thing_s_on_its_shelf(demo: Session) -> None:
    first, second = shop.listed(demo, MachineRow)[:2]
    values = {each: getattr(second, each) for each in field_names(MachineRow.describes)}
    assert shop.keep(demo, MachineRow, values, second) is second
    for row in (second, None):
        with pytest.raises(shop.NameTaken, match=first.name):
            shop.keep(demo, MachineRow, values | {"name": first.name}, row)
