"""what was posted with an entry is kept as a digest; where it was read in from, whether its clock is in doubt; a wheel's log is append-only for jobs too"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import DATETIME

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None

TABLE = {"mariadb_charset": "utf8mb4", "mariadb_collate": "utf8mb4_unicode_ci", "mariadb_engine": "InnoDB"}
PRESSED = ("log_entry", "wheel_entry", "gauge_check", "chuck_act", "map_reading")
REFUSED = "signal sqlstate '45000' set message_text = 'a wheel''s log is append-only'"
NO_DELETE = "create trigger wheel_entry_no_delete before delete on wheel_entry for each row "


def upgrade() -> None:
    for table in PRESSED:
        op.add_column(table, sa.Column("digest", sa.String(32), nullable=True))
    op.add_column("log_entry", sa.Column("read_in_from", sa.String(120), server_default="", nullable=False))
    op.add_column("log_entry", sa.Column("clock_doubt", sa.Boolean(), server_default="0", nullable=False))
    op.execute("drop trigger if exists wheel_entry_no_delete")
    op.execute(NO_DELETE + REFUSED)
    op.create_table(
        "person_change",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("by_id", sa.Integer(), nullable=False),
        sa.Column("at", DATETIME(fsp=6), nullable=False),
        sa.Column("was_name", sa.String(80), nullable=False),
        sa.Column("was_role", sa.String(20), nullable=False),
        sa.Column("now_name", sa.String(80), nullable=False),
        sa.Column("now_role", sa.String(20), nullable=False),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_person_change_person_id")),
        sa.ForeignKeyConstraint(["by_id"], ["person.id"], name=op.f("fk_person_change_by_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_person_change")),
        **TABLE,
    )
    for act in ("update", "delete"):
        op.execute(
            f"create trigger person_change_no_{act} before {act} on person_change for each row "
            "signal sqlstate '45000' set message_text = 'what a lead changed of a person is append-only'"
        )


def downgrade() -> None:
    op.drop_table("person_change")
    op.execute("drop trigger if exists wheel_entry_no_delete")
    op.execute(f"{NO_DELETE}if old.job_seq is null then {REFUSED}; end if")
    op.drop_column("log_entry", "clock_doubt")
    op.drop_column("log_entry", "read_in_from")
    for table in PRESSED:
        op.drop_column(table, "digest")
