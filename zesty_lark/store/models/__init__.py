"""The tables, one module a subject."""

from zesty_lark.store.models.base import Base
from zesty_lark.store.models.jobs import Job, Part, PartFace, PartSize
from zesty_lark.store.models.log import LogEntry, LogReading
from zesty_lark.store.models.people import Person, SignInAttempt
from zesty_lark.store.models.plans import PlanRow, PlanStepRow
from zesty_lark.store.models.shop import Instrument, MachineRow, WheelRow

__all__ = ["Base", "Instrument", "Job", "LogEntry", "LogReading", "MachineRow", "Part", "PartFace", "PartSize",
           "Person", "PlanRow", "PlanStepRow", "SignInAttempt", "WheelRow"]
