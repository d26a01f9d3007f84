"""The block net: six faces unfolded as a cross, the mark's corner, each face's state, and which one is up."""

from collections.abc import Mapping
from decimal import Decimal

from markupsafe import Markup

from zesty_lark.core.part.faces import OPPOSITE, FaceState, corner_faces
from zesty_lark.core.part.shown_units import ShownUnits
from zesty_lark.core.part.surfaces.sides import NEIGHBOURS
from zesty_lark.core.work.job_state import JobState
from zesty_lark.store.models import Part
from zesty_lark.web.shared.svg.element import drawing, group, line, polygon, rect, tag, text
from zesty_lark.web.shared.svg.net_features import lines_on_net

STATE_CLASS = {
    FaceState.RAW: "raw",
    FaceState.STABLE: "stable",
    FaceState.CLEANED: "cleaned",
    FaceState.TO_SIZE: "to-size",
    FaceState.PROVEN: "proven",
    FaceState.AS_IT_IS: "as-it-is",
}

Box = tuple[float, float, float, float]


def _boxes(part: Part, width: float, least: float) -> tuple[dict[int, Box], float]:
    """Place the six faces to scale, none thinner than ``least``; return the boxes and the height of it all."""
    sizes = {axis: float(part.size(axis).target_mm) for axis in ("length", "width", "thickness")}
    scale = width / (2 * sizes["length"] + 2 * sizes["thickness"])
    for _ in range(4):
        long, across, thick = (max(sizes[axis] * scale, least) for axis in ("length", "width", "thickness"))
        scale *= width / (2 * long + 2 * thick)
    boxes: dict[int, Box] = {
        4: (0, thick, thick, across),
        1: (thick, thick, long, across),
        6: (thick + long, thick, thick, across),
        2: (2 * thick + long, thick, long, across),
        3: (thick, 0, long, thick),
        5: (thick, thick + across, long, thick),
    }
    return boxes, 2 * thick + across


def _mark(face: int, box: Box, corner: str, size: float) -> Markup | None:
    faces = corner_faces(corner)
    if face not in faces:
        return None
    x, y, width, height = box
    beyond = NEIGHBOURS[face]
    at_left = beyond["left"] in faces
    at_top = beyond["top"] in faces
    cx, cy = (x if at_left else x + width), (y if at_top else y + height)
    dx, dy = (size if at_left else -size), (size if at_top else -size)
    return polygon([(cx, cy), (cx + dx, cy), (cx, cy + dy)], "net-mark")


def _role(face: int, up: int | None) -> str:
    if up == face:
        return "up"
    return "down" if up is not None and OPPOSITE.get(up) == face else ""


def small_net(part: Part, states: Mapping[int, FaceState], up: int | None) -> Markup:
    """Return the net for the frame and the list: numbers, states, what is up."""
    boxes, height = _boxes(part, 150, 13)
    cells: list[Markup] = []
    for face, box in boxes.items():
        x, y, width, tall = box
        role = _role(face, up)
        state = STATE_CLASS[states[face]]
        cells.append(rect(x, y, width, tall, class_=f"net-face {state} {role}"))
        cells.append(text(x + width / 2, y + tall / 2 + 4, str(face), f"net-number-small {role}", anchor="middle"))
        mark = _mark(face, box, part.mark_corner, 5)
        if mark:
            cells.append(mark)
    cells += lines_on_net(part, boxes)
    down = None if up is None else OPPOSITE.get(up)
    words = (
        f"Face {up} is up, face {down} is down" if down else "Nothing is up yet" if up is None else "The block unfolded"
    )
    return drawing(152, height + 2, words, group(*cells, transform="translate(1 1)"), class_="net net-small")


def large_net(
    part: Part,
    job_state: JobState,
    left: Mapping[int, Decimal],
    units: ShownUnits,
    *,
    links: Mapping[int, str],
    width: float = 660,
) -> Markup:
    """Return the net as the job's map.

    Parameters
    ----------
    part, standing
        The part and where it stands.
    left : mapping of face to Decimal
        Stock on each face that is to be ground [mm].
    units : ShownUnits
        The units it speaks.
    links : mapping of face to str
        Where choosing a face goes.
    """
    boxes, height = _boxes(part, width, 66)
    cells = [
        _large_cell(face, box, part, job_state, left=left, units=units, links=links) for face, box in boxes.items()
    ]
    cells += lines_on_net(part, boxes)
    return drawing(
        width + 4,
        height + 4,
        "The six faces of the block, unfolded",
        group(*cells, transform="translate(2 2)"),
        class_="net net-large",
        role="group",
    )


def _large_cell(
    face: int,
    box: Box,
    part: Part,
    job_state: JobState,
    *,
    left: Mapping[int, Decimal],
    units: ShownUnits,
    links: Mapping[int, str],
) -> Markup:
    x, y, width, height = box
    role = _role(face, job_state.surface_up)
    state = job_state.state(face)
    middle = x + width / 2
    narrow = width < 130
    words = [state.value]
    reference = face in part.references and state is not FaceState.AS_IT_IS
    if reference:
        words.append("reference")
    if face in left and left[face] > 0:
        words.append(f"{units.small(left[face])} on" if narrow else f"{units.small(left[face])} to take")
    if role:
        words.append("▲ up" if role == "up" else "▼ down")
    start = y + height / 2 - (len(words) - 1) * 9 + (0 if height < 90 else 8)
    short = height < 90
    number_x, number_y = (x + 20, y + height / 2 + 8) if short else (middle, y + 30)
    body = [
        rect(x, y, width, height, class_=f"net-face {STATE_CLASS[state]} {role}"),
        text(number_x, number_y, str(face), "net-number", anchor="middle"),
    ]
    if short:
        body.append(text(x + 40, y + height / 2 + 5, " · ".join(words), "net-words"))
    else:
        body += [
            text(middle, start + 19 * row + 8, word, "net-words", anchor="middle") for row, word in enumerate(words)
        ]
    if reference:
        body.append(line(x, y + 3, x + width, y + 3, class_="net-reference"))
    mark = _mark(face, box, part.mark_corner, 16)
    if mark:
        body.append(mark)
    return tag("a", *body, href=links[face], class_="net-link")
