"""Steel as it is measured: the reference temperature, and what warmth makes of it."""

REFERENCE_C = 20.0
"""Reference temperature, ISO 1 [°C]."""
STEEL_EXPANSION = 11.5e-6
"""Thermal expansion of steel [1/K]."""
