"""What each web worker does when it starts: it loads the compiled calculations while it answers."""

import threading

from zesty_lark.core.warm_up import warm_up

__all__ = ["post_worker_init"]


def post_worker_init(worker: object) -> None:
    """Load them beside the worker's first requests, so that nobody's first plan waits for it; called by the web
    server."""
    threading.Thread(target=warm_up, daemon=True, name="get ready").start()
