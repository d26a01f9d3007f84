"""A map that is taken: the plate drawing, the feather line, what was seen beside it, what it proves, what changed."""

import math
from collections.abc import Sequence
from decimal import Decimal, InvalidOperation

from flask import flash, redirect, render_template, request
from flask.typing import ResponseReturnValue

from zesty_lark.core.measure.maps.compare import compare
from zesty_lark.core.measure.maps.patches import coplanarity
from zesty_lark.core.measure.maps.pattern import Pattern, compare_pattern
from zesty_lark.core.measure.maps.surface_map import FRAMES, SurfaceMap
from zesty_lark.core.measure.maps.view import Ground, ground_at, plate_of
from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.shopfloor import mapping
from zesty_lark.shopfloor.acts import maps as acts
from zesty_lark.shopfloor.acts import measuring
from zesty_lark.store import maps, shoplog
from zesty_lark.store.models import SurfaceMapRow
from zesty_lark.store.models.maps import TAKING
from zesty_lark.store.models.shop import IN_USE
from zesty_lark.web.maps.context import About, about, both, the_map
from zesty_lark.web.maps.forms import SeenForm
from zesty_lark.web.shared import database, guard
from zesty_lark.web.shared.acting import acting
from zesty_lark.web.shared.forms import DecisionForm
from zesty_lark.web.shared.guard import access
from zesty_lark.web.shared.svg.surface import Shown, surface_plate
from zesty_lark.web.shared.wording import entry_id

MOST_SEEN = 150
"""Places that can be marked by hand; beyond, only every so-manieth is offered."""
MOST_TO_COMPARE = 12
CLEAN = 0.9999
MANY = 20_000
"""Above so many points the shares are only reckoned when they are asked for: laying them over takes a second."""


def back(of: About, row: SurfaceMapRow, words: str) -> ResponseReturnValue:
    """Go back to a map with a sentence."""
    flash(words)
    return redirect(of.url("show", key=row.key), 303)


def map_page(of: About, row: SurfaceMapRow, wrong: str = "") -> str:
    """The page of a map that is taken."""
    if len(row.whole.points) < 3:
        return render_template("maps/given_up.html", about=of, row=row)
    whole = row.whole
    job_state = of.job_state
    steps = mapping.depths_of(row, job_state)
    depth = _depth(steps, whole)
    later = len(whole.points) > MANY and depth == 0 and not request.args.get("shares")
    ground, by_pass = (Ground(0.0, (), 0.0, 0.0), []) if later else _ground(whole, depth, steps)
    pattern = _pattern(row, whole)
    found = whole.analysis
    if request.headers.get("HX-Request"):
        return render_template("maps/_drawn.html", **_drawing(of, row, ground, pattern))
    return render_template(
        "maps/map.html",
        **_drawing(of, row, ground, pattern),
        held_by=", ".join(str(number + 1) for number in found.held_by),
        drift=whole.drift,
        patches=coplanarity(whole) if whole.patches else None,
        by_pass=by_pass,
        later=later,
        pattern=pattern,
        proves=mapping.proves(row, job_state) if job_state is not None else [],
        others=_others(of, row),
        seen_depth=row.seen_depth_um,
        markable=_markable(whole),
        fresh_id=entry_id(),
        seen=job_state.last_seq if job_state is not None else 0,
        in_use=row.state == IN_USE,
        wrong=wrong,
    )


def _drawing(of: About, row: SurfaceMapRow, ground: Ground, pattern: Pattern | None) -> dict[str, object]:
    """What the drawing and its feather line need."""
    found = row.whole.analysis
    shown = Shown(
        ground if ground.depth_um > 0 else None,
        row.seen_places if pattern is not None else {},
        () if pattern is None else (*pattern.extra, *pattern.missing),
        tuple(found.held_by),
        (found.slope_x_um_per_100, found.slope_y_um_per_100),
        of.size(row.surface),
        f"Map of {of.name}",
    )
    return {
        "about": of,
        "row": row,
        "found": found,
        "ground": ground,
        "depth": ground.depth_um,
        "drawing": surface_plate(plate_of(row.whole), shown),
        "frame_words": FRAMES[found.frame],
    }


