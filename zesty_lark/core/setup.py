"""The set-up as data, and its checks: each rule a named finding - pass, caution or stop - with its reason and remedy.

The same rules grade practice scenes.
"""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Annotated, Literal

from annotated_types import Ge, Le, MaxLen

from zesty_lark.core.holding import BLOCK_SAFETY, STOP_SAFETY, thin_bow
from zesty_lark.core.layout import projected
from zesty_lark.core.quantities import NonNegative, Positive, Rpm
from zesty_lark.core.wheel.speed import wheel_speed

__all__ = ["Finding", "SetUpData", "SetUpReport", "setup_check"]

Level = Literal["pass", "caution", "stop"]
Offset = Annotated[float, Ge(-500), Le(500)]
Side = Literal["left", "right", "front", "back"]

LEAD_IN_LOW_MM, LEAD_IN_HIGH_MM = 0.1, 0.3
CLEAR_MM = 25.0
THIN_MM = 6.0
LONG_DRY_SHARE = 2.0
DEEP_DRY_MM = 0.025


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
    """A block on the chuck: what for, on which side, top over the chuck [mm], length [mm], and whether it overhangs the edge."""

    kind: Literal["backing", "support", "lead_in", "parallel"]
    side: Side
    top_mm: Positive
    length_mm: Positive = 50.0
    overhangs_edge: bool = True


@dataclass(frozen=True)
class ClampData:
    """A clamp: how far it hangs out beyond its block, and the block's and the clamp side's own moment about that edge [N·mm]."""

    overhang_mm: NonNegative
    block_moment_nmm: NonNegative
    clamp_moment_nmm: NonNegative


@dataclass(frozen=True)
class WheelData:
    """The wheel: size [mm], spindle and marked maximum [rpm], and how it stands."""

    diameter_mm: Positive
    width_mm: Positive
    rpm: Rpm
    marked_max_rpm: Rpm
    guard_closed: bool = True
    dull: bool = False
    side_work: bool = False
    side_work_allowed: bool = False
    diamond_beyond_centre_mm: Offset | None = None


@dataclass(frozen=True)
class FeedData:
    """Feeds [mm], table [mm/s], strokes' clearance at the ends [mm], and which way a vise is fed."""

    downfeed_mm: Positive
    crossfeed_mm: Positive
    table_mm_s: Positive
    end_clearance_mm: NonNegative = CLEAR_MM
    towards_solid_jaw: bool | None = None


@dataclass(frozen=True)
class FenceData:
    """The chuck's fence, when the part is registered on it: how far it is out of parallel to the travel [µm over its length],
    what the part may be out [µm], and whether it was ground in place with a relieved wheel."""

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
    """A whole set-up."""

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


def setup_check(*, setup: SetUpData) -> SetUpReport:
    """Check a set-up against every rule of setting up and holding.

    Raises
    ------
    InputError
        If the wheel's marking is missing.
    """
    findings = [finding for rule in _RULES for finding in rule(setup)]
    order = {"stop": 0, "caution": 1, "pass": 2}
    findings.sort(key=lambda finding: order[finding.level])
    return SetUpReport(findings[0].level, findings)


def _said(check: str, about: str, level: Level, why: str, remedy: str = "", number: float | None = None) -> list[Finding]:
    return [Finding(check, about, level, why, number, remedy)]


def _bad(check: str, about: str, wrong: bool, why: str, remedy: str, well: str, *, level: Level = "stop",
         number: float | None = None) -> list[Finding]:
    return _said(check, about, level if wrong else "pass", why if wrong else well, remedy if wrong else "", number)


def _over_speed(s: SetUpData) -> list[Finding]:
    speed = wheel_speed(wheel_diameter_mm=s.wheel.diameter_mm, wheel_rpm=s.wheel.rpm, marked_max_rpm=s.wheel.marked_max_rpm)
    return _bad("wheel over speed", "wheel", not speed.may_run, speed.why, "another wheel or another spindle speed",
                speed.why, number=speed.share)


