"""A machine and a wheel for the core's tests."""

from decimal import Decimal

from zesty_lark.core.machine import Machine, Wheel

D = Decimal
MACHINE = Machine(
    dial_unit="in", graduation_mm=D("0.00254"), per_rev_mm=D("1.27"), backlash_mm=D("0.0254"),
    crossfeed_graduation_mm=D("0.05"), crossfeed_min_mm=D("0.1"), crossfeed_max_mm=D(12), table_min_mm_s=D(80),
    table_max_mm_s=D(350), reversal_s=0.3, travel_long_mm=D(450), travel_cross_mm=D(150), height_mm=D(250),
    cut_ratio=0.6, feed_every="stroke", coolant="water",
)
WHEEL = Wheel(diameter_mm=D(180), width_mm=D("12.7"), grit=46, grade="H")
