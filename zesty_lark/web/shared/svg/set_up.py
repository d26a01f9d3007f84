"""One set-up from above and from the front, to scale, one unit of the drawing a millimetre.

The front edge is at the bottom, as the operator stands; the view from the front stands over the same length.
"""

import math
from collections.abc import Iterator

from markupsafe import Markup

from zesty_lark.core.setup.checks import Checked
from zesty_lark.core.setup.facts import POLE_MM
from zesty_lark.core.setup.rules import place_range
from zesty_lark.core.setup.solids import Solid
from zesty_lark.web.shared.svg.element import drawing, group, line, polygon, rect, tag, text

SIDE, BELOW, BASE, OVER = 34.0, 24.0, 14.0, 30.0
LETTERS = 54.0
"""Letters are this share of the drawing’s length."""
NAMES = 4.4
"""A piece narrower than so many letters are high has no room for its faces’ numbers beside its own."""
ROLE_WORDS = {
    "backing": "backing",
    "support": "support",
    "lead_in": "lead-in",
    "under": "under",
    "clamp": "clamp",
    "shim": "foil",
    "fixture": "",
}
ROLE_CLASSES = {
    "piece": "setup-piece",
    "fixture": "setup-fixture",
    "backing": "setup-backing",
    "support": "setup-support",
    "lead_in": "setup-lead-in",
    "under": "setup-under",
    "clamp": "setup-clamp",
    "shim": "setup-shim",
}
Frame = tuple[float, float]
"""The chuck's length and width [mm]."""


def _frame(checked: Checked) -> Frame:
    return checked.built.facts.length, checked.built.facts.width


def setup_plan(checked: Checked, chosen: str = "", *, moves: bool = True) -> Markup:
    """Draw a set-up from above; with ``moves`` each thing can be chosen and moved."""
    length, width = _frame(checked)
    body = [*_chuck(checked), *_wheel_way(checked)]
    order = {"fixture": 0, "under": 5, "shim": 5, "lead_in": 2, "backing": 2, "support": 2, "clamp": 4}
    solids = sorted(checked.built.solids, key=lambda each: order.get(each.role, 3))
    body += [_from_above(checked, each, chosen, moves=moves) for each in solids]
    body += [*_wheel_above(checked), *_best_place(checked)]
    shifted = group(*body, transform=f"translate({SIDE} {BELOW})", font_size=_letters(length))
    return drawing(length + 2 * SIDE, width + 2 * BELOW, _title(checked), shifted, class_="setup-plan", role="group")


def _letters(length: float) -> float:
    """How high letters are, so that they are read at arm’s length however long the chuck is [mm]."""
    return round((length + 2 * SIDE) / LETTERS, 2)


def _title(checked: Checked) -> str:
    count = len(checked.built.pieces)
    return (
        f"{count} piece{'' if count == 1 else 's'} on {checked.built.facts.chuck.name} from above, front at the bottom"
    )


def _chuck(checked: Checked) -> Iterator[Markup]:
    length, width = _frame(checked)
    yield rect(0, 0, length, width, class_="setup-chuck")
    for at in range(1, int(length / POLE_MM)):
        yield line(at * POLE_MM, 0, at * POLE_MM, width, class_="setup-pole")
    if checked.built.facts.chuck.fence_mm is not None:
        yield rect(0, -6, length, 6, class_="setup-fence")
        yield text(length - 3, 13, "fence", "setup-words", anchor="end")
    yield text(0, width + 14, f"{checked.built.facts.chuck.name} {length:g} × {width:g}", "setup-words")
    yield text(length, width + 14, "front", "setup-words", anchor="end")
    for piece in checked.built.pieces[:1]:
        left, front, _, _ = piece.bounds
        said = f"{piece.name}: {left:.0f} from the left, {front:.0f} from the front"
        yield text(length - 5 * _letters(length), width + 14, said, "setup-words", anchor="end")


def _wheel_way(checked: Checked) -> Iterator[Markup]:
    """Where the wheel goes, and how far it clears the work."""
    strokes, layout = checked.built.strokes, checked.built.layout
    _, width = _frame(checked)
    if strokes is None:
        return
    yield rect(
        strokes.left, width - strokes.back, strokes.right - strokes.left, strokes.back - strokes.front,
        class_="setup-way",
    )  # fmt: skip
    y = width - strokes.back - 3
    yield text(strokes.left, y, f"{layout.left_mm:g} clear", "setup-words", anchor="start")
    yield text(strokes.right, y, f"{layout.right_mm:g} clear", "setup-words", anchor="end")


def _points(checked: Checked, solid: Solid) -> list[tuple[float, float]]:
    _, width = _frame(checked)
    return [(round(x, 3), round(width - y, 3)) for x, y in list(solid.shape.exterior.coords)[:-1]]


