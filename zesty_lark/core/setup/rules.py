"""What a layout shows that the set-up as data does not: where things stand, and where the wheel goes."""

from collections.abc import Iterator
from itertools import combinations

from zesty_lark.core.measure.maps.footprint import footprint, range_under
from zesty_lark.core.setup.found import Pinned, Rule, said
from zesty_lark.core.setup.rulebook.data import Level
from zesty_lark.core.setup.solids import TOUCH_MM, Built, Solid, near
from zesty_lark.core.things.shop import Fixture

OVERLAP_MM2 = 1.0
OVER_THE_EDGE_SHARE = 0.02
BETTER_UM = 0.5
"""A place this much better is worth moving for, and half of what is allowed too [µm]."""


def _owned(built: Built) -> Iterator[Pinned]:
    for key in built.missing:
        name = next(each.name for each in built.layout.things if each.key == key)
        yield said(
            "not in the shop",
            key,
            "stop",
            f"{name} is no longer in the shop.",
            "take it off, or use another",
            key,
            fix="take it off",
        )
    for name in {thing.name for thing in built.things}:
        stood = [each for each in built.things if each.name == name]
        there = getattr(stood[0].thing, "count", 1)
        if len(stood) > there:
            yield said(
                "more than there are", "blocks", "stop", f"{len(stood)} of {name} are laid out, the shop has {there}.",
                "use others", *[each.key for each in stood[there:]], fix="take it off", number=float(there),
            )  # fmt: skip


def _all_up(built: Built) -> Iterator[Pinned]:
    up = {int(piece.key[1:]) for piece in built.pieces}
    lacking = [number for number in built.facts.pieces if number not in up]
    if lacking:
        words = ", ".join(str(number) for number in lacking)
        yield said(
            "piece not on the chuck", "part", "stop", f"Of this load piece {words} is not on the chuck.",
            "place it, or plan the load without it", fix="place the load",
        )  # fmt: skip


def _holder(built: Built) -> Iterator[Pinned]:
    """The route's fixture is there and the pieces are in it; on the bare magnet none is."""
    wanted = built.facts.holder
    stood = [each for each in built.of_role("fixture")]
    if wanted is not None and all(each.name != wanted for each in stood):
        yield said(
            "holder not on the chuck", "fixture", "stop", f"The plan holds it in {wanted}, which is not on the chuck.",
            "place it, or choose another in the plan", fix="suggest",
        )  # fmt: skip
    for piece in built.pieces:
        if stood and piece.key not in built.seats:
            yield said(
                "not in its fixture", piece.key, "stop", f"{piece.name.capitalize()} stands clear of {stood[0].name}.",
                "move it to the fixture", piece.key, stood[0].key, fix="to the fixture",
            )  # fmt: skip


def _on_the_chuck(built: Built) -> Iterator[Pinned]:
    for each in built.solids:
        if each.bottom > 0 and each.role in ("piece", "clamp"):
            continue
        if each.role == "piece" and built.fixture_of(each) is not None:
            continue
        over = 1 - float(each.shape.intersection(built.plate).area) / float(each.shape.area)
        if over > (0.6 if each.role in ("under", "backing", "support", "lead_in") else OVER_THE_EDGE_SHARE):
            level: Level = "stop" if over > 0.6 else "caution"
            yield said(
                "off the chuck", each.key, level, f"{over:.0%} of {each.name} hangs over the chuck’s edge.",
                "move it onto the chuck", each.key, fix="onto the chuck", number=over,
            )  # fmt: skip


def _apart(built: Built) -> Iterator[Pinned]:
    """Two things do not stand in one place."""
    for one, other in combinations(built.solids, 2):
        if not near(one, other, 0.0) or _belong(built, one, other):
            continue
        in_height = min(one.top, other.top) > max(one.bottom, other.bottom)
        if in_height and float(one.shape.intersection(other.shape).area) > OVERLAP_MM2:
            yield said(
                "two things in one place", other.key, "stop", f"{one.name} and {other.name} stand in one place.",
                "move one of them", other.key, one.key, fix="move apart",
            )  # fmt: skip


def _belong(built: Built, one: Solid, other: Solid) -> bool:
    """What lies under something, is in its fixture or is clamped on may share its place."""
    roles = {one.role, other.role}
    if roles & {"clamp", "under", "shim"}:
        return True
    pair = {one.key, other.key}
    return any({piece, seat} == pair and not _beside(built, seat) for piece, seat in built.seats.items())


def _beside(built: Built, key: str) -> bool:
    thing = next(each.thing for each in built.things if each.key == key)
    return isinstance(thing, Fixture) and thing.is_beside


def _wheel_clears(built: Built) -> Iterator[Pinned]:
    """The wheel strikes nothing on its way: what stands under it or near an end of the strokes."""
    strokes = built.strokes
    if strokes is None:
        return
    for thing in built.things:
        if thing.role in ("backing", "support", "lead_in", "under"):
            left, front, right, back = thing.bounds
            inside = left < strokes.right and right > strokes.left and front < strokes.back and back > strokes.front
            if inside:
                continue  # the block rules speak of it
        allowed = strokes.top_allowed(thing, built.facts.radius)
        if allowed is None or thing.top < allowed:
            continue
        proud = thing.role == "fixture"
        yield said(
            "face not proud of the fixture" if proud else "in the wheel’s way", thing.key, "stop",
            f"{thing.name} stands {thing.top:.1f} mm high where the wheel comes down to {allowed:.1f} mm.",
            "raise the part until its face is proud" if proud else "move it out of the wheel’s way",
            thing.key, fix="raise the part" if proud else "out of the way", number=thing.top - allowed,
        )  # fmt: skip
    fence = built.facts.chuck.fence_mm
    if fence is not None and strokes.back > built.facts.width and float(fence) >= strokes.low:
        yield said(
            "wheel runs into the fence", "fence", "stop",
            f"The fence stands {float(fence):g} mm high and the wheel leaves the work over it at {strokes.low:.1f} mm.",
            "move the work forward, off the fence", *[piece.key for piece in built.pieces], fix="off the fence",
            number=strokes.back - built.facts.width,
        )  # fmt: skip


