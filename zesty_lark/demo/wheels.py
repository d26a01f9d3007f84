"""The wheels at Brindle Quay and their flanges; each wheel's history is made by its own log."""

import cmath
import math
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from decimal import Decimal
from uuid import NAMESPACE_URL, uuid5

from sqlalchemy.orm import Session

from zesty_lark.core.things.log import Said, ThingNote, said_of
from zesty_lark.core.things.rack.balance_bench import run_trial
from zesty_lark.core.things.rack.entries import BalanceTrial, Checked, RackDress, TakenDown, WheelPrinted
from zesty_lark.shopfloor.acts.acting import InShop
from zesty_lark.shopfloor.acts.wheels import log_on_wheel
from zesty_lark.shopfloor.wheels import balance_now, on_rack
from zesty_lark.store import shop
from zesty_lark.store.models import FlangeRow, MachineRow, Person, WheelRow

D = Decimal
A_DRESS_MM = D("0.06604")
TRIAL_G = 8.0
SHOWS = 0.004
"""How much amplitude an unbalance of a gram-millimetre makes on these machines, in the meter's own divisions."""
STICKS_GMM = 20.0
"""What is left under this hangs nowhere: the ways hold it [g·mm]."""
MOST_TRIALS = 12


def load_wheels(
    session: Session, machines: dict[str, MachineRow], who: dict[str, Person], now: datetime
) -> dict[str, WheelRow]:
    """Set down flanges and wheels, and let each live through what it has."""
    ring, groove, spare = _flanges(session)
    wheels = {
        "soft": _wheel(session, "W3 open white", "A 46 H 8 V", "180", dresses=8, flange=ring, price="64"),
        "second": _wheel(session, "W4 open white", "A 46 H 8 V", "180", dresses=6, flange=groove, price="64"),
        "fine": _wheel(session, "W5 finishing", "A 80 K 6 V", "168.4", dresses=5, flange=spare, price="58"),
        "side": _wheel(session, "W6 slots", "A 60 K 8 V", "178", dresses=0, flange=None, price="71", side_work=True),
        "worn": _wheel(session, "W2 old white", "A 46 I 8 V", "132", dresses=14, flange=spare, price="61"),
    }
    bryn, odo = who["bryn"], who["odo"]
    old = _Life(session, wheels["worn"], machines["inch"], odo, now - timedelta(days=400))
    old.mount("Small and long in use: it was never out by more than shows.")
    old.grind_on(14, days=24)
    old.log(TakenDown(from_flange=True), "Nearly at its flange: kept for small roughing.")
    wheels["worn"].flange_id = None
    first = _Life(session, wheels["soft"], machines["inch"], bryn, now - timedelta(days=64), cmath.rect(310, 1.9))
    first.mount()
    first.grind_on(7, days=7)
    fine = _Life(session, wheels["fine"], machines["metric"], odo, now - timedelta(days=90), cmath.rect(180, 4.0))
    fine.mount()
    fine.grind_on(3, days=9, kind="fine")
    fine.log(WheelPrinted(radius_mm=0.21), "Printed in a 0.3 blade.")
    fine.grind_on(1, days=2, kind="fine")
    fine.log(TakenDown(), "Stays on its flange.")
    second = _Life(session, wheels["second"], machines["metric"], odo, now - timedelta(days=40), cmath.rect(240, 0.7))
    second.mount()
    second.grind_on(5, days=6)
    new = _Life(session, wheels["side"], machines["inch"], bryn, now - timedelta(days=6))
    new.log(ThingNote(), "Came with two blotters, rang clear at the bench. For the keyways.")
    return wheels


def _flanges(session: Session) -> tuple[FlangeRow, FlangeRow, FlangeRow]:
    base = {"diameter_mm": D("80"), "spigot_mm": D("31.75"), "radius_mm": D("30")}
    groove = base | {"kind": "weights", "masses": "9 9"}
    return (
        shop.keep(
            session,
            FlangeRow,
            base | {"name": "Flange 1", "kind": "ring", "holes": 16, "masses": "1.2 1.2 2.5 2.5 4.8 4.8 7.1 7.1"},
        ),
        shop.keep(session, FlangeRow, groove | {"name": "Flange 2"}),
        shop.keep(session, FlangeRow, groove | {"name": "Flange 3"}),
    )


