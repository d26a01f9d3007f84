"""Someone at the machine, for the demonstration: every act goes through the application's own log."""

from collections.abc import Mapping
from datetime import datetime, timedelta
from decimal import Decimal
from uuid import NAMESPACE_URL, uuid5

from sqlalchemy.orm import Session

from zesty_lark.core.part.sizes import Reading
from zesty_lark.core.part.taken_in import TakeIn
from zesty_lark.core.squaring.choices import FaceChoice, RouteChoices
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.looking import open_items
from zesty_lark.core.work.next_act import Next, next_act
from zesty_lark.core.work.run import Run
from zesty_lark.shopfloor.acts import jobs, machine, measuring, plans, set_ups
from zesty_lark.shopfloor.acts.acting import Acting, InShop
from zesty_lark.store import job_states
from zesty_lark.store.models import InstrumentRow, Job, Person

EVEN = {
    "front left": "-0.0004",
    "front right": "0",
    "middle": "-0.0006",
    "back left": "-0.0003",
    "back right": "-0.0002",
}
HALF_A_THOU = FaceChoice("custom", downfeed_mm=0.0127, crossfeed_mm=0.8, table_mm_s=300.0)
OF_SMALL_ONES = FaceChoice("custom", downfeed_mm=0.0127, crossfeed_mm=0.55, table_mm_s=300.0)
"""Small parts on the bare magnet, six that dull the wheel together: a finer crossfeed pushes them less."""
SHORTS = ("0.0042", "0.0012", "0.0006", "0.0003", "0.0002", *["0.0001"] * 8)
"""What comes out short of what was asked, measurement after measurement [mm]."""
DRESSED_OFF_MM = Decimal("0.02032")
FOLLOWED = ("dress", "chamfer", "place", "turn", "blocks", "look", "touch_off", "no_feed", "pass", "spark-out", "cool")
"""What a plan asks for that is followed without a decision."""


LEVEL = "level"
"""Which side is high, where nobody minds."""


