"""Small readings as people type them: in micrometres, tenths, thou or millimetres."""

from collections.abc import Mapping
from decimal import Decimal

TYPED_IN: Mapping[str, tuple[str, Decimal]] = {
    "um": ("µm", Decimal(1)),
    "tenths": ("tenths (0.0001 in)", Decimal("2.54")),
    "thou": ("thou (0.001 in)", Decimal("25.4")),
    "mm": ("mm", Decimal(1000)),
}
"""What typed readings are in, and how many micrometres one is."""


def in_um(number: Decimal, typed_in: str) -> Decimal:
    """Return a typed reading in micrometres; an unknown unit is taken for micrometres."""
    return number * TYPED_IN.get(typed_in, TYPED_IN["um"])[1]
