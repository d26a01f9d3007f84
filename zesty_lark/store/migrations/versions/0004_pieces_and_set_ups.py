"""pieces, set-ups and loads in the log; characteristics between any surfaces; the route in force"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

LENGTH, MOMENT = sa.Numeric(14, 7), mysql.DATETIME(fsp=6)
TABLE = {"mariadb_charset": "utf8mb4", "mariadb_collate": "utf8mb4_unicode_ci", "mariadb_engine": "InnoDB"}

revision = "0004"
down_revision = "0003"
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
    "done",
    "skipped",
    "note",
    "measured",
    "face done",
    "undone",
    "waived",
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
    "left",
    "rerouted",
    "ended",
    "undone",
    "waived",
    "signed off",
)
AT_MACHINE = (
    "planned",
    "placed",
    "touched off",
    "pass",
    "spark-out",
    "dressed",
    "done",
    "skipped",
    "face done",
    "left",
)
OLD_CHARACTERISTICS = ("thickness", "width", "length", "parallel", "square", "flat", "finish")


def _one_of(column: str, choices: tuple[str, ...]) -> str:
    return f"{column} in ({', '.join(repr(choice) for choice in choices)})"


def _check(table: str, name: str, condition: str | None) -> None:
    """Put a check in another's place, or take it away."""
    op.execute(f"alter table `{table}` drop constraint if exists `ck_{table}_{name}`")
    if condition is not None:
        op.create_check_constraint(op.f(f"ck_{table}_{name}"), table, condition)


def _unlocked() -> None:
    op.execute("drop trigger if exists log_entry_no_update")


def _locked() -> None:
    op.execute(
        "create trigger log_entry_no_update before update on log_entry for each row "
        "signal sqlstate '45000' set message_text = 'the shop log is append-only'"
    )


