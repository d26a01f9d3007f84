"""What is done at the machine: put up, touched off, fed, dressed, seen, stopped."""

from decimal import Decimal

from zesty_lark.core.part.dial import next_shown
from zesty_lark.core.part.surfaces import feeding_of
from zesty_lark.core.quantities.numbers import Exact, ExactNonNegative
from zesty_lark.core.setup.before import needed
from zesty_lark.core.work.cautions import HANDS_IN
from zesty_lark.core.work.entries import Noted, Undone
from zesty_lark.core.work.entry import Entry
from zesty_lark.core.work.halting import CRASH, sounds_like_a_crash
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.looking import felt_stop, open_stop
from zesty_lark.core.work.machine_acts import (
    Dressed,
    Halted,
    LeftMachine,
    Observed,
    PassFed,
    Placed,
    SparkedOut,
    StepDone,
    StepSkipped,
    SurfaceDone,
    TakenOver,
    TouchedOff,
    WentOn,
)
from zesty_lark.core.work.machine_rules import LogError, refuse
from zesty_lark.core.work.plans import FEEDS, PlanStep
from zesty_lark.core.work.rules import addressed, check_entry
from zesty_lark.core.work.run import Run
from zesty_lark.core.work.telling import step_words
from zesty_lark.core.work.witnesses import AskedAbout, Witness, disagree, quick_words, too_quick, was_air
from zesty_lark.shopfloor.acts.acting import LONGEST_NOTE, Acting, act, log, log_any_time, made, reason_given, unseen
from zesty_lark.shopfloor.forming_up import is_formed
from zesty_lark.shopfloor.looking import asked
from zesty_lark.shopfloor.setting_up import in_force, open_cautions, recheck
from zesty_lark.shopfloor.units import shown_units
from zesty_lark.store import set_ups
from zesty_lark.store.models.people import Role
from zesty_lark.store.shoplog import Appended

MOST_W = Decimal(1_000_000)
STOPPED = "Tick that the wheel has stopped and that you have seen it stop, before hands go in."
AIR = (
    "The meter showed no more than in a pass without feed: did it cut, or was it air? Look, go over it again, or say "
    "that it cut."
)
READOUT = (
    "The readout says {} and the collar is to be at {}: which is right? If the readout is, this is not where the plan "
    "has it: touch off again. If the collar is, say so."
)
NO_POWER = "That is no power."
WAS_IT = (
    "That sounds like a crash: wheel and zero are then out of use until somebody has looked. Press “It was a crash”, "
    "or say that it was none."
)
LOOK = "After a crash chuck, guard and spindle are looked at before anything goes on. Say that they were."


def _run(acting: Acting, surface: int) -> Run | None:
    return acting.job_state.runs.get(surface)


def _step(acting: Acting, surface: int) -> PlanStep | None:
    return _next_step(acting.job_state, surface)


def _next_step(job_state: JobState, surface: int) -> PlanStep | None:
    run = job_state.runs.get(surface)
    return None if run is None else run.next_step


def _power(power_w: Decimal | None) -> Decimal | None:
    """The most that the power meter showed since the last press [W]."""
    if power_w is not None and not (power_w.is_finite() and 0 <= power_w <= MOST_W):
        raise LogError(NO_POWER)
    return None if power_w is None else round(power_w, 1)


@act()
def put_up(acting: Acting, *, surface: int, stopped: bool = False, takes_off: str = "") -> Appended:
    """Put the load up with a surface uppermost; ``stopped``: the wheel was seen to stop before hands went in;
    ``takes_off``: the job whose load came off the chuck for it."""
    if not stopped:
        raise LogError(STOPPED)
    run = _run(acting, surface)
    asks = () if run is None else asked(acting.session, acting.job, acting.job_state, run, now=acting.at)
    return log(acting, Placed, takes_off=takes_off, surface=surface, asks=asks)


@act()
def touch_off(acting: Acting, *, surface: int, reading_mm: Exact = Decimal(0)) -> Appended:
    """Meet the highest piece of the load with the collar at a reading [mm]; the set-up is checked again as it is
    now."""
    run = _run(acting, surface)
    if run is not None:
        _check_set_up(acting, run)
    if run is not None and acting.is_a(Role.APPRENTICE):
        held_up = open_cautions(acting.job, acting.job_state, run.setup)
        if held_up:
            raise LogError(f"The set-up has a caution: {held_up[0]}. A lead waives it at Set up, or put it right.")
    return log(acting, TouchedOff, surface=surface, reading_mm=reading_mm)


