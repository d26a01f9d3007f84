"""A set-up suggested from what the shop owns: a few ways of holding, each laid out and checked, the best first."""

from dataclasses import dataclass, replace

from zesty_lark.core.process.holding import BLOCK_SAFETY
from zesty_lark.core.setup.at_corner import at_corner, clamp_on
from zesty_lark.core.setup.checks import Checked, check
from zesty_lark.core.setup.facts import SetUpFacts
from zesty_lark.core.setup.layout import Layout
from zesty_lark.core.setup.moves import shift
from zesty_lark.core.setup.placing import (
    LEAD_IN_HIGH_MM,
    LEAD_IN_LOW_MM,
    at_fixture,
    block_beside,
    in_rows,
    lead_ins,
    pins_under,
    shim_under,
)
from zesty_lark.core.setup.rules import place_range
from zesty_lark.core.squaring.corner import PROUD_MM
from zesty_lark.core.squaring.under import SHIM_FROM_MM
from zesty_lark.core.things.shop import Fixture

MOST = 4
REACH_IN_MM = 20.0
"""A part is put back so far from the middle: to reach in, and so that the ways do not wear in one place [mm]."""


@dataclass(frozen=True)
class Suggested:
    """A way of setting up: its name, why, the layout, and what was found of it."""

    name: str
    why: str
    layout: Layout
    checked: Checked
    planned: bool


def suggest(facts: SetUpFacts) -> list[Suggested]:
    """Return ways to set up, the best first: fewest stops, fewest cautions, as planned, the surest hold; the planned
    one is always among them."""
    made = []
    if facts.part.material_factor > 0 and facts.may_lie:
        bare = replace(facts, holder=None)
        made += [_on_magnet(bare, facts, blocks=False), _on_magnet(bare, facts, blocks=True)]
    made += [
        _in_fixture(replace(facts, holder=fixture.name), facts, fixture)
        for fixture in facts.fixtures
        if len(facts.pieces) == 1 and _takes(facts, fixture)
    ]
    best: dict[str, Suggested] = {}
    for each in sorted(made, key=_rank):
        best.setdefault(each.name, each)
    ways = list(best.values())
    return [*ways[:MOST], *(way for way in ways[MOST:] if way.planned)]


def _rank(each: Suggested) -> tuple[int, int, bool, int, float]:
    checked = each.checked
    return (
        len(checked.stops),
        len(checked.cautions),
        not each.planned,
        len(each.layout.things),
        -(checked.safety or 0.0),
    )


def _takes(facts: SetUpFacts, fixture: Fixture) -> bool:
    """Whether a part goes into or against a fixture."""
    length, width = fixture.base
    part = facts.part
    if fixture.is_beside:
        return part.along_mm <= 2 * length
    return part.along_mm <= length and part.across_mm <= width


def _on_magnet(facts: SetUpFacts, planned_for: SetUpFacts, *, blocks: bool) -> Suggested:
    """On the bare magnet: in rows, at the best place, turned as planned; blocked or supported as its height asks."""
    skew = facts.cut.skew_deg if facts.cut else 0.0
    layout = Layout(pieces=in_rows(facts, skew), start=facts.high_side or "front")  # type: ignore[arg-type]
    layout = _to_best_place(layout, facts)
    if facts.part.gap_mm >= SHIM_FROM_MM:
        shimmed = shim_under(layout, facts, *(piece.key for piece in layout.pieces))
        layout = layout if shimmed.magnet == "low" and not facts.set_low else shimmed
    tall = facts.part.final_mm > min(facts.part.along_mm, facts.part.across_mm)
    if blocks:
        for side in (facts.pushed_to, "back") if tall else (facts.pushed_to,):
            layout = block_beside(layout, facts, "support" if tall else "backing", side)
    if facts.coolant != "dry" and not blocks:
        layout = lead_ins(layout, facts)
    checked = check(layout, facts)
    safety = checked.safety
    held = "not known before it is planned" if safety is None else f"{safety:.1f} times what pushes it"
    why = f"On the magnet it holds {held}"
    if blocks:
        why += f"; {'supported' if tall else 'blocked'} on the {facts.pushed_to}, where the wheel pushes it"
    elif facts.coolant != "dry" and not any(thing.role == "lead_in" for thing in layout.things):
        final = min((each.final for each in checked.built.pieces), default=0.0)
        why += f"; no lead-in block ends {final - LEAD_IN_HIGH_MM:.1f} to {final - LEAD_IN_LOW_MM:.1f} mm high"
    why += _place_words(checked)
    planned = planned_for.holder is None and (not facts.cut or facts.cut.blocks == blocks)
    return Suggested("magnet, with blocks" if blocks else "magnet", why + ".", layout, checked, planned)


