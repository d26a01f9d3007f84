"""Someone at the machine, for the demonstration: every act goes through the application's own log."""

from collections.abc import Mapping
from datetime import datetime, timedelta
from decimal import Decimal
from uuid import NAMESPACE_URL, uuid5

from sqlalchemy.orm import Session

from zesty_lark.core.faces import OPPOSITE
from zesty_lark.core.measure.thickness import Reading, expanded_uncertainty, judge
from zesty_lark.core.route.choices import FaceChoice, RouteChoices
from zesty_lark.core.shoplog.entries import Entry, Kind
from zesty_lark.core.shoplog.standing import FaceStanding, Standing
from zesty_lark.store import part_plans, shoplog
from zesty_lark.store.models import Instrument, Job, Person
from zesty_lark.store.shoplog import Draft
from zesty_lark.web.plan.asking import asking
from zesty_lark.web.plan.planning import plan_face

__all__ = ["Shift"]

EVEN = {"front left": "-0.0004", "front right": "0", "middle": "-0.0006", "back left": "-0.0003",
        "back right": "-0.0002"}
HALF_A_THOU = FaceChoice("own", downfeed_mm=0.0127, crossfeed_mm=0.8, table_mm_s=300.0)


class Shift:
    """A stretch of work on one job; each act takes a while on the clock."""

    def __init__(self, session: Session, job: Job, person: Person, begins: datetime) -> None:
        self.session, self.job, self.person, self.clock = session, job, person, begins
        self.count = 0

    def _log(self, kind: Kind, *, minutes: float = 2, gauge: Instrument | None = None, by: Person | None = None,
             **fields: object) -> None:
        self.clock += timedelta(minutes=minutes)
        entry = Entry(0, self._entry_id(), kind, self.clock, "", **fields)  # type: ignore[arg-type]
        shoplog.append(self.session, self.job, by or self.person, Draft(entry, instrument=gauge))

    def _entry_id(self) -> str:
        self.count += 1
        return str(uuid5(NAMESPACE_URL, f"{self.job.number}/{self.count}"))

    def _standing(self) -> Standing:
        return shoplog.standing_of(self.job, shoplog.entries_of(self.session, self.job))

    def _face(self) -> FaceStanding:
        standing = self._standing()
        assert standing.face is not None
        return standing.faces[standing.face]

    def take_in(self, note: str = "") -> None:
        """Take the part in."""
        self._log(Kind.TAKEN_IN, note=note)

    def note(self, words: str) -> None:
        """Write a note."""
        self._log(Kind.NOTE, note=words)

    def start(self) -> None:
        """Plan the face at work light and even, put it up and touch off."""
        face = self._face().face
        self._release(3)
        self._log(Kind.PLACED, face=face, minutes=4)
        self._log(Kind.TOUCHED_OFF, face=face, reading_mm=Decimal(0), minutes=3)

    def keep_part_plan(self, choices: RouteChoices, *, release: bool = False) -> None:
        """Keep a version of the part's plan, and release it."""
        self.clock += timedelta(minutes=4)
        asks = asking(self.session, self.job, self._standing(), self.clock.date())
        last = part_plans.newest(self.session, self.job)
        row = part_plans.save(self.session, self.job, self.person, choices, asks.figures(asks.worked(choices)),
                              last.number if last else 0, self.clock)
        if release:
            part_plans.release(self.session, row, self.person, self.clock)

    def _release(self, minutes: float) -> None:
        """Plan the face at work, half a thou a pass, and release that."""
        standing, face = self._standing(), self._face().face
        asks = asking(self.session, self.job, standing, self.clock.date())
        planning = plan_face(self.job, standing, face, asks.worked(RouteChoices().with_face(face, HALF_A_THOU)))
        self.clock += timedelta(minutes=minutes)
        assert planning.steps is not None
        shoplog.release_plan(self.session, self.job, self.person, planning.steps, entry_id=self._entry_id(), at=self.clock,
                             seen=None)

    def passes(self, most: int | None = None) -> None:
        """Do the plan's passes, or the first few."""
        done = 0
        while most is None or done < most:
            face = self._face()
            if face.next_reading_mm is None:
                break
            self._log(Kind.PASS, face=face.face, reading_mm=face.next_reading_mm)
            done += 1

    def spark_out(self) -> None:
        """Do the planned blank passes."""
        face = self._face()
        assert face.plan is not None
        for _ in range(face.plan.spark_passes):
            self._log(Kind.SPARK_OUT, face=face.face, count=1)

    def measure(self, gauge: Instrument, off: Mapping[str, str], *, short: str) -> None:
        """Measure at places off from the thickest one, which came out ``short`` of what was asked [mm]."""
        standing, face = self._standing(), self._face()
        greatest = standing.thickness_mm - standing.asked_since_mm + Decimal(short)
        step = gauge.resolution_mm
        readings = tuple(Reading(place, ((greatest + Decimal(each)) / step).to_integral_value() * step)
                         for place, each in off.items())
        uncertainty = expanded_uncertainty(gauge.to_core(self.clock.date()), float(greatest))
        verdict = None
        if face.face != self.job.part.reference_face:
            verdict = judge(readings, self.job.part.size("thickness").to_core(), uncertainty,
                            parallel_mm=self.job.part.parallel_mm).verdict
        self._log(Kind.MEASURED, face=face.face, readings=readings, uncertainty_mm=uncertainty, verdict=verdict,
                  gauge=gauge, minutes=12)

    def grind_reference(self, gauge: Instrument, off: Mapping[str, str]) -> None:
        """Clean the reference up and declare it done."""
        self.start()
        self.passes()
        self.spark_out()
        self.measure(gauge, off, short="0.0011")
        self._log(Kind.FACE_DONE, face=self._face().face)

    def start_second(self) -> None:
        """Turn the part over and start on its opposite."""
        self.start()

    def finish_second(self, gauge: Instrument, inspector: Person) -> None:
        """Grind the second face, take the rest after measuring, and have the part signed off."""
        self.start()
        self.passes()
        self.spark_out()
        self.measure(gauge, EVEN, short="0.0083")
        self._take_the_rest()
        self.measure(gauge, EVEN, short="0.0004")
        face = OPPOSITE[self.job.part.reference_face]
        self._log(Kind.FACE_DONE, face=face)
        self._log(Kind.SIGNED_OFF, by=inspector, minutes=20, note="First off; the batch may follow.")

    def _take_the_rest(self) -> None:
        self._release(2)
        self.passes()
        self.spark_out()
