"""The part as it lies in a set-up, from its print, its standing and its plan."""

from zesty_lark.core.part.faces import corner_faces
from zesty_lark.core.part.surfaces import kind_of, lying_of
from zesty_lark.core.part.surfaces.part import Block
from zesty_lark.core.part.surfaces.sides import sides_of
from zesty_lark.core.process.holding import SURFACES, weight_n
from zesty_lark.core.process.materials import Material
from zesty_lark.core.setup.facts import PartFacts, Sides
from zesty_lark.core.squaring.face_plan import FacePlan
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.setups import SetUp

LEAST_MM = 0.01
"""However much is to come off, something is left [mm]."""


def part_of(
    block: Block,
    material: Material,
    mark_corner: str,
    *,
    job_state: JobState,
    setup: SetUp,
    face_plan: FacePlan | None,
    face: int,
    pieces: tuple[int, ...],
) -> PartFacts:
    """Return a part with a face up: as high as its pieces are by the collar now, and as its plan leaves them.

    ``pieces`` are those of the load; ``face_plan`` is ``None`` where nothing is left to grind.
    """
    lying, surface = lying_of(block, face), job_state.spec.wanted.surfaces[face]
    size = kind_of(block, face).size_of(block, face)
    heights = {number: float(job_state.pieces[number].sizes[surface.size].by_collar_mm) for number in pieces}
    lowest = min(heights.values(), default=float(size.measured_max_mm))
    highest = max(heights.values(), default=lowest)
    final = max(highest - (0.0 if face_plan is None else float(face_plan.stock_mm)), LEAST_MM)
    held = None if face_plan is None else face_plan.held
    front, back, left, right = sides_of(face)
    return PartFacts(
        up=face,
        down=setup.down if len(setup.up) == 1 else surface.opposite,
        along_mm=lying.along_mm,
        across_mm=lying.across_mm,
        height_mm=max(lowest, final),
        final_mm=final,
        sides=Sides(front, back, left, right, tuple(corner_faces(mark_corner))),
        material_factor=material.pull_factor,
        surface_factor=1.0 if held is None else SURFACES[held.surface],
        gap_mm=0.0 if held is None else held.gap_mm + held.shimmed_mm,
        bow_shape="middle_up" if held is None else held.shape,
        weight_n=weight_n(lying.along_mm * lying.across_mm * lying.height_mm, material.density_kg_m3),
        carbon_steel=material.magnetic,
        reference_up=bool(pieces) and surface.reference and not job_state.pieces[pieces[0]].wants(surface),
        planned_mm=lying.height_mm,
        higher_mm={number: height - lowest for number, height in heights.items()},
    )
