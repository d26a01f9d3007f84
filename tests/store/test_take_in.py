"""What is taken in is kept as it was given, all of it; what is changed is named, and nothing else changes."""

from collections.abc import Callable
from dataclasses import replace
from datetime import UTC, date, datetime
from decimal import Decimal
from typing import Any

import pytest
from sqlalchemy.orm import Session

from zesty_lark.core.part.sizes import Size
from zesty_lark.core.part.taken_in import CharacteristicIn, FaceIn, SizeIn, TakeIn
from zesty_lark.store import jobs, people
from zesty_lark.store.jobs import JobChanged, NumberTaken
from zesty_lark.store.models import Job
from zesty_lark.store.models.people import Role

D = Decimal
AT = datetime(2026, 3, 2, 8, tzinfo=UTC)
STEP = CharacteristicIn("step", "size", 1, 2, D("7.5"), D("0.01"), D("0.02"))
LEAN = CharacteristicIn("lean", "angle", 3, 4, D("12"), D("0.05"), D("0.05"))
TRUE = CharacteristicIn("true", "flat", 5, None, D("0"), D("0"), D("0.003"))


@pytest.fixture
def what(demo: Session) -> TakeIn:
    """A job with something in every field, of the people and machines of TR-101."""
    like = jobs.by_number(demo, "TR-101")
    assert like is not None
    sizes = {"length": ("88", "88.3"), "width": ("54", "54.25"), "thickness": ("22", "22.26")}
    return TakeIn(
        number="TR-190", title="Gib strip", print_unit="in", due_on=date(2026, 4, 1), owner_id=like.owner_id,
        machine_id=like.machine_id, wheel_id=like.wheel_id, quantity=3, material="tool steel, hardened",
        hardness_hrc=D("60"), parallel_mm=D("0.003"), square_mm=D("0.005"), flat_mm=D("0.002"), ra_um=D("0.4"),
        mark_corner="1-3-4", reference_face=1, min_skin_mm=D("0.01"), first_share=D("0.4"), remarks="Handle with care.",
        sizes={
            axis: SizeIn(Size(D(nominal), D("0.01"), D("0.02")), D(most), D(most) - D("0.02"))
            for axis, (nominal, most) in sizes.items()
        },
        faces={face: FaceIn("milled", D("0.04"), "plain") for face in range(1, 7)},
        bow_mm=D("0.02"), bow_shape="ends_up", leave_mm=D("0.05"),
        pieces={1: {"thickness": D("22.24")}, 3: {"width": D("54.2"), "length": D("88.28")}},
        more=(STEP, LEAN, TRUE),
    )  # fmt: skip


def kept(session: Session, job: Job) -> TakeIn:
    """What the database has of it."""
    session.expire_all()
    return jobs.take_in_of(job)


def test_all_that_is_taken_in_is_kept(demo: Session, what: TakeIn) -> None:
    assert kept(demo, jobs.take_in(demo, what, AT)) == what


def test_what_the_print_asks_beside_the_sizes_is_put_in_another_order_changed_and_dropped(
    demo: Session, what: TakeIn
) -> None:
    job = jobs.take_in(demo, what, AT)
    rows = {row.name: row.id for row in job.part.more}
    after = replace(what, more=(TRUE, replace(STEP, tol_plus=D("0.03"))))
    assert jobs.amend(demo, job, after, job.version) == ["what else the print asks"]
    assert kept(demo, job) == after
    assert {row.name: row.id for row in job.part.more} == {name: rows[name] for name in ("true", "step")}


@pytest.mark.parametrize(
    ("change", "named"),
    [
        ({"title": "Another"}, ["title"]),
        ({"hardness_hrc": None}, ["hardness hrc"]),
        ({"due_on": None, "remarks": ""}, ["due on", "remarks"]),
        ({"pieces": {1: {"thickness": D("22.25")}}}, ["pieces’ own sizes"]),
        ({"pieces": {}}, ["pieces’ own sizes"]),
        ({"bow_mm": None, "leave_mm": D(0)}, ["bow", "leave"]),
        ({}, []),
    ],
)
def test_what_changed_is_named_and_kept(
    demo: Session, what: TakeIn, change: dict[str, object], named: list[str]
) -> None:
    job = jobs.take_in(demo, what, AT)
    after = replace(what, **change)  # type: ignore[arg-type]
    assert jobs.amend(demo, job, after, job.version) == named
    assert kept(demo, job) == after


