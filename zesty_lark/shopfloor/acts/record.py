"""What is decided of a part: signed off, waived, scrapped or passed as it is."""

from zesty_lark.core.work.entries import Ended, PieceEnd, SignedOff, Waived
from zesty_lark.shopfloor.acts.acting import Acting, act, log
from zesty_lark.store.models.people import Role
from zesty_lark.store.shoplog import Appended

LONGEST_REASON = 500
LONGEST_NAME = 20


@act(Role.INSPECTOR, Role.LEAD, use="inspect")
def sign_off(acting: Acting, *, note: str = "") -> Appended:
    """Sign the part off as it was proved."""
    return log(acting, SignedOff, note=note.strip()[:LONGEST_REASON])


@act(Role.LEAD)
def waive(acting: Acting, *, characteristic: str, piece: int | None = None, reason: str = "") -> Appended:
    """Do without a verdict on a characteristic, of one piece or of all, with a reason."""
    said = reason.strip()[:LONGEST_REASON]
    return log(acting, Waived, characteristic=characteristic[:LONGEST_NAME], piece=piece, note=said)


@act(Role.LEAD)
def end_piece(acting: Acting, *, piece: int, end: PieceEnd, reason: str = "") -> Appended:
    """Scrap a piece, or pass it as it is, with a reason."""
    return log(acting, Ended, piece=piece, end=end, note=reason.strip()[:LONGEST_REASON])