class Shift:
    """A stretch of work on one job; each act takes a while on the clock."""

    def __init__(
        self, session: Session, job: Job, person: Person, begins: datetime, *, lead: Person | None = None
    ) -> None:
        self.session, self.job, self.person, self.clock = session, job, person, begins
        self.lead = lead or person
        self.count = 0

    @classmethod
    def taking_in(
        cls,
        session: Session,
        what: TakeIn,
        person: Person,
        begins: datetime,
        *,
        note: str = "",
        lead: Person | None = None,
    ) -> "Shift":
        """Take a part in, and work on it; what only a lead may release is released by one."""
        at, first = begins + timedelta(minutes=2), str(uuid5(NAMESPACE_URL, f"{what.number}/1"))
        job = jobs.take_in(InShop(session, person, at, first), what=what, note=note)
        made = cls(session, job, person, at, lead=lead)
        made.count = 1
        return made

    def _acting(self, minutes: float = 2, by: Person | None = None) -> Acting:
        """Whoever acts, a while later, having seen all there is."""
        self.clock += timedelta(minutes=minutes)
        seen = self._state().last_seq
        return Acting(self.session, by or self.person, self.job, self.clock, self._entry_id(), seen)

    def _entry_id(self) -> str:
        self.count += 1
        return str(uuid5(NAMESPACE_URL, f"{self.job.number}/{self.count}"))

    def _state(self) -> JobState:
        return job_states.state_of(self.session, self.job)

    def _run(self) -> Run:
        at = self._state().at
        assert at is not None
        return at

    def _next(self) -> Next:
        return next_act(self._state())

    def note(self, words: str) -> None:
        """Write a note."""
        machine.note(self._acting(), note=words)

    def keep_part_plan(self, choices: RouteChoices, *, release: bool = False) -> None:
        """Keep a version of the part's plan, and put it in force."""
        who = self._acting(4, self.lead)
        if release:
            plans.release_route(who, choices=choices)
        else:
            plans.keep_plan(who, choices=choices)

    def release(self, minutes: float = 3, choice: FaceChoice = HALF_A_THOU, pieces: tuple[int, ...] = ()) -> None:
        """Plan the surface at work and release that."""
        surface = self._run().surface
        choices = self.job.part.route_choices.with_face(surface, choice)
        plans.release_face(self._acting(minutes, self.lead), face=surface, choices=choices, pieces=pieces)

    def follow(self, passes: int | None = None) -> None:
        """Do what the plan asks for, in its order, until it asks for a measurement or the first few passes are done."""
        while (act := self._next().act) in FOLLOWED:
            if act == "pass" and passes is not None and self._run().passes_done >= passes:
                break
            self._act(act)

    def _look(self, minutes: float) -> float:
        """Look at what the list before the touch-off asks, all well; return what that leaves of the time [min]."""
        run = self._run()
        listed = open_items(self._state(), run)
        for each in listed:
            answer = LEVEL if each.item.key == "high side" else each.item.well_answer
            who = self._acting(minutes / (len(listed) + 1))
            set_ups.tick(who, face=run.surface, item=each.item.key, answer=answer, pieces=each.pieces)
        return minutes / (len(listed) + 1)

    def _act(self, act: str) -> None:
        job_state, run = self._state(), self._run()
        step, surface = run.next_step, run.surface
        minutes = max(1.0, step.minutes) if step is not None else 3.0
        if act == "look":
            minutes, act = self._look(minutes), "touch_off"
        who = self._acting(minutes)
        if act == "pass":
            machine.feed(who, surface=surface, reading_mm=run.next_reading_mm)
        elif act == "touch_off":
            met = job_state.touch_reading_mm(run)
            machine.touch_off(who, surface=surface, reading_mm=met if met is not None and met >= 0 else Decimal(0))
        elif act == "dress":
            machine.dress(who, surface=surface, amount_mm=DRESSED_OFF_MM)
        elif act == "place":
            up = self.job.machine.on_chuck
            machine.put_up(
                who, surface=surface, stopped=True, takes_off="" if up in (None, self.job.number) else str(up)
            )
        elif act in ("no_feed", "spark-out"):
            machine.spark_out(who, surface=surface)
        elif step is not None:
            machine.do_step(who, surface=surface, step=step.number, stopped=True)

    def measure(self, gauge: InstrumentRow, off: Mapping[str, str], *, short: str, piece: int = 1) -> None:
        """Measure the size of what is up, at places off from the largest, which came out ``short`` of what was asked
        [mm]."""
        job_state = self._state()
        size = job_state.spec.wanted.surfaces[self._run().surface].size
        self.prove(
            size,
            gauge,
            str(job_state.pieces[piece].sizes[size].by_collar_mm + Decimal(short)),
            off,
            piece=piece,
            warm=True,
        )

    def prove(
        self,
        characteristic: str,
        gauge: InstrumentRow,
        value: str,
        off: Mapping[str, str],
        *,
        piece: int = 1,
        warm: bool = False,
    ) -> None:
        """Measure a characteristic: the largest reading, and how far the other places are off it [mm]."""
        temperatures = (Decimal("21.5"), Decimal("21.3"), Decimal("21.3")) if warm else (None, None, None)
        part_c, gauge_c, room_c = temperatures
        measuring.measure(
            self._acting(3),
            characteristic=characteristic,
            gauge=gauge.name,
            readings=_read(Decimal(value), off, gauge),
            piece=piece,
            part_c=part_c,
            gauge_c=gauge_c,
            room_c=room_c,
            stopped=True,
        )

    def close(self) -> None:
        """Declare what is at work done, on the pieces that are proved."""
        what = self._next()
        assert what.surface is not None
        machine.close_surface(self._acting(), surface=what.surface, pieces=what.pieces)

    def finish(self, gauge: InstrumentRow, shorts: tuple[str, ...] = SHORTS) -> None:
        """Grind what is next to its size, measuring where the plan stops."""
        self.release()
        for short in shorts:
            self.follow()
            self.measure(gauge, EVEN, short=short)
            if self._next().act == "close":
                break
            self.release(2, FaceChoice())
        self.close()

    def leave(self, why: str) -> None:
        """Take the load off for another job."""
        machine.take_off(self._acting(), surface=self._run().surface, reason=why)

    def grind_reference(self, gauge: InstrumentRow, off: Mapping[str, str]) -> None:
        """Clean the reference up and declare it done."""
        self.release()
        self.follow()
        self.measure(gauge, off, short="0.0011")
        self.close()

    def start(self, pieces: tuple[int, ...] = ()) -> None:
        """Release the plan of what comes next."""
        self.release(pieces=pieces)


def _read(greatest: Decimal, off: Mapping[str, str], gauge: InstrumentRow) -> tuple[Reading, ...]:
    """Readings to the gauge's own step."""
    step = gauge.resolution_mm
    return tuple(
        Reading(place, ((greatest + Decimal(each)) / step).to_integral_value() * step) for place, each in off.items()
    )
