"""Stories for tests: jobs worked by somebody who mostly does what comes next and now and then anything at all, each
act told with where the job stands after it."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from datetime import timedelta
from decimal import Decimal
from random import Random
from typing import Any

from tests.core.worklog import BEGIN, PAIR, SIDES, UNITS, D, entry, plan, size, spec, zone
from zesty_lark.core.part.faces import ALL_FACES, FaceState
from zesty_lark.core.part.sizes import Reading
from zesty_lark.core.work.ahead import ahead
from zesty_lark.core.work.behind import behind
from zesty_lark.core.work.cautions import cautions_at
from zesty_lark.core.work.entry import Kind
from zesty_lark.core.work.folding import Folding
from zesty_lark.core.work.halting import STOPS
from zesty_lark.core.work.job_state import JobSpec, JobState
from zesty_lark.core.work.learned import Times, time_told
from zesty_lark.core.work.looking import felt_stop
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.core.work.next_act import Next, next_act
from zesty_lark.core.work.observing import OBSERVATIONS
from zesty_lark.core.work.observing import SIDES as WHERE
from zesty_lark.core.work.plans import PlanSteps
from zesty_lark.core.work.preparing import ITEMS
from zesty_lark.core.work.rules import addressed, check_entry
from zesty_lark.core.work.run import Run
from zesty_lark.core.work.setups import SetUp
from zesty_lark.core.work.summary import next_words, summary_of
from zesty_lark.core.work.telling import tell
from zesty_lark.core.work.time_left import time_left
from zesty_lark.core.work.wheel_use import WheelFacts

WHEEL = WheelFacts(180.0, 12.7, 3000.0, 8.0, 60.0, 0.37)
LYING = {face: (88.0, 54.0) for face in ALL_FACES}
THREE = dict[str, Any](pieces=3, heights=("22.20", "22.25", "22.10"), came={1: FaceState.CLEANED})
BRIEFS: dict[str, JobSpec] = {
    "a pair": spec(wheel=WHEEL, lying_mm=LYING, spare_mm={1: D("0.06")}, setups=PAIR),
    "a batch": spec(
        size("thickness"), size("width"), size("length"), zone("square", (3, 4, 5, 6, 1), "0.005"),
        setups=(*PAIR, *SIDES), wheel=WHEEL, lying_mm=LYING, **THREE,
    ),
    "a clamping": spec(
        size("width"), size("length"), zone("flat", (3,), "0.004"), zone("finish", (3, 4), "0.0004"),
        setups=(SetUp("3+4", (3, 4), 1, on_magnet=False), SetUp("5", (5,), 3), SetUp("6", (6,), 4)), pieces=2,
        came={1: FaceState.CLEANED, 2: FaceState.CLEANED},
    ),
    "until clean": spec(
        size("thickness"), zone("flat", (1, 2), "0.003"), zone("parallel", (2, 1), "0.002"),
        wheel=WHEEL, lying_mm=LYING, spare_mm={1: D("0.04")}, heights=("22.1", "22.12"), pieces=2,
    ),
}  # fmt: skip
PLANS: tuple[tuple[str, ...], ...] = (
    ("place", "touch off", "0.02", "0.02", "spark-out", "measure", "0.005"),
    ("dress", "place", "blocks", "touch off", "no feed", "0.01", "turn", "0.01", "cool", "measure", "0.002"),
    ("0.02", "chamfer", "0.005"),
    ("place", "touch off", "0.01", "0.01", "dress", "0.003"),
)
TENTH = D("0.00254")
AMOUNTS = {"chamfer": D("0.5"), "turn": D(30), "cool": D(12)}
WHAT = {"dress": "fine", "measure": "half way"}
TIMES = {
    act: Times(minutes, low, high, 3)
    for act, minutes, low, high in (
        ("touch_off", 2.0, 1.0, 4.0), ("dress", 1.5, 1.0, 2.0), ("measure", 3.0, 2.0, 5.0), ("place", 4.0, 3.0, 6.0),
        ("flip", 1.25, 1.0, 2.0), ("fixture", 8.0, 6.0, 12.0),
    )
}  # fmt: skip


@dataclass(frozen=True)
class Line:
    """What was tried, in a sentence, and where the job stands after it, in short."""

    said: str
    stands: tuple[str, ...]


class Story:
    """A job worked from its beginning."""

    def __init__(self, of: JobSpec, seed: int, *, until_clean: bool = False) -> None:
        self.spec, self.random, self.until_clean = of, Random(seed), until_clean
        self.fold, self.number, self.minutes = Folding(of), 0, 0.0
        self.others: list[Callable[[JobState], tuple[Kind, dict[str, Any]] | None]] = [
            self._plan_anything, self._put_up, self._at_the_wheel, self._a_step, self._measure_anything, self._look,
            self._stop, self._leave, self._route, self._end, self._take_back, self._tick, self._of_the_job,
        ]  # fmt: skip

    def lines(self, how_many: int) -> Iterator[Line]:
        """The story, act by act."""
        for _ in range(how_many):
            job_state = self.fold.state()
            made = self._offered(job_state) if self.random.random() < 0.72 else None
            made = made or self.random.choice(self.others)(job_state)
            if made is not None:
                yield self._try(*made)

    def _try(self, kind: Kind, more: dict[str, Any]) -> Line:
        before = self.fold.state()
        self.number += 1
        self.minutes += self.random.choice((0.25, 1.0, 2.5, 6.0))
        made = replace(entry(kind, self.number, **more), at=BEGIN + timedelta(minutes=self.minutes), **_note(more))
        try:
            made = addressed(made, before)
            check_entry(made, before)
        except LogError as refusal:
            return Line(f"{kind.value}: refused. {refusal}", ())
        took = time_told(made, before)
        self.fold.add(made)
        told = tell(made, UNITS, len(self.spec.pieces))
        was, now = set(stands(before)), tuple(stands(self.fold.state()))
        changed = tuple(each for each in now if each not in was)
        return Line(told + (f" [{took[0]} took {took[1]} min]" if took else ""), changed)

    def _plan(self, surface: int, pieces: tuple[int, ...], *, keeps: bool = False) -> tuple[Kind, dict[str, Any]]:
        steps = ("0.01", "measure", "0.003") if keeps else self.random.choice(PLANS)
        made = plan(surface, *steps, keeps=keeps, spark_outs=self.random.choice((0, 1, 2)), **self._how())
        timed = tuple(
            replace(step, minutes=0.5 + number / 4, amount=AMOUNTS.get(step.kind), what=WHAT.get(step.kind, ""))
            for number, step in enumerate(made.steps)
        )
        return Kind.PLANNED, {"surface": surface, "pieces": pieces, "plan": replace(made, steps=timed)}

    def _how(self) -> dict[str, Any]:
        held = self.random.choice(("magnet", "magnet", "Angle plate A1"))
        return {"holder": held, "rise_c": D(self.random.choice((0, 4))), "until_clean": self.until_clean}

    def _offered(self, job_state: JobState) -> tuple[Kind, dict[str, Any]] | None:
        what, at = next_act(job_state), job_state.at
        if what.act == "plan" and what.surface is not None:
            keeps = at is not None and job_state.is_up(at) and at.touched_off
            return self._plan(what.surface, what.pieces, keeps=keeps)
        if what.act in ("measure", "measure_again", "prove"):
            return self._measure(what, job_state)
        if what.act in ("lead", "stopped", "halted"):
            kind = Kind.WENT_ON if what.act == "halted" else Kind.ENDED
            return kind, {"surface": what.surface, "piece": what.piece, "end": "scrapped", "note": "Looked at."}
        kind, more = {
            "pass": (Kind.PASS, {"reading_mm": None if at is None else at.next_reading_mm, "power_w": self._power()}),
            "touch_off": (Kind.TOUCHED_OFF, {"reading_mm": D("0.1")}),
            "place": (Kind.PLACED, {}),
            "spark-out": (Kind.SPARK_OUT, {"count": 1}),
            "no_feed": (Kind.SPARK_OUT, {"count": 1}),
            "dress": (Kind.DRESSED, {"amount_mm": self.random.choice((D("0.02"), D("0.02"), None))}),
            "close": (Kind.SURFACE_DONE, {"pieces": what.pieces}),
            "sign_off": (Kind.SIGNED_OFF, {}),
            "finished": (Kind.NOTE, {"note": "Wiped down."}),
        }.get(what.act, (Kind.DONE, {"step": 0 if at is None else at.done + 1}))
        return kind, {"surface": what.surface, **more}

    def _power(self) -> Decimal | None:
        return self.random.choice((None, D(420), D(510)))

    def _measure(self, what: Next, job_state: JobState) -> tuple[Kind, dict[str, Any]]:
        asked = self.spec.wanted.named(what.characteristic)
        assert asked is not None
        surface = what.surface or asked.surfaces[0]
        return self._measured(what.characteristic, surface, what.piece or 1, job_state)

    def _measured(self, name: str, surface: int, piece: int, job_state: JobState) -> tuple[Kind, dict[str, Any]]:
        own = job_state.pieces[piece].sizes.get(name)
        off = D(self.random.choice(("0", "0.0004", "0.002", "-0.001")))
        first = D("0.002") + off if own is None else own.by_collar_mm + off
        readings = (Reading("middle", first), Reading("left", first + D("0.0006")))[: self.random.choice((1, 2))]
        verdict = self.random.choice(("in", "in", "not yet", "unsure", "out", None))
        warm = {"part_c": D(26), "gauge_c": D(20), "room_c": D(20)} if self.random.random() < 0.15 else {}
        return Kind.MEASURED, {
            "surface": surface, "piece": piece, "characteristic": name, "readings": readings, "verdict": verdict,
            "uncertainty_mm": D("0.0005"), "instrument": "Comparator", **warm,
        }  # fmt: skip

    def _surface(self, job_state: JobState) -> int:
        at = job_state.surface_up or job_state.surface
        return at if at is not None and self.random.random() < 0.6 else self.random.choice(ALL_FACES)

    def _some(self) -> tuple[int, ...]:
        return self.random.choice(((), (1,), (2,), (1, 2), tuple(self.spec.pieces)))

    def _plan_anything(self, job_state: JobState) -> tuple[Kind, dict[str, Any]]:
        return self._plan(self._surface(job_state), self._some(), keeps=self.random.random() < 0.5)

    def _put_up(self, job_state: JobState) -> tuple[Kind, dict[str, Any]]:
        return Kind.PLACED, {"surface": self._surface(job_state)}

    def _at_the_wheel(self, job_state: JobState) -> tuple[Kind, dict[str, Any]]:
        surface = self._surface(job_state)
        run = job_state.runs.get(surface)
        further = D(self.random.choice(("-0.01", "0", "0.004", "0.01", "0.5")))
        power = self._power()
        return self.random.choice(
            (
                (Kind.TOUCHED_OFF, {"surface": surface, "reading_mm": D(self.random.choice(("0.05", "0.3", "-0.01")))}),
                (Kind.PASS, {
                    "surface": surface, "power_w": power, "reading_mm": (run.reading_mm if run else D(0)) + further,
                }),
                (Kind.SPARK_OUT, {"surface": surface, "count": self.random.choice((1, 3)), "power_w": power}),
                (Kind.DRESSED, {"surface": surface, "amount_mm": self.random.choice((None, D(0), D("0.03"), D(2)))}),
            )
        )  # fmt: skip

    def _a_step(self, job_state: JobState) -> tuple[Kind, dict[str, Any]]:
        surface = self._surface(job_state)
        run = job_state.runs.get(surface)
        step = (run.done if run else 0) + self.random.choice((0, 1, 1, 2))
        kind = self.random.choice((Kind.DONE, Kind.SKIPPED))
        return kind, {"surface": surface, "step": step, "note": self.random.choice(("", "Not needed here."))}

    def _measure_anything(self, job_state: JobState) -> tuple[Kind, dict[str, Any]]:
        names = [characteristic.name for characteristic in self.spec.wanted.characteristics]
        name, piece = self.random.choice(names), self.random.choice((*self.spec.pieces, 9))
        if piece == 9:
            return self._measured(name, 1, 1, job_state)[0], {**self._measured(name, 1, 1, job_state)[1], "piece": 9}
        return self._measured(name, self._surface(job_state), piece, job_state)

    def _look(self, job_state: JobState) -> tuple[Kind, dict[str, Any]]:
        seen = self.random.choice((*OBSERVATIONS, "clean", "patch"))
        side = self.random.choice(("", *WHERE))
        return Kind.OBSERVED, {"surface": self._surface(job_state), "seen": seen, "side": side}

    def _stop(self, job_state: JobState) -> tuple[Kind, dict[str, Any]]:
        surface, note = self._surface(job_state), self.random.choice(("", "Looked at."))
        if job_state.halted and self.random.random() < 0.7:
            return Kind.WENT_ON, {"surface": surface, "note": note}
        return Kind.HALTED, {"surface": surface, "seen": self.random.choice(tuple(STOPS)), "note": note}

    def _leave(self, job_state: JobState) -> tuple[Kind, dict[str, Any]]:
        surface, note = self._surface(job_state), self.random.choice(("", "Another job is in a hurry."))
        return self.random.choice(
            (
                (Kind.LEFT, {"surface": surface, "note": note}),
                (Kind.SURFACE_DONE, {"surface": surface, "pieces": self._some()}),
                (Kind.TAKEN_OVER, {"surface": surface, "screen": "screen-2"}),
            )
        )

    def _route(self, job_state: JobState) -> tuple[Kind, dict[str, Any]]:
        change = self.random.choice(("skip", "first", "grind"))
        setup = "" if change == "grind" else self.random.choice([each.key for each in self.spec.setups] + ["9"])
        return Kind.REROUTED, {
            "change": change, "setup": setup, "surface": self._surface(job_state) if change == "grind" else None,
            "pieces": self._some(), "note": self.random.choice(("", "It came out wrong.", "It came out wrong.")),
        }  # fmt: skip

    def _end(self, job_state: JobState) -> tuple[Kind, dict[str, Any]]:
        piece, note = self.random.choice((*self.spec.pieces, 9)), self.random.choice(("", "It fell."))
        names = [characteristic.name for characteristic in self.spec.wanted.characteristics]
        return self.random.choice(
            (
                (Kind.ENDED, {"piece": piece, "end": self.random.choice(("scrapped", "passed")), "note": note}),
                (Kind.WAIVED, {"piece": self.random.choice((piece, None)), "note": note,
                               "characteristic": self.random.choice(names)}),
                (Kind.SIGNED_OFF, {}),
            )
        )  # fmt: skip

    def _take_back(self, job_state: JobState) -> tuple[Kind, dict[str, Any]] | None:
        last = job_state.undoable
        return None if last is None else (Kind.UNDONE, {"supersedes": last.entry_id})

    def _tick(self, job_state: JobState) -> tuple[Kind, dict[str, Any]]:
        item = self.random.choice(tuple(ITEMS.values()))
        answer = self.random.choice((*(each.key for each in item.answers), "no such" if not item.answers else ""))
        answer = "" if not item.answers and self.random.random() < 0.7 else answer
        if self.random.random() < 0.2:
            return Kind.CAUTION_WAIVED, {
                "setup": self.random.choice(("1", "9")),
                "item": "weak hold",
                "note": "Blocked.",
            }
        return Kind.PREPARED, {"surface": self._surface(job_state), "item": item.key, "answer": answer}

    def _of_the_job(self, job_state: JobState) -> tuple[Kind, dict[str, Any]]:
        kind = self.random.choice((Kind.NOTE, Kind.AMENDED, Kind.HANDED_OVER))
        return kind, {"note": "Mist on." if kind is not Kind.NOTE else self.random.choice(("", "Mist on."))}


def _note(more: dict[str, Any]) -> dict[str, Any]:
    return {name: more[name] for name in ("note", "screen") if name in more}


def stands(job_state: JobState) -> Iterator[str]:
    """Where a job stands, in short lines."""
    what = next_act(job_state)
    yield f"next: {what.act}, {next_words(what, job_state)}, {_pieces(what.pieces)}"
    run = None if what.surface is None else job_state.runs[what.surface]
    mind = [f"{each.words.split('.')[0]}{'!' * each.confirm}" for each in cautions_at(what, run, job_state)]
    if mind:
        yield f"mind: {', '.join(mind)}"
    told, short = behind(job_state, UNITS), summary_of(job_state)
    listed = f"{short.up} {'running' if short.running else 'standing'}, waits for {short.waits_for or 'nobody'}"
    yield f"list: {listed}; then {' / '.join(told[:3])} … {len(told)}"
    up = "nothing up" if job_state.up is None else f"{'.'.join(map(str, job_state.up))} up"
    done, of = job_state.progress
    yield f"{up}; {done} of {of}; chuck at {_length(job_state.touches_chuck_mm)}; {_wheel(job_state)}"
    if job_state.at is not None:
        yield _run(job_state.at, job_state)
    for number, piece in job_state.pieces.items():
        sizes = ", ".join(
            f"{name} {_length(each.by_collar_mm)}{'' if each.measured else '?'}" for name, each in piece.sizes.items()
        )
        states = "".join(state.value[0] for _, state in sorted(piece.states.items()))
        verdicts = " ".join(f"{name}:{verdict}" for name, verdict in sorted(piece.verdicts.items()))
        end = piece.outcome(job_state.spec.wanted)
        yield f"piece {number}: {states} {sizes} {verdicts} {' '.join(sorted(piece.waived))} {end}".rstrip()
    if job_state.shortfalls:
        s = job_state.shortfalls[-1]
        yield (
            f"gap {len(job_state.shortfalls)}: asked {_length(s.asked_mm)} got {_length(s.got_mm)} held back "
            f"{_length(s.held_back_mm)} grown {_length(s.grown_mm)} of {float(s.volume_mm3):.4g} mm³ {s.fresh}"
        )


def _run(run: Run, job_state: JobState) -> str:
    left = time_left(run, TIMES, is_flip=bool(job_state.up))
    proofs = (
        f"{number}:{proof.verdict}{' under' * proof.under}{' over' * proof.over} {_length(proof.greatest_mm)} "
        f"{proof.tries}" for number, proof in sorted(run.proofs.items())
    )  # fmt: skip
    told = {
        "run": f"{'.'.join(map(str, run.place))} of {_pieces(run.pieces)}",
        "step": f"{run.done} after {run.passes_done} passes, then {_steps(run.plan, run.done)}" if run.plan else "",
        "skipped": " ".join(map(str, run.skipped)),
        "touched off at": _length(run.reading_mm) if run.touched_off else "",
        "left": f"{_length(run.left_mm)} below {_length(run.depth_mm)}" if run.plan else "",
        "collar": f"{_length(run.next_reading_mm)}, leave to {_length(run.last_reading_mm)}"
        if run.next_reading_mm
        else "",
        "held back": _length(run.held_back_mm) if run.held_back_mm else "",
        "seen": " ".join("-".join(filter(None, each)) for each in run.seen),
        "clean": "" if run.clean is None else str(run.clean),
        "dressed at": " ".join(map(_length, run.dressed_at)),
        "measured at": " ".join(map(_length, run.measured_at)),
        "minutes": f"{left.low:.4g} {left.likely:.4g} {left.high:.4g}, {left.table:.4g} of them table"
        if run.plan
        else "",
        "touch": _length(job_state.touch_reading_mm(run)),
        "felt": felt_stop(run, job_state),
        "ahead": str(len(ahead(job_state, BEGIN, TENTH))),
        "proofs": ", ".join(proofs),
    }
    return "; ".join(f"{name} {value}" for name, value in told.items() if value and value != "-")


def _steps(made: PlanSteps | None, done: int) -> str:
    left = () if made is None else made.steps[done:]
    told = [f"{each.kind}{f' {each.what}' if each.what else ''}@{_length(each.depth_mm)}" for each in left]
    return " ".join(told[:2] + ["…", *told[-1:]] * (len(told) > 2))


def _wheel(job_state: JobState) -> str:
    use, wheel = job_state.wheel_use, job_state.spec.wheel
    told = f"dressed {job_state.dressed}, " if job_state.dressed else ""
    if use.strokes:
        told += f"{use.strokes} strokes, deepest {_length(use.deepest_mm)}, front {use.front_mm:.4g}, "
        told += f"V' {use.volume_mm3_mm:.4g}, "
    if job_state.powers:
        last = job_state.powers[-1]
        told += f"{len(job_state.powers)} powers, at last {last.power_w:g} W with edge {last.edge_mm:.4g}, "
    if job_state.idle_w:
        told += f"idle {job_state.idle_w:g} W, "
    return told if wheel is None else f"{told}share {use.share(wheel):.3g}, offered {_length(use.dress_mm(TENTH))}"


def _pieces(numbers: tuple[int, ...]) -> str:
    return "pieces " + " ".join(map(str, numbers)) if numbers else "no piece"


def _length(mm: Decimal | None) -> str:
    return "-" if mm is None else f"{mm.normalize():f}"