def _check_set_up(acting: Acting, run: Run) -> None:
    """Check the set-up again as it is now; what was laid out since it was put up is looked at too."""
    job_state = acting.job_state
    if is_formed(job_state, run.surface) or set_ups.of(acting.session, acting.job, run.setup) is None:
        return
    laid_out = in_force(acting.session, acting.job, job_state, run, now=acting.at)
    if laid_out is not None:
        recheck(acting.session, laid_out)
        if not laid_out.checked.stops:
            refuse(felt_stop(run, job_state) or open_stop(run, job_state, needed(laid_out.checked)))


@act()
def feed(
    acting: Acting,
    *,
    surface: int,
    reading_mm: Exact | None = None,
    shown_mm: Exact | None = None,
    power_w: Exact | None = None,
    readout_mm: Exact | None = None,
    sure: tuple[Witness, ...] = (),
) -> Appended:
    """Make a pass with the collar fed down to a reading, or to where it shows ``shown_mm`` within its turn [mm], beside
    what meter and readout showed; ``sure``: what was asked about and is so all the same."""
    if shown_mm is not None:
        run, per_rev = _run(acting, surface), acting.job.machine.per_rev_mm
        reading_mm = shown_mm if run is None or shown_mm >= per_rev else next_shown(shown_mm, run.reading_mm, per_rev)
    if reading_mm is None:
        raise LogError("Which collar reading was fed down to?")
    job_state, asked = acting.job_state, dict[Witness, str]()
    step = _next_step(job_state, surface)
    if step is not None and too_quick(step, job_state, acting.at):
        asked["quick"] = quick_words(step)
    if was_air(step, power_w, job_state.idle_w):
        asked["air"] = AIR
    if readout_mm is not None and _is_off(acting, surface, reading_mm, readout_mm):
        units = shown_units(acting.job)
        asked["readout"] = READOUT.format(units.collar(readout_mm), units.collar(reading_mm))
    _ask(acting, job_state, made(acting, PassFed, surface=surface, reading_mm=reading_mm), _left(asked, sure))
    return log(acting, PassFed, surface=surface, reading_mm=reading_mm, power_w=_power(power_w))


def _left(asked: dict[Witness, str], sure: tuple[Witness, ...]) -> dict[Witness, str]:
    """What was not answered."""
    return {witness: words for witness, words in asked.items() if witness not in sure}


def _ask(acting: Acting, job_state: JobState, entry: Entry, left: dict[Witness, str]) -> None:
    """Ask about what a witness speaks against, of an entry that could be logged otherwise."""
    logged = any(each.entry_id == entry.entry_id for each in reversed(job_state.history))
    behind = acting.seen is not None and acting.seen != job_state.last_seq
    if left and not (logged or behind):
        check_entry(addressed(entry, job_state), job_state)
        raise AskedAbout(*next(iter(left.items())))


def _is_off(acting: Acting, surface: int, reading_mm: Decimal, readout_mm: Decimal) -> bool:
    """Whether the readout stands elsewhere than the collar is said to be; across the face it reads another way."""
    machine = acting.job.machine
    backlash, graduation = machine.backlash_mm, machine.graduation_mm
    off = disagree(readout_mm=readout_mm, collar_mm=reading_mm, backlash_mm=backlash, graduation_mm=graduation)
    return off and feeding_of(acting.job.part.block(), surface).dial != "across"


@act()
def spark_out(
    acting: Acting, *, surface: int, power_w: Exact | None = None, sure: tuple[Witness, ...] = ()
) -> Appended:
    """Make a pass without feed; ``sure``: what was asked about and is so all the same."""
    job_state = acting.job_state
    step = _next_step(job_state, surface)
    if step is not None and step.kind not in FEEDS and too_quick(step, job_state, acting.at):
        left = _left({"quick": quick_words(step)}, sure)
        _ask(acting, job_state, made(acting, SparkedOut, surface=surface), left)
    return log(acting, SparkedOut, surface=surface, count=1, power_w=_power(power_w))


