"""What a machine's runs have taught, thrown away."""

from zesty_lark.core.things.log import ThingError
from zesty_lark.core.work.learned import WORK_KINDS, WorkKind
from zesty_lark.shopfloor.acts.acting import InShop, shop_act
from zesty_lark.store import learning, shop
from zesty_lark.store.models import MachineRow, WheelRow
from zesty_lark.store.models.people import Role


@shop_act(Role.LEAD, refusal="What runs have taught is thrown away by a lead.")
def forget_cut_ratio(acting: InShop, *, machine: str, wheel: str, work: WorkKind) -> None:
    """Throw the cut ratios away that runs have taught of a machine, a wheel and a way of holding: plans and estimates
    begin with the machine's own figure again.

    Raises
    ------
    ThingError
        If the machine or the wheel is not known, or nothing was learned of them.
    """
    at, on = shop.by_name(acting.session, MachineRow, machine), shop.by_name(acting.session, WheelRow, wheel)
    if at is None or on is None:
        raise ThingError("That machine or wheel is not known here.")
    if not learning.forget_cut_ratios(acting.session, at, on, work):
        raise ThingError(f"No run has taught a cut ratio of {on.name} on {at.name}, {WORK_KINDS[work]}.")
