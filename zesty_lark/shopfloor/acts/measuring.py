"""A part measured: sizes and form, squareness, angles, radii and slots, and what a map proves."""

from dataclasses import replace

from zesty_lark.core.measure.square import Light, SquareWay
from zesty_lark.core.part.prints import Characteristic
from zesty_lark.core.part.sizes import Reading
from zesty_lark.core.quantities.numbers import Exact
from zesty_lark.core.work.entries import Measured
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.shopfloor import mapping
from zesty_lark.shopfloor.acts.acting import NOT_SEEN, Acting, act, log_made
from zesty_lark.shopfloor.forming import SHAPES, Shaped, ShapeName, left_wall_mm, provable, shape_entry, shape_found
from zesty_lark.shopfloor.gauges import doubt_of
from zesty_lark.shopfloor.measuring import Amiss, Taken, Tool, amiss, measurement
from zesty_lark.shopfloor.squaring import Squared, height_of, how_measured, lean_of, sides_of, square_entry
from zesty_lark.store import maps, shop
from zesty_lark.store.models import BlockSetRow, InstrumentRow

IN_DOUBT = "the gauge did not repeat"
STOPPED = "Tick this before hands go in. Coasting counts as running."


class WrongReadings(LogError):
    """Readings that are not logged as they are; ``amiss`` says of which field, and why."""

    def __init__(self, found: list[Amiss]) -> None:
        super().__init__(found[0].why)
        self.amiss = found


@act(use="inspect")
def measure(
    acting: Acting,
    *,
    characteristic: str,
    gauge: str,
    readings: tuple[Reading, ...],
    piece: int = 1,
    blocks: str | None = None,
    tip_deg: float = 0.0,
    part_c: Exact | None = None,
    gauge_c: Exact | None = None,
    room_c: Exact | None = None,
    warm: bool = False,
    stopped: bool = False,
    sure: tuple[int, ...] = (),
) -> Measured:
    """Log readings of a characteristic of a piece [mm] with their verdict; deviations from a stack where the gauge
    reads those and ``blocks`` are named. ``sure``: the readings, by their order from 0, that were looked at again.

    Raises
    ------
    WrongReadings
        If they cannot be meant, or nobody saw the wheel stop.
    """
    if acting.job_state.spec.wanted.named(characteristic) is None:
        raise LogError(f"The print of {acting.job.number} has no “{characteristic[:40]}”.")
    tool = tool_for(acting, gauge, blocks, tip_deg)
    taken = Taken(characteristic, _piece(acting, piece), readings, part_c, gauge_c, room_c, warm)
    found = amiss(acting.job, acting.job_state, tool, taken, sure=sure)
    if not stopped:
        found.append(Amiss("stopped", STOPPED))
    if found:
        raise WrongReadings(found)
    entry = measurement(acting.job, acting.job_state, tool, taken, entry_id=acting.entry_id, at=acting.at)
    return _measured(acting, entry, tool.gauge)


def tool_for(acting: Acting, gauge: str, blocks: str | None, tip_deg: float) -> Tool:
    """Return what is measured with: a gauge, set to blocks where it reads deviations and some are named."""
    row = acting.gauge(gauge)
    if row.reads != "deviations" or not blocks:
        return Tool(row)
    chosen = shop.by_name(acting.session, BlockSetRow, blocks)
    if chosen is None:
        raise LogError(f"There is no set of blocks “{blocks[:40]}”.")
    return Tool(row, chosen.to_core(), tip_deg)


@act(use="inspect")
def measure_square(
    acting: Acting,
    *,
    characteristic: str,
    gauge: str,
    way: SquareWay,
    over_mm: Exact,
    read: dict[str, Exact],
    piece: int = 1,
    side: int | None = None,
    light: Light = "none",
) -> Measured:
    """Log a squareness of a side, from the readings of a way [µm] over a height [mm]; ``InputError`` names a reading
    that is missing or cannot be."""
    asked, row = _asked(acting.job_state, characteristic, "square"), acting.gauge(gauge)
    lean = lean_of(row, way, float(over_mm), read, light=light, today=acting.at.date())
    sides = sides_of(asked)
    squared = Squared(
        asked, side if side in sides else sides[0], _piece(acting, piece), lean, row, how=how_measured(lean)
    )
    height = height_of(acting.job, asked)
    entry = square_entry(acting.job_state, squared, height, entry_id=acting.entry_id, at=acting.at)
    return _measured(acting, entry, row)


@act(use="inspect")
def measure_shape(
    acting: Acting,
    *,
    shape: ShapeName,
    characteristic: str,
    gauge: str,
    read: dict[str, Exact],
    way: str = "",
    piece: int = 1,
) -> Measured:
    """Log an angle, a radius or a slot, from the readings of a way; ``InputError`` names a reading that is missing or
    cannot be."""
    row = acting.gauge(gauge)
    found = shape_found(shape, way, read, row, today=acting.at.date())
    asked = next((each for each in provable(acting.job_state, shape) if each.name == characteristic), None)
    if asked is None:
        raise LogError(f"The print asks for no {SHAPES[shape].title.lower()}: there is nothing to log.")
    position = shape == "slot" and asked.kind == "position"
    left = left_wall_mm(acting.job_state, asked) if position else None
    if position and left is None:
        raise LogError("Measure the left wall from its datum first: the middle is told by both.")
    how = SHAPES[shape].ways[way].words + (f", left wall at {left:f} mm" if left is not None else "")
    shaped = Shaped(asked, found, row, _piece(acting, piece), how, left)
    entry = shape_entry(acting.job, shaped, entry_id=acting.entry_id, at=acting.at)
    return _measured(acting, entry, row)


@act(use="inspect")
def measure_by_map(acting: Acting, *, map_key: str, characteristic: str) -> Measured:
    """Log what a map in the plate's frame proves of the print."""
    row = maps.by_key(acting.session, map_key)
    told = None
    if row is not None and row.job_id == acting.job.id:
        told = next((each for each in mapping.proves(row, acting.job_state) if each.asked.name == characteristic), None)
    if row is None or told is None or row.instrument is None:
        raise LogError("This map proves nothing of the print.")
    why_not = told.why_not or doubt_of(acting.session, row.instrument)
    if why_not:
        raise LogError(why_not)
    entry = mapping.measured_by(row, told, acting.job_state, entry_id=acting.entry_id, at=acting.at)
    return _measured(acting, entry, row.instrument)


def _asked(job_state: JobState, name: str, kind: str) -> Characteristic:
    asked = job_state.spec.wanted.named(name)
    if asked is None or asked.kind != kind:
        raise LogError("The print asks for no squareness: there is nothing to log.")
    return asked


def _piece(acting: Acting, piece: int) -> int:
    if piece not in acting.job_state.pieces:
        raise LogError(f"{acting.job.number} has no piece {piece}.")
    return piece


def _measured(acting: Acting, entry: Measured, gauge: InstrumentRow) -> Measured:
    if acting.seen is None:
        raise LogError(NOT_SEEN)
    if entry.verdict is not None and doubt_of(acting.session, gauge):
        entry = replace(entry, verdict="unsure", how="; ".join(filter(None, (IN_DOUBT, entry.how)))[:200])
    log_made(acting, entry, gauge)
    return entry