def test_one_face_and_one_size_are_changed_alone(demo: Session, what: TakeIn) -> None:
    job = jobs.take_in(demo, what, AT)
    width = replace(what.sizes["width"], measured_max_mm=D("54.3"))
    after = replace(
        what, faces=what.faces | {4: FaceIn("sawn", D("0.3"), "plain")}, sizes={**what.sizes, "width": width}
    )
    assert jobs.amend(demo, job, after, job.version) == ["width", "face 4"]
    assert kept(demo, job) == after


def test_what_was_changed_meanwhile_or_has_a_number_of_another_job_is_refused(demo: Session, what: TakeIn) -> None:
    job = jobs.take_in(demo, what, AT)
    with pytest.raises(NumberTaken, match="There is a job TR-190 already"):
        jobs.take_in(demo, what, AT)
    with pytest.raises(NumberTaken, match="There is a job TR-101 already"):
        jobs.amend(demo, job, replace(what, number="TR-101"), job.version)
    before = job.version
    jobs.amend(demo, job, replace(what, title="Another"), before)
    assert job.version > before
    with pytest.raises(JobChanged):
        jobs.amend(demo, job, what, before)


def test_two_who_change_different_sizes_at_once_are_told_of_each_other(demo: Session, what: TakeIn) -> None:
    """What was taken in is one thing: whoever sends what they had open takes nothing back that another changed."""
    job = jobs.take_in(demo, what, AT)
    opened = job.version
    for axis, theirs in (("width", "54.3"), ("length", "88.2")):
        size = replace(what.sizes[axis], measured_max_mm=D(theirs))
        mine = replace(what, sizes={**what.sizes, axis: size})
        if axis == "width":
            assert jobs.amend(demo, job, mine, opened) == ["width"] and job.version == opened + 1
            continue
        with pytest.raises(JobChanged):
            jobs.amend(demo, job, mine, opened)
    assert jobs.amend(demo, job, jobs.take_in_of(job), job.version) == [] and job.version == opened + 1


def test_who_is_there_and_not_only_an_inspector_can_own_a_job(demo: Session) -> None:
    everyone = people.everyone(demo)
    gone = next(person for person in everyone if person.role == Role.MACHINIST)
    gone.active = False
    assert {owner.sign_in_name for owner in jobs.owners(everyone)} == {
        each.sign_in_name for each in everyone if each.role != Role.INSPECTOR and each is not gone
    }


def test_the_print_and_the_block_are_those_that_were_taken_in(demo: Session, what: TakeIn) -> None:
    part = jobs.take_in(demo, what, AT).part
    asked = {
        characteristic.name: (characteristic.kind, characteristic.surfaces, characteristic.limits)
        for characteristic in part.wanted().characteristics
    }
    two_sided, nought = (D("0.01"), D("0.02")), D(0)
    assert asked == {
        "thickness": ("size", (2, 1), Size(D(22), *two_sided)),
        "width": ("size", (5, 3), Size(D(54), *two_sided)),
        "length": ("size", (6, 4), Size(D(88), *two_sided)),
        "parallel": ("parallel", (2, 1), Size(nought, nought, D("0.003"))),
        "square": ("square", (3, 4, 5, 6, 1), Size(nought, nought, D("0.005"))),
        "flat": ("flat", (2, 1), Size(nought, nought, D("0.002"))),
        "finish": ("finish", (2, 1), Size(nought, nought, D("0.0004"))),
        "step": ("size", (1, 2), Size(D("7.5"), *two_sided)),
        "lean": ("angle", (3, 4), Size(D(12), D("0.05"), D("0.05"))),
        "true": ("flat", (5,), Size(nought, nought, D("0.003"))),
    }
    came = {axis: (pair.measured_max_mm, pair.leave_mm) for axis, pair in part.block().sizes.items()}
    assert came == {
        "thickness": (D("22.26"), D("0.05")), "width": (D("54.25"), nought), "length": (D("88.3"), nought)
    }  # fmt: skip
    assert [row.position for row in part.more] == [1, 2, 3]