def _guard(s: SetUpData) -> list[Finding]:
    return _bad("guard open", "wheel", not s.wheel.guard_closed, "The guard is open.", "close it before the wheel starts",
                "The guard is closed.")


def _hands(s: SetUpData) -> list[Finding]:
    return _bad("hand near the wheel", "wheel", not s.hands_clear or not s.wheel_stopped,
                "A hand is near a wheel that is not seen to be stopped. Coasting counts as running.",
                "stop the wheel and see it stop", "Hands are clear.")


def _side_work(s: SetUpData) -> list[Finding]:
    if not s.wheel.side_work:
        return []
    return _bad("side work", "wheel", not s.wheel.side_work_allowed, "This wheel is not made for work on its side.",
                "a wheel whose maker allows it; nobody can release this", "Its maker allows work on its side.")


def _dull(s: SetUpData) -> list[Finding]:
    return _bad("dull wheel", "wheel", s.wheel.dull, "The wheel is dull: it rubs and heats.", "dress it", "The wheel is sharp.",
                level="caution")


def _diamond(s: SetUpData) -> list[Finding]:
    beyond = s.wheel.diamond_beyond_centre_mm
    if beyond is None:
        return []
    return _bad("diamond on the wrong side", "wheel", beyond <= 0,
                "The diamond stands before the centre line: if it catches, it is pulled in.",
                "past the centre line in the direction the wheel turns, 6 to 12 mm",
                "The diamond is past the centre line.", number=beyond)


def _hold(s: SetUpData) -> list[Finding]:
    if not s.part.magnetic:
        return _said("magnet hold", "part", "stop", "A magnet does not hold this material.",
                     "vise, screwed or clamped to an angle plate, transfer blocks, vacuum, wax on a steel carrier", 0.0)
    known = [each for each in (s.slide_safety, s.tip_safety) if each is not None]
    if not known:
        return _said("magnet hold", "part", "caution", "The hold is not known yet.", "check the hold first")
    least = min(known)
    note = "" if s.pull_calibrated else " Uncalibrated: no pull test of this chuck."
    if least < STOP_SAFETY:
        return _said("magnet hold", "part", "stop", f"Safety {least:.1f}, under {STOP_SAFETY:g}.{note}",
                     "blocks, a fixture, a lighter cut, or the pull test", least)
    blocked = any(block.kind == "backing" for block in s.blocks)
    if least < BLOCK_SAFETY and not blocked:
        return _said("magnet hold", "part", "caution", f"Safety {least:.1f}, under {BLOCK_SAFETY:g}.{note}", "block it", least)
    return _said("magnet hold", "part", "pass", f"Safety {least:.1f}.{note}", "", least)


def _tall(s: SetUpData) -> list[Finding]:
    ratio = s.part.height_mm / min(s.part.length_mm, s.part.width_mm)
    supported = sum(block.kind == "support" and block.top_mm < s.part.height_mm for block in s.blocks) >= 2
    return _bad("tall part unsupported", "part", ratio > 1 and not supported, "Taller than its footprint and not supported.",
                "support blocks close under the face, on the side the wheel pushes to and behind", "It stands safely.",
                number=ratio)


def _contact(s: SetUpData) -> list[Finding]:
    if s.part.contact_mm2 is None:
        return []
    share = s.part.contact_mm2 / (s.part.length_mm * s.part.width_mm)
    corner = {block.side for block in s.blocks if block.kind == "backing"}
    return _bad("small contact", "part", share < 0.5 and len(corner) < 2, "Only feet or a frame touch the magnet.",
                "backing blocks in a corner of two, on the end the wheel pushes to; span the most poles",
                "It has contact or is blocked.", level="caution", number=share)


