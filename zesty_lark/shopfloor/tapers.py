"""Out of parallel explained: a measured size, and what the log knows of how it came about."""

from zesty_lark.core.measure.tapers import Explained, Happened, PlacedReading, explain
from zesty_lark.core.part.faces import FINISHED
from zesty_lark.core.part.surfaces import lying_of
from zesty_lark.core.quantities.units import micrometres
from zesty_lark.core.work.entries import PART_WARM, Measured
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.machine_acts import Dressed, PassFed, Prepared, SparkedOut
from zesty_lark.store.models import Job

COMMON = 0.7072
"""Two readings of one gauge share its common errors: what is left of U, about 1/√2."""
SEAT = ("rock",)
"""What of the list before the touch-off tries the seat."""


def lies_on(job_state: JobState, entry: Measured) -> int | None:
    """Return the face that a measured one lies on, where that is not ground yet: readings over it differ by its own
    shape too, and tell nothing of the measured face alone."""
    surface, piece = job_state.spec.wanted.surfaces.get(entry.surface or 0), job_state.pieces.get(entry.piece)
    if surface is None or piece is None or surface.size != entry.characteristic or not surface.is_height:
        return None
    return surface.opposite if piece.states.get(surface.opposite) not in (None, *FINISHED) else None


def explained(
    job: Job, job_state: JobState, entry: Measured, places: dict[str, tuple[float, float]]
) -> Explained | None:
    """Explain how a measured size is out of parallel, by its slope and by what the log knows; ``None`` over a face that
    is not ground yet.

    Parameters
    ----------
    places : dict
        Where on the face each named place lies: shares of its length from the left, of its width from the back.
    """
    if entry.surface is None or lies_on(job_state, entry) is not None:
        return None
    lying = lying_of(job.part.block(), entry.surface)
    along, across = float(lying.along_mm), float(lying.across_mm)
    read = [
        PlacedReading(
            places[reading.place][0] * along, (1 - places[reading.place][1]) * across, micrometres(reading.value_mm)
        )
        for reading in entry.true_readings
        if reading.place in places
    ]
    return explain(read, micrometres(entry.uncertainty_mm) * COMMON, _happened(job_state, entry))


def _happened(job_state: JobState, entry: Measured) -> Happened:
    """What the log knows of a surface up to its measurement."""
    spark_outs = passes = 0
    seat = False
    for each in job_state.history:
        if each.entry_id == entry.entry_id:
            break
        if isinstance(each, Dressed):
            passes = 0
        elif getattr(each, "surface", None) != entry.surface:
            continue
        elif isinstance(each, PassFed):
            spark_outs, passes = 0, passes + 1
        elif isinstance(each, SparkedOut):
            spark_outs += each.count
        elif isinstance(each, Prepared):
            seat = seat or each.item in SEAT
    return Happened(spark_outs, passes, entry.note == PART_WARM, seat)
