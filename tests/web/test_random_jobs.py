"""The same figure everywhere: of jobs taken in at random, what Faces, Plan, Set up and the sheet say of each face."""

import os
import random
import re

import pytest
from sqlalchemy.orm import Session

from tests.web.conftest import Browser
from tests.web.test_story import selected, take_in
from zesty_lark.core.planning.reasons import UNSURE
from zesty_lark.core.quantities.units import known_text
from zesty_lark.store import jobs
from zesty_lark.store.models import Job

HOLLOW = re.compile(r"<title>(\d) [∥⊥] \d: [^<]*heat: hollow ([\d.]+)")
JOBS = int(os.environ.get("LARK_EXAMPLES", "3"))
CONDITIONS = ("scale or burrs", "sawn", "milled", "stable", "ground")


def drawn_up(seed: int) -> dict[str, object]:
    """A block as it might come: from a thin strip to a tall stump, one or several, flat or bowed, in any condition."""
    draw = random.Random(seed)
    length, width = sorted((draw.uniform(15, 180), draw.uniform(12, 100)), reverse=True)
    thick = draw.uniform(3, min(width, 60))
    made: dict[str, object] = {"number": f"R-{seed}", "quantity": draw.choice((1, 1, 1, 2, 5))}
    for axis, size in (("length", length), ("width", width), ("thickness", thick)):
        print_mm, stock = round(size, 2), round(draw.uniform(0.08, 0.4), 3)
        made |= {
            f"{axis}_target": print_mm, f"{axis}_minus": "0.01", f"{axis}_plus": "0.01",
            f"{axis}_max": f"{print_mm + stock:.3f}", f"{axis}_min": f"{print_mm + stock - 0.02:.3f}",
            f"sure_{axis}_max": "y", f"sure_{axis}_target": "y", f"sure_{axis}_min": "y",
        }  # fmt: skip
    for face in range(1, 7):
        made |= {f"face{face}_condition": draw.choice(CONDITIONS), f"face{face}_cleanup": "0.02"}
        if face > 2 and draw.random() < 0.15:
            made[f"face{face}_purpose"] = "as it is"
    if draw.random() < 0.5:
        made["bow_mm"] = f"{draw.choice((0, 0.008, 0.04, 0.1)):g}"
    return made


def taken_in(browser: Browser, session: Session, seed: int) -> Job:
    browser.get("/jobs/take-in")
    machine = random.Random(seed).choice(sorted(re.findall(r">(No\. \d, [a-z]+ dial)<", browser.page)))
    made = drawn_up(seed) | {"machine_id": selected(browser.page, "machine_id", machine)}
    assert take_in(browser, **made) == 303, re.findall(r'class="[^"]*wrong[^"]*"[^>]*>(.*?)</', browser.page)
    job = jobs.by_number(session, f"R-{seed}")
    assert job is not None
    return job


def of_faces(page: str) -> dict[int, dict[str, str]]:
    """What the route says of each face that has a plan: stock, minutes, hold, and what holds it."""
    told = {}
    for each in page.split('class="step-plan"')[1:]:
        words = re.sub(r"<[^>]*>", " ", each.split("</a>")[0].split(">", 1)[1])
        found = re.search(
            r"Face (\d): (.+?) in ([\d.]+) min, (\d+) passes? .*?· ([^·]+?), hold ([\d.]+)", " ".join(words.split())
        )
        if found:
            face, stock, minutes, passes, holder, hold = found.groups()
            told[int(face)] = {"stock": stock, "minutes": minutes, "passes": passes, "holder": holder, "hold": hold}
    return told


def of_plan(page: str) -> dict[str, str]:
    """The chosen method's figures."""
    lines = re.findall(r"<tr><th scope=\"row\">(.*?)</th>(.*?)</tr>", page)
    chosen = {
        re.sub(r"<[^>]*>", "", name): re.search(r'class="chosen[^"]*">(.*?)</td>', cells) for name, cells in lines
    }
    return {name: re.sub(r"<[^>]*>", "", found[1]).strip() for name, found in chosen.items() if found}


@pytest.mark.parametrize("seed", range(JOBS))
def test_a_job_of_any_kind_has_one_figure_on_every_page(isa: Browser, demo: Session, seed: int) -> None:
    job = taken_in(isa, demo, seed)
    assert isa.get(f"/jobs/{job.number}/faces").status_code == 200
    faces, hollows = of_faces(isa.page), dict(HOLLOW.findall(isa.page))
    assert faces or "✗" in isa.page
    for face, told in faces.items():
        assert isa.get(f"/jobs/{job.number}/plan?face={face}").status_code == 200
        plan = of_plan(isa.page)
        assert (told["minutes"], told["hold"]) == (plan["Minutes"], plan["Hold"]), (face, told, plan)
        if str(face) in hollows and "µm" in plan["Hollow"]:
            hollow = known_text(float(hollows[str(face)]), UNSURE["hollow"], places=2)
            assert hollow == plan["Hollow"].split(" ")[0], (face, hollows, plan)
        assert told["passes"] == plan["Passes · dresses"].split(" ")[0], (face, told, plan)
        assert told["stock"] in re.sub(r"<[^>]*>", " ", isa.page), (face, told)
        for page in ("set-up", "set-up/sheet"):
            assert isa.get(f"/jobs/{job.number}/{page}?face={face}").status_code == 200
            words = re.sub(r"<[^>]*>", "", isa.page)
            figure = r"(\d+(?:\.\d+)?)"
            found = re.search(rf"holds? {figure}", words) or re.search(rf"{figure} times what pushes it", words)
            assert found and found[1] == told["hold"], (face, page, told, found and found[0], words[:1500])
