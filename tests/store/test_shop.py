"""The shelves: what a form may change, one thing a name, one chuck and one sensor of a kind a machine."""

import pytest
from sqlalchemy import select
from sqlalchemy.orm import Session

from zesty_lark.core.things.shop import field_names
from zesty_lark.store import shop
from zesty_lark.store.models import ChuckRow, MachineRow, SensorRow


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
