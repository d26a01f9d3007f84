"""plans as steps, every characteristic, temperatures, withdrawn maps, unmarked wheels"""

import sqlalchemy as sa
from alembic import op

LENGTH = sa.Numeric(14, 7)
TABLE = {"mariadb_charset": "utf8mb4", "mariadb_collate": "utf8mb4_unicode_ci", "mariadb_engine": "InnoDB"}

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None

OLD_KINDS = (
    "taken in",
    "amended",
    "handed over",
    "planned",
    "placed",
    "touched off",
    "pass",
    "spark-out",
    "dressed",
    "note",
    "measured",
    "face done",
    "undone",
    "signed off",
)
NEW_KINDS = (
    "taken in",
    "amended",
    "handed over",
    "planned",
    "placed",
    "touched off",
    "pass",
    "spark-out",
    "dressed",
    "done",
    "skipped",
    "note",
    "measured",
    "face done",
    "undone",
    "waived",
    "signed off",
)
STEP_KINDS = (
    "dress",
    "chamfer",
    "place",
    "turn",
    "blocks",
    "touch off",
    "no feed",
    "rough",
    "blank",
    "cool",
    "measure",
    "finish",
)
CHARACTERISTICS = ("thickness", "width", "length", "parallel", "square", "flat", "finish")
NEW_STEP = "step_mm >= 0 and depth_mm >= step_mm and (kind in ('rough', 'finish')) = (step_mm > 0)"
FIXTURE = "square_mm >= 0 and over_mm > 0 and seating_mm >= 0 and base_length_mm > 0 and base_width_mm > 0"


def _one_of(column: str, choices: tuple[str, ...]) -> str:
    return f"{column} in ({', '.join(repr(choice) for choice in choices)})"


def _check(table: str, name: str, condition: str | None) -> None:
    """Put a check in another's place, or take it away."""
    op.execute(f"alter table `{table}` drop constraint if exists `ck_{table}_{name}`")
    if condition is not None:
        op.create_check_constraint(op.f(f"ck_{table}_{name}"), table, condition)


def upgrade() -> None:
    op.add_column("machine", sa.Column("downfeed_max_mm", LENGTH, nullable=True))
    _check("machine", "downfeed_max", "downfeed_max_mm is null or downfeed_max_mm >= graduation_mm")
    op.alter_column("wheel", "max_rpm", existing_type=sa.Integer(), nullable=True)
    op.add_column("wheel", sa.Column("max_m_s", sa.Numeric(6, 2), nullable=True))
    op.add_column("wheel", sa.Column("answered_by", sa.String(80), nullable=True))
    _check("wheel", "max_rpm", "(max_rpm is null or max_rpm > 0) and (max_m_s is null or max_m_s > 0)")
    op.add_column("fixture", sa.Column("clamps", sa.Integer(), server_default="2", nullable=False))
    op.add_column("fixture", sa.Column("clamp_n", sa.Numeric(8, 1), server_default="1500", nullable=False))
    _check("fixture", "figures", FIXTURE + " and clamps > 0 and clamp_n > 0")
    op.add_column("chuck_map", sa.Column("closing_um", sa.Numeric(9, 3), nullable=True))
    op.add_column("chuck_map", sa.Column("state", sa.String(10), server_default="in use", nullable=False))
    op.add_column("chuck_map", sa.Column("note", sa.String(500), server_default="", nullable=False))
    _check("chuck_map", "state", _one_of("state", ("in use", "refused", "withdrawn")))
    op.add_column("part", sa.Column("bow_mm", LENGTH, nullable=True))
    op.add_column("part", sa.Column("bow_shape", sa.String(10), server_default="middle_up", nullable=False))
    op.add_column("part", sa.Column("leave_mm", LENGTH, server_default="0", nullable=False))
    _check("part", "bow", "(bow_mm is null or bow_mm >= 0) and leave_mm >= 0")
    _check("part", "bow_shape", _one_of("bow_shape", ("middle_up", "ends_up")))
    op.add_column("part_plan", sa.Column("reason", sa.String(500), server_default="", nullable=False))
    _plans_as_steps()
    _log()
    op.create_table(
        "learned_run",
        sa.Column("seq", sa.BigInteger(), autoincrement=False, nullable=False),
        sa.Column("machine_id", sa.Integer(), nullable=False),
        sa.Column("wheel_id", sa.Integer(), nullable=False),
        sa.Column("eta", sa.Numeric(6, 5), nullable=False),
        sa.CheckConstraint("eta > 0 and eta < 1", name=op.f("ck_learned_run_eta")),
        sa.ForeignKeyConstraint(["machine_id"], ["machine.id"], name=op.f("fk_learned_run_machine_id")),
        sa.ForeignKeyConstraint(["seq"], ["log_entry.seq"], name=op.f("fk_learned_run_seq")),
        sa.ForeignKeyConstraint(["wheel_id"], ["wheel.id"], name=op.f("fk_learned_run_wheel_id")),
        sa.PrimaryKeyConstraint("seq", name=op.f("pk_learned_run")),
        **TABLE,
    )
    op.create_index("ix_learned_run_of", "learned_run", ["machine_id", "wheel_id", "seq"])


