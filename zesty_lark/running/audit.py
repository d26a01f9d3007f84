"""Whether what is installed is what is locked, fits together, and has no known weakness."""

import json
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any

LOCKED = Path(__file__).parents[2] / "requirements" / "run.txt"
AUDIT_SECONDS = 120

Say = Callable[[str], None]


def audited(say: Say) -> int:
    """Return 1 if something does not fit or has a known weakness; that nobody could be asked is said, and no fault."""
    fits = subprocess.run([sys.executable, "-m", "uv", "pip", "check", "-p", sys.executable], capture_output=True)
    if fits.returncode:
        say(fits.stderr.decode("utf-8", "replace"))
    audit = [sys.executable, "-m", "pip_audit", "-r", str(LOCKED), "--disable-pip", "--no-deps", "-f", "json"]
    try:
        asked = subprocess.run(
            [*audit, "--progress-spinner", "off"], capture_output=True, text=True, timeout=AUDIT_SECONDS
        )
        found = json.loads(asked.stdout)["dependencies"]
    except (subprocess.TimeoutExpired, ValueError, KeyError):
        found = []
    return int(bool(fits.returncode)) | told_of(found, say)


def told_of(found: list[dict[str, Any]], say: Say) -> int:
    """Say what an audit has found; return 1 if anything has a known weakness."""
    weak = [each for each in found if each.get("vulns")]
    for each in weak:
        ids = ", ".join(vulnerability["id"] for vulnerability in each["vulns"])
        say(f"{each['name']} {each['version']} has known weaknesses: {ids}")
    asked_about = [each for each in found if "skip_reason" not in each]
    if not asked_about:
        say("nobody could be asked about known weaknesses of the locked packages; try again with a network")
    return int(bool(weak))
