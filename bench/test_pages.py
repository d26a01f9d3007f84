"""How long the main pages take, and how that compares to one bare SELECT in the same run.

Wanted: under 100 ms at the median on the demonstration's data.
"""

import re

import pytest
from pytest_benchmark.fixture import BenchmarkFixture
from sqlalchemy import Engine, text

from tests.web.conftest import Browser

PAGES = (
    "",
    "jobs/TR-101/take-in",
    "jobs/TR-101/faces",
    "jobs/TR-101/plan?again=1",
    "jobs/TR-101/set-up",
    "jobs/TR-101/set-up/before",
    "jobs/TR-101/grind",
    "jobs/TR-101/measure",
    "jobs/TR-101/record",
    "shop",
)


def test_one_select(benchmark: BenchmarkFixture, engine: Engine) -> None:
    def ask() -> None:
        with engine.connect() as connection:
            connection.execute(text("select 1"))

    benchmark(ask)


@pytest.mark.parametrize("page", PAGES)
def test_page(benchmark: BenchmarkFixture, bryn: Browser, page: str) -> None:
    answer = benchmark(lambda: bryn.client.get(f"/{page}"))
    assert answer.status_code == 200


def test_plan_preview(benchmark: BenchmarkFixture, bryn: Browser) -> None:
    """A slider was moved: under 150 ms."""
    bryn.get("/jobs/TR-120/plan")
    form = {
        "csrf_token": bryn.token,
        "method": "quickest",
        "was": "7,40,300",
        "downfeed": "8",
        "crossfeed": "40",
        "table": "300",
    }
    answer = benchmark(lambda: bryn.client.post("/jobs/TR-120/plan/preview", data=form))
    assert answer.status_code == 200
    assert re.search(r'value="custom"[^>]* checked', answer.get_data(as_text=True))


def test_a_block_is_moved(benchmark: BenchmarkFixture, bryn: Browser) -> None:
    """What is moved in a set-up is kept, checked and drawn again: under 100 ms."""
    bryn.get("/jobs/TR-101/set-up")

    def move() -> str:
        page = bryn.page
        version = re.search(r'name="version"[^>]*value="(\d+)"', page)
        assert version
        form = {"act": "nudge", "version": version[1], "face": "2", "key": "p1", "by_x": "1", "by_y": "0"}
        answer = bryn.post("/jobs/TR-101/set-up", form, headers={"HX-Request": "true"})
        assert answer.status_code == 200
        return bryn.page

    assert 'id="setup"' in benchmark(move)
