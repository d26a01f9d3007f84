"""Heat that flows sideways from a narrow band: F = erf ξ + (ξ/√π)·E1(ξ²) (Carslaw & Jaeger)."""

import math

EULER = 0.577215664901532860606512090082


def exponential_integral(x: float) -> float:
    """Return E1(x) for x > 0: the series up to 1.5, a continued fraction beyond (Abramowitz & Stegun 5.1.11,
    5.1.22)."""
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


def side_flow_of(xi: float) -> float:
    """Return F(ξ) of one ξ > 0, from the series."""
    xi = min(max(xi, 1e-12), 26.0)
    return math.erf(xi) + xi / math.sqrt(math.pi) * exponential_integral(xi * xi)