def _seat(s: SetUpData) -> list[Finding]:
    return [
        *_bad("burr under the part", "part", s.part.burrs, "There is a burr under the part.", "stone it off, wipe, feel",
              "No burrs."),
        *_bad("part rocks", "part", s.part.rocks, "It rocks: it stands on a hump or a diagonal.",
              "find the hump and knock it down, or shim", "It does not rock."),
        *_bad("chuck not clean", "chuck", not s.chuck_clean, "The chuck was not wiped and felt.",
              "stone, wipe and feel it, the wheel stopped", "The chuck is clean.", level="caution"),
        *_bad("reference face up", "part", s.part.reference_up, "A finished reference is up: it would be ground.",
              "turn it over; the reference stays down", "The reference is not up."),
        *_bad("starts on the low side", "feeds", not s.part.starts_from_high,
              "It starts on the low side and feeds into rising metal.", "map or sweep, and start from the high side",
              "It starts from the high side."),
    ]


def _thin(s: SetUpData) -> list[Finding]:
    if s.part.bow_mm == 0:
        return []
    bow = thin_bow(length_mm=max(s.part.length_mm, s.part.width_mm), thickness_mm=s.part.height_mm, bow_mm=s.part.bow_mm,
                   pull_n_mm2=s.pull_n_mm2)
    wrong = bow.flattened_share > 0.1 and s.part.height_mm <= THIN_MM
    return _bad("thin bowed part on full magnet", "part", wrong,
                f"The magnet pulls it flat; {bow.spring_back_mm:.3f} mm springs back when it is let go.",
                "shim under the hollow, or magnet low and the ends blocked; alternate sides", "The bow is not pulled out.",
                level="caution", number=bow.spring_back_mm)


def _blocks(s: SetUpData) -> list[Finding]:
    found: list[Finding] = []
    top = s.final_height_mm or s.part.height_mm
    for block in s.blocks:
        if block.kind == "lead_in":
            below = top - block.top_mm
            if below < 0:
                found += _said("lead-in block too high", "blocks", "stop", "The lead-in block stands above the final face.",
                               "grind it to 0.1 to 0.3 mm below the final face", below)
            elif not LEAD_IN_LOW_MM <= below <= LEAD_IN_HIGH_MM or block.length_mm < s.wheel.diameter_mm / 4:
                found += _said("lead-in block", "blocks", "caution",
                               "Its top is not 0.1 to 0.3 mm below the final face, or it is shorter than a quarter of the "
                               "wheel's diameter.", "make it so, as wide as the part", below)
        elif block.top_mm >= top:
            found += _said("block too high", "blocks", "stop", "A block stands as high as the face: the wheel would strike it.",
                           "a lower block", block.top_mm - top)
        if block.kind == "parallel" and not block.overhangs_edge:
            found += _said("parallel flush with the edge", "blocks", "caution", "It cannot be lifted, only dragged over grit.",
                           "let it overhang the chuck's edge a little")
    return found or _said("blocks", "blocks", "pass", "Blocks are as they should be.")


def _clamps(s: SetUpData) -> list[Finding]:
    found: list[Finding] = []
    for clamp in s.clamps:
        safety = clamp.block_moment_nmm / clamp.clamp_moment_nmm if clamp.clamp_moment_nmm else float("inf")
        found += _bad("clamp overhang", "clamps", clamp.overhang_mm > 0 and safety < STOP_SAFETY,
                      "The clamp can lever its block off the magnet.", "move the clamp over the block, or a heavier block",
                      "The block holds the clamp.", number=None if safety == float("inf") else safety)
    return found


def _feeds(s: SetUpData) -> list[Finding]:
    found = _bad("stroke too short to clear", "feeds", s.feeds.end_clearance_mm < min(CLEAR_MM, s.wheel.width_mm),
                 "The wheel does not clear the part before the crossfeed moves.", "about 25 mm at each end",
                 "Strokes clear the part.", level="caution", number=s.feeds.end_clearance_mm)
    if s.vise and s.feeds.towards_solid_jaw is not None:
        found += _bad("vise the wrong way round", "feeds", not s.feeds.towards_solid_jaw,
                      "It feeds away from the solid jaw.", "turn the vise: feed towards the solid jaw",
                      "It feeds towards the solid jaw.")
    return found


