"""The fold: walks a job's log, entry by entry, and ends at where the work stands.

The collar's reading and the depth under the plan's start differ by an offset: a touch-off sets it, a dress moves it
by what came off the wheel's radius. The reading at which the wheel would touch the chuck is followed too, so that the
high spot of the next surface or load can be told without a new zero.
"""

from collections.abc import Callable, Sequence
from dataclasses import replace
from decimal import Decimal
from typing import Any

from zesty_lark.core.part.faces import FINISHED, FaceState
from zesty_lark.core.part.prints import Characteristic
from zesty_lark.core.part.sizes import parallel_decision, verdict
from zesty_lark.core.work.entries import Ended, Measured, Rerouted, SignedOff, Waived, ZeroLost
from zesty_lark.core.work.entry import Entry, Place
from zesty_lark.core.work.halting import CRASH, STOPS
from zesty_lark.core.work.job_state import JobSpec, Shortfall
from zesty_lark.core.work.machine_acts import (
    Dressed,
    Halted,
    LeftMachine,
    Observed,
    PassFed,
    Placed,
    Planned,
    Prepared,
    SparkedOut,
    StepDone,
    StepSkipped,
    SurfaceDone,
    TakenOver,
    TouchedOff,
    WentOn,
)
from zesty_lark.core.work.making import PieceMaking, RunMaking
from zesty_lark.core.work.plans import FEEDS, MAGNET
from zesty_lark.core.work.run import NOTHING, Run, proof_of
from zesty_lark.core.work.setups import SetUp
from zesty_lark.core.work.wheel_followed import WheelFollowed

BY_HAND = (
    Placed,
    Prepared,
    TouchedOff,
    PassFed,
    SparkedOut,
    Dressed,
    StepDone,
    StepSkipped,
    Observed,
    WentOn,
    TakenOver,
    LeftMachine,
)
"""What is only logged from where the machine is worked: whoever logs it holds the run."""


