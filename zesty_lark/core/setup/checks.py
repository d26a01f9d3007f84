"""The checks of a layout: every rule of setting up on what it comes to, each finding pinned to what it is about."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

from zesty_lark.core.quantities.units import UM_A_MM
from zesty_lark.core.setup.at_corner import CORNER_RULES
from zesty_lark.core.setup.block_rules import BLOCK_RULES, clamp_moments
from zesty_lark.core.setup.facts import SetUpFacts
from zesty_lark.core.setup.found import Pinned
from zesty_lark.core.setup.hold import PieceHold, blocked_sides, facing_fence, hold_of, lies_bowed, side_of, supported
from zesty_lark.core.setup.layout import Layout
from zesty_lark.core.setup.rulebook import SetUpData, setup_check
from zesty_lark.core.setup.rulebook.data import BlockData, ClampData, FeedData, FenceData, Level, PartData, WheelData
from zesty_lark.core.setup.rules import LAYOUT_RULES
from zesty_lark.core.setup.solids import Built, Solid, build
from zesty_lark.core.things.shop import Accessory, Fixture
from zesty_lark.core.wheel.grain import grains
from zesty_lark.core.wheel.mounting import speed_stops

TURNED_DEG = 15.0
"""From here on a turned part's heat is evened out [°]."""
SMALL_BOW_UM = 2.0
"""A gap under this does no harm where the print asks for nothing finer [µm]."""
ORDER: Mapping[Level, int] = {"stop": 0, "caution": 1, "pass": 2}
REMEDY_OF = {
    "magnet hold": "back it up",
    "tall part unsupported": "support it",
    "small contact": "a corner of two",
    "long side along the travel, dry": "turn to 20°",
    "lead-in block too high": "lower the block",
    "lead-in block": "lower the block",
    "block too high": "just under the face",
    "parallel flush with the edge": "over the edge",
    "stroke too short to clear": "lengthen the strokes",
    "clamp overhang": "shorten the overhang",
    "vise the wrong way round": "turn the vise",
    "starts on the low side": "start from the high side",
    "thin bowed part on full magnet": "shim the hollow",
    "no coolant": "aim the nozzle",
}
"""The remedy that can be worked out for a rule of setting up."""


@dataclass(frozen=True)
class Checked:
    """A layout with what was found of it, stops first; and how each piece is held."""

    built: Built
    holds: Mapping[str, PieceHold | None]
    pinned: tuple[Pinned, ...]

    @property
    def level(self) -> Level:
        """The worst level."""
        return self.pinned[0].level if self.pinned else "pass"

    @cached_property
    def stops(self) -> tuple[Pinned, ...]:
        """What cannot be passed."""
        return tuple(finding for finding in self.pinned if finding.level == "stop")

    @cached_property
    def cautions(self) -> tuple[Pinned, ...]:
        """What a lead may waive."""
        return tuple(finding for finding in self.pinned if finding.level == "caution")

    @property
    def safety(self) -> float | None:
        """The least safety of any piece; ``None`` while it is not known."""
        known = [each.safety for each in self.holds.values() if each is not None]
        return min(known, default=None)

    def about(self, key: str) -> Level:
        """The worst that was found of one thing."""
        found = [finding.level for finding in self.pinned if key in finding.keys or finding.finding.about == key]
        return min(found, key=lambda each: ORDER[each], default="pass")


def check(layout: Layout, facts: SetUpFacts) -> Checked:
    """Check a layout against every rule."""
    built = build(layout, facts)
    sides = blocked_sides(built)
    holds = {piece.key: hold_of(built, piece, sides) for piece in built.pieces}
    found = [each for rule in (*LAYOUT_RULES, *BLOCK_RULES, *CORNER_RULES) for each in rule(built)]
    for piece in _to_look_at(built, holds):
        found += _set_up_rules(built, piece, holds[piece.key])
    unique = {(each.finding.check, each.finding.about, each.keys): each for each in found}
    return Checked(built, holds, tuple(sorted(unique.values(), key=lambda each: ORDER[each.level])))


def _to_look_at(built: Built, holds: Mapping[str, PieceHold | None]) -> list[Solid]:
    """The piece that is held worst: what is true of the others too is said once."""
    worst = {piece.key: hold.safety if (hold := holds[piece.key]) is not None else 0.0 for piece in built.pieces}
    return sorted(built.pieces, key=lambda each: worst[each.key])[:1]


def _set_up_rules(built: Built, piece: Solid, hold: PieceHold | None) -> list[Pinned]:
    """The rules of setting up, on the layout as data."""
    found = []
    for finding in setup_check(setup=as_data(built, piece, hold)).findings:
        keys: tuple[str, ...] = (piece.key,) if finding.about == "part" else ()
        if finding.about in {solid.key for solid in built.things}:
            keys = (finding.about,)
        if finding.about == "fixture" or finding.check == "vise the wrong way round":
            seat = built.fixture_of(piece)
            keys = (seat.key,) if seat else keys
        fix = REMEDY_OF.get(finding.check, "") if finding.level != "pass" else ""
        if finding.check == "no coolant" and built.facts.coolant == "dry":
            fix = ""
        found.append(Pinned(finding, keys, fix))
    return found


