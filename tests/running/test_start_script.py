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


def test_two_commands_at_once_make_the_environment_one_after_the_other(tmp_path: Path) -> None:
    """The second waits, and finds it made; it never removes what the first is making."""
    script = LARK.read_text()
    install = "install_python()" + script.split("install_python()")[1].split("\n}\n")[0] + "\n}\n"
    (tmp_path / "requirements").mkdir()
    for name in ("uv", "run"):
        (tmp_path / "requirements" / f"{name}.txt").touch()
    made = (
        'say() { echo "$*" >>said; }\n'
        "make_python() {\n"
        '  [ "$(cat .venv/$1.stamp 2>/dev/null)" = "$(cat stamp)" ] && return\n'
        "  mkdir .venv; echo begun >>made; until [ -e go ]; do sleep 0.02; done\n"
        "  cp stamp .venv/$1.stamp; echo ended >>made\n"
        "}\n"
    )
    stamp = "cat requirements/uv.txt requirements/run.txt | sha256sum | cut -d' ' -f1 >stamp; "
    both = f"{stamp}install_python run & until [ -e made ]; do sleep 0.02; done; install_python run & "
    wait = "until [ -e said ]; do sleep 0.02; done; touch go; wait"
    subprocess.run(["/bin/bash", "-euc", f"{made}{install}{both}{wait}"], cwd=tmp_path, check=True, timeout=300)
    assert (tmp_path / "made").read_text().split() == ["begun", "ended"]
    assert "waiting for it" in (tmp_path / "said").read_text()
