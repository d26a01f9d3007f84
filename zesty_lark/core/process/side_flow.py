"""Heat that flows sideways from a narrow band: F = erf ξ + (ξ/√π)·E1(ξ²) (Carslaw & Jaeger).

F is tabulated once over ln ξ from its series and read by cubic interpolation, so that a million values cost no more than
a few square roots each; outside the table it has its limiting forms.
"""

import math
from functools import cache

import numpy as np
from numpy.typing import NDArray

__all__ = ["exponential_integral", "side_flow_factor"]

Floats = NDArray[np.float64]

EULER = 0.577215664901532860606512090082
LEAST, MOST, NODES = 1e-4, 6.5, 16_384


def exponential_integral(x: float) -> float:
    """Return E1(x) for x > 0: the series up to 1.5, a continued fraction beyond (Abramowitz & Stegun 5.1.11, 5.1.22)."""
    if x <= 1.5:
        total, term = -EULER - math.log(x), -1.0
        for n in range(1, 40):
            term *= -x / n
            total += term / n
        return total
    tail = 0.0
    for n in range(120, 0, -1):
        tail = n / (1 + n / (x + tail))
    return math.exp(-x) / (x + tail)


def _factor(xi: float) -> float:
    return math.erf(xi) + xi / math.sqrt(math.pi) * exponential_integral(xi * xi)


@cache
def _table() -> tuple[Floats, float, float]:
    """Return F at even steps of ln ξ, the first ln ξ, and the steps per unit."""
    start = math.log(LEAST)
    per_unit = (NODES - 3) / (math.log(MOST) - start)
    nodes = np.array([_factor(math.exp(start + (index - 1) / per_unit)) for index in range(NODES)])
    return nodes, start, per_unit


def side_flow_factor(xi: Floats | float) -> Floats:
    """Return F(ξ), between 0 and 1, for any array of ξ > 0; within 1e-9.

    For few values it is computed; for many it is read from the table.
    """
    values = np.asarray(xi, dtype=np.float64)
    if values.size <= 64:
        return np.array([_factor(min(max(float(each), 1e-12), 26.0)) for each in values.ravel()]).reshape(values.shape)
    nodes, start, per_unit = _table()
    place = np.log(np.minimum(np.maximum(values, LEAST), MOST * 0.999999))
    place -= start
    place *= per_unit
    index = place.astype(np.int32)
    place -= index
    return _catmull(nodes, index, place)


def _catmull(nodes: Floats, index: NDArray[np.int32], t: Floats) -> Floats:
    """Cubic interpolation through four neighbouring nodes (Lagrange), nodes[index + 1] at t = 0."""
    a, b, c, d = nodes[index], nodes[index + 1], nodes[index + 2], nodes[index + 3]
    return b + t * ((c - b) + (t - 1) * ((a - 2 * b + c) / 2 + (t + 1) * ((d - 3 * c + 3 * b - a) / 6)))


