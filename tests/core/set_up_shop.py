"""A shop to lay set_ups out with: one machine, one chuck, and what stands round it."""

from dataclasses import replace
from decimal import Decimal

from zesty_lark.core.setup.facts import CutFacts, PartFacts, SetUpFacts, Sides
from zesty_lark.core.things.shop import Accessory, Chuck, Fixture, Machine, Wheel
from zesty_lark.core.wheel.mounting import Mounted

D = Decimal

MACHINE = Machine(
    name="No. 1", dial_unit="mm", graduation_mm=D("0.002"), per_rev_mm=D("0.5"), backlash_mm=D("0.02"),
    crossfeed_graduation_mm=D("0.05"), crossfeed_min_mm=D("0.1"), crossfeed_max_mm=D("12"), table_min_mm_s=D("80"),
    table_max_mm_s=D("350"), reversal_s=D("0.3"), travel_long_mm=D("450"), travel_cross_mm=D("200"),
    height_mm=D("300"), spindle_w=1100, rpm=3000, wheel_turns="clockwise", feed_every="stroke", coolant="water",
    cut_ratio=D("0.6"),
)  # fmt: skip
WHEEL = Wheel(
    name="W3", marking="A 46 H 8 V", grit=46, grade="H", diameter_mm=D("180"), width_mm=D("12.7"), bore_mm=D("31.75"),
    max_rpm=3600,
)  # fmt: skip
CHUCK = Chuck(name="Chuck A", length_mm=D("450"), width_mm=D("150"), pull_n_cm2=D("80"), pull_tested=True)
PLATE = Fixture(
    name="Angle plate P1", kind="angle_plate", square_mm=D("0.002"), over_mm=D("100"), seating_mm=D("0.0008"),
    base_length_mm=D("120"), base_width_mm=D("60"), form="angle_plate", height_mm=D("45"),
)  # fmt: skip
VISE = Fixture(
    name="Vise V1", kind="vee_or_vise", square_mm=D("0.003"), over_mm=D("75"), seating_mm=D("0.001"),
    base_length_mm=D("160"), base_width_mm=D("75"), form="vise", height_mm=D("55"), seat_mm=D("35"),
)  # fmt: skip


def thing(name: str, kind: str, *sizes: str, count: int = 2, magnetic: bool = True) -> Accessory:
    """Return something small of the shop's."""
    long, wide, high = (D(size) for size in sizes)
    return Accessory(
        name=name, kind=kind, length_mm=long, width_mm=wide, height_mm=high, count=count, magnetic=magnetic,
    )  # type: ignore[arg-type]  # fmt: skip


ACCESSORIES = (
    thing("Block 50", "block", "50", "25", "15", count=4),
    thing("Block 80", "block", "80", "40", "30", count=4),
    thing("Low block", "block", "50", "30", "3", count=4),
    thing("Lead-in 21.8", "block", "60", "60", "21.8"),
    thing("Parallel 10", "parallel", "150", "10", "10"),
    thing("Pin 6", "pin", "40", "6", "6", magnetic=False),
    thing("Pin 40", "pin", "40", "12", "40", magnetic=False),
    thing("Clamp C1", "clamp", "60", "15", "10"),
    thing("Foil 0.10", "foil", "30", "12", "0.1", count=6),
    thing("Foil 0.05", "foil", "30", "12", "0.05", count=6),
)


def part(along: float = 88.0, across: float = 54.0, height: float = 22.0, **more: object) -> PartFacts:
    """Return a part that lies so."""
    made = PartFacts(
        up=2, down=1, along_mm=along, across_mm=across, height_mm=height + 0.2, final_mm=height,
        sides=Sides(5, 3, 6, 4), weight_n=along * across * height * 7.8e-6 * 9.81,
    )  # fmt: skip
    return replace(made, **more)  # type: ignore[arg-type]


def facts(of: PartFacts | None = None, *, force: float = 20.0, pieces: int = 1, **more: object) -> SetUpFacts:
    """Return what a set-up is laid out with."""
    made = SetUpFacts(
        MACHINE, WHEEL, Mounted("W3", "A 46 H 8 V", 180.0, 3600.0), CHUCK, of or part(), tuple(range(1, pieces + 1)),
        cut=CutFacts(force, 0.013, 0.4, 250.0), fixtures=(PLATE, VISE), accessories=ACCESSORIES, allowed_um=3.0,
    )  # fmt: skip
    return replace(made, **more)  # type: ignore[arg-type]
