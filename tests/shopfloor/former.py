"""Hands that grind slots, angles and edges: the block is to size, under the wheel lies what a feature brings."""

import random
from collections.abc import Sequence
from dataclasses import replace
from decimal import Decimal

from tests.shopfloor.hands import D, Hands, job_of
from zesty_lark.core.part.faces import FaceState
from zesty_lark.core.part.sizes import Reading, Size
from zesty_lark.core.part.surfaces.features import Feature, dumped_features
from zesty_lark.core.part.surfaces.formed_face import formed_of
from zesty_lark.core.part.surfaces.part import volume_mm3
from zesty_lark.core.simulated.block import FORMED_MM, Lump
from zesty_lark.core.things.shop import Fixture
from zesty_lark.core.work.folding import Folding
from zesty_lark.core.work.job_state import JobState
from zesty_lark.store.models import Job, PartSize

SINE = Fixture(
    "Sine plate N1", "vee_or_vise", D("0.001"), D(100), D("0.0005"), D(150), D(75), form="sine_plate",
    height_mm=D(40), centres_mm=D(127),
)  # fmt: skip
COMPOUND = replace(SINE, name="Compound plate N2", top_centres_mm=D(100))
SPIN = replace(SINE, name="Spin fixture F1", form="spin_fixture", centres_mm=None, seat_mm=D(60))
VEE = replace(SINE, name="Vee block V1", form="vee_block", centres_mm=None)


def formed_job(features: Sequence[Feature], sizes: tuple[str, str, str], *, tol: str = "0.005") -> Job:
    """A block's job with features: length, width and thickness as wanted [mm]."""
    job = job_of(Size(D(sizes[2]), D(tol), D(tol)))
    for row, nominal in zip(("length", "width", "thickness"), sizes, strict=True):
        at = next(each for each in job.part.sizes if each.axis == row)
        at.target_mm, at.measured_max_mm, at.measured_min_mm = D(nominal), D(nominal) + D("0.2"), D(nominal) + D("0.15")
    job.part.features = dumped_features(tuple(features))
    assert all(isinstance(size, PartSize) for size in job.part.sizes)
    return job


class Former(Hands):
    """Hands on a finished block with features."""

    def __init__(self, job: Job, seed: int, **more: object) -> None:
        super().__init__(job, seed, **more)  # type: ignore[arg-type]
        spec = job.part.spec()
        done = {face: FaceState.TO_SIZE for face in range(1, 7)}
        self.fold = Folding(replace(spec, start_states={**spec.start_states, **done}))
        self.fixtures = [SINE, COMPOUND, SPIN, VEE]
        self.formed, self.lumps = formed_of(job.part.block()), dict[int, Lump]()
        self.seed = seed

    def place(self, face: int, job_state: JobState) -> None:
        """What the surface is to the wheel lies on the chuck."""
        made = self.formed[face]
        self.lumps[face] = Lump.formed(
            (made.lying.along_mm, made.lying.across_mm),
            float(made.stock_mm),
            random.Random(f"{self.seed} {face}"),
            self.truth.surface_um,
            eta=made.feeding.cut_ratio,
            body_mm3=volume_mm3(self.job.part.block()),
        )
        self.grinder.lift()
        self.grinder.lump = self.lumps[face]
        self.grinder.place(1)

    def as_read(self, face: int, readings: tuple[Reading, ...]) -> tuple[Reading, ...]:
        """Heights as sizes of the surface."""
        return tuple(Reading(reading.place, self.size_at(face, reading.value_mm)) for reading in readings)

    def size_at(self, face: int, height_mm: Decimal) -> Decimal:
        """The size of a surface where it stands so high."""
        made = self.formed[face]
        came = D(repr(FORMED_MM)) + made.stock_mm
        return round(made.surface.fed(made.size.measured_max_mm, came - height_mm), 5)

    def true_sizes(self, face: int) -> tuple[Decimal, Decimal]:
        """The least and most of a surface's size as it truly is [mm]."""
        heights = self.lumps[face].thickness_mm(1)
        ends = [self.size_at(face, D(repr(float(each)))) for each in (heights.min(), heights.max())]
        return min(ends), max(ends)
