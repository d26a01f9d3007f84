"""Maps of the demonstration, each taken reading by reading with the simulated gauge."""

from datetime import datetime, timedelta
from decimal import Decimal
from uuid import NAMESPACE_URL, uuid5

from sqlalchemy.orm import Session

from zesty_lark.core.measure.maps.layout import Layout, grid
from zesty_lark.core.simulated.hidden import HiddenSurface
from zesty_lark.exchange.instruments.simulated import SimulatedGauge, Trim
from zesty_lark.shopfloor.acts import maps as acts
from zesty_lark.store.maps import Begun, MapReading
from zesty_lark.store.models import InstrumentRow, Job, Person, SurfaceMapRow

SECONDS_A_READING = 4


def take_map(
    session: Session, begun: Begun, layout: Layout, surface: HiddenSurface, *, seed: int, drift_um: float = 0.0
) -> SurfaceMapRow:
    """Take a map of a hidden surface, place by place, the first again at the end."""
    gauge = SimulatedGauge(surface, Trim(unit="um", drift_um=drift_um), seed)
    row = acts.lay_out_map(session, begun, layout)
    assert begun.by is not None
    for number in range(len(layout.places) + 1):
        place = row.taking.place(number)
        gauge.answer(f"at {place.x_mm} {place.y_mm}")
        shown = gauge.reading()
        reading = MapReading(
            str(uuid5(NAMESPACE_URL, f"{row.id}/{seed}/{number}")), number, Decimal(shown.split()[0]), shown
        )
        at = begun.at + timedelta(seconds=SECONDS_A_READING * number)
        acts.read_point(session, begun.by, row, reading, at=at, job=begun.job)
    return row


def map_jobs(
    session: Session, jobs: dict[str, Job], who: dict[str, Person], gauge: InstrumentRow, *, now: datetime
) -> None:
    """The thrust pad's second face on the machine; the wedge's ground faces on the plate."""
    pad = Begun(
        "machine", now - timedelta(minutes=70), who["bryn"], job=jobs["TR-101"], piece=1, surface=2, instrument=gauge
    )
    take_map(
        session,
        pad,
        grid(length_mm=88, width_mm=54, columns=5, rows=5),
        HiddenSurface(88, 54, hollow_um=11.0, along_um=14.0, across_um=-6.0, wave_um=1.2),
        seed=101,
    )
    wedge = Begun(
        "plate",
        now - timedelta(hours=6),
        who["nim"],
        job=jobs["TR-133"],
        piece=1,
        surface=1,
        instrument=gauge,
        plate_um=Decimal("0.5"),
    )
    take_map(
        session,
        wedge,
        grid(length_mm=70, width_mm=40, columns=5, rows=4),
        HiddenSurface(70, 40, hollow_um=0.7, along_um=0.9, across_um=0.3, wave_um=0.1),
        seed=133,
        drift_um=0.01,
    )
