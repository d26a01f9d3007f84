"""Whatever the application imports is asked for by name, and not only there because something else wants it."""

import ast
import sys
from importlib.metadata import packages_distributions
from pathlib import Path

ROOT = Path(__file__).parents[2]
OPTIONAL = frozenset({"distributed", "_typeshed"})


def imported() -> set[str]:
    found: set[str] = set()
    for path in (ROOT / "zesty_lark").rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text("utf-8"))):
            if isinstance(node, ast.Import):
                found |= {name.name.partition(".")[0] for name in node.names}
            elif isinstance(node, ast.ImportFrom) and node.module:
                found.add(node.module.partition(".")[0])
    return found - set(sys.stdlib_module_names) - OPTIONAL - {"zesty_lark"}


def test_what_is_imported_is_asked_for() -> None:
    asked = {line.split(">")[0].strip() for line in (ROOT / "requirements" / "run.in").read_text().splitlines() if line}
    of = packages_distributions()
    missing = {name for name in imported() if not asked & {each.lower().replace("_", "-") for each in of[name]}}
    assert not missing and len(asked) > 20
