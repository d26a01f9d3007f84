"""set-ups laid out on the bench, the small things they are built with, what is done before a touch-off"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

LENGTH, MOMENT = sa.Numeric(14, 7), mysql.DATETIME(fsp=6)
TABLE = {"mariadb_charset": "utf8mb4", "mariadb_collate": "utf8mb4_unicode_ci", "mariadb_engine": "InnoDB"}

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None

OLD_KINDS = (
    "'taken in', 'amended', 'handed over', 'planned', 'placed', 'touched off', 'pass', 'spark-out', 'dressed', 'done', "
    "'skipped', 'note', 'measured', 'face done', 'left', 'rerouted', 'ended', 'undone', 'waived', 'signed off'"
)
OLD_AT_MACHINE = (
    "'planned', 'placed', 'touched off', 'pass', 'spark-out', 'dressed', 'done', 'skipped', 'face done', 'left'"
)
PLACED = "surface is not null and setup is not null and `load` is not null"
FORMS = "'angle_plate', 'square_block', 'vee_block', 'vise', 'sine_plate', 'small_part_cube', 'spin_fixture'"


def _check(table: str, name: str, condition: str | None) -> None:
    """Put a check in another's place, or take it away."""
    op.execute(f"alter table `{table}` drop constraint if exists `ck_{table}_{name}`")
    if condition is not None:
        op.create_check_constraint(op.f(f"ck_{table}_{name}"), table, condition)


def upgrade() -> None:
    op.create_table(
        "accessory",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("version", sa.Integer(), server_default="1", nullable=False),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("kind", sa.String(10), nullable=False),
        sa.Column("length_mm", LENGTH, nullable=False),
        sa.Column("width_mm", LENGTH, nullable=False),
        sa.Column("height_mm", LENGTH, nullable=False),
        sa.Column("count", sa.Integer(), server_default="1", nullable=False),
        sa.Column("magnetic", sa.Boolean(), server_default="1", nullable=False),
        sa.Column("square_mm", LENGTH, server_default="0", nullable=False),
        sa.Column("clamp_n", sa.Numeric(8, 1), nullable=True),
        sa.Column("checked_on", sa.Date(), nullable=True),
        sa.CheckConstraint("kind in ('block', 'parallel', 'pin', 'clamp', 'foil')", name=op.f("ck_accessory_kind")),
        sa.CheckConstraint(
            "length_mm > 0 and width_mm > 0 and height_mm > 0 and `count` > 0 and square_mm >= 0 "
            "and (clamp_n is null or clamp_n > 0)",
            name=op.f("ck_accessory_figures"),
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_accessory")),
        sa.UniqueConstraint("name", name=op.f("uq_accessory_name")),
        **TABLE,
    )
    op.create_table(
        "set_up",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("version", sa.Integer(), server_default="1", nullable=False),
        sa.Column("job_id", sa.Integer(), nullable=False),
        sa.Column("setup", sa.String(20), nullable=False),
        sa.Column("layout", sa.Text(), nullable=False),
        sa.Column("before", mysql.MEDIUMTEXT(), nullable=False),
        sa.Column("stop", sa.String(500), server_default="", nullable=False),
        sa.Column("cautions", sa.Text(), nullable=False),
        sa.Column("changed_by_id", sa.Integer(), nullable=False),
        sa.Column("changed_at", MOMENT, nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["job.id"], name=op.f("fk_set_up_job_id")),
        sa.ForeignKeyConstraint(["changed_by_id"], ["person.id"], name=op.f("fk_set_up_changed_by_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_set_up")),
        sa.UniqueConstraint("job_id", "setup", name=op.f("uq_set_up_of")),
        **TABLE,
    )
    for column in (
        sa.Column("form", sa.String(20), server_default="angle_plate", nullable=False),
        sa.Column("height_mm", LENGTH, server_default="75", nullable=False),
        sa.Column("seat_mm", LENGTH, server_default="0", nullable=False),
    ):
        op.add_column("fixture", column)
    op.execute(
        "update fixture set form = case kind when 'square_block' then 'square_block' when 'vee_or_vise' then 'vise' "
        "when 'small_part_fixture' then 'small_part_cube' else 'angle_plate' end"
    )
    op.execute("update fixture set seat_mm = 35 where form in ('vise', 'small_part_cube')")
    _check("fixture", "form", f"form in ({FORMS})")
    _check("fixture", "heights", "height_mm > 0 and seat_mm >= 0")
    for column in (
        sa.Column("low_share", sa.Numeric(4, 3), server_default="1", nullable=False),
        sa.Column("fence_mm", LENGTH, nullable=True),
        sa.Column("fence_out_um", sa.Numeric(7, 2), nullable=True),
        sa.Column("fence_ground", sa.Boolean(), server_default="0", nullable=False),
    ):
        op.add_column("chuck", column)
    _check("chuck", "more", "low_share > 0 and low_share <= 1 and (fence_mm is null or fence_mm > 0)")
    op.add_column("log_entry", sa.Column("item", sa.String(80), nullable=True))
    op.add_column("log_entry", sa.Column("answer", sa.String(20), nullable=True))
    _check("log_entry", "kind", f"kind in ({OLD_KINDS}, 'prepared', 'released')")
    _check("log_entry", "at_machine", f"kind not in ({OLD_AT_MACHINE}, 'prepared') or ({PLACED})")
    _check("log_entry", "item", "kind not in ('prepared', 'released') or item is not null")


def downgrade() -> None:
    """What was done before a touch-off and what was released become notes; layouts and the small things go."""
    for name in ("kind", "at_machine", "item"):
        _check("log_entry", name, None)
    op.execute("drop trigger if exists log_entry_no_update")
    op.execute(
        "update log_entry set note = concat(kind, ' ', item, ' ', coalesce(answer, ''), '. ', note), kind = 'note' "
        "where kind in ('prepared', 'released')"
    )
    op.execute(
        "create trigger log_entry_no_update before update on log_entry for each row "
        "signal sqlstate '45000' set message_text = 'the shop log is append-only'"
    )
    op.drop_column("log_entry", "answer")
    op.drop_column("log_entry", "item")
    _check("log_entry", "kind", f"kind in ({OLD_KINDS})")
    _check("log_entry", "at_machine", f"kind not in ({OLD_AT_MACHINE}) or ({PLACED})")
    _check("chuck", "more", None)
    for name in ("fence_ground", "fence_out_um", "fence_mm", "low_share"):
        op.drop_column("chuck", name)
    for name in ("form", "heights"):
        _check("fixture", name, None)
    for name in ("seat_mm", "height_mm", "form"):
        op.drop_column("fixture", name)
    op.drop_table("set_up")
    op.drop_table("accessory")