@act()
def dress(acting: Acting, *, surface: int, amount_mm: ExactNonNegative | None = None) -> Appended:
    """Dress the wheel; what came off its radius [mm], where somebody knows."""
    return log(acting, Dressed, surface=surface, amount_mm=amount_mm)


@act()
def do_step(acting: Acting, *, surface: int, step: int, stopped: bool = False) -> Appended:
    """Say that a step of the plan is done; where hands go in for it, that the wheel was seen to stop."""
    asked = _step(acting, surface)
    if asked is not None and asked.kind in HANDS_IN and not stopped:
        raise LogError(STOPPED)
    words = step_words(asked, shown_units(acting.job)) if asked is not None else ""
    return log(acting, StepDone, surface=surface, step=step, note=words)


@act()
def skip_step(acting: Acting, *, surface: int, step: int, reason: str = "") -> Appended:
    """Leave a step of the plan out, with a reason; an apprentice leaves no measurement out."""
    given, asked = reason_given(reason, "Why is it skipped?"), _step(acting, surface)
    if asked is not None and asked.kind == "measure" and acting.is_a(Role.APPRENTICE):
        raise LogError("A measure stop is waived by a machinist or a lead, not while learning. Measure.")
    words = step_words(asked, shown_units(acting.job)) if asked is not None else ""
    return log(acting, StepSkipped, surface=surface, step=step, note=f"{words}. {given}")


@act()
def take_off(acting: Acting, *, surface: int, reason: str = "") -> Appended:
    """Take the load off before it is done, with a reason."""
    return log(
        acting, LeftMachine, surface=surface, note=reason_given(reason, "Why is it taken off before it is done?")
    )


@act()
def close_surface(acting: Acting, *, surface: int, pieces: tuple[int, ...] = ()) -> Appended:
    """Declare a surface done on these pieces; without any, on all of the load."""
    return log(acting, SurfaceDone, surface=surface, pieces=pieces)


@act()
def note(acting: Acting, *, note: str) -> Appended:
    """Write a remark into the log."""
    words = note.strip()
    if len(words) > LONGEST_NOTE:
        raise LogError(f"A note has at most {LONGEST_NOTE} characters.")
    return log_any_time(unseen(acting), Noted, note=words)


@act()
def undo(acting: Acting, *, supersedes: str) -> Appended:
    """Take back the newest entry in force, by its id."""
    return log(acting, Undone, supersedes=supersedes)


@act()
def observe(acting: Acting, *, surface: int, what: str, side: str = "") -> Appended:
    """Say what eyes and ears told, and on which side of the face."""
    return log(acting, Observed, surface=surface, seen=what, side=side)


@act()
def halt(acting: Acting, *, surface: int, what: str, reason: str = "", power_w: Exact | None = None) -> Appended:
    """Stop for what was seen."""
    run = _run(acting, surface)
    reading = run.reading_mm if run is not None and run.touched_off else None
    said = reason.strip()[:LONGEST_NOTE]
    return log_any_time(
        unseen(acting), Halted, surface=surface, seen=what, reading_mm=reading, power_w=_power(power_w), note=said
    )


@act()
def go_on(acting: Acting, *, surface: int, reason: str = "", looked: bool = False, no_crash: bool = False) -> Appended:
    """Go on after a stop, with a reason; after a crash ``looked``: chuck, guard and spindle were looked at;
    ``no_crash``: what sounds like one was none."""
    halted = acting.job_state.halted
    if halted is not None and halted.seen == "other" and sounds_like_a_crash(reason) and not no_crash:
        raise LogError(WAS_IT)
    if halted is not None and halted.seen == CRASH and acting.is_a(Role.APPRENTICE):
        raise LogError("After a crash a lead looks first and goes on, not whoever is learning.")
    if halted is not None and halted.seen == CRASH and not looked:
        raise LogError(LOOK)
    return log(acting, WentOn, surface=surface, note=reason_given(reason, "Why may it go on?"))


@act()
def take_over(acting: Acting, *, surface: int) -> Appended:
    """Work the run from this screen from now on."""
    return log_any_time(unseen(acting), TakenOver, surface=surface)