def test_pieces_that_all_have_their_own_size_say_alone_how_the_part_came(demo: Session, what: TakeIn) -> None:
    own = {number: {"thickness": D("22.2") + D(number) / 1000} for number in (1, 2, 3)}
    for pieces, most, least in (
        (own, D("22.203"), D("22.203")), ({1: own[1], 2: own[2]}, D("22.26"), D("22.24")), ({}, D("22.26"), D("22.24"))
    ):  # fmt: skip
        numbered = f"TR-19{len(pieces)}"
        pair = jobs.take_in(demo, replace(what, number=numbered, pieces=pieces), AT).part.block().sizes["thickness"]
        assert (pair.measured_max_mm, pair.measured_min_mm) == (most, least)


def test_a_route_that_was_released_stays_when_the_rest_is_changed_and_a_face_is_there_once(
    demo: Session, what: TakeIn
) -> None:
    route = jobs.by_number(demo, "TR-101")
    assert route is not None and route.part.route is not None
    job = jobs.take_in(demo, replace(what, route=route.part.route), AT)
    assert job.part.route == route.part.route
    faces = what.faces | {4: FaceIn("sawn", D("0.3"), "plain")}
    jobs.amend(demo, job, replace(what, title="Another", faces=faces), job.version)
    assert job.part.route == route.part.route and len(job.part.faces) == 6 and len(job.part.sizes) == 3


def test_a_number_that_another_job_has_is_not_taken_but_a_job_keeps_its_own(demo: Session, what: TakeIn) -> None:
    job = jobs.take_in(demo, what, AT)
    with pytest.raises(NumberTaken):
        jobs.amend(demo, job, replace(what, number="tr-101"), job.version)
    assert jobs.amend(demo, job, replace(what, number="tr-190"), job.version) == ["number"]
    assert jobs.by_number(demo, "TR-190") is None and jobs.by_number(demo, "tr-190") is job


def test_what_a_reference_may_give_is_what_its_opposite_has_over_its_own_skin(demo: Session, what: TakeIn) -> None:
    """Thickness: 22.26 down to 22.005, 0.05 left on, 0.4 of the rest on the reference; of the others what a side needs
    to clean up and its skin comes first."""
    spare = jobs.take_in(demo, what, AT).part.spec().spare_mm
    over = (D("22.26") - D("22.005") - D("0.05")) * D("0.6") - D("0.01")
    assert spare == {1: over, 3: D("54.25") - D("54.005") - D("0.06"), 4: D("88.3") - D("88.005") - D("0.06")}
    thin = {axis: replace(size, measured_max_mm=size.size.target_mm + D("0.03")) for axis, size in what.sizes.items()}
    little = {axis: replace(size, measured_min_mm=size.measured_max_mm) for axis, size in thin.items()}
    other = jobs.take_in(demo, replace(what, number="TR-192", sizes=little, pieces={}, leave_mm=D(0)), AT)
    assert set(other.part.spec().spare_mm.values()) <= {D(0), D("0.005")}


def test_a_face_is_found_by_its_number_and_a_job_is_held_only_when_asked(
    demo: Session, what: TakeIn, statements: Callable[[], Any]
) -> None:
    part = jobs.take_in(demo, replace(what, faces=what.faces | {3: FaceIn("sawn", D("0.3"), "plain")}), AT).part
    assert part.face(3).condition == "sawn" and part.face(4).condition == "milled"
    for lock in (False, True):
        with statements() as sent:
            assert jobs.by_number(demo, "TR-190", lock=lock) is part.job
        assert any(each.endswith("FOR UPDATE") for each in sent) is lock