def _travel(s: SetUpData) -> list[Finding]:
    """Whether table, saddle and column reach: stroke = part along + clearance at both ends; across = part + wheel."""
    if s.travel is None:
        return []
    along, across = projected(s.part.length_mm, s.part.width_mm, s.travel.skew_deg)
    stroke, span = along + 2 * s.feeds.end_clearance_mm, across + s.wheel.width_mm
    found = _bad("table travel too short", "machine", stroke > s.travel.along_mm,
                 f"A stroke needs {stroke:.0f} mm and the table travels {s.travel.along_mm:g} mm.",
                 "turn the part, a shorter overrun, or another machine", f"The table travels {s.travel.along_mm:g} mm.",
                 number=stroke)
    found += _bad("saddle travel too short", "machine", span > s.travel.across_mm,
                  f"The wheel needs {span:.0f} mm across to leave the part on both sides and the saddle travels "
                  f"{s.travel.across_mm:g} mm.", "turn the part, or grind it in two places and match them",
                  f"The saddle travels {s.travel.across_mm:g} mm.", number=span)
    if s.travel.height_mm is not None:
        found += _bad("no room under the wheel", "machine", s.part.height_mm >= s.travel.height_mm,
                      f"The part stands {s.part.height_mm:g} mm high and there is {s.travel.height_mm:g} mm under the wheel.",
                      "a lower fixture or another machine", "There is room under the wheel.", number=s.travel.height_mm)
    return found


def _fence(s: SetUpData) -> list[Finding]:
    """A part registered on the fence is parallel to the travel only as well as the fence is."""
    if s.fence is None:
        return []
    out, allowed = s.fence.out_of_parallel_um, s.fence.allowed_um
    found = _bad("fence not ground in place", "fence", not s.fence.ground_in_place,
                 "It was not ground where it stands, so its line is only as true as its mounting.",
                 "grind it in place: a wheel relieved about 1°, light cuts, spark-out, a fresh dress before the last",
                 "It was ground in place.", level="caution")
    if out is None:
        return found + _said("fence not checked", "fence", "caution", "How parallel the fence is to the travel is not known.",
                             "sweep it with an indicator on the wheelhead")
    if allowed is not None:
        found += _bad("fence out of line", "fence", out > allowed,
                      f"The fence is {out:g} µm out of parallel to the travel, and {allowed:g} µm is allowed.",
                      "grind it in place, or indicate the part instead", "The fence is true enough.", number=out)
    return found


def _cooling(s: SetUpData) -> list[Finding]:
    wet = s.coolant != "dry" and s.nozzle_on
    found = _bad("no coolant", "coolant", not wet and s.feeds.downfeed_mm > DEEP_DRY_MM, "A deep cut runs dry.",
                 "aim the nozzle just before the contact, or take less and wait", "Cooling suits the cut.",
                 level="caution", number=s.feeds.downfeed_mm)
    long_dry = not wet and s.part.length_mm / s.part.width_mm >= LONG_DRY_SHARE
    found += _bad("long side along the travel, dry", "part", long_dry,
                  "Each stroke returns over the same hot middle; it will be hollow when cold.",
                  "turn the part 15 to 30°, or crosswise", "Orientation suits the heat.", level="caution",
                  number=s.part.length_mm / s.part.width_mm)
    return found


_RULES: tuple[Callable[[SetUpData], list[Finding]], ...] = (
    _over_speed, _guard, _hands, _side_work, _dull, _diamond, _hold, _tall, _contact, _seat, _thin, _blocks, _clamps, _feeds,
    _travel, _fence, _cooling,
)