def _reach(built: Built) -> Iterator[Pinned]:
    """Whether table and saddle reach where the work stands; the chuck is in the middle of the table."""
    strokes, machine = built.strokes, built.facts.machine
    if strokes is None:
        return
    for what, begin, end, middle, travel in (
        ("table", strokes.left, strokes.right, built.facts.length / 2, float(machine.travel_long_mm)),
        ("saddle", strokes.front + built.facts.wheel_width / 2, strokes.back - built.facts.wheel_width / 2,
         built.facts.width / 2, float(machine.travel_cross_mm)),
    ):  # fmt: skip
        short = max(middle - travel / 2 - begin, end - middle - travel / 2, 0.0)
        if end - begin > travel:
            yield said(
                f"{what} travel too short", "machine", "stop",
                f"To leave the work on both sides takes {end - begin:.0f} mm; the {what} travels {travel:g} mm.",
                "turn the part, a shorter overrun, fewer pieces, or another machine", number=end - begin,
            )  # fmt: skip
        elif short > TOUCH_MM:
            yield said(
                f"out of the {what}’s reach", "machine", "stop",
                f"Here the {what} would have to go {short:.0f} mm past its travel of {travel:g} mm.",
                "move the work to the middle", *[piece.key for piece in built.pieces], fix="into reach", number=short,
            )  # fmt: skip


def _room(built: Built) -> Iterator[Pinned]:
    room = float(built.facts.machine.height_mm)
    for piece in built.pieces:
        if piece.top >= room:
            yield said(
                "no room under the wheel", piece.key, "stop",
                f"It stands {piece.top:.0f} mm high and there is {room:g} mm under the wheel.",
                "a lower fixture or another machine", piece.key, number=piece.top,
            )  # fmt: skip


def place_range(built: Built) -> tuple[float, float, tuple[float, float]] | None:
    """Return the range of the chuck's map under what stands on it here, the least there is anywhere [µm], and where
    the middle would be then [mm]; ``None`` without a map."""
    facts = built.facts
    if not facts.chuck_map or not built.pieces:
        return None
    stood = [built.fixture_of(piece) or piece for piece in built.pieces]
    here, best, at = 0.0, 0.0, built.pieces[0].middle
    for each in {one.key: one for one in stood}.values():
        left, front, right, back = each.bounds
        found = range_under(facts.chuck_map, (left, right), (front, back))
        if found is None:
            continue
        if found >= here:
            made = footprint(facts.chuck_map, right - left, back - front)
            here, best, at = found, made.best_um, made.best_at_mm
    return here, best, at


def _place(built: Built) -> Iterator[Pinned]:
    allowed, found = built.facts.allowed_um, place_range(built)
    if allowed is None or found is None:
        return
    here, best, at = found
    level: Level = "caution" if here > allowed / 2 and here - best > BETTER_UM else "pass"
    where = f"its middle at {at[0]:.0f} along and {at[1]:.0f} mm from the front"
    yield said(
        "place on the chuck", "part", level,
        f"The chuck’s map ranges over {here:.2f} µm under it; {allowed:g} µm is allowed"
        + (f", and {best:.2f} µm is to be had with {where}." if level == "caution" else "."),
        f"move it to {where}, or grind the chuck" if level == "caution" else "",
        *[piece.key for piece in built.pieces], fix="to the best place" if level == "caution" else "", number=here,
    )  # fmt: skip


def _nozzle(built: Built) -> Iterator[Pinned]:
    facts, nozzle = built.facts, built.layout.nozzle
    if facts.coolant == "dry" or nozzle == "entry":
        return
    wrong = "is off" if nozzle == "off" else "points at where the wheel leaves the cut"
    yield said(
        "nozzle", "coolant", "caution", f"The coolant’s nozzle {wrong}: the contact runs dry.",
        "aim it at the wheel’s face just before the contact", fix="aim the nozzle",
    )  # fmt: skip


def _as_planned(built: Built) -> Iterator[Pinned]:
    """What the plan counts on stands so."""
    cut = built.facts.cut
    if cut is None:
        yield said(
            "no plan yet", "machine", "caution", "Nobody has planned this face: what pushes the part is not known.",
            "plan it, then check again",
        )  # fmt: skip
        return
    for piece in built.pieces:
        if abs(abs(piece.turn_deg) % 180 - abs(cut.skew_deg) % 180) > 1.0 and built.fixture_of(piece) is None:
            yield said(
                "turned otherwise than planned", piece.key, "caution",
                f"It lies turned {piece.turn_deg:g}° and the plan was made for {cut.skew_deg:g}°.",
                "take the turn into the plan, or turn it back", piece.key, fix="turn as planned",
                number=piece.turn_deg,
            )  # fmt: skip


LAYOUT_RULES: tuple[Rule, ...] = (
    _owned, _all_up, _holder, _on_the_chuck, _apart, _wheel_clears, _reach, _room, _place, _nozzle, _as_planned,
)  # fmt: skip
