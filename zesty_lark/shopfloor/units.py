"""The units a job is told in: sizes in the print's, the machine in its dial's."""

from zesty_lark.core.part.shown_units import ShownUnits
from zesty_lark.core.quantities.units import Unit
from zesty_lark.store.models import Job


def as_unit(text: str) -> Unit:
    """Return a stored unit as the core's type."""
    return "in" if text == "in" else "mm"


def shown_units(job: Job) -> ShownUnits:
    """Return the units of a job, and what its surfaces are called that are no faces."""
    others = job.part.block().others if job.part.features else {}
    names = {number: each.words for number, each in others.items()}
    kinds = {characteristic.name: characteristic.kind for characteristic in job.part.wanted().characteristics}
    return ShownUnits(as_unit(job.print_unit), as_unit(job.machine.dial_unit), job.machine.graduation_mm, names, kinds)
