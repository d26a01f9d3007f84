"""A press as it comes in: what it says, when it was made, and whose it is, whenever the server hears of it."""

import hashlib
import json
from datetime import datetime, timedelta

from flask import g, request

from zesty_lark.web.shared.wording import now

OUTBOX = "X-Lark-Outbox"
"""Says that a press comes from the queue of a browser, which keeps it until it is answered."""
OWNER = "X-Lark-Owner"
"""The number of the person who pressed."""
KEEP = "X-Lark-Keep"
"""Says in an answer that the browser is to keep the press: it is for somebody else to send."""
WAITED = "X-Lark-Waited"
"""For how long it waited there [ms]."""
LONGEST_WAIT = timedelta(days=7)
"""For so long a press may have waited on a screen that nobody answered."""
MOST_DIGITS = 12
UNSAID = frozenset({"csrf_token", "entry_id", "seen", "after"})
"""What a press carries that is not what it says."""


def digest_of_post() -> str | None:
    """Return a digest of what is posted, whatever the screen had seen; ``None`` where nothing is."""
    if request.method != "POST":
        return None
    sent = request.get_json(silent=True) if request.is_json else None
    pairs = sent.items() if isinstance(sent, dict) else request.form.items(multi=True)
    said = sorted((name, value) for name, value in pairs if name not in UNSAID)
    return hashlib.blake2b(json.dumps([request.path, said], sort_keys=True).encode(), digest_size=16).hexdigest()


def from_outbox() -> bool:
    """Whether a browser's queue sends this."""
    return OUTBOX in request.headers


def pressed_at() -> datetime:
    """Return when it was pressed: now, or as long ago as it waited on the screen."""
    return now() - waited()


def waited() -> timedelta:
    """Return for how long a press waited; what is no such time is none."""
    told = request.headers.get(WAITED, "")
    if not (told.isascii() and told.isdigit() and len(told) <= MOST_DIGITS):
        return timedelta(0)
    return min(timedelta(milliseconds=int(told)), LONGEST_WAIT)


def of_someone_else() -> bool:
    """Whether somebody else pressed this than is signed in here now: it waits for who pressed it."""
    owner = request.headers.get(OWNER)
    return owner is not None and g.get("person") is not None and owner != str(g.person.id)