class Fold:
    """Walks the entries in force and keeps where things stand."""

    def __init__(self, spec: JobSpec) -> None:
        self.spec, self.wanted = spec, spec.wanted
        self.pieces = {
            number: PieceMaking.taken_in(number, sizes, spec.start_states) for number, sizes in spec.pieces.items()
        }
        self.setups = list(spec.setups)
        self.loads: dict[tuple[str, int], tuple[int, ...]] = {}
        self.runs: dict[Place, RunMaking] = {}
        self.up: Place | None = None
        self.touches_chuck: Decimal | None = None
        self.dressed = ""
        self.wheel = WheelFollowed(spec)
        self.shortfalls: list[Shortfall] = []
        self.signed_off: Entry | None = None
        self.halted: Halted | None = None
        self.held: tuple[str, str] | None = None
        self._acts: dict[type[Entry], Callable[[Any], None]] = {
            Planned: self._planned,
            Placed: self._placed,
            TouchedOff: self._touched_off,
            PassFed: self._pass,
            SparkedOut: self._spark_out,
            Dressed: self._dressed,
            StepDone: self._done,
            StepSkipped: self._skipped,
            Measured: self._measured,
            SurfaceDone: self._surface_done,
            LeftMachine: self._left,
            Observed: self._observed,
            Halted: self._halted,
            WentOn: self._went_on,
            Rerouted: self._rerouted,
            Waived: self._waived,
            Ended: self._ended,
            SignedOff: self._signed_off,
            ZeroLost: self._zero_lost,
        }

    def add(self, entry: Entry) -> None:
        """Walk one entry more."""
        act = self._acts.get(type(entry))
        if act is not None:
            act(entry)
        if isinstance(entry, BY_HAND) and entry.screen:
            self.held = (entry.by, entry.screen)
        if isinstance(entry, LeftMachine | SignedOff):
            self.held = None

    def _run(self, place: Place) -> RunMaking:
        if place[:2] not in self.loads:
            self.loads[place[:2]] = tuple(self._pending(place[2]))
        return self.runs.setdefault(place, RunMaking(place))

    def _of_load(self, place: Place) -> list[PieceMaking]:
        """The pieces that are up in a load: without those that are done with this surface, or were ended."""
        load = [self.pieces[number] for number in self.loads.get(place[:2], ())]
        return [piece for piece in load if piece.end is None and place[2] not in piece.done]

    def _planned(self, entry: Planned) -> None:
        if entry.pieces:
            known = self.loads.get(entry.place[:2], ())
            self.loads[entry.place[:2]] = known if set(entry.pieces) <= set(known) else entry.pieces
        self._run(entry.place).begin(entry.plan)

    def _placed(self, entry: Placed) -> None:
        self._off_the_chuck()
        self.up = entry.place
        run = self._run(entry.place)
        run.asks = entry.asks
        run.advance("place")

    def _off_the_chuck(self) -> None:
        self.up = None
        for run in self.runs.values():
            run.touched_off, run.left = False, 0.0

    def _left(self, entry: LeftMachine) -> None:
        self._off_the_chuck()
        self.touches_chuck = None

    def _zero_lost(self, entry: ZeroLost) -> None:
        self._lose_zero()

    def _lose_zero(self) -> None:
        for run in self.runs.values():
            run.touched_off, run.left = False, 0.0
        self.touches_chuck = None

    def _observed(self, entry: Observed) -> None:
        self._run(entry.place).observe(
            entry.seen,
            entry.side,
            only_clean=self.wanted.ends_on(entry.surface) is None,
            spare_mm=self.spec.spare_mm.get(entry.surface, NOTHING),
        )

    def _halted(self, entry: Halted) -> None:
        self.halted = entry
        if entry.seen == CRASH:
            self._lose_zero()

    def _went_on(self, entry: WentOn) -> None:
        """What the stop asks for comes first: a dress, or the part put up anew and its zero found again."""
        stop = None if self.halted is None else STOPS.get(self.halted.seen)
        self.halted = None
        if stop is not None and stop.loose:
            self._off_the_chuck()
            self.touches_chuck = None
        elif stop is not None and stop.dresses:
            self._run(entry.place).dress_next()

    def _touched_off(self, entry: TouchedOff) -> None:
        run = self._run(entry.place)
        run.touched_off, run.left, run.fresh = True, 0.0, True
        run.offset = entry.reading_mm - run.depth
        self._zeroed_on(run, entry)
        run.advance("touch off")

    def _zeroed_on(self, run: RunMaking, entry: TouchedOff) -> None:
        """Where the wheel met a piece whose height is known, it is known how high it stands over the chuck."""
        surface = self.wanted.surfaces[entry.surface]
        sizes = [piece.sizes[surface.size] for piece in self._of_load(entry.place)]
        highest = max(sizes, key=lambda size: size.by_collar_mm, default=None)
        if surface.is_height and highest is not None and highest.measured and not highest.asked_mm:
            self._meets_chuck_at(run, entry.reading_mm + highest.mm)

    def _meets_chuck_at(self, run: RunMaking, reading_mm: Decimal) -> None:
        held = next((setup.on_magnet for setup in self.setups if setup.key == run.place[0]), True)
        if held and (run.plan is None or run.plan.holder == MAGNET):
            self.touches_chuck = reading_mm

    def _pass(self, entry: PassFed) -> None:
        run = self._run(entry.place)
        table, left = run.settings(), run.left
        step = run.feed(entry.reading_mm, self.spec)
        took = left + float(step) - run.left
        self.wheel.cut(entry, run.passes[-1], table, took_mm=took, load=len(self._of_load(entry.place)))
        surface = self.wanted.surfaces[entry.surface]
        load = self._of_load(entry.place)
        to = surface.fed(surface.furthest(piece.sizes[surface.size].by_collar_mm for piece in load), step)
        for piece in load:
            piece.cut(surface, to)
            for each in self.wanted.about(entry.surface):
                piece.verdicts.pop(each.name, None)
        steps = run.plan.steps if run.plan else ()
        while run.done < len(steps) and steps[run.done].kind in FEEDS and steps[run.done].depth_mm <= run.depth:
            self.dressed = "" if steps[run.done].kind == "rough" else self.dressed
            run.done += 1
        run.follow()
        if run.plan is not None and run.plan.until_clean and self.wheel.is_worn:
            run.dress_next()

    def _spark_out(self, entry: SparkedOut) -> None:
        run = self._run(entry.place)
        self.wheel.idles(entry.power_w)
        for _ in range(entry.count):
            run.spark_out(self.spec)
            run.advance("no feed", "spark-out")
            run.follow()

    def _dressed(self, entry: Dressed) -> None:
        run = self._run(entry.place)
        run.dressed_at.append(run.depth)
        step = run.advance("dress")
        self.dressed = step.what if step else ""
        self.wheel.dressed(self.dressed)
        self._wheel_smaller_by(entry.amount_mm)

    def _wheel_smaller_by(self, amount_mm: Decimal | None) -> None:
        """There is one wheel: whichever run a dress is logged for, every zero moves by it, or is lost when nobody
        knows."""
        for run in self.runs.values():
            run.touched_off = run.touched_off and amount_mm is not None
            run.offset += amount_mm or NOTHING
        if self.touches_chuck is not None:
            self.touches_chuck = None if amount_mm is None else self.touches_chuck + amount_mm

    def _done(self, entry: StepDone) -> None:
        step = self._run(entry.place).advance("chamfer", "turn", "blocks", "cool")
        if step is not None and step.kind == "chamfer":
            self.wheel.chamfered(step.amount)

    def _skipped(self, entry: StepSkipped) -> None:
        run = self._run(entry.place)
        if run.plan is not None and entry.step == run.done + 1:
            run.skipped.append(run.done + 1)
            run.done += 1

    def _measured(self, entry: Measured) -> None:
        piece, asked = self.pieces[entry.piece], self.wanted.named(entry.characteristic)
        if entry.surface is not None and entry.characteristic == self.wanted.surfaces[entry.surface].size:
            self._size_measured(entry, piece, asked)
        if entry.verdict is not None:
            piece.verdicts[entry.characteristic] = entry.verdict
            if asked is not None and asked.kind == "size" and len(entry.readings) > 1:
                self._parallel(entry, piece, asked)

    def _size_measured(self, entry: Measured, piece: PieceMaking, asked: Characteristic | None) -> None:
        assert entry.surface is not None
        surface = self.wanted.surfaces[entry.surface]
        place, size = (entry.setup, entry.load, entry.surface), piece.sizes[entry.characteristic]
        run = self._run(place)
        run.proofs[entry.piece] = proof_of(entry, asked, run.proofs.get(entry.piece), grows=surface.grows)
        run.measured_at.append(run.depth)
        if all(each.number in run.proofs for each in self._of_load(place)):
            run.advance("measure")
        cut = size.asked_mm > 0
        if cut:
            passes = tuple(run.passes) if size.asked_mm == run.fed_since else ()
            got = size.feed_to(surface.furthest((entry.greatest_mm, entry.least_mm)))
            self.shortfalls.append(
                Shortfall(
                    entry.at,
                    entry.surface,
                    size.asked_mm,
                    got,
                    passes,
                    entry.piece,
                    run.held_back,
                    max(got, NOTHING) * piece.area_mm2(entry.characteristic) * len(self._of_load(place)),
                    run.fresh,
                    run.grown(size.mm),
                )
            )
            run.fresh = False
        piece.measured(surface, entry)
        if surface.is_height and run.touched_off and self.up == place and (cut or len(self._of_load(place)) == 1):
            self._meets_chuck_at(run, run.offset + run.depth + entry.greatest_mm - run.held_back)

    def _parallel(self, entry: Measured, piece: PieceMaking, size: Characteristic) -> None:
        """Readings of a size tell of parallel too; a size that is in stays in when only that is not."""
        asked = next(
            (
                characteristic
                for characteristic in self.wanted.characteristics
                if characteristic.kind == "parallel" and set(characteristic.surfaces) == set(size.surfaces)
            ),
            None,
        )
        if asked is None:
            return
        told = parallel_decision(entry.spread_mm, asked.allowed_mm, entry.uncertainty_mm)
        piece.verdicts[asked.name] = told
        ends = {
            verdict(each, size.limits.lower_mm, size.limits.upper_mm, entry.uncertainty_mm)
            for each in (entry.greatest_mm, entry.least_mm)
        }
        if told != "in" and ends == {"in"} and not entry.note:
            piece.verdicts[size.name] = "in"

    def _surface_done(self, entry: SurfaceDone) -> None:
        ends = self.wanted.ends_on(entry.surface)
        for piece in self._of_load(entry.place):
            if not entry.pieces or piece.number in entry.pieces:
                piece.done.add(entry.surface)
                piece.states[entry.surface] = FaceState.CLEANED if ends is None else FaceState.TO_SIZE

    def _rerouted(self, entry: Rerouted) -> None:
        if entry.change == "grind" and entry.surface is not None:
            self._grind_again(entry.surface, entry.pieces or tuple(self.pieces), entry.note)
            return
        found = next((setup for setup in self.setups if setup.key == entry.setup), None)
        if found is not None:
            place = self.setups.index(found)
            if entry.change == "skip":
                self.setups[place] = replace(found, left_out=entry.note)
            else:
                self.setups.insert(0, replace(self.setups.pop(place), left_out=""))

    def _grind_again(self, surface: int, pieces: Sequence[int], why: str) -> None:
        """A surface is to be ground whatever was said of it; without a set-up it gets one of its own, next."""
        for number in pieces:
            piece = self.pieces[number]
            piece.done.discard(surface)
            piece.states[surface] = FaceState.STABLE
            for each in self.wanted.about(surface):
                piece.verdicts.pop(each.name, None)
        holding = next((setup for setup in self.setups if surface in setup.up), None)
        if holding is None:
            self.setups.insert(0, SetUp(str(surface), (surface,), self.wanted.surfaces[surface].opposite))
        elif holding.left_out:
            self.setups[self.setups.index(holding)] = replace(holding, left_out="")
        for place in [place for place in self.runs if place[2] == surface]:
            self.loads[place[:2]] = tuple(load for load in self.loads[place[:2]] if load not in pieces)

    def _waived(self, entry: Waived) -> None:
        for number in self.pieces if entry.piece is None else (entry.piece,):
            self.pieces[number].waived[entry.characteristic] = entry

    def _ended(self, entry: Ended) -> None:
        self.pieces[entry.piece].end = entry.end

    def _signed_off(self, entry: SignedOff) -> None:
        self.signed_off, self.up = entry, None
        for piece in self.pieces.values():
            made = (surface for surface, state in piece.states.items() if state in FINISHED)
            piece.states |= {each: FaceState.PROVEN for each in made if piece.states[each] is not FaceState.AS_IT_IS}

    def _pending(self, surface: int, *, ready: bool = False) -> list[int]:
        """The pieces on which a surface is still to be ground; only those on which it can be now, when ``ready``."""
        asked = self.wanted.surfaces[surface]
        return [
            number
            for number, piece in self.pieces.items()
            if piece.wants(asked) and (not ready or piece.ready_for(asked))
        ]

    def at_work(self) -> RunMaking | None:
        """The run that is at work or comes next: what can be ground now before what stands on something not ready."""
        return self._first_run(ready=True) or self._first_run(ready=False)

    def _first_run(self, *, ready: bool) -> RunMaking | None:
        """The first run with something to do: an open load before a new one, set-up after set-up."""
        for setup in self.setups:
            pending = {surface: self._pending(surface, ready=ready) for surface in setup.up}
            if setup.left_out or not any(pending.values()):
                continue
            loads = sorted(number for key, number in self.loads if key == setup.key)
            for load in loads:
                for surface in setup.up:
                    if set(self.loads[setup.key, load]) & set(pending[surface]):
                        return self.runs.get((setup.key, load, surface)) or RunMaking((setup.key, load, surface))
            surface = next(each for each in setup.up if pending[each])
            return RunMaking((setup.key, loads[-1] + 1 if loads else 1, surface))
        return None

    def frozen(self, run: RunMaking) -> Run:
        """A run with the pieces that are still to be done in it."""
        pending = self._pending(run.place[2], ready=True) or self._pending(run.place[2])
        pieces = self.loads.get(run.place[:2], tuple(pending))
        return run.frozen(tuple(piece for piece in pieces if piece in pending))

    def newest_runs(self, at: RunMaking | None) -> dict[int, Run]:
        """The run of each surface: the one at work, else the last there was, else one still to come."""
        found = {
            surface: RunMaking(
                (next((setup.key for setup in self.setups if surface in setup.up), str(surface)), 1, surface)
            )
            for surface in self.wanted.surfaces
        }
        for place, run in self.runs.items():
            found[place[2]] = run
        if at is not None:
            found[at.place[2]] = at
        return {surface: self.frozen(run) for surface, run in found.items()}
