"""A map as it is taken: places in order, what was read at each, the closing reading; and what it comes to."""

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from functools import cached_property
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from zesty_lark.core.measure.maps.analysis import Analysis, Drift, Frame, analyse, map_drift
from zesty_lark.core.measure.maps.layout import Layout, Place
from zesty_lark.core.quantities.numbers import InputError

MapState = Literal["taking", "in use", "refused", "withdrawn"]
FRAMES: dict[Frame, str] = {
    "machine": "Machine frame: height over the table's travel. A stock map: it proves no flatness.",
    "plate": "Plate frame: height over the surface plate. Parallel as read; flat with a plane taken out.",
}
USUAL_RANGE_UM = 40.0
"""A ground face or a chuck is seldom out by more."""
SLIPS = ((10.0, "a slip of ten"), (25.4, "thousandths of an inch read as micrometres"))


@dataclass(frozen=True)
class SurfaceMap:
    """A whole map: points x, y [mm] and z [µm] as they were read, in their order; the closing reading of the first
    point [µm], ``None`` where nobody took one; the patch of each point, and the patches' names.

    What was read is kept as it was read; everything below is worked out from ``level``, with the drift shared.
    """

    frame: Frame
    points: tuple[tuple[float, float, float], ...]
    closing_um: float | None = None
    patch_of: tuple[int, ...] = ()
    patches: tuple[str, ...] = ()

    @cached_property
    def drift(self) -> Drift | None:
        """The drift between the first and the closing reading."""
        if self.closing_um is None:
            return None
        return map_drift(readings_um=[z for _, _, z in self.points], closing_um=self.closing_um)

    @cached_property
    def table(self) -> NDArray[np.float64]:
        """The points with the drift shared by order of reading, ``(n, 3)`` [mm] [mm] [µm]."""
        found = np.array(self.points, dtype=np.float64).reshape(-1, 3)
        if self.drift is not None:
            found[:, 2] = self.drift.corrected_um
        return found

    @cached_property
    def level(self) -> list[list[float]]:
        """The same as a list."""
        points: list[list[float]] = self.table.tolist()
        return points

    @cached_property
    def analysis(self) -> Analysis:
        """Range, planes and flatness."""
        if len(self.points) < 3:
            raise InputError("points", "points must be at least three")
        return analyse(self.table, self.frame)

    def parts(self) -> list[NDArray[np.float64]]:
        """The levelled points of each patch; all of them where there are no patches."""
        if not self.patches:
            return [self.table]
        of = np.asarray(self.patch_of)
        return [self.table[of == patch] for patch in range(len(self.patches))]

    @property
    def parallel_um(self) -> float:
        """Parallelism to the plate: max − min [µm]."""
        return self.analysis.range_um


@dataclass(frozen=True)
class Taking:
    """A map being taken: the newest reading of each place [µm], by number from 0; the closing reading has the number
    after the last place."""

    layout: Layout
    readings: dict[int, Decimal]

    @property
    def next(self) -> int | None:
        """The number of the reading that comes next; ``None`` when all are taken, the closing one too."""
        return next((number for number in range(len(self.layout.places) + 1) if number not in self.readings), None)

    @property
    def closing(self) -> int:
        """The number of the closing reading."""
        return len(self.layout.places)

    def place(self, number: int) -> Place:
        """Where a reading is taken; the closing one where the first was."""
        return self.layout.places[0 if number == self.closing else number]

    def whole(self, frame: Frame) -> SurfaceMap:
        """Return the map, once every reading is taken.

        Raises
        ------
        ValueError
            If a reading is missing.
        """
        if self.next is not None:
            raise ValueError("a reading is missing")
        places = self.layout.places
        return SurfaceMap(
            frame,
            tuple((each.x_mm, each.y_mm, float(self.readings[number])) for number, each in enumerate(places)),
            float(self.readings[self.closing]),
            tuple(place.patch for place in places),
            self.layout.patches,
        )


def doubt_of(value_um: Decimal, before: Sequence[Decimal], usual_um: float = USUAL_RANGE_UM) -> str:
    """Return a question when a height cannot be meant: ten or 25.4 times what such a surface has; empty otherwise.

    Parameters
    ----------
    value_um : Decimal
        What was just read [µm].
    before : sequence of Decimal
        What was read before it, at other places [µm]; without any, nothing is told.
    usual_um : float
        The range that such a surface has at most [µm].
    """
    if not before:
        return ""
    low, high = float(min(before)), float(max(before))
    off = max(float(value_um) - high, low - float(value_um), 0.0)
    if off + (high - low) <= usual_um:
        return ""
    for factor, slip in SLIPS:
        meant = float(value_um) / factor
        if low - usual_um / 2 <= meant <= high + usual_um / 2:
            return f"{float(value_um):g} µm is far off the rest. It looks like {slip}: was {meant:.3g} meant?"
    return f"{float(value_um):g} µm is {off:.3g} µm off the rest; such a surface ranges over {usual_um:g} at most."