def _depth(steps: Sequence[float], whole: SurfaceMap) -> float:
    """The depth that is asked for [µm]: as it is, or as the number of a pass."""
    asked = request.args.get("depth", type=float)
    number = request.args.get("after", type=int)
    if number is not None and 1 <= number <= len(steps):
        return float(steps[number - 1])
    usable = asked is not None and math.isfinite(asked)
    return min(max(asked or 0.0, 0.0), whole.analysis.range_um * 1.05) if usable else 0.0


def _ground(whole: SurfaceMap, depth: float, steps: Sequence[float]) -> tuple[Ground, list[Ground]]:
    """The ground at the depth asked for, and pass by pass as far as the whole is clean."""
    first, *rest = ground_at(whole, [depth, *steps])
    clean = next((number for number, each in enumerate(rest) if each.share > CLEAN), len(rest))
    return first, rest[: clean + 1]


def _pattern(row: SurfaceMapRow, whole: SurfaceMap) -> Pattern | None:
    if not row.seen or row.seen_depth_um is None:
        return None
    return compare_pattern(whole.level, float(row.seen_depth_um), row.seen_places)


def _markable(whole: SurfaceMap) -> list[tuple[int, float, float]]:
    step = -(-len(whole.points) // MOST_SEEN)
    return [(number, x, y) for number, (x, y, _) in enumerate(whole.points) if number % step == 0]


def _others(of: About, row: SurfaceMapRow) -> list[SurfaceMapRow]:
    """Maps of the same surface, taken before or after, that it can be compared with."""
    where = database.session()
    rows = maps.of_job(where, of.job) if of.job is not None else maps.of_chuck(where, of.chuck) if of.chuck else []
    same = [
        each
        for each in rows
        if each.id != row.id and each.state == IN_USE and (each.piece, each.surface) == (row.piece, row.surface)
    ]
    return same[:MOST_TO_COMPARE]


@both("/<key>/seen", methods=["POST"])
@access(job="inspect", takes=SeenForm)
def mark_seen(key: str, number: str = "", chuck: int = 0) -> ResponseReturnValue:
    """Keep what the wheel was seen to leave."""
    of = about(writes=True)
    row = the_map(of)
    try:
        depth = Decimal(request.form.get("depth", "")).quantize(Decimal("0.001"))
    except InvalidOperation:
        depth = Decimal(0)
    places = [] if row.state != IN_USE else _markable(row.whole)
    seen = {place: request.form.get(f"place{place}") == "1" for place, _, _ in places}
    try:
        acts.mark_map(database.session(), guard.person(), row, seen=seen, depth_um=depth, job=of.job)
    except acts.MapRefused as error:
        return back(of, row, str(error))
    return redirect(of.url("show", key=key, depth=depth), 303)


@both("/<key>/log", methods=["POST"])
@access(job="inspect", takes=DecisionForm)
def log(key: str, number: str = "", chuck: int = 0) -> ResponseReturnValue:
    """Log what a map in the plate's frame proves of the print."""
    of = about(writes=True)
    row = the_map(of)
    if of.job is None or row.state == TAKING:
        return back(of, row, "This map proves nothing of the print.")
    try:
        entry = measuring.measure_by_map(
            acting(), map_key=row.key, characteristic=request.form.get("characteristic", "")
        )
    except (LogError, shoplog.BehindError) as error:
        return back(of, row, str(error))
    return back(of, row, f"{entry.characteristic.capitalize()}: {entry.verdict}. It is in the log.")


@both("/<key>/against/<other>", methods=["GET"])
@access(job="look")
def against(key: str, other: str, number: str = "", chuck: int = 0) -> ResponseReturnValue:
    """What changed from another map to this one."""
    of = about()
    row = the_map(of)
    before = next((each for each in _others(of, row) if each.key == other), None)
    if before is None or row.state == TAKING:
        return back(of, row, "There is no such map of the same surface to compare with.")
    if before.taken_at > row.taken_at:
        row, before = before, row
    try:
        change = compare(before.whole.level, row.whole.level)
    except InputError as error:
        return back(of, row, str(error))
    as_map = SurfaceMap("machine", tuple((x, y, z) for x, y, z in change.points))
    shown = Shown(
        slopes=(change.slope_x_um_per_100, change.slope_y_um_per_100),
        size=of.size(row.surface),
        title=f"What changed on {of.name}",
        change=True,
    )
    drawing = surface_plate(plate_of(as_map, about_zero=True), shown)
    return render_template("maps/against.html", about=of, row=row, before=before, change=change, drawing=drawing)