def _wheel(
    session: Session,
    name: str,
    marking: str,
    now_mm: str,
    *,
    dresses: int,
    flange: FlangeRow | None,
    price: str,
    side_work: bool = False,
) -> WheelRow:
    """A wheel as it was set down, so many dresses ago."""
    _, grit, grade, *_ = marking.split()
    return shop.keep(
        session,
        WheelRow,
        {
            "name": name,
            "marking": marking,
            "grit": int(grit),
            "grade": grade,
            "diameter_mm": D(now_mm) + 2 * dresses * A_DRESS_MM,
            "width_mm": D("12.7"),
            "bore_mm": D("31.75"),
            "max_rpm": 3600,
            "new_diameter_mm": D("200"),
            "least_diameter_mm": D("128"),
            "mass_g": D("1650"),
            "price": D(price),
            "side_work": side_work,
            "flange_id": None if flange is None else flange.id,
        },
    )


@dataclass
class _Life:
    """What is done with one wheel, by one person at one machine; its unbalance is known to nobody [g·mm]."""

    session: Session
    wheel: WheelRow
    machine: MachineRow
    person: Person
    clock: datetime
    unbalance: complex = 0j
    count: int = field(default=0)

    def log(self, what: Said, note: str = "", *, minutes: float = 4) -> None:
        """Something happened."""
        self.clock += timedelta(minutes=minutes)
        self.count += 1
        entry_id = str(uuid5(NAMESPACE_URL, f"{self.wheel.name}/{self.machine.name}/{self.count}"))
        log_on_wheel(
            InShop(self.session, self.person, self.clock, entry_id),
            wheel=self.wheel.name,
            kind=what.kind,
            said=said_of(what),
            machine=self.machine.name,
            note=note,
        )

    def mount(self, unbalanced: str = "") -> None:
        """Every step in its order; without balance where a reason is given."""
        for step in ("speed", "look", "ring", "bore", "blotters", "flanges", "guard", "run_up", "true"):
            self.log(Checked(step=step))
        if unbalanced:
            self.log(Checked(step="balance"), unbalanced)
        else:
            self._balance()
        self.log(RackDress(dress="general", amount_mm=A_DRESS_MM, passes=5))

    def grind_on(self, dresses: int, *, days: float, kind: str = "general") -> None:
        """It is dressed again and again over the weeks."""
        for _ in range(dresses):
            self.clock += timedelta(days=days)
            self.log(RackDress(dress=kind, amount_mm=A_DRESS_MM, passes=5))  # type: ignore[arg-type]

    def _balance(self) -> None:
        """Trial by trial, as the bench says, until it is balanced."""
        for _ in range(MOST_TRIALS):
            bench = balance_now(on_rack(self.session, self.wheel), self.machine)
            assert bench is not None
            ways = bench.ways.stage != "stuck"
            now = bench.ways if ways else bench.runs
            if now.stage == "done":
                return
            if ways:
                self.log(self._hung(now.weights) if now.stage == "hang" else self._settled())
                continue
            trial = cmath.rect(TRIAL_G * self._radius, math.radians(now.trial_deg or 0)) if now.stage == "trial" else 0
            amplitude = round(abs(self.unbalance + self._placed(now.weights) + trial) * SHOWS, 4)
            assert self.wheel.flange is not None
            made = run_trial(now, amplitude, self.wheel.flange.to_core(), TRIAL_G)
            assert made is not None
            self.log(made)
        raise AssertionError("the bench did not come to an end")

    @property
    def _radius(self) -> float:
        assert self.wheel.flange is not None
        return float(self.wheel.flange.radius_mm)

    def _placed(self, weights: tuple[tuple[float, float], ...]) -> complex:
        return sum((cmath.rect(mass * self._radius, math.radians(deg)) for deg, mass in weights), start=0j)

    def _settled(self) -> BalanceTrial:
        return BalanceTrial(method="ways", heavy_deg=round(math.degrees(cmath.phase(self.unbalance)) % 360, 0))

    def _hung(self, weights: tuple[tuple[float, float], ...]) -> BalanceTrial:
        """What hangs down with the weights in place; nothing, where hardly anything is left."""
        left = self.unbalance + self._placed(weights)
        along = (left / (self.unbalance / abs(self.unbalance))).real
        seen = "nowhere" if abs(left) < STICKS_GMM else "heavy" if along > 0 else "light"
        return BalanceTrial(method="ways", weights=weights, hangs=seen)  # type: ignore[arg-type]
