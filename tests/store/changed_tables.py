"""A change of the tables that no version has: for what is tested of upgrades."""

import shutil
from pathlib import Path

from zesty_lark.store import migrate

CHANGE = """\"\"\"What a later version might change.\"\"\"

from alembic import op

revision, down_revision = "later", "first"


def upgrade() -> None:
    op.execute("alter table wheel add column if not exists colour varchar(20) not null default 'white'")
    op.execute("update wheel set colour = 'pink' where grade = 'H' and colour = 'white'")
    op.execute("create table if not exists attic (id int primary key, wheel_id int not null default 0) engine=InnoDB")
    op.execute("insert ignore into attic (id) select id from wheel")
    op.execute("alter table wheel add constraint if not exists ck_wheel_colour check (colour <> '')")
    op.execute("alter table attic drop column if exists wheel_id")
"""


def with_a_later_version(folder: Path) -> Path:
    """The migrations of this version and one more."""
    scripts = Path(shutil.copytree(migrate.SCRIPTS, folder / "migrations"))
    (scripts / "versions" / "later.py").write_text(CHANGE)
    return scripts