def _from_above(checked: Checked, solid: Solid, chosen: str, *, moves: bool) -> Markup:
    """One thing; beside it, so that it is read once, its words and the sign of what was found of it."""
    level = checked.about(solid.key)
    classes = f"{ROLE_CLASSES[solid.role]} setup-thing" + (" setup-chosen" if solid.key == chosen else "")
    more: dict[str, object] = {"class_": classes}
    if moves:
        words = ROLE_WORDS.get(solid.role, "")
        more |= {
            "data_thing": solid.key, "tabindex": 0, "role": "button",
            "aria_label": f"{solid.name}{f', {words}' if words else ''}: {level}",
            "aria_pressed": "true" if solid.key == chosen else "false",
        }  # fmt: skip
    said = list(_words(checked, solid))
    if level != "pass":
        said.append(_sign(checked, solid, level))
    outline = group(polygon(_points(checked, solid), "setup-outline"), **more)
    return Markup("").join([outline, group(*said, class_="setup-said", aria_hidden="true")])


def _words(checked: Checked, solid: Solid) -> Iterator[Markup]:
    _, width = _frame(checked)
    x, y = solid.middle
    if solid.role != "piece":
        if solid.role == "fixture":
            left, _, _, back = solid.bounds
            yield text(left + 3, width - back + 9, solid.name, "setup-words")
            if getattr(solid.thing, "form", "") == "vise":
                yield _solid_jaw(checked, solid)
        return
    yield text(x, width - y + 5, solid.key[1:], "setup-number", anchor="middle")
    yield from _mark(checked, solid)


def _local(checked: Checked, solid: Solid) -> list[tuple[float, float]]:
    """The corners of a piece on the drawing: front left, front right, back right, back left at no turn."""
    coords = list(solid.shape.exterior.coords)[:-1]
    _, width = _frame(checked)
    # the outline goes front right, back right, back left, front left
    front_right, back_right, back_left, front_left = coords[:4]
    return [(x, width - y) for x, y in (front_left, front_right, back_right, back_left)]


def _mark(checked: Checked, solid: Solid) -> Iterator[Markup]:
    """The mark’s corner, filled when it is up, hollow when it lies down; and the faces at the sides."""
    part, corners = checked.built.facts.part, _local(checked, solid)
    sides = part.sides
    if sides.marked:
        back = sides.back in sides.marked
        right = sides.right in sides.marked
        index = {(False, False): 0, (False, True): 1, (True, True): 2, (True, False): 3}[back, right]
        cx, cy = corners[index]
        ends = [corners[index - 1], corners[(index + 1) % 4]]
        arms = [(cx + (x - cx) * _arm(cx - x, cy - y), cy + (y - cy) * _arm(cx - x, cy - y)) for x, y in ends]
        up = part.up in sides.marked
        yield polygon([(cx, cy), *arms], "setup-mark" if up else "setup-mark-down")
    names, room = (sides.front, sides.right, sides.back, sides.left), NAMES * _letters(_frame(checked)[0])
    middle = (sum(x for x, _ in corners) / 4, sum(y for _, y in corners) / 4)
    for number, name in enumerate(names):
        if (part.across_mm < room and name in (sides.front, sides.back)) or part.along_mm < room:
            continue
        (x1, y1), (x2, y2) = corners[number], corners[(number + 1) % 4]
        x, y = (x1 + x2) / 2, (y1 + y2) / 2
        away = max(((middle[0] - x) ** 2 + (middle[1] - y) ** 2) ** 0.5, 1e-6)
        x, y = x + (middle[0] - x) / away * 6, y + (middle[1] - y) / away * 6
        yield text(x, y + 3, str(name), "setup-face-name", anchor="middle")


def _arm(x: float, y: float) -> float:
    """The share of an edge that the mark takes: 7 mm of it."""
    return min(7.0 / max(math.hypot(x, y), 1e-6), 0.5)


def _solid_jaw(checked: Checked, solid: Solid) -> Markup:
    """A vise’s solid jaw: the thick line on the side it stands on."""
    corners = _local(checked, solid)
    (x1, y1), (x2, y2) = corners[2], corners[3]
    return line(x1, y1, x2, y2, class_="setup-jaw")


def _sign(checked: Checked, solid: Solid, level: str) -> Markup:
    """A bar for a stop, a wedge for a caution."""
    _, width = _frame(checked)
    _, _, right, back = solid.bounds
    x, y = right, width - back
    if level == "stop":
        return group(tag("circle", cx=x, cy=y, r=7, class_="setup-sign-stop"),
                     rect(x - 4.5, y - 1.5, 9, 3, class_="setup-sign-bar"))  # fmt: skip
    return polygon([(x, y - 8), (x + 8, y + 6), (x - 8, y + 6)], "setup-sign-think")


