"""The tables, one module a subject."""

from zesty_lark.store.models.base import Base
from zesty_lark.store.models.instruments import InstrumentRow
from zesty_lark.store.models.jobs import CharacteristicRow, Job, Part, PartFace, PartSize, Piece
from zesty_lark.store.models.learned import LearnedRun, LearnedTime, SizeRun
from zesty_lark.store.models.log import LogEntry, LogReading
from zesty_lark.store.models.maps import MapReadingRow, SurfaceMapRow
from zesty_lark.store.models.people import Person, PersonChange, SignedIn, SignInAttempt
from zesty_lark.store.models.plans import PartPlanRow, PlanRow, PlanStepRow
from zesty_lark.store.models.sensors import SensorRow
from zesty_lark.store.models.set_up import SetUpRow
from zesty_lark.store.models.shop import AccessoryRow, BlockSetRow, ChuckRow, FixtureRow, MachineRow
from zesty_lark.store.models.summaries import JobSummary, JobWord
from zesty_lark.store.models.things import ThingEntryRow
from zesty_lark.store.models.wheels import FlangeRow, WheelRow

__all__ = [
    "AccessoryRow",
    "Base",
    "BlockSetRow",
    "CharacteristicRow",
    "ChuckRow",
    "FixtureRow",
    "FlangeRow",
    "InstrumentRow",
    "Job",
    "JobSummary",
    "JobWord",
    "LearnedRun",
    "LearnedTime",
    "LogEntry",
    "LogReading",
    "MachineRow",
    "MapReadingRow",
    "Part",
    "PartFace",
    "PartPlanRow",
    "PartSize",
    "Person",
    "Piece",
    "PlanRow",
    "PlanStepRow",
    "SensorRow",
    "SetUpRow",
    "SignInAttempt",
    "PersonChange",
    "SignedIn",
    "SizeRun",
    "SurfaceMapRow",
    "ThingEntryRow",
    "WheelRow",
]
