"""``lark calc`` from start to answer without loading what the other commands need."""

import os
import sys

from zesty_lark.core import headless
from zesty_lark.running.compiled_code import use_kept
from zesty_lark.running.sweeps import answered

USAGE = "usage: lark calc NAME [--schema] | --batch | --list"


def main(arguments: list[str]) -> int:
    """Answer on standard output; return the exit code, 2 for bad input."""
    flags, names = {each for each in arguments if each.startswith("-")}, [each for each in arguments if each[:1] != "-"]
    if flags - {"--batch", "--list", "--schema"} or len(names) > 1:
        print(USAGE, file=sys.stderr)
        return 2
    if "--list" in flags:
        print("\n".join(headless.listing()))
    elif "--batch" in flags:
        for line in answered(headless.lines_of(sys.stdin.buffer), os.environ.get("LARK_DASK") or None):
            sys.stdout.buffer.write(line.encode("utf-8", "backslashreplace") + b"\n")
            sys.stdout.buffer.flush()
    elif not names:
        print(USAGE, file=sys.stderr)
        return 2
    else:
        text, wrong = (
            headless.schema(names[0]) if "--schema" in flags else headless.one(names[0], sys.stdin.buffer.read())
        )
        print(text, file=sys.stderr if wrong else sys.stdout)
        return 2 if wrong else 0
    return 0


if __name__ == "__main__":
    use_kept(lambda line: print(f"lark: {line}", file=sys.stderr))
    sys.exit(main(sys.argv[1:]))
