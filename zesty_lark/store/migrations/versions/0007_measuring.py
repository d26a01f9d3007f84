"""maps of chucks and pieces, connected gauges and their checks, gauge blocks, how a size was measured"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

MOMENT = mysql.DATETIME(fsp=6)
TABLE = {"mariadb_charset": "utf8mb4", "mariadb_collate": "utf8mb4_unicode_ci", "mariadb_engine": "InnoDB"}

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def _check(table: str, name: str, condition: str | None) -> None:
    """Put a check in another's place, or take it away."""
    op.execute(f"alter table `{table}` drop constraint if exists `ck_{table}_{name}`")
    if condition is not None:
        op.create_check_constraint(op.f(f"ck_{table}_{name}"), table, condition)


def _append_only(table: str) -> None:
    for act in ("update", "delete"):
        op.execute(
            f"create or replace trigger {table}_no_{act} before {act} on {table} for each row "
            f"signal sqlstate '45000' set message_text = '{table} is append-only'"
        )


def upgrade() -> None:
    _gauges()
    _maps()
    op.add_column("log_entry", sa.Column("how", sa.String(200), server_default="", nullable=False))
    op.add_column("log_entry", sa.Column("map_key", sa.String(36), nullable=True))


def _gauges() -> None:
    for column in (
        sa.Column("reads", sa.String(10), server_default="sizes", nullable=False),
        sa.Column("port", sa.String(200), nullable=True),
        sa.Column("baud", sa.Integer(), server_default="9600", nullable=False),
        sa.Column("sends", sa.String(2), server_default="mm", nullable=False),
        sa.Column("asks", sa.String(20), server_default="", nullable=False),
        sa.Column("falls", sa.Boolean(), server_default="0", nullable=False),
        sa.Column("simulated", sa.Boolean(), server_default="0", nullable=False),
        sa.Column("streams", sa.Boolean(), server_default="0", nullable=False),
    ):
        op.add_column("instrument", column)
    _check("instrument", "reads", "`reads` in ('sizes', 'deviations')")
    _check("instrument", "sends", "sends in ('mm', 'in', 'um')")
    op.create_table(
        "block_set",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("version", sa.Integer(), server_default="1", nullable=False),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("unit", sa.String(2), nullable=False),
        sa.Column("set_name", sa.String(10), nullable=False),
        sa.Column("u_um", sa.Numeric(6, 3), nullable=False),
        sa.Column("calibrated_on", sa.Date(), nullable=False),
        sa.Column("due_on", sa.Date(), nullable=False),
        sa.Column("blocks", sa.Text(), nullable=False),
        sa.Column("missing", sa.Text(), nullable=False),
        sa.Column("worn", sa.Text(), nullable=False),
        sa.CheckConstraint("set_name in ('inch81', 'metric47', 'metric88', 'own')", name=op.f("ck_block_set_set_name")),
        sa.CheckConstraint("u_um > 0", name=op.f("ck_block_set_u")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_block_set")),
        sa.UniqueConstraint("name", name=op.f("uq_block_set_name")),
        **TABLE,
    )
    op.create_table(
        "gauge_check",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("entry_id", sa.String(36), nullable=False),
        sa.Column("instrument_id", sa.Integer(), nullable=False),
        sa.Column("kind", sa.String(10), nullable=False),
        sa.Column("readings", sa.Text(), nullable=False),
        sa.Column("good", sa.Boolean(), nullable=False),
        sa.Column("words", sa.String(300), nullable=False),
        sa.Column("at", MOMENT, nullable=False),
        sa.Column("by_id", sa.Integer(), nullable=False),
        sa.CheckConstraint("kind in ('repeat', 'zero', 'direction')", name=op.f("ck_gauge_check_kind")),
        sa.ForeignKeyConstraint(["instrument_id"], ["instrument.id"], name=op.f("fk_gauge_check_instrument_id")),
        sa.ForeignKeyConstraint(["by_id"], ["person.id"], name=op.f("fk_gauge_check_by_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_gauge_check")),
        sa.UniqueConstraint("entry_id", name=op.f("uq_gauge_check_entry_id")),
        **TABLE,
    )
    op.create_index("ix_gauge_check_instrument", "gauge_check", ["instrument_id", "id"])
    _append_only("gauge_check")
    op.add_column("chuck", sa.Column("flat_limit_um", sa.Numeric(7, 2), server_default="5", nullable=False))
    _check("chuck", "flat_limit", "flat_limit_um > 0")


def _maps() -> None:
    op.create_table(
        "surface_map",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("key", sa.String(36), nullable=False),
        sa.Column("version", sa.Integer(), server_default="1", nullable=False),
        sa.Column("chuck_id", sa.Integer(), nullable=True),
        sa.Column("job_id", sa.Integer(), nullable=True),
        sa.Column("piece", sa.Integer(), nullable=True),
        sa.Column("surface", sa.Integer(), nullable=True),
        sa.Column("frame", sa.String(10), nullable=False),
        sa.Column("layout", mysql.MEDIUMTEXT(), nullable=True),
        sa.Column("points", mysql.LONGTEXT(), nullable=True),
        sa.Column("closing_um", sa.Numeric(12, 4), nullable=True),
        sa.Column("plate_um", sa.Numeric(7, 3), server_default="0", nullable=False),
        sa.Column("state", sa.String(10), nullable=False),
        sa.Column("note", sa.String(500), server_default="", nullable=False),
        sa.Column("seen", sa.Text(), nullable=False),
        sa.Column("seen_depth_um", sa.Numeric(9, 3), nullable=True),
        sa.Column("count", sa.Integer(), nullable=True),
        sa.Column("range_um", sa.Numeric(12, 4), nullable=True),
        sa.Column("taken_at", MOMENT, nullable=False),
        sa.Column("by_id", sa.Integer(), nullable=True),
        sa.Column("instrument_id", sa.Integer(), nullable=True),
        sa.CheckConstraint("state in ('taking', 'in use', 'refused', 'withdrawn')", name=op.f("ck_surface_map_state")),
        sa.CheckConstraint("frame in ('machine', 'plate')", name=op.f("ck_surface_map_frame")),
        sa.CheckConstraint("(chuck_id is null) <> (job_id is null)", name=op.f("ck_surface_map_of")),
        sa.CheckConstraint("state = 'taking' or points is not null", name=op.f("ck_surface_map_points")),
        sa.ForeignKeyConstraint(["chuck_id"], ["chuck.id"], name=op.f("fk_surface_map_chuck_id")),
        sa.ForeignKeyConstraint(["job_id"], ["job.id"], name=op.f("fk_surface_map_job_id")),
        sa.ForeignKeyConstraint(["by_id"], ["person.id"], name=op.f("fk_surface_map_by_id")),
        sa.ForeignKeyConstraint(["instrument_id"], ["instrument.id"], name=op.f("fk_surface_map_instrument_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_surface_map")),
        sa.UniqueConstraint("key", name=op.f("uq_surface_map_key")),
        **TABLE,
    )
    op.create_index("ix_surface_map_job", "surface_map", ["job_id", "id"])
    op.execute(
        "insert into surface_map (id, `key`, chuck_id, frame, points, closing_um, state, note, seen, taken_at) "
        "select id, concat('00000000-0000-4000-8000-', lpad(hex(id), 12, '0')), chuck_id, 'machine', points, case state when 'refused' then closing_um end, state, note, '', "
        "taken_at from chuck_map"
    )
    op.drop_table("chuck_map")
    op.create_table(
        "map_reading",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("entry_id", sa.String(36), nullable=False),
        sa.Column("map_id", sa.Integer(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("value_um", sa.Numeric(12, 4), nullable=False),
        sa.Column("source", sa.String(80), server_default="", nullable=False),
        sa.Column("at", MOMENT, nullable=False),
        sa.Column("by_id", sa.Integer(), nullable=False),
        sa.CheckConstraint("number >= 0", name=op.f("ck_map_reading_number")),
        sa.ForeignKeyConstraint(["map_id"], ["surface_map.id"], name=op.f("fk_map_reading_map_id")),
        sa.ForeignKeyConstraint(["by_id"], ["person.id"], name=op.f("fk_map_reading_by_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_map_reading")),
        sa.UniqueConstraint("entry_id", name=op.f("uq_map_reading_entry_id")),
        **TABLE,
    )
    op.create_index("ix_map_reading_map", "map_reading", ["map_id", "id"])
    _append_only("map_reading")
    op.create_table(
        "chuck_act",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("entry_id", sa.String(36), nullable=False),
        sa.Column("chuck_id", sa.Integer(), nullable=False),
        sa.Column("grinding", sa.Integer(), nullable=False),
        sa.Column("passes", sa.Integer(), nullable=False),
        sa.Column("step", sa.String(20), nullable=False),
        sa.Column("answer", sa.String(20), server_default="", nullable=False),
        sa.Column("note", sa.String(500), server_default="", nullable=False),
        sa.Column("at", MOMENT, nullable=False),
        sa.Column("by_id", sa.Integer(), nullable=False),
        sa.CheckConstraint("grinding >= 1 and passes >= 1", name=op.f("ck_chuck_act_counts")),
        sa.ForeignKeyConstraint(["chuck_id"], ["chuck.id"], name=op.f("fk_chuck_act_chuck_id")),
        sa.ForeignKeyConstraint(["by_id"], ["person.id"], name=op.f("fk_chuck_act_by_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_chuck_act")),
        sa.UniqueConstraint("entry_id", name=op.f("uq_chuck_act_entry_id")),
        **TABLE,
    )
    op.create_index("ix_chuck_act_chuck", "chuck_act", ["chuck_id", "id"])
    _append_only("chuck_act")


def downgrade() -> None:
    """Maps of chucks stay as far as the earlier layout holds them; those of pieces, and what gauges were found to do, go."""
    op.drop_column("log_entry", "map_key")
    op.drop_column("log_entry", "how")
    op.drop_table("chuck_act")
    op.drop_table("map_reading")
    op.create_table(
        "chuck_map",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("chuck_id", sa.Integer(), nullable=False),
        sa.Column("taken_at", MOMENT, nullable=False),
        sa.Column("points", sa.Text(), nullable=False),
        sa.Column("closing_um", sa.Numeric(9, 3), nullable=True),
        sa.Column("state", sa.String(10), server_default="in use", nullable=False),
        sa.Column("note", sa.String(500), server_default="", nullable=False),
        sa.CheckConstraint("state in ('in use', 'refused', 'withdrawn')", name=op.f("ck_chuck_map_state")),
        sa.ForeignKeyConstraint(["chuck_id"], ["chuck.id"], name=op.f("fk_chuck_map_chuck_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_chuck_map")),
        **TABLE,
    )
    op.execute(
        "insert into chuck_map (id, chuck_id, taken_at, points, closing_um, state, note) "
        "select id, chuck_id, taken_at, points, closing_um, state, note from surface_map "
        "where chuck_id is not null and state <> 'taking' and length(points) < 65000 and frame = 'machine'"
    )
    op.drop_table("surface_map")
    _check("chuck", "flat_limit", None)
    op.drop_column("chuck", "flat_limit_um")
    op.drop_table("gauge_check")
    op.drop_table("block_set")
    for name in ("reads", "sends"):
        _check("instrument", name, None)
    for name in ("streams", "simulated", "falls", "asks", "sends", "baud", "port", "reads"):
        op.drop_column("instrument", name)