def _plans_as_steps() -> None:
    """Each pass gets what the machine was set to for it, and the blanks after the last feed become steps."""
    for column in (
        sa.Column("crossfeed_mm", LENGTH, nullable=True),
        sa.Column("table_mm_s", LENGTH, nullable=True),
        sa.Column("what", sa.String(120), server_default="", nullable=False),
        sa.Column("amount", LENGTH, nullable=True),
        sa.Column("minutes", sa.Numeric(9, 3), server_default="0", nullable=False),
    ):
        op.add_column("plan_step", column)
    _check("plan_step", "kind", _one_of("kind", STEP_KINDS))
    _check("plan_step", "step", NEW_STEP)
    op.execute(
        "update plan_step s join plan p on p.id = s.plan_id set "
        "s.crossfeed_mm = if(s.kind = 'finish', coalesce(p.finish_crossfeed_mm, p.crossfeed_mm), p.crossfeed_mm), "
        "s.table_mm_s = if(s.kind = 'finish', coalesce(p.finish_table_mm_s, p.table_mm_s), p.table_mm_s)"
    )
    op.execute(
        "insert into plan_step (plan_id, number, kind, step_mm, depth_mm, crossfeed_mm, table_mm_s) "
        "select b.id, b.last + q.seq, 'blank', 0, b.depth, b.crossfeed, b.speed from ("
        "select p.id, p.spark_passes, coalesce(p.finish_crossfeed_mm, p.crossfeed_mm) as crossfeed, "
        "coalesce(p.finish_table_mm_s, p.table_mm_s) as speed, coalesce(max(s.number), 0) as last, "
        "coalesce(max(s.depth_mm), 0) as depth from plan p left join plan_step s on s.plan_id = p.id group by p.id"
        ") b join seq_1_to_1000 q on q.seq <= b.spark_passes"
    )
    op.add_column("plan", sa.Column("holder", sa.String(80), server_default="magnet", nullable=False))
    op.add_column("plan", sa.Column("hold_safety", sa.Numeric(8, 2), nullable=True))
    op.add_column("plan", sa.Column("rise_c", sa.Numeric(6, 2), server_default="0", nullable=False))
    op.add_column("plan", sa.Column("reason", sa.String(500), server_default="", nullable=False))
    _check("plan", "figures", None)
    for column in (
        "crossfeed_mm",
        "table_mm_s",
        "spark_passes",
        "minutes",
        "finish_crossfeed_mm",
        "finish_table_mm_s",
        "rough_blanks",
        "rough_dress",
        "finish_dress",
        "skew_deg",
    ):
        op.drop_column("plan", column)
    _check("plan", "figures", "stock_mm >= 0 and left_on_mm >= 0 and rise_c >= 0")


def _log() -> None:
    op.add_column("log_entry", sa.Column("step", sa.Integer(), nullable=True))
    op.add_column("log_entry", sa.Column("characteristic", sa.String(20), server_default="thickness", nullable=False))
    op.add_column("log_entry", sa.Column("gauge_c", sa.Numeric(5, 2), nullable=True))
    op.add_column("log_entry", sa.Column("room_c", sa.Numeric(5, 2), nullable=True))
    _check("log_entry", "kind", _one_of("kind", NEW_KINDS))
    _check("log_entry", "verdict", "verdict is null or verdict in ('in', 'not yet', 'unsure', 'out')")
    _check("log_entry", "step", "kind not in ('done', 'skipped') or step is not null")
    _check("log_entry", "characteristic", _one_of("characteristic", CHARACTERISTICS))
    _check("log_reading", "value", "value_mm >= 0")


