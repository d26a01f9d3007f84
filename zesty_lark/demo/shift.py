"""Someone at the machine, for the demonstration: every act goes through the application's own log."""

from collections.abc import Mapping
from datetime import datetime, timedelta
from decimal import Decimal
from typing import Any
from uuid import NAMESPACE_URL, uuid5

from sqlalchemy.orm import Session

from zesty_lark.core.faces import OPPOSITE
from zesty_lark.core.measure.thickness import Reading, expanded_uncertainty, judge
from zesty_lark.core.route.choices import FaceChoice, RouteChoices
from zesty_lark.core.shoplog.entries import Entry, Kind
from zesty_lark.core.shoplog.rules import next_act
from zesty_lark.core.shoplog.standing import FaceStanding, Standing
from zesty_lark.core.shoplog.telling import Tongue, step_words
from zesty_lark.store import part_plans, shoplog
from zesty_lark.store.models import Instrument, Job, Person
from zesty_lark.store.shoplog import Draft
from zesty_lark.web.plan.asking import asking
from zesty_lark.web.plan.planning import plan_face

__all__ = ["Shift"]

EVEN = {"front left": "-0.0004", "front right": "0", "middle": "-0.0006", "back left": "-0.0003",
        "back right": "-0.0002"}
HALF_A_THOU = FaceChoice("own", downfeed_mm=0.0127, crossfeed_mm=0.8, table_mm_s=300.0)
DRESSED_OFF_MM = Decimal("0.02032")
_ACTS = {"dress": Kind.DRESSED, "chamfer": Kind.DONE, "place": Kind.PLACED, "turn": Kind.DONE, "blocks": Kind.DONE,
         "touch_off": Kind.TOUCHED_OFF, "no_feed": Kind.SPARK_OUT, "pass": Kind.PASS, "blank": Kind.SPARK_OUT, "cool": Kind.DONE}


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

    def keep_part_plan(self, choices: RouteChoices, *, release: bool = False) -> None:
        """Keep a version of the part's plan, and release it."""
        self.clock += timedelta(minutes=4)
        asks = asking(self.session, self.job, self._standing(), self.clock.date())
        last = part_plans.newest(self.session, self.job)
        row = part_plans.save(self.session, self.job, self.person, choices, asks.figures(asks.worked(choices)),
                              last.number if last else 0, self.clock)
        if release:
            part_plans.release(self.session, row, self.person, self.clock)

    def release(self, minutes: float = 3, choice: FaceChoice = HALF_A_THOU) -> None:
        """Plan the face at work and release that."""
        standing, face = self._standing(), self._face().face
        asks = asking(self.session, self.job, standing, self.clock.date())
        planning = plan_face(asks, face, asks.worked(RouteChoices().with_face(face, choice)), self.person)
        self.clock += timedelta(minutes=minutes)
        assert planning.steps is not None, planning.made.refused
        shoplog.release_plan(self.session, self.job, self.person, planning.steps, entry_id=self._entry_id(), at=self.clock,
                             seen=None)

    def follow(self, passes: int | None = None) -> None:
        """Do what the plan asks for, in its order, until it asks for a measurement or the first few passes are done."""
        while (act := next_act(self._standing()).act) in _ACTS:
            if act == "pass" and passes is not None and self._face().passes_done >= passes:
                break
            self._act(act)

    def _act(self, act: str) -> None:
        standing, face = self._standing(), self._face()
        step = face.next_step
        more: dict[str, Any] = {}
        if act == "pass":
            more = {"reading_mm": face.next_reading_mm}
        elif act == "touch_off":
            met = standing.touch_reading_mm
            more = {"reading_mm": met if met is not None and met >= 0 else Decimal(0)}
        elif act in ("blank", "no_feed"):
            more = {"count": 1}
        elif act == "dress":
            more = {"amount_mm": DRESSED_OFF_MM}
        elif act in ("chamfer", "turn", "blocks", "cool") and step is not None:
            more = {"step": step.number, "note": step_words(step, self._tongue())}
        minutes = max(1.0, step.minutes) if step is not None else 3.0
        self._log(_ACTS[act], face=face.face, minutes=minutes, **more)

    def _tongue(self) -> Tongue:
        machine = self.job.machine
        return Tongue("in" if self.job.print_unit == "in" else "mm", "in" if machine.dial_unit == "in" else "mm",
                      machine.graduation_mm)

    def measure(self, gauge: Instrument, off: Mapping[str, str], *, short: str) -> None:
        """Measure at places off from the thickest one, which came out ``short`` of what was asked [mm]."""
        standing, face = self._standing(), self._face()
        greatest = standing.thickness_mm - standing.asked_since_mm + Decimal(short)
        readings = _read(greatest, off, gauge)
        uncertainty = expanded_uncertainty(gauge.to_core(self.clock.date()), float(greatest))
        verdict = None
        if face.face != self.job.part.reference_face:
            verdict = judge(readings, self.job.part.size("thickness").to_core(), uncertainty,
                            parallel_mm=self.job.part.parallel_mm).verdict
        self._log(Kind.MEASURED, face=face.face, readings=readings, uncertainty_mm=uncertainty, verdict=verdict,
                  gauge=gauge, minutes=3, part_c=Decimal("21.5"), gauge_c=Decimal("21.3"), room_c=Decimal("21.3"))

    def measure_size(self, axis: str, gauge: Instrument, value: str) -> None:
        """Measure a side that came ground."""
        readings = _read(Decimal(value), {"middle": "0", "front left": "-0.0004"}, gauge)
        uncertainty = expanded_uncertainty(gauge.to_core(self.clock.date()), float(value))
        verdict = judge(readings, self.job.part.size(axis).to_core(), uncertainty).verdict
        self._log(Kind.MEASURED, face=OPPOSITE[self.job.part.reference_face], characteristic=axis, readings=readings,
                  uncertainty_mm=uncertainty, verdict=verdict, gauge=gauge, minutes=3)

    def grind_reference(self, gauge: Instrument, off: Mapping[str, str]) -> None:
        """Clean the reference up and declare it done."""
        self.release()
        self.follow()
        self.measure(gauge, off, short="0.0011")
        self._log(Kind.FACE_DONE, face=self._face().face)

    def start_second(self) -> None:
        """Turn the part over and start on its opposite."""
        self.release()

    def finish_second(self, gauge: Instrument, sides: Mapping[str, str], inspector: Person) -> None:
        """Grind the second face to size, measuring where the plan stops; prove the sides and have the part signed off."""
        self.release()
        for short in ("0.0042", "0.0006", "0.0003", "0.0002"):
            self.follow()
            self.measure(gauge, EVEN, short=short)
            if next_act(self._standing()).act == "close":
                break
            self.release(2, FaceChoice())
        self._log(Kind.FACE_DONE, face=OPPOSITE[self.job.part.reference_face])
        for axis, value in sides.items():
            self.measure_size(axis, gauge, value)
        self._log(Kind.SIGNED_OFF, by=inspector, minutes=20, note="First off; the batch may follow.")


def _read(greatest: Decimal, off: Mapping[str, str], gauge: Instrument) -> tuple[Reading, ...]:
    """Readings to the gauge's own step."""
    step = gauge.resolution_mm
    return tuple(Reading(place, ((greatest + Decimal(each)) / step).to_integral_value() * step) for place, each in off.items())
