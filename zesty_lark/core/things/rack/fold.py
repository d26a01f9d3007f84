"""Where a wheel stands: a fold of its log, and nothing else."""

from dataclasses import dataclass, replace
from datetime import datetime
from decimal import Decimal

from zesty_lark.core.things.log import ThingEntry, undoable
from zesty_lark.core.things.rack.entries import (
    BalanceTrial,
    Checked,
    FoundOn,
    PutOut,
    RackDress,
    ShapedWheel,
    Struck,
    TakenDown,
    WheelPrinted,
)
from zesty_lark.core.things.rack.mounting_steps import MOUNTING, MountingStep

BAD_ENDS = frozenset(each.key for each in MOUNTING if each.bad_ends)


@dataclass(frozen=True)
class WheelState:
    """Where a wheel stands.

    Attributes
    ----------
    steps : tuple of MountingStep
        What mounting it takes, in order.
    machine : str or None
        Where it is mounted, or is being mounted.
    done : tuple of str
        The steps that were done since it was taken off last.
    trials : tuple of BalanceTrial
        Of balancing since it was mounted.
    residual_gmm : float or None
        What is left by the last trial that could tell.
    balanced : bool
        The last balancing ended within the grade, or hung nowhere.
    dressed_since_balance : bool
        Then it is balanced once more: a dress moves the balance.
    dress : str
        The last dress; empty before the first.
    shape : ShapedWheel or None
        On it now; a flat dress takes it off.
    corner_mm : float or None
        As it was printed since the last dress [mm].
    scrapped : str
        Why it is out of use; empty while it is not.
    dresses : int
    taken_off_mm : Decimal
        Off its radius in all that is logged [mm].
    history : tuple of ThingEntry
        What holds, oldest first.
    """

    steps: tuple[MountingStep, ...] = MOUNTING
    machine: str | None = None
    done: tuple[str, ...] = ()
    trials: tuple[BalanceTrial, ...] = ()
    residual_gmm: float | None = None
    balanced: bool = False
    dressed_since_balance: bool = False
    dress: str = ""
    dressed_at: datetime | None = None
    shape: ShapedWheel | None = None
    corner_mm: float | None = None
    scrapped: str = ""
    dresses: int = 0
    taken_off_mm: Decimal = Decimal(0)
    history: tuple[ThingEntry, ...] = ()

    @property
    def next_step(self) -> MountingStep | None:
        """What mounting takes next; ``None`` when it is ready, or out of use."""
        if self.scrapped:
            return None
        return next((step for step in self.steps if step.key not in self.done), None)

    @property
    def ready(self) -> bool:
        """Whether it is mounted with every step done."""
        return not self.scrapped and self.next_step is None

    @property
    def known(self) -> bool:
        """Whether anything of its mounting was ever logged."""
        return bool(self.done)

    @property
    def undoable(self) -> ThingEntry | None:
        """The last entry that can be taken back here."""
        return undoable(self.history)


def after(now: WheelState, entry: ThingEntry, most_gmm: float | None) -> WheelState:
    """Return where a wheel stands after one entry more that holds; without ``most_gmm`` only level ways tell that it is
    balanced."""
    match entry.what:
        case Checked(step=step, good=good):
            if not good:
                why = entry.note or f"{step.replace('_', '-')}: not good"
                return replace(now, scrapped=why) if step in BAD_ENDS else now
            return replace(now, done=(*now.done, step), machine=entry.machine or now.machine)
        case FoundOn():
            mounted = tuple(each.key for each in now.steps if each.key != "dress")
            return replace(now, done=mounted, machine=entry.machine)
        case Struck():
            return replace(
                now, done=("speed",), trials=(), residual_gmm=None, balanced=False, shape=None, corner_mm=None
            )
        case TakenDown():
            return replace(
                now, machine=None, done=(), trials=(), residual_gmm=None, balanced=False, dressed_since_balance=False
            )
        case BalanceTrial():
            return _balanced(now, entry.what, most_gmm)
        case RackDress(dress=dress, amount_mm=amount):
            done = (*now.done, "dress") if _is_due(now, "dress") else now.done
            return replace(
                now, done=done, dress=dress, dressed_at=entry.at, dresses=now.dresses + 1, shape=None, corner_mm=None,
                dressed_since_balance=now.balanced, taken_off_mm=now.taken_off_mm + (amount or 0),
            )  # fmt: skip
        case ShapedWheel() as shape:
            off = now.taken_off_mm + (shape.amount_mm or 0)
            kept = None if shape.shape == "flat" else shape
            return replace(now, shape=kept, corner_mm=None, taken_off_mm=off, dressed_since_balance=now.balanced)
        case WheelPrinted(radius_mm=radius):
            return replace(now, corner_mm=radius)
        case PutOut():
            return replace(now, scrapped=entry.note or "put out of use")
    return now


def _is_due(now: WheelState, step: str) -> bool:
    return now.next_step is not None and now.next_step.key == step


def _balanced(now: WheelState, trial: BalanceTrial, most_gmm: float | None) -> WheelState:
    left = trial.residual_gmm
    good = trial.hangs == "nowhere" or (left is not None and most_gmm is not None and left <= most_gmm)
    done = (*now.done, "balance") if good and _is_due(now, "balance") else now.done
    return replace(
        now, trials=(*now.trials, trial), residual_gmm=left, balanced=good, dressed_since_balance=False, done=done
    )
