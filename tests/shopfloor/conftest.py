"""The demonstration at work: TR-101 in the middle of its second face, and a gauge."""

import pytest
from sqlalchemy.orm import Session

from tests.shopfloor.test_as_it_stands import job_of
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.run import Run
from zesty_lark.store import shop
from zesty_lark.store.models import InstrumentRow, Job


@pytest.fixture
def gauge(demo: Session) -> InstrumentRow:
    found = shop.by_name(demo, InstrumentRow, "Bench comparator B1")
    assert found is not None
    return found


@pytest.fixture
def at_work(demo: Session) -> tuple[Job, JobState, Run]:
    job, job_state = job_of(demo, "TR-101")
    return job, job_state, job_state.runs[2]
