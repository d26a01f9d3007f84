"""${message}

Each statement may be done twice: “if not exists”, “or replace”, and rows changed only where they are as they were.
"""

from alembic import op

revision, down_revision = ${repr(up_revision)}, ${repr(down_revision)}


def upgrade() -> None:
    ${upgrades if upgrades else "pass"}