def as_data(built: Built, piece: Solid, hold: PieceHold | None) -> SetUpData:
    """Return a layout as the set-up's data, for one of its pieces."""
    facts, layout, cut = built.facts, built.layout, built.facts.cut
    fixture = built.fixture_of(piece)
    vise = isinstance(fixture.thing, Fixture) and fixture.thing.form == "vise" if fixture else False
    return SetUpData(
        part=_part(built, piece, hold, fixture),
        wheel=_wheel(facts),
        feeds=FeedData(
            downfeed_mm=cut.downfeed_mm if cut else 0.001,
            crossfeed_mm=cut.crossfeed_mm if cut else 0.1,
            table_mm_s=cut.table_mm_s if cut else float(facts.machine.table_max_mm_s),
            end_clearance_mm=min(layout.left_mm, layout.right_mm),
            towards_solid_jaw=_towards_solid_jaw(layout, fixture) if vise and fixture else None,
            planned_downfeed_mm=cut.downfeed_mm if cut else 1.0,
            planned_table_mm_s=cut.table_mm_s if cut else None,
        ),
        coolant=facts.coolant,  # type: ignore[arg-type]
        nozzle_on=layout.nozzle != "off",
        final_height_mm=max(piece.final, 0.001),
        slide_safety=None if hold is None else hold.slide if fixture is None else hold.safety,
        tip_safety=None if hold is None else hold.tip,
        pull_calibrated=facts.chuck.pull_tested,
        pull_n_mm2=0.0 if hold is None else hold.pull_n / (facts.part.along_mm * facts.part.across_mm),
        blocks=_blocks(built, piece),
        clamps=_clamps(built),
        fence=_fence(facts) if facing_fence(built, piece) else None,
        blocked=fixture is not None or (hold is not None and "push" in hold.blocked),
        supported=fixture is not None or piece.key in supported(built),
        vise=vise,
    )


def _part(built: Built, piece: Solid, hold: PieceHold | None, fixture: Solid | None) -> PartData:
    facts, part = built.facts, built.facts.part
    along, across = part.along_mm, part.across_mm
    if abs(piece.turn_deg) % 180 >= TURNED_DEG and abs(piece.turn_deg) % 180 <= 180 - TURNED_DEG:
        along = across = min(along, across)
    height = part.final_mm if fixture is None else min(part.final_mm, along, across)
    gap = lies_bowed(built, piece) if fixture is None else 0.0
    harmless = (SMALL_BOW_UM if facts.allowed_um is None else facts.allowed_um / 2) / UM_A_MM
    return PartData(
        length_mm=along,
        width_mm=across,
        height_mm=height,
        magnetic=part.material_factor > 0 or fixture is not None,
        bow_mm=gap if gap > harmless else 0.0,
        burrs=facts.burrs,
        rocks=facts.rocks,
        reference_up=part.reference_up,
        starts_from_high=facts.high_side in ("", built.layout.start),
        contact_mm2=None if hold is None else max(hold.contact_share * along * across, 1e-3),
    )


def _wheel(facts: SetUpFacts) -> WheelData:
    """The wheel; its mark is judged as for mounting, so that what stops it there stops it here."""
    stopped = bool(speed_stops(facts.mounted, facts.machine.rpm))
    rpm = float(facts.machine.rpm)
    return WheelData(
        diameter_mm=float(facts.wheel.diameter_mm),
        width_mm=float(facts.wheel.width_mm),
        rpm=rpm,
        marked_max_rpm=rpm / 2 if stopped else float(facts.mounted.max_rpm or rpm * 2),
        dull=facts.dull,
        grit=facts.wheel.grit if facts.wheel.grit in grains() else None,
    )


def _towards_solid_jaw(layout: Layout, fixture: Solid) -> bool | None:
    """The solid jaw is at the back at no turn: whether the crossfeed goes to it; ``None`` when the jaws lie along."""
    turn = fixture.turn_deg % 360
    if 45 < turn < 135 or 225 < turn < 315:
        return None
    solid_behind = turn <= 45 or turn >= 315
    return (layout.start == "front") is solid_behind


def _blocks(built: Built, piece: Solid) -> list[BlockData]:
    strokes = built.strokes
    made = []
    for each in built.of_role("backing", "support", "lead_in", "under"):
        left, front, right, back = each.bounds
        if strokes is None or left >= strokes.right or right <= strokes.left or front >= strokes.back:
            continue
        if back <= strokes.front:
            continue
        if each.role == "under":
            if not isinstance(each.thing, Accessory) or each.thing.kind != "parallel":
                continue
        kind = "parallel" if each.role == "under" else each.role
        over = left < 0 or front < 0 or right > built.facts.length or back > built.facts.width
        made.append(
            BlockData(
                kind,  # type: ignore[arg-type]
                _physical(built, piece, each),  # type: ignore[arg-type]
                max(each.top, 0.001),
                right - left,
                over,
                each.key,
            )
        )
    return made


def _physical(built: Built, piece: Solid, block: Solid) -> str:
    """Left, right, front or back of the piece."""
    side = side_of(built, piece, block)
    pushed = built.facts.pushed_to
    away = "right" if pushed == "left" else "left"
    return {"push": pushed, "away": away, "behind": "back", "front": "front"}[side]


def _clamps(built: Built) -> list[ClampData]:
    made = []
    for each in built.of_role("clamp"):
        found = clamp_moments(built, each)
        if found is not None:
            overhang, block, levers = (max(value, 0.0) for value in found)
            made.append(ClampData(overhang, block, levers, each.key))
    return made


def _fence(facts: SetUpFacts) -> FenceData:
    out = facts.chuck.fence_out_um
    allowed = facts.allowed_um if facts.allowed_um else None
    return FenceData(None if out is None else float(out), allowed, facts.chuck.fence_ground)
