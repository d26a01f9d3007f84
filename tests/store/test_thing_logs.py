"""The logs of chucks and gauges on a real database: each entry once, of its own thing, with what was said."""

from collections.abc import Callable
from uuid import uuid4

import pytest
from sqlalchemy import select
from sqlalchemy.orm import Session

from tests.store.test_maps import NOW, gauge, who
from zesty_lark.core.things.chuck import ChuckStepDone, StepName
from zesty_lark.core.things.gauge import judged_direction, judged_zero
from zesty_lark.core.things.log import Said, ThingEntry, ThingError, ThingUndone
from zesty_lark.store import chucks, gauge_checks, racks, shop
from zesty_lark.store.models import ChuckRow, InstrumentRow, ThingEntryRow, WheelRow


def chuck_of(demo: Session) -> ChuckRow:
    """A chuck with nothing up."""
    found = shop.by_name(demo, ChuckRow, "Chuck B")
    assert found is not None
    found.machine.on_chuck = None
    demo.flush()
    return found


def entry(what: Said, entry_id: str = "", note: str = "") -> ThingEntry:
    return ThingEntry(entry_id=entry_id or str(uuid4()), at=NOW, what=what, note=note)


def step(name: StepName, passes: int = 1) -> ChuckStepDone:
    return ChuckStepDone(step=name, answer="full" if name == "film" else "", passes=passes)


def test_a_chuck_is_ground_step_by_step_each_sent_once_while_it_is_held(
    demo: Session, statements: Callable[[], object]
) -> None:
    chuck = chuck_of(demo)
    assert chucks.state_of(demo, chuck).grinding is None
    first = entry(step("fence off"))
    for _ in range(2):
        with statements() as told:  # type: ignore[attr-defined]
            chucks.append(demo, chuck, who(demo), first)
        assert any("FROM chuck" in each and each.endswith("FOR UPDATE") for each in told), "held against all others"
    with pytest.raises(ThingError, match="Clean the chuck"):
        chucks.append(demo, chuck, who(demo), entry(step("pass")))
    with pytest.raises(ThingError, match="used for another"):
        chucks.append(demo, chuck, who(demo), entry(ThingUndone(supersedes=first.entry_id), first.entry_id))
    while (going := chucks.state_of(demo, chuck).grinding) and going.next:
        chucks.append(demo, chuck, who(demo), entry(step(going.next.name, 9)))
    assert going is not None and (going.number, going.passes, going.done[0].by) == (1, 1, who(demo).name)
    assert going.done[0].machine == chuck.machine.name
    last = going.done[-1]
    after = chucks.append(demo, chuck, who(demo), entry(ThingUndone(supersedes=last.entry_id)))
    assert after.grinding is not None and after.grinding.done == going.done[:-1]
    rows = demo.scalars(select(ThingEntryRow).where(ThingEntryRow.thing == "chuck")).all()
    assert len(rows) == len(going.done) + 1, "what was taken back stays in the log"


def test_a_gauge_s_checks_are_its_own(demo: Session) -> None:
    one = gauge(demo)
    other = demo.scalars(select(InstrumentRow).where(InstrumentRow.id != one.id)).first()
    assert other is not None
    said = [
        (one, judged_zero(one.to_core(), 1)),
        (other, judged_zero(other.to_core(), 2)),
        (one, judged_direction(0, 9)),
    ]
    for of, check in said:
        gauge_checks.append(demo, of, who(demo), entry(check))
    assert [each.what for each in gauge_checks.state_of(demo, one).checks[-2:]] == [said[0][1], said[2][1]]
    assert gauge_checks.state_of(demo, other).checks[-1].what == said[1][1]


def test_an_id_is_known_among_its_own_kind_of_thing_and_a_note_has_its_length(demo: Session) -> None:
    chuck, instrument = chuck_of(demo), gauge(demo)
    wheel = shop.by_name(demo, WheelRow, "W6 slots")
    assert wheel is not None
    sent = "told-to-two-things"
    chucks.append(demo, chuck, who(demo), entry(step("fence off"), sent, "Wiped. " * 90))
    gauge_checks.append(demo, instrument, who(demo), entry(judged_zero(instrument.to_core(), 0), sent))
    done = chucks.state_of(demo, chuck).history
    assert [each.entry_id for each in done] == [sent] and done[0].note == ("Wiped. " * 90)[:500]
    other = demo.scalars(select(InstrumentRow).where(InstrumentRow.id != instrument.id)).first()
    assert other is not None
    with pytest.raises(ThingError, match="used for another"):
        gauge_checks.append(demo, other, who(demo), entry(judged_zero(other.to_core(), 0), sent))
    assert racks.state_of(demo, wheel).history == racks.states_of(demo, [wheel])[wheel.id].history
