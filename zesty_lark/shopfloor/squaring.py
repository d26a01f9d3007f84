"""Squareness at work: the ways of measuring it, into the job's log or into a fixture's record; and the shim for it."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from decimal import ROUND_UP, Decimal

from sqlalchemy.orm import Session

from zesty_lark.core.measure.square import WAYS, Lean, Light, SquareWay, by_corners, by_light, by_master, by_reversal
from zesty_lark.core.measure.squareness import Shim, shim
from zesty_lark.core.measure.thickness import Gauge
from zesty_lark.core.part.prints import Characteristic
from zesty_lark.core.part.sizes import Reading, judge_zone
from zesty_lark.core.part.surfaces import lying_of
from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.core.quantities.units import MICROMETRE_MM, SMALLEST_MM
from zesty_lark.core.work.entries import Measured
from zesty_lark.core.work.job_state import JobState
from zesty_lark.store import shop
from zesty_lark.store.models import AccessoryRow, FixtureRow, InstrumentRow, Job

STAND_SHARE = 0.8
READ: dict[SquareWay, tuple[str, ...]] = {
    "reversal": ("front_um", "back_um", "taper_um"),
    "corners": ("corner1_um", "corner2_um", "corner3_um", "corner4_um"),
    "master": ("part_um", "master_um", "certificate_um", "certificate_u_um"),
    "light": ("goes_um", "refuses_um", "square_um"),
}
"""What each way reads [µm]."""
MAY_BE_EMPTY = frozenset({"taper_um", "certificate_um", "certificate_u_um", "goes_um", "square_um", "refuses_um"})


def lean_of(
    gauge: InstrumentRow,
    way: SquareWay,
    over_mm: float,
    read: Mapping[str, Decimal],
    *,
    light: Light = "none",
    today: date,
) -> Lean:
    """Return what the readings of a way come to [µm]; ``light`` is where light is seen under a square.

    Raises
    ------
    InputError
        If a reading is missing or cannot be; it names the field.
    """
    for name in READ[way]:
        if name not in read and name not in MAY_BE_EMPTY:
            raise InputError(name, "Which reading?")
    tool, um = Gauge.of(gauge.to_core(), today), {name: float(read.get(name, 0)) for name in READ[way]}
    if way == "reversal":
        return by_reversal(tool, over_mm=over_mm, **um)
    if way == "corners":
        return by_corners(tool, corners_um=list(um.values()), over_mm=over_mm)
    if way == "master":
        return by_master(tool, over_mm=over_mm, **um)
    return by_light(where=light, over_mm=over_mm, **um)


def how_measured(lean: Lean) -> str:
    """Say how a lean was come by, and what it is."""
    way = WAYS[lean.way].split(":")[0].lower()
    return f"{way} over {lean.over_mm:g} mm: {lean.words}, {lean.error_um:+.2f} µm"


def sides_of(asked: Characteristic) -> tuple[int, ...]:
    """Return the sides that a squareness of the print is asked of; the last surface is what they are square to."""
    return asked.surfaces[:-1] or asked.surfaces


def height_of(job: Job, asked: Characteristic) -> float:
    """Return the height that a squareness of the print is asked over: the part's, as it stands on what its sides are
    square to [mm]."""
    return float(lying_of(job.part.block(), asked.surfaces[-1]).height_mm)


def usual_height(height_mm: float) -> float:
    """Return the height that a stand is usually set to on a part: most of it, the edges left alone [mm]."""
    return round(height_mm * STAND_SHARE)


@dataclass(frozen=True)
class Squared:
    """A side's squareness on its way into the log: which side of which piece, its lean, with what and how."""

    asked: Characteristic
    side: int
    piece: int
    lean: Lean
    gauge: InstrumentRow
    how: str


def square_entry(job_state: JobState, squared: Squared, height_mm: float, *, entry_id: str, at: datetime) -> Measured:
    """Return the log's entry of a squareness, the lean scaled to the height that the print asks it over.

    What was measured of the other sides, and not cut since, goes along; as long as a side is missing the verdict is at
    most "unsure".
    """
    asked, lean = squared.asked, squared.lean
    known, u_before = _other_sides(job_state, squared)
    known[squared.side] = lean.deviation_mm(height_mm)
    u = max(lean.u_mm(height_mm), u_before)
    missing = [side for side in sides_of(asked) if side not in known]
    readings = tuple(Reading(f"face {side}", known[side]) for side in sorted(known))
    word = judge_zone(readings, asked.allowed_mm, u, overdue=at.date() > squared.gauge.due_on)
    to_come = f"; {', '.join(f'face {side}' for side in missing)} still to measure" if missing else ""
    return Measured(
        entry_id=entry_id,
        at=at,
        surface=squared.side,
        characteristic=asked.name,
        piece=squared.piece,
        readings=readings,
        instrument=squared.gauge.name,
        uncertainty_mm=u,
        verdict="unsure" if missing and word == "in" else word,
        how=f"{squared.how}{to_come}"[:200],
    )


def _other_sides(job_state: JobState, squared: Squared) -> tuple[dict[int, Decimal], Decimal]:
    """What the newest measurement of the same characteristic has of the other sides [mm], and its U; nothing once a
    surface of it was cut."""
    if squared.asked.name not in job_state.pieces[squared.piece].verdicts:
        return {}, Decimal(0)
    last = next(
        (
            entry
            for entry in reversed(job_state.history)
            if isinstance(entry, Measured)
            and entry.characteristic == squared.asked.name
            and entry.piece == squared.piece
        ),
        None,
    )
    if last is None or not last.how:
        return {}, Decimal(0)
    sides = {f"face {side}": side for side in sides_of(squared.asked) if side != squared.side}
    return {
        sides[reading.place]: reading.value_mm for reading in last.readings if reading.place in sides
    }, last.uncertainty_mm


def keep_in_fixture(session: Session, fixture: FixtureRow, lean: Lean, today: date) -> None:
    """Keep what a fixture was found to be out of square, with U on top, over the height it was measured over: the error
    chain counts with it from now on."""
    out = Decimal(repr(abs(lean.error_um))) * MICROMETRE_MM + lean.budget.expanded_mm
    values = {
        "name": fixture.name,
        "square_mm": out.quantize(SMALLEST_MM, ROUND_UP),
        "over_mm": Decimal(repr(lean.over_mm)),
        "checked_on": today,
    }
    shop.keep(session, FixtureRow, values, fixture)


def foils_of(session: Session) -> list[AccessoryRow]:
    """Return the shop's foils, thin to thick."""
    rows = shop.listed(session, AccessoryRow)
    return sorted((row for row in rows if row.kind == "foil"), key=lambda row: row.height_mm)


def shim_for(lean: Lean, base_mm: float, foils: Sequence[AccessoryRow]) -> Shim:
    """Return the lift under one edge that leans the part back, and the nearest foil of the shop's."""
    papers = sorted({float(row.height_mm) for row in foils})
    return shim(error_mm=lean.error_um / 1000, over_mm=lean.over_mm, base_mm=base_mm, papers_mm=papers or None)
