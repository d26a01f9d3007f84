"""The web server's process, handed the listening socket by the supervisor: ``python -m zesty_lark.running.worker FD``.

What it loads stays as long as it runs: until all is there, nothing is looked through for what may go.
"""

import gc
import sys


def main() -> None:
    """Load the application and keep its workers."""
    gc.disable()
    from zesty_lark.running.workers import keep_workers

    keep_workers(int(sys.argv[1]))


if __name__ == "__main__":
    main()
