"""Wheels at work: the rack, one wheel's life, its mounting, balance, dress and worn face."""

from dataclasses import dataclass
from datetime import datetime
from decimal import Decimal

from sqlalchemy.orm import Session

from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.core.things.rack.balance_bench import BalanceNow, bench_runs, bench_ways
from zesty_lark.core.things.rack.fold import WheelState
from zesty_lark.core.things.rack.life import WheelLife, wheel_life
from zesty_lark.core.wheel.balance import Permissible, permissible
from zesty_lark.core.wheel.dressing import (
    DIAMOND_MM,
    DRESSES,
    DiamondPlace,
    DressPlan,
    diamond_place,
    dress_plan,
    sharpness,
)
from zesty_lark.core.wheel.fitting import RackWheel
from zesty_lark.core.wheel.grain import grain_size
from zesty_lark.core.wheel.marking import Marking, marking
from zesty_lark.core.wheel.profile import WornFace, worn_face
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.plans import FEEDS
from zesty_lark.shopfloor import long_work
from zesty_lark.shopfloor.companion import next_pass
from zesty_lark.store import job_states, racks, shop
from zesty_lark.store.models import Job, MachineRow, WheelRow

FEEDS_ACROSS = {"to_back": "to the back", "to_front": "to the front", "both": "both ways"}
"""Which way the wheel goes across the work."""


@dataclass(frozen=True)
class OnRack:
    """A wheel as it stands on the rack: where it stands, what its marking says, what is left of it, and the job it is
    at work on."""

    row: WheelRow
    stands: WheelState
    says: Marking | None
    life: WheelLife | None
    busy: Job | None = None


def rack(session: Session) -> list[OnRack]:
    """Return every wheel, in a fixed number of statements; those out of use last."""
    rows = shop.listed(session, WheelRow)
    stands = racks.states_of(session, rows)
    return sorted((_on_rack(row, stands[row.id]) for row in rows), key=lambda each: bool(each.row.scrapped))


def on_rack(session: Session, row: WheelRow) -> OnRack:
    """Return one wheel as it stands."""
    return _on_rack(row, racks.state_of(session, row), racks.at_work(session, row))


def _on_rack(row: WheelRow, stands: WheelState, busy: Job | None = None) -> OnRack:
    try:
        says = marking(text=row.marking)
    except InputError:
        says = None
    return OnRack(row, stands, says, _life(row, stands), busy)


def _life(row: WheelRow, stands: WheelState) -> WheelLife | None:
    """What is left of it, where its diameters are set down."""
    if row.new_diameter_mm is None or row.least_diameter_mm is None:
        return None
    return wheel_life(
        new_diameter_mm=float(row.new_diameter_mm),
        diameter_mm=float(row.diameter_mm),
        least_diameter_mm=float(row.least_diameter_mm),
        dresses=stands.dresses,
        taken_off_mm=float(stands.taken_off_mm),
        ground_mm3=float(row.ground_mm3),
        price=None if row.price is None else float(row.price),
    )


def rack_wheels(session: Session) -> list[RackWheel]:
    """Return the shop's wheels as advice ranks them."""
    return [
        RackWheel(
            row.name,
            row.marking,
            float(row.diameter_mm),
            row.max_rpm,
            None if row.max_m_s is None else float(row.max_m_s),
            side_work=row.side_work,
            scrapped=row.scrapped,
            share_left=None if (life := _life(row, WheelState())) is None else life.share_left,
        )
        for row in shop.listed(session, WheelRow)
    ]


def machine_of(session: Session, wheel: OnRack, key: int | None = None) -> MachineRow | None:
    """Return the machine that a wheel is on; else the one that is asked for; else that of its job, or the shop's
    first."""
    if wheel.stands.machine is not None:
        return shop.by_name(session, MachineRow, wheel.stands.machine)
    if key is not None:
        return shop.find(session, MachineRow, key)
    if wheel.busy is not None:
        return wheel.busy.machine
    return next(iter(shop.listed(session, MachineRow)), None)


@dataclass(frozen=True)
class Dressing:
    """A dress of a wheel on a machine: how it is done, where the diamond stands, what it is for, and the deepest cut
    since the last one [mm]."""

    plan: DressPlan
    diamond: DiamondPlace
    kind: str
    deepest_mm: Decimal
    diamond_mm: float


