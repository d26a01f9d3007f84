"""The first tables, and the triggers that let nobody change what is logged."""

from pathlib import Path

from alembic import op

revision, down_revision = "first", None


def upgrade() -> None:
    """Make them; what is there already stays."""
    for statement in Path(__file__).with_suffix(".sql").read_text("utf-8").split(";\n"):
        if statement.strip():
            op.execute(statement)
