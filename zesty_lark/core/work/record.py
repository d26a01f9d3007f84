"""A job with its whole log, as it travels between the store and a file."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from zesty_lark.core.measure.instruments import Instrument
from zesty_lark.core.things.shop import Machine, Wheel
from zesty_lark.core.work.entry import Entry

Values = Mapping[str, Any]


@dataclass(frozen=True)
class JobRecord:
    """Everything a job needs to be read in elsewhere; things are named, never numbered.

    Attributes
    ----------
    job, part : mapping
        Fields of the job and its part; ``owner``, ``machine`` and ``wheel`` are names.
    sizes, faces : sequence of mapping
        The part's sizes (with ``axis``) and faces (with ``face``).
    machine : Machine
    wheel : Wheel
    instruments : sequence of Instrument
    people : sequence of mapping
        Whatever the log refers to.
    entries : sequence of Entry
        The log, oldest first, superseded entries included.
    pieces, characteristics : sequence of mapping
        Pieces with sizes of their own, and what the print asks beside the usual.
    set_ups : sequence of mapping
        How set-ups are laid out: ``setup`` and the ``layout`` as text.
    maps : sequence of mapping
        Surface maps of its pieces, with their points as they were read.
    """

    job: Values
    part: Values
    sizes: Sequence[Values]
    faces: Sequence[Values]
    machine: Machine
    wheel: Wheel
    instruments: Sequence[Instrument]
    people: Sequence[Values]
    entries: Sequence[Entry]
    pieces: Sequence[Values] = ()
    characteristics: Sequence[Values] = ()
    set_ups: Sequence[Values] = ()
    maps: Sequence[Values] = ()
