"""Quick answers on the page: two presses away, what was typed kept, and drawings measured as they stand."""

import math
import re

import pytest

from tests.web.conftest import Browser
from zesty_lark.core.calc import answer


def points(page: str, role: str, number: int = 0) -> list[tuple[float, float]]:
    """The points of an outline as they stand in the drawing, up counted up."""
    found = re.findall(rf'points="([^"]+)"[^>]*class="out-{role}(?: out-line)?"', page)
    return [(float(x), -float(y)) for x, y in (part.split(",") for part in found[number].split())]


def test_every_answer_is_two_presses_from_anywhere(bryn: Browser) -> None:
    for page in ("/", "/shop", "/jobs/TR-101/grind"):
        bryn.get(page)
        assert 'data-key="="' in bryn.page
    bryn.get("/answers")
    keys = re.findall(r'href="/answers/([a-z-]+)"[^>]*data-key="(\w)"', bryn.page)
    assert len(keys) == 9 and len({key for _, key in keys}) == 9
    for name, _ in keys:
        assert bryn.get(f"/answers/{name}").status_code == 200 and 'class="outlines"' in bryn.page, name


def test_the_drawn_plate_stands_at_its_angle(bryn: Browser) -> None:
    bryn.get("/answers/sine?angle=30&centres_mm=100&blocks=metric88")
    told = answer("sine.setting", {"centres_mm": 100, "angle_deg": "30", "set": "metric88"})
    assert f"{told['stack_mm']:.4f} mm" in bryn.page
    (x0, y0), (x1, y1), *_ = points(bryn.page, "tool")
    assert math.degrees(math.atan2(y1 - y0, x1 - x0)) == pytest.approx(30, abs=0.05)


def test_the_drawn_slot_has_its_walls_where_they_were_typed(bryn: Browser) -> None:
    bryn.get("/answers/slot?left_mm=20&right_mm=36&centre_mm=30&width_mm=20&depth_mm=10")
    wall = points(bryn.page, "part")
    scale = (wall[3][0] - wall[0][0]) / 36
    assert (wall[5][0] - wall[0][0]) / scale == pytest.approx(20, abs=0.01)
    assert (wall[3][1] - wall[4][1]) / scale == pytest.approx(10, abs=0.01)


@pytest.mark.parametrize(
    ("path", "says"),
    [
        ("sine?angle=ninety", "is not an angle"),
        ("sine?angle=95", "under 90°"),
        ("mitre?floor=0", "over 0°"),
        ("slot?left_mm=40&right_mm=39", "must be over"),
        ("roll?included=200", "under 180°"),
        ("two-angles?given=normal&nz=-1", "from 0.001"),
        ("radius?radius_mm=", "number from"),
    ],
)
def test_what_cannot_be_is_said_and_what_was_typed_stays(bryn: Browser, path: str, says: str) -> None:
    assert bryn.get(f"/answers/{path}").status_code == 422 and says in bryn.page
    typed = path.split("=")[-1]
    assert f'value="{typed}"' in bryn.page


def test_other_choices_show_their_own_fields_only(bryn: Browser) -> None:
    bryn.get("/answers/two-angles?given=tilt&tilt=10&direction=0")
    assert 'name="tilt"' in bryn.page and 'name="along"' not in bryn.page
    assert bryn.get("/answers/nothing").status_code == 404