def downgrade() -> None:
    """What the older tables cannot hold is kept as a note; verdicts that are not yet become out."""
    op.drop_table("learned_run")
    op.execute("drop trigger if exists log_entry_no_update")
    op.execute(
        "update log_entry set note = concat(kind, ' ', coalesce(step, characteristic), '. ', note), kind = 'note' "
        "where kind in ('done', 'skipped', 'waived')"
    )
    op.execute("update log_entry set verdict = 'out' where verdict = 'not yet'")
    op.execute(
        "update log_entry set kind = 'note', note = concat('Measured ', characteristic, ': ', coalesce(verdict, ''), '. ', "
        "note) where kind = 'measured' and characteristic <> 'thickness'"
    )
    op.execute(
        "create trigger log_entry_no_update before update on log_entry for each row "
        "signal sqlstate '45000' set message_text = 'the shop log is append-only'"
    )
    _check("log_entry", "kind", _one_of("kind", OLD_KINDS))
    _check("log_entry", "verdict", "verdict is null or verdict in ('in', 'out', 'unsure')")
    _check("log_entry", "step", None)
    _check("log_entry", "characteristic", None)
    for column in ("step", "characteristic", "gauge_c", "room_c"):
        op.drop_column("log_entry", column)
    _steps_as_plans()
    op.drop_column("part_plan", "reason")
    _check("part", "bow", None)
    _check("part", "bow_shape", None)
    for column in ("bow_mm", "bow_shape", "leave_mm"):
        op.drop_column("part", column)
    _check("chuck_map", "state", None)
    for column in ("closing_um", "state", "note"):
        op.drop_column("chuck_map", column)
    _check("fixture", "figures", FIXTURE)
    op.drop_column("fixture", "clamps")
    op.drop_column("fixture", "clamp_n")
    op.execute("update wheel set max_rpm = 1 where max_rpm is null")
    _check("wheel", "max_rpm", "max_rpm > 0")
    op.drop_column("wheel", "max_m_s")
    op.drop_column("wheel", "answered_by")
    op.alter_column("wheel", "max_rpm", existing_type=sa.Integer(), nullable=False)
    _check("machine", "downfeed_max", None)
    op.drop_column("machine", "downfeed_max_mm")


def _steps_as_plans() -> None:
    for column in (
        sa.Column("crossfeed_mm", LENGTH, server_default="0.4", nullable=False),
        sa.Column("table_mm_s", LENGTH, server_default="200", nullable=False),
        sa.Column("spark_passes", sa.Integer(), server_default="0", nullable=False),
        sa.Column("minutes", sa.Numeric(8, 2), server_default="0", nullable=False),
        sa.Column("finish_crossfeed_mm", LENGTH, nullable=True),
        sa.Column("finish_table_mm_s", LENGTH, nullable=True),
        sa.Column("rough_blanks", sa.Integer(), server_default="0", nullable=False),
        sa.Column("rough_dress", sa.String(10), server_default="", nullable=False),
        sa.Column("finish_dress", sa.String(10), server_default="", nullable=False),
        sa.Column("skew_deg", sa.Numeric(5, 2), server_default="0", nullable=False),
    ):
        op.add_column("plan", column)
    op.execute(
        "update plan p set p.spark_passes = (select count(*) from plan_step s where s.plan_id = p.id and s.kind = 'blank'), "
        "p.minutes = (select coalesce(sum(s.minutes), 0) from plan_step s where s.plan_id = p.id), "
        "p.crossfeed_mm = coalesce((select min(s.crossfeed_mm) from plan_step s where s.plan_id = p.id and s.kind = 'rough'), 0.4), "
        "p.table_mm_s = coalesce((select min(s.table_mm_s) from plan_step s where s.plan_id = p.id and s.kind = 'rough'), 200), "
        "p.finish_crossfeed_mm = (select min(s.crossfeed_mm) from plan_step s where s.plan_id = p.id and s.kind = 'finish'), "
        "p.finish_table_mm_s = (select min(s.table_mm_s) from plan_step s where s.plan_id = p.id and s.kind = 'finish'), "
        "p.skew_deg = coalesce((select max(s.amount) from plan_step s where s.plan_id = p.id and s.kind = 'turn'), 0)"
    )
    op.execute("delete from plan_step where kind not in ('rough', 'finish')")
    _check("plan", "figures", None)
    for column in ("holder", "hold_safety", "rise_c", "reason"):
        op.drop_column("plan", column)
    _check("plan", "figures", "stock_mm >= 0 and left_on_mm >= 0 and spark_passes >= 0")
    for column in ("crossfeed_mm", "table_mm_s", "spark_passes", "minutes"):
        op.execute(f"alter table plan alter column {column} drop default")
    _check("plan_step", "step", "step_mm > 0 and depth_mm >= step_mm")
    _check("plan_step", "kind", "kind in ('rough', 'finish')")
    for column in ("crossfeed_mm", "table_mm_s", "what", "amount", "minutes"):
        op.drop_column("plan_step", column)