def upgrade() -> None:
    op.create_table(
        "piece",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("part_id", sa.Integer(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("thickness_mm", LENGTH, nullable=True),
        sa.Column("width_mm", LENGTH, nullable=True),
        sa.Column("length_mm", LENGTH, nullable=True),
        sa.CheckConstraint("number >= 1", name=op.f("ck_piece_number")),
        sa.CheckConstraint(
            "(thickness_mm is null or thickness_mm > 0) and (width_mm is null or width_mm > 0) and (length_mm is null or length_mm > 0)",
            name=op.f("ck_piece_sizes"),
        ),
        sa.ForeignKeyConstraint(["part_id"], ["part.id"], name=op.f("fk_piece_part_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_piece")),
        sa.UniqueConstraint("part_id", "number", name=op.f("uq_piece_number")),
        **TABLE,
    )
    op.create_table(
        "characteristic",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("part_id", sa.Integer(), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(20), nullable=False),
        sa.Column("kind", sa.String(10), nullable=False),
        sa.Column("surface", sa.Integer(), nullable=False),
        sa.Column("to_surface", sa.Integer(), nullable=True),
        sa.Column("nominal", LENGTH, nullable=False),
        sa.Column("tol_minus", LENGTH, nullable=False),
        sa.Column("tol_plus", LENGTH, nullable=False),
        sa.CheckConstraint(
            "kind in ('size', 'parallel', 'square', 'flat', 'angle', 'position', 'finish')",
            name=op.f("ck_characteristic_kind"),
        ),
        sa.CheckConstraint(
            "surface >= 1 and (to_surface is null or to_surface >= 1)", name=op.f("ck_characteristic_surfaces")
        ),
        sa.CheckConstraint(
            "nominal >= 0 and tol_minus >= 0 and tol_plus >= 0 and tol_minus + tol_plus > 0",
            name=op.f("ck_characteristic_limits"),
        ),
        sa.ForeignKeyConstraint(["part_id"], ["part.id"], name=op.f("fk_characteristic_part_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_characteristic")),
        sa.UniqueConstraint("part_id", "name", name=op.f("uq_characteristic_name")),
        **TABLE,
    )
    op.create_table(
        "job_summary",
        sa.Column("job_id", sa.Integer(), autoincrement=False, nullable=False),
        sa.Column("act", sa.String(20), nullable=False),
        sa.Column("surface", sa.Integer(), nullable=True),
        sa.Column("piece", sa.Integer(), nullable=True),
        sa.Column("characteristic", sa.String(20), nullable=False),
        sa.Column("words", sa.String(200), nullable=False),
        sa.Column("waits_for", sa.String(12), nullable=False),
        sa.Column("running", sa.Boolean(), nullable=False),
        sa.Column("up", sa.Integer(), nullable=True),
        sa.Column("states", sa.Text(), nullable=False),
        sa.Column("finished_at", MOMENT, nullable=True),
        sa.Column("last_at", MOMENT, nullable=True),
        sa.ForeignKeyConstraint(["job_id"], ["job.id"], name=op.f("fk_job_summary_job_id")),
        sa.PrimaryKeyConstraint("job_id", name=op.f("pk_job_summary")),
        **TABLE,
    )
    op.create_index("ix_job_summary_finished", "job_summary", ["finished_at", "job_id"])
    op.create_index("ix_job_summary_waits", "job_summary", ["waits_for", "job_id"])
    op.create_table(
        "job_word",
        sa.Column("word", sa.String(40), nullable=False),
        sa.Column("job_id", sa.Integer(), autoincrement=False, nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["job.id"], name=op.f("fk_job_word_job_id")),
        sa.PrimaryKeyConstraint("word", "job_id", name=op.f("pk_job_word")),
        **TABLE,
    )
    op.add_column("part", sa.Column("route", sa.Text(), nullable=True))
    op.execute(
        "update part p set p.route = (select v.choices from part_plan v where v.job_id = p.job_id and v.released_at is not null "
        "order by v.released_at desc, v.number desc limit 1)"
    )
    _check("plan", "face", None)
    op.alter_column("plan", "face", new_column_name="surface", existing_type=sa.Integer(), existing_nullable=False)
    _check("plan", "surface", "surface >= 1")
    _log()


def _log() -> None:
    """What was logged so far was of the first piece, in the only load of the set-up that its face was up in."""
    _check("log_entry", "face", None)
    _check("log_entry", "pass_has_reading", None)
    _check("log_entry", "characteristic", None)
    op.alter_column("log_entry", "face", new_column_name="surface", existing_type=sa.Integer(), existing_nullable=True)
    for column in (
        sa.Column("setup", sa.String(20), nullable=True),
        sa.Column("load", sa.Integer(), nullable=True),
        sa.Column("pieces", sa.Text(), nullable=True),
        sa.Column("piece", sa.Integer(), nullable=True),
        sa.Column("route_change", sa.String(10), nullable=True),
        sa.Column("piece_end", sa.String(10), nullable=True),
    ):
        op.add_column("log_entry", column)
    _unlocked()
    op.execute(
        f"update log_entry set setup = surface, `load` = 1 where {_one_of('kind', AT_MACHINE)} or kind = 'measured'"
    )
    op.execute("update log_entry set piece = 1 where kind = 'measured'")
    op.execute("update log_entry set pieces = '1' where kind in ('planned', 'face done')")
    op.execute("update log_entry set reading_mm = 0 where kind = 'touched off' and reading_mm is null")
    op.execute("update log_entry set pass_count = 1 where kind = 'spark-out' and pass_count is null")
    _locked()
    _check("log_entry", "kind", _one_of("kind", NEW_KINDS))
    _check("log_entry", "surface", "surface is null or surface >= 1")
    _check(
        "log_entry",
        "pass_has_reading",
        "kind not in ('pass', 'touched off') or (surface is not null and reading_mm is not null)",
    )
    _check(
        "log_entry",
        "measured_with_what",
        "kind <> 'measured' or (instrument_id is not null and uncertainty_mm is not null and piece is not null)",
    )
    _check(
        "log_entry",
        "at_machine",
        f"not ({_one_of('kind', AT_MACHINE)}) or (surface is not null and setup is not null and `load` is not null)",
    )
    _check("log_entry", "ended", "kind <> 'ended' or (piece is not null and piece_end is not null)")
    _check("log_entry", "rerouted", "kind <> 'rerouted' or route_change is not null")
    _check("log_entry", "piece_end", _one_of("piece_end", ("scrapped", "passed")))
    _check("log_entry", "route_change", _one_of("route_change", ("skip", "first", "grind")))


def downgrade() -> None:
    """What the older tables cannot hold is kept as a note: other pieces than the first, what left the route, other characteristics."""
    for name in (
        "kind",
        "surface",
        "pass_has_reading",
        "measured_with_what",
        "at_machine",
        "ended",
        "rerouted",
        "piece_end",
        "route_change",
    ):
        _check("log_entry", name, None)
    _unlocked()
    op.execute(
        "update log_entry set note = concat(kind, ' ', coalesce(route_change, piece_end, ''), ' ', coalesce(piece, setup, ''), "
        "'. ', note), kind = 'note' where kind in ('left', 'rerouted', 'ended')"
    )
    op.execute(
        "update log_entry set note = concat('Measured ', characteristic, ' of piece ', piece, ': ', coalesce(verdict, ''), '. ', "
        "note), kind = 'note', characteristic = 'thickness' where kind = 'measured' and (piece > 1 or not "
        f"({_one_of('characteristic', OLD_CHARACTERISTICS)}))"
    )
    op.execute(
        "update log_entry set note = concat('Waived ', characteristic, '. ', note), kind = 'note', characteristic = 'thickness' "
        f"where kind = 'waived' and not ({_one_of('characteristic', OLD_CHARACTERISTICS)})"
    )
    op.execute("update log_entry set surface = null where surface > 6")
    _locked()
    for column in ("setup", "load", "pieces", "piece", "route_change", "piece_end"):
        op.drop_column("log_entry", column)
    op.alter_column("log_entry", "surface", new_column_name="face", existing_type=sa.Integer(), existing_nullable=True)
    _check("log_entry", "kind", _one_of("kind", OLD_KINDS))
    _check("log_entry", "face", "face is null or face between 1 and 6")
    _check("log_entry", "pass_has_reading", "kind <> 'pass' or (face is not null and reading_mm is not null)")
    _check(
        "log_entry",
        "measured_with_what",
        "kind <> 'measured' or (instrument_id is not null and uncertainty_mm is not null)",
    )
    _check("log_entry", "characteristic", _one_of("characteristic", OLD_CHARACTERISTICS))
    _check("plan", "surface", None)
    op.execute("update plan set surface = 1 where surface > 6")
    op.alter_column("plan", "surface", new_column_name="face", existing_type=sa.Integer(), existing_nullable=False)
    _check("plan", "face", "face between 1 and 6")
    op.drop_column("part", "route")
    op.drop_table("job_word")
    op.drop_table("job_summary")
    op.drop_table("characteristic")
    op.drop_table("piece")
