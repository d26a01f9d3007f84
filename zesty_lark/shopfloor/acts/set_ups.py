"""A set-up: laid out, taken into the plan, its list worked through, a caution waived, a thin part turned over."""

from zesty_lark.core.setup.layout import Layout
from zesty_lark.core.setup.thin import MOST_TURNS
from zesty_lark.core.squaring.choices import RouteChoices
from zesty_lark.core.work.entries import CautionWaived, Rerouted
from zesty_lark.core.work.machine_acts import Prepared
from zesty_lark.core.work.machine_rules import LogError, refuse
from zesty_lark.core.work.preparing import says_no_piece
from zesty_lark.shopfloor.acts.acting import Acting, act, log, log_any_time
from zesty_lark.shopfloor.forming_up import is_formed
from zesty_lark.shopfloor.loads import room_in
from zesty_lark.shopfloor.setting_up import LaidOut, in_turns, kept, laid_out_of, set_up_of, taken_into_plan, thin_of
from zesty_lark.store import part_plans
from zesty_lark.store.models import PartPlanRow
from zesty_lark.store.models.people import Role
from zesty_lark.store.shoplog import Appended

LONGEST_REASON = 500


def laid_out_at(acting: Acting, face: int) -> LaidOut:
    """Return the set-up that has a face up, as it is laid out; ``LogError`` where none is laid out for it."""
    job, job_state = acting.job, acting.job_state
    setup, at = set_up_of(job_state, face)
    if is_formed(job_state, at):
        raise LogError(f"{job_state.titled(at)} is set up on a page of its own: nothing is laid out for it.")
    room, today = room_in(job, job_state, at, lead_in=False), acting.at.date()
    return laid_out_of(acting.session, job, job_state, today, setup=setup, face=at, room=room)


@act()
def lay_out(acting: Acting, *, face: int, layout: Layout, version: int | None = None, back: bool = False) -> LaidOut:
    """Keep a layout of the set-up that has a face up, with what its check finds; ``back``: it is the one before.

    Raises
    ------
    LaidOutMeanwhile
        If it is no longer at the ``version`` that was changed.
    """
    laid_out = laid_out_at(acting, face)
    return kept(acting.session, laid_out, layout, acting.person, version=version, at=acting.at, back=back)


@act()
def take_into_plan(acting: Acting, *, face: int) -> PartPlanRow:
    """Keep a new version of the part's plan that holds the part as it is laid out; ``NewerVersion`` if someone kept
    another at this very moment."""
    laid_out = laid_out_at(acting, face)
    return _keep_plan(acting, laid_out, taken_into_plan(laid_out))


@act()
def take_in_turns(acting: Acting, *, face: int, turns: int) -> PartPlanRow:
    """Keep a new version of the part's plan that takes both sides of a thin part so many times."""
    if not 1 <= turns <= MOST_TURNS:
        raise LogError(f"Each side is taken 1 to {MOST_TURNS} times.")
    laid_out = laid_out_at(acting, face)
    return _keep_plan(acting, laid_out, in_turns(laid_out, turns))


def _keep_plan(acting: Acting, laid_out: LaidOut, choices: RouteChoices) -> PartPlanRow:
    newest = part_plans.newest(acting.session, acting.job)
    return part_plans.save(
        acting.session,
        acting.job,
        acting.person,
        choices,
        figures=laid_out.basis.figures(laid_out.basis.worked(choices)),
        based_on=newest.number if newest else 0,
        at=acting.at,
    )


@act()
def turn_over(acting: Acting, *, face: int) -> Appended:
    """Take the other side of a thin part next, again: in the log, with what is predicted."""
    laid_out = laid_out_at(acting, face)
    thin, job_state = thin_of(laid_out), laid_out.job_state
    if thin is None or laid_out.face != job_state.surface:
        raise LogError("Only the face at work of a thin part on the magnet is turned over so.")
    said = f"Turned over: a thin part, sides taken in turn; expected {thin.turns[0].out_um:.1f} µm out."
    other = job_state.spec.wanted.surfaces[laid_out.face].opposite
    return log(acting, Rerouted, change="grind", surface=other, note=said)


@act(Role.LEAD)
def waive_caution(acting: Acting, *, face: int, caution: str, reason: str = "") -> Appended:
    """Let a caution of a set-up pass, by its check, with a reason; a stop cannot be waived."""
    laid_out = laid_out_at(acting, face)
    if caution not in {each.finding.check for each in laid_out.checked.cautions}:
        raise LogError("That is no caution of this set-up. A stop cannot be waived.")
    said = reason.strip()[:LONGEST_REASON]
    return log_any_time(acting, CautionWaived, setup=laid_out.setup.key, item=caution, note=said)


@act()
def tick(
    acting: Acting, *, face: int, item: str, answer: str = "", note: str = "", pieces: tuple[int, ...] = ()
) -> Appended:
    """Say that something of the list before the touch-off is done, and what was felt or read; ``pieces`` are those it
    is said of, each by its number where several are up and one may differ from the next."""
    run = acting.job_state.runs.get(face)
    refuse("" if run is None else says_no_piece(item, pieces, run))
    return log(acting, Prepared, surface=face, item=item, answer=answer, note=note, pieces=pieces)