def _place_words(checked: Checked) -> str:
    found = place_range(checked.built)
    front = min((piece.bounds[1] for piece in checked.built.pieces), default=0.0)
    room = f"; {front:.0f} mm before it to reach in"
    return room if found is None else f"{room}; the chuck’s map ranges over {found[0]:.2f} µm under it"


def _to_best_place(layout: Layout, facts: SetUpFacts) -> Layout:
    """To where the chuck is truest under the work, if the table reaches there and nothing gets in the wheel's way; on a
    chuck that nobody mapped to the back, where there is room to reach in before it."""
    before = check(layout, facts)
    found = place_range(before.built)
    if found is None and before.built.pieces:
        spare = min(each.bounds[1] for each in before.built.pieces)
        back = shift(layout, [each.key for each in layout.pieces], 0.0, min(spare / 2, REACH_IN_MM))
        return back if _troubles(check(back, facts)) <= _troubles(before) else layout
    if found is None or found[0] - found[1] < 0.1 or not before.built.pieces:
        return layout
    xs = [piece.middle for piece in before.built.pieces]
    x, y = sum(each[0] for each in xs) / len(xs), sum(each[1] for each in xs) / len(xs)
    moved = shift(layout, [each.key for each in layout.pieces], found[2][0] - x, found[2][1] - y)
    return moved if _troubles(check(moved, facts)) <= _troubles(before) else layout


def _troubles(checked: Checked) -> int:
    """How many stops there are, and pieces that hang over the chuck's edge."""
    return len(checked.stops) + sum(each.finding.check == "off the chuck" for each in checked.cautions)


def _in_fixture(facts: SetUpFacts, planned_for: SetUpFacts, fixture: Fixture) -> Suggested:
    """In a fixture in the chuck's middle; before an angle plate or square block at its back, on pins, face proud."""
    layout = Layout(start=facts.high_side or "front")  # type: ignore[arg-type]
    corner = at_corner(fixture, facts)
    y = facts.width - fixture.base[1] / 2 if fixture.is_beside else facts.width / 2
    lies = "flat" if corner is None or not facts.at_end else "end"
    layout = layout.with_thing(fixture.name, "fixture", facts.length / 2, y, lies=lies)
    layout = at_fixture(replace(layout, pieces=in_rows(facts)), facts, layout.things[0].key)
    if corner is not None:
        layout = clamp_on(layout, facts, f"p{facts.pieces[0]}")
    elif fixture.is_beside:
        layout = pins_under(layout, facts, f"p{facts.pieces[0]}", float(fixture.height_mm) + PROUD_MM)
    layout = _towards_the_jaw(layout, facts, fixture)
    checked = check(layout, facts)
    safety = checked.safety
    held = "" if safety is None else f"; it holds {safety:.1f} times what pushes it"
    if safety is not None and safety < BLOCK_SAFETY:
        held += ", the clamps counted"
    why = f"{fixture.name} is out of square {float(fixture.square_mm) * 1000:.1f} µm over {float(fixture.over_mm):g} mm"
    return Suggested(fixture.name, why + held + ".", layout, checked, planned_for.holder == fixture.name)


def _towards_the_jaw(layout: Layout, facts: SetUpFacts, fixture: Fixture) -> Layout:
    """A vise is turned so that the crossfeed goes to its solid jaw."""
    if fixture.form == "vise" and layout.start == "back":
        return layout.changed(layout.things[0].key, lambda each: replace(each, turn_deg=180.0))
    return layout
