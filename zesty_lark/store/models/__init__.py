"""The tables, one module a subject."""

from zesty_lark.store.models.base import Base
from zesty_lark.store.models.bench import SetUpRow
from zesty_lark.store.models.gauging import GaugeCheckRow
from zesty_lark.store.models.jobs import CharacteristicRow, Job, Part, PartFace, PartSize, Piece
from zesty_lark.store.models.log import LearnedRun, LogEntry, LogReading
from zesty_lark.store.models.maps import ChuckActRow, MapReadingRow, SurfaceMapRow
from zesty_lark.store.models.people import Person, SignedIn, SignInAttempt
from zesty_lark.store.models.plans import PartPlanRow, PlanRow, PlanStepRow
from zesty_lark.store.models.shop import (
    AccessoryRow,
    BlockSetRow,
    ChuckRow,
    FixtureRow,
    InstrumentRow,
    MachineRow,
    WheelRow,
)
from zesty_lark.store.models.summaries import JobSummary, JobWord

__all__ = [
    "AccessoryRow",
    "Base",
    "BlockSetRow",
    "CharacteristicRow",
    "ChuckActRow",
    "ChuckRow",
    "FixtureRow",
    "GaugeCheckRow",
    "InstrumentRow",
    "Job",
    "JobSummary",
    "JobWord",
    "LearnedRun",
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
    "SetUpRow",
    "SignInAttempt",
    "SignedIn",
    "SurfaceMapRow",
    "WheelRow",
]
