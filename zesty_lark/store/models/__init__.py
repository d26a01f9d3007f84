"""The tables, one module a subject."""

from zesty_lark.store.models.base import Base
from zesty_lark.store.models.jobs import Job, Part, PartFace, PartSize
from zesty_lark.store.models.log import LearnedRun, LogEntry, LogReading
from zesty_lark.store.models.people import Person, SignInAttempt
from zesty_lark.store.models.plans import PartPlanRow, PlanRow, PlanStepRow
from zesty_lark.store.models.shop import Chuck, ChuckMap, Fixture, Instrument, MachineRow, WheelRow

__all__ = ["Base", "Chuck", "ChuckMap", "Fixture", "Instrument", "Job", "LearnedRun", "LogEntry", "LogReading",
           "MachineRow", "Part", "PartFace", "PartPlanRow", "PartSize", "Person", "PlanRow", "PlanStepRow", "SignInAttempt",
           "WheelRow"]