def dressing(
    session: Session, wheel: OnRack, machine: MachineRow, kind: str | None = None, *, diamond_mm: float = DIAMOND_MM
) -> Dressing:
    """Plan the next dress of a wheel: as its job asks for, where it is at work.

    Raises
    ------
    InputError
        If the machine's collar is too coarse to dress by.
    """
    state = None if wheel.busy is None else job_states.state_of(session, wheel.busy)
    kind = kind if kind in DRESSES else _asked_for(state) or "general"
    deepest = Decimal(0) if state is None else min(state.wheel_use.deepest_mm, Decimal(1))
    plan = _dress_plan(wheel.row, machine, kind, deepest, diamond_mm=diamond_mm)
    place = diamond_place(
        wheel_turns=machine.wheel_turns,  # type: ignore[arg-type]
        wheel_diameter_mm=float(wheel.row.diameter_mm),
    )
    return Dressing(plan, place, kind, deepest, diamond_mm)


def dress_for(job: Job, state: JobState, kind: str) -> DressPlan:
    """Return the dress that comes next in a job, as its screen tells it."""
    deepest = min(state.wheel_use.deepest_mm, Decimal(1))
    return _dress_plan(job.wheel, job.machine, kind, deepest)


def _dress_plan(
    wheel: WheelRow, machine: MachineRow, kind: str, deepest_mm: Decimal, *, diamond_mm: float = DIAMOND_MM
) -> DressPlan:
    return dress_plan(
        kind=kind if kind in DRESSES else "general",
        diamond_width_mm=diamond_mm,
        wheel_rpm=float(machine.rpm),
        wheel_width_mm=float(wheel.width_mm),
        graduation_mm=machine.graduation_mm,
        deepest_mm=deepest_mm,
    )


def _asked_for(state: JobState | None) -> str | None:
    """The dress that a job's plan asks for next."""
    if state is None or state.at is None or state.at.plan is None:
        return None
    steps = state.at.plan.steps[state.at.done :]
    return next((step.what for step in steps if step.kind == "dress"), None)


@dataclass(frozen=True)
class Balancing:
    """The balance bench: what is next by each way, and what may be left."""

    ways: BalanceNow
    runs: BalanceNow
    allowed: Permissible | None


def balance_now(wheel: OnRack, machine: MachineRow) -> Balancing | None:
    """Return what comes next on the balance bench; ``None`` for a wheel on no flange that is set down."""
    if wheel.row.flange is None:
        return None
    flange = wheel.row.flange.to_core()
    mass = wheel.row.mass_g
    allowed = None if mass is None else permissible(mass_g=float(mass), wheel_rpm=float(machine.rpm))
    trials = wheel.stands.trials
    again = wheel.stands.dressed_since_balance
    runs = long_work.run(bench_runs, trials, flange, allowed, again=again)
    return Balancing(bench_ways(trials, flange, again=again), runs, allowed)


@dataclass(frozen=True)
class FaceNow:
    """A wheel's face as its job has worn it: the face, the strokes to the next dress, S now and when fresh, when it was
    dressed, and the step it cuts with [mm]."""

    face: WornFace
    strokes_to_dress: int
    sharpness: float
    fresh: float
    dressed_at: datetime | None
    depth_mm: float


def face_now(session: Session, wheel: OnRack, feeds: str = "to_back") -> FaceNow | None:
    """Return the face of a wheel that is at work and feeds across one way; ``None`` when no job tells of it."""
    job = wheel.busy
    if job is None:
        return None
    state = job_states.state_of(session, job)
    facts, run = state.spec.wheel, state.at
    made = None if run is None else next_pass(state, run)
    if facts is None or run is None or run.plan is None or made is None:
        return None
    use = state.wheel_use
    fresh = DRESSES.get(use.dress, DRESSES["general"]).sharpness  # type: ignore[call-overload]
    now = sharpness(fresh, use.volume_mm3_mm, facts.dulls_mm3_mm)
    step = next(each for each in run.plan.steps[run.done :] if each.kind in FEEDS)
    face = worn_face(
        wheel_diameter_mm=float(wheel.row.diameter_mm),
        wheel_width_mm=facts.width_mm,
        wheel_rpm=facts.rpm,
        grain_mm=grain_size(wheel.row.grit),
        crossfeed_mm=made.crossfeed_mm,
        depth_mm=max(float(step.step_mm), 1e-6),
        table_mm_s=made.table_mm_s,
        front_mm=use.front_mm,
        sharpness=now,
        fresh_sharpness=fresh,
        coolant=job.machine.coolant,  # type: ignore[arg-type]
        feeds=feeds if feeds in FEEDS_ACROSS else "to_back",  # type: ignore[arg-type]
    )
    return FaceNow(face, use.strokes_to_dress(made, facts), now, fresh, wheel.stands.dressed_at, float(step.step_mm))
