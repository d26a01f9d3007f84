"""What the toolroom measures with: micrometers, a comparator, indicators, gauge blocks."""

from datetime import date, timedelta
from decimal import Decimal

from sqlalchemy.orm import Session

from zesty_lark.core.measure.instruments import GAUGE_PORT
from zesty_lark.store import shop
from zesty_lark.store.models import BlockSetRow, InstrumentRow

D = Decimal


def load_gauges(session: Session, today: date) -> dict[str, InstrumentRow]:
    """Set down the toolroom's gauges and block sets; one micrometer is past its date."""
    mic = {
        "name": "Micrometer 0–25 M2",
        "unit": "mm",
        "least_mm": D("0"),
        "most_mm": D("25"),
        "resolution_mm": D("0.001"),
        "error_limit_mm": D("0.001"),
        "calibration_u_mm": D("0.0008"),
        "repeatability_mm": D("0.0004"),
        "calibrated_on": today - timedelta(days=140),
        "due_on": today + timedelta(days=225),
    }
    bench = mic | {
        "name": "Bench comparator B1",
        "most_mm": D("100"),
        "resolution_mm": D("0.0001"),
        "error_limit_mm": D("0.0003"),
        "calibration_u_mm": D("0.0003"),
        "repeatability_mm": D("0.00015"),
    }
    old = mic | {
        "name": "Micrometer 25–50 M4",
        "least_mm": D("25"),
        "most_mm": D("50"),
        "calibrated_on": today - timedelta(days=400),
        "due_on": today - timedelta(days=35),
    }
    lever = mic | {
        "name": "Lever indicator L1",
        "most_mm": D("0.2"),
        "resolution_mm": D("0.0005"),
        "error_limit_mm": D("0.0004"),
        "calibration_u_mm": D("0.0003"),
        "repeatability_mm": D("0.0002"),
        "reads": "deviations",
    }
    simulated = lever | {
        "name": "Simulated gauge",
        "resolution_mm": D("0.0001"),
        "error_limit_mm": D("0.0002"),
        "repeatability_mm": D("0.0001"),
        "port": f"socket://127.0.0.1:{GAUGE_PORT}",
        "asks": "?",
        "simulated": True,
    }
    _load_blocks(session, today)
    return {
        "lever": shop.keep(session, InstrumentRow, lever),
        "simulated": shop.keep(session, InstrumentRow, simulated),
        "mic": shop.keep(session, InstrumentRow, mic),
        "bench": shop.keep(session, InstrumentRow, bench),
        "old": shop.keep(session, InstrumentRow, old),
    }


def _load_blocks(session: Session, today: date) -> None:
    blocks = {"calibrated_on": today - timedelta(days=200), "due_on": today + timedelta(days=530), "u_um": D("0.12")}
    for name, set_name, unit, missing, worn in (
        ("Metric blocks J1", "metric88", "mm", "1.005", "1.37 10"),
        ("Inch blocks J2", "inch81", "in", "", "0.1003"),
    ):
        its = {"name": name, "set_name": set_name, "unit": unit, "missing": missing, "worn": worn, "blocks": ""}
        shop.keep(session, BlockSetRow, blocks | its)
