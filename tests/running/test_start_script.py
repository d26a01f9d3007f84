"""The start script takes whichever Python of the machine is new enough."""

import subprocess
from pathlib import Path

import pytest

LARK = Path(__file__).parents[2] / "lark"


@pytest.mark.parametrize(
    ("there", "taken"),
    [
        ({"python3": True, "python3.12": True}, "python3"),
        ({"python3": False, "python3.11": True}, "python3.11"),
        ({"python3": False, "python3.13": True}, "python3.13"),
        ({"python3": False}, ""),
        ({}, ""),
    ],
)
def test_whichever_is_new_enough(tmp_path: Path, there: dict[str, bool], taken: str) -> None:
    for name, new_enough in there.items():
        (tmp_path / name).write_text(f"#!/bin/sh\nexit {0 if new_enough else 1}\n")
        (tmp_path / name).chmod(0o755)
    script = LARK.read_text()
    function = "newer_python()" + script.split("newer_python()")[1].split("\n}\n")[0] + "\n}\nnewer_python\n"
    told = subprocess.run(
        ["/bin/bash", "-c", function], env={"PATH": str(tmp_path)}, capture_output=True, text=True, check=False
    )
    assert told.stdout.strip() == taken
