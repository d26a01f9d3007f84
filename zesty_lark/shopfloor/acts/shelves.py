"""What the shop has, set down and changed: machines, wheels, chucks, fixtures, gauges and what goes with them."""

from collections.abc import Mapping
from typing import Any, Literal

from zesty_lark.core.things.shop import field_names
from zesty_lark.exchange.instruments.addresses import AddressError, place_of
from zesty_lark.shopfloor.acts.acting import InShop, shop_act
from zesty_lark.store import shop
from zesty_lark.store.models import (
    AccessoryRow,
    BlockSetRow,
    ChuckRow,
    FixtureRow,
    FlangeRow,
    InstrumentRow,
    MachineRow,
    SensorRow,
    WheelRow,
)
from zesty_lark.store.models.people import Role
from zesty_lark.store.shop import DoesNotFit

Shelf = Literal["machine", "wheel", "flange", "gauge", "sensor", "blocks", "chuck", "fixture", "accessory"]
SHELVES: Mapping[Shelf, type[Any]] = {
    "machine": MachineRow,
    "wheel": WheelRow,
    "flange": FlangeRow,
    "gauge": InstrumentRow,
    "sensor": SensorRow,
    "blocks": BlockSetRow,
    "chuck": ChuckRow,
    "fixture": FixtureRow,
    "accessory": AccessoryRow,
}
BELONGS: Mapping[Shelf, tuple[str, ...]] = {
    "chuck": ("machine_id",),
    "sensor": ("machine_id",),
    "wheel": ("flange_id", "unmarked"),
}
"""What may be said of a thing beside what its type has: what it is on, and that a wheel bears no marked speed."""
ANSWERED_FOR = frozenset({"answered_by"})
"""What is never said, but follows from who says it."""


@shop_act(Role.LEAD, Role.MACHINIST, refusal="What the shop has is set down by a machinist or a lead.")
def keep_thing(
    acting: InShop, *, shelf: Shelf, values: dict[str, Any], key: int | None = None, version: int | None = None
) -> Any:
    """Set a thing of the shop down, or change one, by its number, as it was at a version.

    Raises
    ------
    DoesNotFit
        If a field is none of such a thing, or cannot be; of a thing that is not there too.
    ChangedMeanwhile, NameTaken, MachineTaken
        As ``store.shop.keep``.
    """
    row = None if key is None else shop.find(acting.session, SHELVES[shelf], key)
    if key is not None and row is None:
        raise DoesNotFit({"key": f"There is no {shelf} with that number."})
    said = dict(values)
    wrong = _not_of_it(shelf, said) | _wrong_address(acting, said, row) | _known_by_its_name(said, row)
    if shelf == "wheel" and "unmarked" in said:
        unmarked = bool(said.pop("unmarked"))
        if unmarked and acting.person.role != Role.LEAD:
            wrong["unmarked"] = "Only a lead answers for a wheel without a marked speed."
        said["answered_by"] = (getattr(row, "answered_by", None) or acting.person.name) if unmarked else None
    if wrong:
        raise DoesNotFit(wrong)
    return shop.keep(acting.session, SHELVES[shelf], said, row, version=version)


def _not_of_it(shelf: Shelf, said: Mapping[str, Any]) -> dict[str, str]:
    names = {*field_names(SHELVES[shelf].describes), *BELONGS.get(shelf, ())} - ANSWERED_FOR
    return {name: f"“{name[:40]}” is nothing that is kept of a {shelf}." for name in said if name not in names}


def _known_by_its_name(said: Mapping[str, Any], row: Any) -> dict[str, str]:
    """A machine and the wheel on it know each other by name."""
    if row is None:
        return {} if said.get("name") else {"name": "It needs a name."}
    if said.get("name", row.name) == row.name:
        return {}
    there = getattr(row, "mounted_on", None) or getattr(row, "spindle", None)
    if there is None:
        return {}
    return {"name": f"{row.name} and {there} know each other by name. Take the wheel off before it gets another."}


def _wrong_address(acting: InShop, said: Mapping[str, Any], row: Any) -> dict[str, str]:
    """Where readings come from is set by a lead, and is a port or a host that the server's settings name."""
    address, before = said.get("port") or "", getattr(row, "port", None) or ""
    if "port" not in said or address == before:
        return {}
    if acting.person.role != Role.LEAD:
        return {"port": "Only a lead sets where readings come from."}
    try:
        _ = address and place_of(str(address))
    except AddressError as error:
        return {"port": str(error)}
    return {}
