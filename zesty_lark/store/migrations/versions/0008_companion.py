"""what is seen and heard at the machine, stops, screens; readouts and power meters; what runs have taught"""

import sqlalchemy as sa
from alembic import op

LENGTH = sa.Numeric(14, 7)
TABLE = {"mariadb_charset": "utf8mb4", "mariadb_collate": "utf8mb4_unicode_ci", "mariadb_engine": "InnoDB"}

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None

OLD_KINDS = (
    "'taken in', 'amended', 'handed over', 'planned', 'placed', 'touched off', 'pass', 'spark-out', 'dressed', 'done', "
    "'skipped', 'note', 'measured', 'face done', 'left', 'rerouted', 'ended', 'undone', 'waived', 'signed off', "
    "'prepared', 'released'"
)
OLD_AT_MACHINE = (
    "'planned', 'placed', 'touched off', 'pass', 'spark-out', 'dressed', 'done', 'skipped', 'face done', 'left', "
    "'prepared'"
)
NEW_KINDS = "'observed', 'stopped', 'went on', 'taken over'"
PLACED = "surface is not null and setup is not null and `load` is not null"
WORK = "work in ('magnet', 'fixture')"


def _check(table: str, name: str, condition: str | None) -> None:
    """Put a check in another's place, or take it away."""
    op.execute(f"alter table `{table}` drop constraint if exists `ck_{table}_{name}`")
    if condition is not None:
        op.create_check_constraint(op.f(f"ck_{table}_{name}"), table, condition)


def upgrade() -> None:
    for column in (
        sa.Column("seen", sa.String(20), nullable=True),
        sa.Column("side", sa.String(20), server_default="", nullable=False),
        sa.Column("power_w", sa.Numeric(9, 1), nullable=True),
        sa.Column("screen", sa.String(16), server_default="", nullable=False),
    ):
        op.add_column("log_entry", column)
    _check("log_entry", "kind", f"kind in ({OLD_KINDS}, {NEW_KINDS})")
    _check("log_entry", "at_machine", f"kind not in ({OLD_AT_MACHINE}, {NEW_KINDS}) or ({PLACED})")
    _check("log_entry", "seen", "kind not in ('observed', 'stopped') or seen is not null")
    _check("log_entry", "power_w", "power_w is null or power_w >= 0")
    op.add_column("plan", sa.Column("until_clean", sa.Boolean(), server_default="0", nullable=False))
    op.add_column("learned_run", sa.Column("work", sa.String(10), server_default="magnet", nullable=False))
    _check("learned_run", "work", WORK)
    _learned()
    op.create_table(
        "sensor",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("version", sa.Integer(), server_default="1", nullable=False),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("machine_id", sa.Integer(), nullable=False),
        sa.Column("kind", sa.String(10), nullable=False),
        sa.Column("port", sa.String(200), nullable=False),
        sa.Column("baud", sa.Integer(), server_default="9600", nullable=False),
        sa.Column("sends", sa.String(2), nullable=False),
        sa.Column("asks", sa.String(20), server_default="", nullable=False),
        sa.Column("rises", sa.Boolean(), server_default="1", nullable=False),
        sa.Column("simulated", sa.Boolean(), server_default="0", nullable=False),
        sa.CheckConstraint("kind in ('position', 'power')", name=op.f("ck_sensor_kind")),
        sa.CheckConstraint("sends in ('mm', 'in', 'um', 'W', 'kW')", name=op.f("ck_sensor_sends")),
        sa.ForeignKeyConstraint(["machine_id"], ["machine.id"], name=op.f("fk_sensor_machine_id_machine")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_sensor")),
        sa.UniqueConstraint("name", name=op.f("uq_sensor_name")),
        sa.UniqueConstraint("machine_id", "kind", name="uq_sensor_machine_kind"),
        **TABLE,
    )


def _learned() -> None:
    op.create_table(
        "size_run",
        sa.Column("seq", sa.BigInteger(), autoincrement=False, nullable=False),
        sa.Column("machine_id", sa.Integer(), nullable=False),
        sa.Column("wheel_id", sa.Integer(), nullable=False),
        sa.Column("work", sa.String(10), nullable=False),
        sa.Column("asked_mm", LENGTH, nullable=False),
        sa.Column("got_mm", LENGTH, nullable=False),
        sa.Column("held_back_mm", LENGTH, nullable=False),
        sa.Column("volume_mm3", sa.Numeric(16, 2), nullable=False),
        sa.Column("fresh", sa.Boolean(), nullable=False),
        sa.CheckConstraint(WORK, name=op.f("ck_size_run_work")),
        sa.ForeignKeyConstraint(["machine_id"], ["machine.id"], name=op.f("fk_size_run_machine_id_machine")),
        sa.ForeignKeyConstraint(["seq"], ["log_entry.seq"], name=op.f("fk_size_run_seq_log_entry")),
        sa.ForeignKeyConstraint(["wheel_id"], ["wheel.id"], name=op.f("fk_size_run_wheel_id_wheel")),
        sa.PrimaryKeyConstraint("seq", name=op.f("pk_size_run")),
        **TABLE,
    )
    op.create_index("ix_size_run_of", "size_run", ["machine_id", "wheel_id", "seq"])
    op.create_table(
        "learned_time",
        sa.Column("seq", sa.BigInteger(), autoincrement=False, nullable=False),
        sa.Column("machine_id", sa.Integer(), nullable=False),
        sa.Column("act", sa.String(10), nullable=False),
        sa.Column("minutes", sa.Numeric(8, 3), nullable=False),
        sa.CheckConstraint(
            "act in ('place', 'flip', 'fixture', 'touch_off', 'dress', 'measure')", name=op.f("ck_learned_time_act")
        ),
        sa.CheckConstraint("minutes > 0", name=op.f("ck_learned_time_minutes")),
        sa.ForeignKeyConstraint(["machine_id"], ["machine.id"], name=op.f("fk_learned_time_machine_id_machine")),
        sa.ForeignKeyConstraint(["seq"], ["log_entry.seq"], name=op.f("fk_learned_time_seq_log_entry")),
        sa.PrimaryKeyConstraint("seq", name=op.f("pk_learned_time")),
        **TABLE,
    )
    op.create_index("ix_learned_time_of", "learned_time", ["machine_id", "act", "seq"])


def downgrade() -> None:
    """What was seen, stopped for and taken over become notes; sensors and what was learned of times and sizes go."""
    op.drop_table("sensor")
    op.drop_table("learned_time")
    op.drop_table("size_run")
    _check("learned_run", "work", None)
    op.drop_column("learned_run", "work")
    op.drop_column("plan", "until_clean")
    for name in ("kind", "at_machine", "seen", "power_w"):
        _check("log_entry", name, None)
    op.execute("drop trigger if exists log_entry_no_update")
    op.execute(
        "update log_entry set note = concat(kind, ' ', coalesce(seen, ''), ' ', side, '. ', note), kind = 'note' "
        f"where kind in ({NEW_KINDS})"
    )
    op.execute(
        "create trigger log_entry_no_update before update on log_entry for each row "
        "signal sqlstate '45000' set message_text = 'the shop log is append-only'"
    )
    for column in ("screen", "power_w", "side", "seen"):
        op.drop_column("log_entry", column)
    _check("log_entry", "kind", f"kind in ({OLD_KINDS})")
    _check("log_entry", "at_machine", f"kind not in ({OLD_AT_MACHINE}) or ({PLACED})")
