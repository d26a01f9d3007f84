"""The set-up as data, and what is found of it."""

from dataclasses import dataclass, field
from typing import Annotated, Literal

from annotated_types import Ge, Le, MaxLen

from zesty_lark.core.quantities.numbers import Count, NonNegative, Positive, Rpm

Level = Literal["pass", "caution", "stop"]
Offset = Annotated[float, Ge(-500), Le(500)]
Side = Literal["left", "right", "front", "back"]

CLEAR_MM = 25.0
"""The clearance that strokes usually have at each end [mm]."""


@dataclass(frozen=True)
class PartData:
    """The part [mm]: length along and width across the travel, height up; bow, and what it came from."""

    length_mm: Positive
    width_mm: Positive
    height_mm: Positive
    magnetic: bool = True
    bow_mm: NonNegative = 0.0
    burrs: bool = False
    rocks: bool = False
    reference_up: bool = False
    starts_from_high: bool = True
    contact_mm2: Positive | None = None


@dataclass(frozen=True)
class BlockData:
    """A block on the chuck: what for, on which side, top over the chuck [mm], length [mm], whether it overhangs the
    edge, and its name where several are told apart."""

    kind: Literal["backing", "support", "lead_in", "parallel"]
    side: Side
    top_mm: Positive
    length_mm: Positive = 50.0
    overhangs_edge: bool = True
    name: str = ""


@dataclass(frozen=True)
class ClampData:
    """A clamp: how far it hangs out beyond its block, the block's and the clamp side's own moment about that edge
    [N·mm], and its name where several are told apart."""

    overhang_mm: NonNegative
    block_moment_nmm: NonNegative
    clamp_moment_nmm: NonNegative
    name: str = ""


@dataclass(frozen=True)
class WheelData:
    """The wheel: size [mm], spindle and marked maximum [rpm], its grit, and how it stands."""

    diameter_mm: Positive
    width_mm: Positive
    rpm: Rpm
    marked_max_rpm: Rpm
    guard_closed: bool = True
    dull: bool = False
    side_work: bool = False
    side_work_allowed: bool = False
    diamond_beyond_centre_mm: Offset | None = None
    grit: Count | None = None


@dataclass(frozen=True)
class FeedData:
    """Feeds [mm], table [mm/s], strokes' clearance at the ends [mm], which way a vise is fed, and the downfeed [mm] and
    table speed [mm/s] of a plan that keeps the limits, where there is one."""

    downfeed_mm: Positive
    crossfeed_mm: Positive
    table_mm_s: Positive
    end_clearance_mm: NonNegative = CLEAR_MM
    towards_solid_jaw: bool | None = None
    planned_downfeed_mm: Positive | None = None
    planned_table_mm_s: Positive | None = None


@dataclass(frozen=True)
class FenceData:
    """The chuck's fence, when the part is registered on it: how far it is out of parallel to the travel [µm over its
    length], what the part may be out [µm], and whether it was ground in place with a relieved wheel."""

    out_of_parallel_um: NonNegative | None = None
    allowed_um: Positive | None = None
    ground_in_place: bool = True


@dataclass(frozen=True)
class TravelData:
    """The machine's travel along and across, the room under the wheel [mm], and the part's turn to the travel [°]."""

    along_mm: Positive
    across_mm: Positive
    height_mm: Positive | None = None
    skew_deg: Annotated[float, Ge(-90), Le(90)] = 0.0


@dataclass(frozen=True)
class SetUpData:
    """A whole set-up. ``blocked`` and ``supported`` say what is known better than by counting blocks: that the part is
    blocked on the side the wheel pushes to, that it is held up there and behind."""

    part: PartData
    wheel: WheelData
    feeds: FeedData
    coolant: Literal["dry", "mist", "water", "oil"]
    nozzle_on: bool = True
    final_height_mm: Positive | None = None
    slide_safety: NonNegative | None = None
    tip_safety: NonNegative | None = None
    pull_calibrated: bool = False
    pull_n_mm2: NonNegative = 0.8
    blocks: Annotated[list[BlockData], MaxLen(40)] = field(default_factory=list)
    clamps: Annotated[list[ClampData], MaxLen(20)] = field(default_factory=list)
    fence: FenceData | None = None
    travel: TravelData | None = None
    blocked: bool | None = None
    supported: bool | None = None
    vise: bool = False
    hands_clear: bool = True
    wheel_stopped: bool = True
    chuck_clean: bool = True


@dataclass(frozen=True)
class Finding:
    """One check: its name, what it is about, its level, why, the number behind it, and the remedy."""

    check: str
    about: str
    level: Level
    why: str
    number: float | None
    remedy: str


@dataclass(frozen=True)
class SetUpReport:
    """The worst level, and all findings, stops first."""

    level: Level
    findings: list[Finding]


def finding(
    check: str, about: str, level: Level, why: str, *, remedy: str = "", number: float | None = None
) -> list[Finding]:
    """Return one finding."""
    return [Finding(check, about, level, why, number, remedy)]


def wrong_or_well(
    check: str,
    about: str,
    wrong: bool,
    why: str,
    *,
    remedy: str,
    well: str,
    level: Level = "stop",
    number: float | None = None,
) -> list[Finding]:
    """Return what is wrong, with its remedy, or that it is well."""
    return finding(
        check, about, level if wrong else "pass", why if wrong else well, remedy=remedy if wrong else "", number=number
    )
