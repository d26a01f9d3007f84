"""What a gauge is found to do: five lifts of a point, which way it reads, its zero."""

from zesty_lark.core.things.gauge import GaugeChecked, Lifts, Reading, judged_direction, judged_repeat, judged_zero
from zesty_lark.core.things.log import ThingEntry, ThingError
from zesty_lark.shopfloor.acts.acting import InShop, shop_act
from zesty_lark.store import gauge_checks, shop
from zesty_lark.store.models import InstrumentRow


def _gauge(acting: InShop, name: str) -> InstrumentRow:
    found = shop.by_name(acting.session, InstrumentRow, name)
    if found is None:
        raise ThingError(f"There is no gauge “{name[:40]}”.")
    return found


def _kept(acting: InShop, gauge: InstrumentRow, check: GaugeChecked) -> GaugeChecked:
    entry = ThingEntry(entry_id=acting.entry_id, at=acting.at, what=check)
    gauge_checks.append(acting.session, gauge, acting.person, entry)
    return check


@shop_act()
def check_repeat(acting: InShop, *, gauge: str, readings_um: Lifts) -> GaugeChecked:
    """Keep lifts of the same point, and return what they tell."""
    of = _gauge(acting, gauge)
    return _kept(acting, of, judged_repeat(of.to_core(), list(readings_um)))


@shop_act()
def check_direction(acting: InShop, *, gauge: str, before_um: Reading, lifted_um: Reading) -> GaugeChecked:
    """Keep a lift of the probe, and return what it tells; ``ThingError`` if it hardly moved."""
    return _kept(acting, _gauge(acting, gauge), judged_direction(before_um, lifted_um))


@shop_act()
def check_zero(acting: InShop, *, gauge: str, shown_um: Reading) -> GaugeChecked:
    """Keep what a gauge shows where it has to show nothing, and return what that tells."""
    of = _gauge(acting, gauge)
    return _kept(acting, of, judged_zero(of.to_core(), shown_um))