def _wheel_above(checked: Checked) -> Iterator[Markup]:
    """The wheel where the first pass begins, which way the crossfeed goes, and the coolant."""
    strokes, facts, layout = checked.built.strokes, checked.built.facts, checked.built.layout
    _, width = _frame(checked)
    if strokes is None:
        return
    y = strokes.front if layout.start == "front" else strokes.back - facts.wheel_width
    top = width - y - facts.wheel_width
    x = strokes.left
    yield rect(x - facts.radius, top, 2 * facts.radius, facts.wheel_width, class_="setup-wheel")
    down = -1 if layout.start == "front" else 1
    tip = top + facts.wheel_width / 2 + down * 26
    yield line(x, top + facts.wheel_width / 2 + down * 8, x, tip, class_="setup-feed")
    yield polygon([(x, tip + down * 6), (x - 4, tip), (x + 4, tip)], "setup-feed-tip")
    if layout.nozzle == "off" or facts.coolant == "dry":
        return
    entry = 1 if facts.pushed_to == "left" else -1
    side = entry if layout.nozzle == "entry" else -entry
    nozzle = x + side * (facts.radius * 0.35)
    yield rect(nozzle - 5, top - 4, 10, facts.wheel_width + 8, class_="setup-nozzle")
    if layout.second_nozzle:
        yield tag("circle", cx=strokes.right, cy=width - strokes.back, r=5, class_="setup-nozzle")


def _best_place(checked: Checked) -> Iterator[Markup]:
    found = place_range(checked.built)
    _, width = _frame(checked)
    if found is None:
        return
    here, best, (x, y) = found
    yield line(x - 5, width - y, x + 5, width - y, class_="setup-best")
    yield line(x, width - y - 5, x, width - y + 5, class_="setup-best")
    yield text(0, -10, f"map under it {here:.2f} µm; least {best:.2f} at +", "setup-words")


def setup_front(checked: Checked, chosen: str = "") -> Markup:
    """Draw a set-up from the front over the same length: heights, the wheel and which way it turns."""
    length, _ = _frame(checked)
    strokes, facts = checked.built.strokes, checked.built.facts
    top = max((each.top for each in checked.built.solids), default=20.0)
    low = strokes.low if strokes is not None else top
    high = max(top, low) + OVER + 16
    body = [rect(0, high, length, BASE, class_="setup-chuck")]
    for each in sorted(checked.built.solids, key=lambda solid: -solid.bounds[1]):
        left, _, right, _ = each.bounds
        shown = "setup-chosen" if each.key == chosen else ""
        body.append(
            group(
                rect(left, high - each.top, right - left, each.top - each.bottom, class_="setup-outline"),
                class_=f"{ROLE_CLASSES[each.role]} setup-thing {shown}",
            )
        )
    if strokes is not None:
        body += list(_from_front(checked, high))
    shifted = group(*body, transform=f"translate({SIDE} 0)", font_size=_letters(length))
    title = f"The same from the front; the face ends {low:.2f} mm over {facts.chuck.name}"
    return drawing(length + 2 * SIDE, high + BASE + 2, title, shifted, class_="setup-front")


def _from_front(checked: Checked, high: float) -> Iterator[Markup]:
    strokes, facts, layout = checked.built.strokes, checked.built.facts, checked.built.layout
    assert strokes is not None
    length, _ = _frame(checked)
    level = high - strokes.low
    yield line(-SIDE, level, length + SIDE, level, class_="setup-level")
    yield text(length + SIDE - 2, level - 3, f"final face {strokes.low:.2f}", "setup-words", anchor="end")
    for x, kind in ((strokes.left, "setup-wheel"), (strokes.right, "setup-wheel setup-wheel-there")):
        yield tag("circle", cx=x, cy=level - facts.radius, r=facts.radius, class_=kind)
    left = facts.pushed_to == "left"
    x, y, sign = strokes.left, level - 7, -1 if left else 1
    yield line(x - sign * 12, y, x + sign * 10, y, class_="setup-feed")
    yield polygon([(x + sign * 17, y), (x + sign * 10, y - 4), (x + sign * 10, y + 4)], "setup-feed-tip")
    yield text(x, y - 7, "wheel turns", "setup-words", anchor="middle")
    if layout.nozzle != "off" and facts.coolant != "dry":
        side = (1 if left else -1) * (1 if layout.nozzle == "entry" else -1)
        nx = strokes.left + side * facts.radius * 0.42
        yield line(nx + side * 14, level - 40, nx, level - 13, class_="setup-jet")
