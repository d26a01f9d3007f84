"""How much slower pages get with a shop's years: each against the same page in the same run, before the years were
added.

``LARK_BENCH_YEARS=20`` makes 20,000 finished jobs with a million entries; without it there are a thousand jobs.
"""

import os

import pytest
from sqlalchemy import Engine

from bench import SMALL, quickest
from bench.years import many_years
from tests.web.conftest import Browser

YEARS = int(os.environ.get("LARK_BENCH_YEARS", "1"))
JOBS = 100 if SMALL else 1000 * YEARS
PAGES = (
    "",
    "?q=wear",
    "?waits=measuring",
    "?mine=1",
    "jobs/TR-101/grind",
    "jobs/TR-140/measure",
    "jobs/TR-101/record",
    "jobs/TR-101/faces",
)


@pytest.fixture(scope="module")
def ratios(bryn: Browser, engine: Engine) -> dict[str, float]:
    before = {page: quickest(lambda page=page: bryn.client.get(f"/{page}")) for page in PAGES}  # type: ignore[misc]
    with engine.begin() as connection:
        many_years(connection, JOBS)
    after = {page: quickest(lambda page=page: bryn.client.get(f"/{page}")) for page in PAGES}  # type: ignore[misc]
    return {page: after[page] / before[page] for page in PAGES}


def test_pages_after_years(ratios: dict[str, float], bryn: Browser) -> None:
    """Wanted: every page within 20 % of its time with the demonstration alone."""
    for page, ratio in ratios.items():
        print(f"\n/{page}: {ratio:.2f} of its time before {JOBS} finished jobs")
    for page in ("?finished=1", "?finished=1&page=30", "?q=gib&finished=1", "?q=old-1500&finished=1"):
        print(f"\n/{page}: {1000 * quickest(lambda page=page: bryn.client.get(f'/{page}'), 5):.0f} ms")  # type: ignore[misc]
        assert bryn.client.get(f"/{page}").status_code == 200
