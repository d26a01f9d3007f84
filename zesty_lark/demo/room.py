"""What stands round the machines at Brindle Quay: chucks with their maps, and fixtures."""

import math
from datetime import datetime, timedelta
from decimal import Decimal

from sqlalchemy.orm import Session

from zesty_lark.store import shop
from zesty_lark.store.models import ChuckRow, FixtureRow, MachineRow

__all__ = ["load_room"]

D = Decimal


def load_room(session: Session, inch: MachineRow, metric: MachineRow, now: datetime) -> None:
    """Set up the toolroom's chucks and fixtures."""
    first = shop.keep(
        session,
        ChuckRow,
        {
            "name": "Chuck A",
            "machine_id": inch.id,
            "length_mm": D("450"),
            "width_mm": D("150"),
            "pull_n_cm2": D("80"),
            "pull_tested": False,
        },
    )
    worn = shop.keep(
        session,
        ChuckRow,
        {
            "name": "Chuck B",
            "machine_id": metric.id,
            "length_mm": D("600"),
            "width_mm": D("200"),
            "pull_n_cm2": D("80"),
            "pull_tested": True,
        },
    )
    shop.add_map(session, first, _surface(450, 150, 1.1, 0.4), now - timedelta(days=40))
    for days, hollow, lean in ((700, 1.4, 0.6), (340, 3.1, 1.5), (25, 5.2, 2.6)):
        shop.add_map(session, worn, _surface(600, 200, hollow, lean), now - timedelta(days=days))
    for name, kind, square, over, seating, base in (
        ("Angle plate P1", "angle_plate", "0.002", "100", "0.0008", ("150", "100")),
        ("Square block S2", "square_block", "0.0015", "80", "0.001", ("100", "80")),
        ("Grinding vise V1", "vee_or_vise", "0.003", "75", "0.001", ("160", "75")),
        ("Small cube C1", "small_part_fixture", "0.001", "40", "0.0008", ("60", "60")),
    ):
        shop.keep(
            session,
            FixtureRow,
            {
                "name": name,
                "kind": kind,
                "square_mm": D(square),
                "over_mm": D(over),
                "seating_mm": D(seating),
                "base_length_mm": D(base[0]),
                "base_width_mm": D(base[1]),
                "checked_on": (now - timedelta(days=90)).date(),
            },
        )


def _surface(length: float, width: float, hollow_um: float, lean_um: float) -> list[list[float]]:
    """Readings on a grid of seven by four: worn in the middle, leaning to the back."""
    return [
        [
            x,
            y,
            round(
                hollow_um * ((2 * x / length - 1) ** 2 * 0.7 + (2 * y / width - 1) ** 2 * 0.3)
                + lean_um * y / width
                + 0.15 * math.sin(x / 37 + y / 23),
                1,
            ),
        ]
        for y in (width * i / 3 for i in range(4))
        for x in (length * i / 6 for i in range(7))
    ]
