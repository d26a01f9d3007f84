"""What stands round the machines at Brindle Quay: chucks with their maps, and fixtures."""

import math
from datetime import datetime, timedelta
from decimal import Decimal

from sqlalchemy.orm import Session

from zesty_lark.core.measure.sensors import GRINDER_PORT
from zesty_lark.store import maps, shop
from zesty_lark.store.models import AccessoryRow, ChuckRow, FixtureRow, MachineRow, SensorRow

D = Decimal
SERVES = {
    "angle_plate": "angle_plate",
    "square_block": "square_block",
    "vise": "vee_or_vise",
    "small_part_cube": "small_part_fixture",
    "sine_plate": "vee_or_vise",
    "spin_fixture": "vee_or_vise",
    "vee_block": "vee_or_vise",
}
SMALL_THINGS = (
    ("Blocks 50 × 25 × 15", "block", ("50", "25", "15"), 4),
    ("Blocks 80 × 40 × 30", "block", ("80", "40", "30"), 4),
    ("Blocks 60 × 30 × 8", "block", ("60", "30", "8"), 4),
    ("Low blocks 50 × 30 × 3", "block", ("50", "30", "3"), 4),
    ("Lead-in blocks 60 × 60 × 21.8", "block", ("60", "60", "21.8"), 2),
    ("Parallels 150 × 12", "parallel", ("150", "20", "12"), 2),
    ("Pins 6", "pin", ("40", "6", "6"), 4),
    ("Brass strips 12", "pin", ("60", "15", "12"), 2),
    ("Brass strips 25", "pin", ("60", "25", "12"), 2),
    ("Toolmaker’s clamps", "clamp", ("60", "15", "10"), 4),
    ("Foil 0.10", "foil", ("50", "12.7", "0.1"), 10),
    ("Foil 0.05", "foil", ("50", "12.7", "0.05"), 10),
    ("Foil 0.02", "foil", ("50", "12.7", "0.02"), 10),
    ("Foil 0.01", "foil", ("50", "12.7", "0.01"), 10),
)
"""Blocks, parallels, pins, clamps and foils: name, kind, sizes [mm], how many."""


def _load_sensors(session: Session, machine: MachineRow) -> None:
    """The first machine has a readout and a power meter: the simulated grinder's."""
    for number, (name, kind, sends) in enumerate((("Readout R1", "position", "mm"), ("Power meter P1", "power", "W"))):
        its = {"name": name, "machine_id": machine.id, "kind": kind, "sends": sends, "asks": "?", "simulated": True}
        shop.keep(session, SensorRow, its | {"port": f"socket://127.0.0.1:{GRINDER_PORT + number}"})


def load_room(session: Session, inch: MachineRow, metric: MachineRow, now: datetime) -> None:
    """Set up the toolroom's chucks and fixtures, and what reads its first machine."""
    _load_sensors(session, inch)
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
            "low_share": D("0.3"),
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
            "low_share": D("0.3"),
            "fence_mm": D("6"),
            "fence_out_um": D("2.5"),
            "fence_ground": True,
        },
    )
    maps.add(session, first, _surface(450, 150, 1.1, 0.4), now - timedelta(days=40))
    for days, hollow, lean in ((700, 1.4, 0.6), (340, 3.1, 1.5), (25, 5.2, 2.6)):
        maps.add(session, worn, _surface(600, 200, hollow, lean), now - timedelta(days=days))
    for name, form, square, over, seating, (base, high, *rolls) in (
        ("Angle plate P1", "angle_plate", "0.002", "100", "0.0008", (("150", "100"), ("60", "0"))),
        ("Square block S2", "square_block", "0.0015", "80", "0.001", (("100", "80"), ("38", "0"))),
        ("Grinding vise V1", "vise", "0.003", "75", "0.001", (("160", "75"), ("50", "32"))),
        ("Small cube C1", "small_part_cube", "0.001", "40", "0.0008", (("60", "60"), ("40", "30"))),
        ("Sine plate N1", "sine_plate", "0.001", "100", "0.0005", (("150", "75"), ("40", "40"), ("127",))),
        ("Compound plate N2", "sine_plate", "0.001", "100", "0.0005", (("150", "120"), ("70", "70"), ("127", "100"))),
        ("Spin fixture F1", "spin_fixture", "0.001", "60", "0.0005", (("120", "80"), ("110", "60"))),
        ("Vee block V2", "vee_block", "0.001", "60", "0.0008", (("80", "60"), ("50", "20"))),
    ):
        shop.keep(
            session,
            FixtureRow,
            {
                "name": name,
                "kind": SERVES[form],
                "form": form,
                "height_mm": D(high[0]),
                "seat_mm": D(high[1]),
                "square_mm": D(square),
                "over_mm": D(over),
                "seating_mm": D(seating),
                "base_length_mm": D(base[0]),
                "base_width_mm": D(base[1]),
                "centres_mm": D(rolls[0][0]) if rolls else None,
                "top_centres_mm": D(rolls[0][1]) if rolls and len(rolls[0]) > 1 else None,
                "checked_on": (now - timedelta(days=90)).date(),
            },
        )
    for name, thing, sizes, count in SMALL_THINGS:
        long, wide, high_mm = (D(size) for size in sizes)
        values = {"name": name, "kind": thing, "length_mm": long, "width_mm": wide, "height_mm": high_mm}
        more = {
            "count": count,
            "magnetic": thing in ("block", "parallel"),
            "clamp_n": D(1500) if thing == "clamp" else None,
            "checked_on": (now - timedelta(days=60)).date(),
        }
        shop.keep(session, AccessoryRow, values | more)


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
