"""first tables"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import DATETIME

LENGTH = sa.Numeric(14, 7)
MOMENT = DATETIME(fsp=6)
TABLE = {"mariadb_charset": "utf8mb4", "mariadb_collate": "utf8mb4_unicode_ci", "mariadb_engine": "InnoDB"}

APPEND_ONLY = ("log_entry", "log_reading")

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "instrument",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(length=80), nullable=False),
        sa.Column("unit", sa.String(length=2), nullable=False),
        sa.Column("least_mm", LENGTH, nullable=False),
        sa.Column("most_mm", LENGTH, nullable=False),
        sa.Column("resolution_mm", LENGTH, nullable=False),
        sa.Column("error_limit_mm", LENGTH, nullable=False),
        sa.Column("calibration_u_mm", LENGTH, nullable=False),
        sa.Column("repeatability_mm", LENGTH, nullable=False),
        sa.Column("calibrated_on", sa.Date(), nullable=False),
        sa.Column("due_on", sa.Date(), nullable=False),
        sa.CheckConstraint("least_mm >= 0 and most_mm > least_mm", name=op.f("ck_instrument_measuring_range")),
        sa.CheckConstraint(
            "resolution_mm > 0 and error_limit_mm >= 0 and calibration_u_mm >= 0 and repeatability_mm >= 0",
            name=op.f("ck_instrument_figures"),
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_instrument")),
        sa.UniqueConstraint("name", name=op.f("uq_instrument_name")),
        **TABLE,
    )
    op.create_table(
        "machine",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(length=80), nullable=False),
        sa.Column("dial_unit", sa.String(length=2), nullable=False),
        sa.Column("graduation_mm", LENGTH, nullable=False),
        sa.Column("per_rev_mm", LENGTH, nullable=False),
        sa.Column("backlash_mm", LENGTH, nullable=False),
        sa.Column("crossfeed_graduation_mm", LENGTH, nullable=False),
        sa.Column("crossfeed_min_mm", LENGTH, nullable=False),
        sa.Column("crossfeed_max_mm", LENGTH, nullable=False),
        sa.Column("table_min_mm_s", LENGTH, nullable=False),
        sa.Column("table_max_mm_s", LENGTH, nullable=False),
        sa.Column("reversal_s", sa.Numeric(precision=6, scale=3), nullable=False),
        sa.Column("travel_long_mm", LENGTH, nullable=False),
        sa.Column("travel_cross_mm", LENGTH, nullable=False),
        sa.Column("height_mm", LENGTH, nullable=False),
        sa.Column("spindle_w", sa.Integer(), nullable=False),
        sa.Column("rpm", sa.Integer(), nullable=False),
        sa.Column("wheel_turns", sa.String(length=20), nullable=False),
        sa.Column("feed_every", sa.String(length=10), nullable=False),
        sa.Column("coolant", sa.String(length=10), nullable=False),
        sa.Column("cut_ratio", sa.Numeric(precision=5, scale=4), nullable=False),
        sa.CheckConstraint("coolant in ('dry', 'mist', 'water', 'oil')", name=op.f("ck_machine_coolant")),
        sa.CheckConstraint("dial_unit in ('mm', 'in')", name=op.f("ck_machine_dial_unit")),
        sa.CheckConstraint("feed_every in ('stroke', 'pair')", name=op.f("ck_machine_feed_every")),
        sa.CheckConstraint("wheel_turns in ('clockwise', 'counter-clockwise')", name=op.f("ck_machine_wheel_turns")),
        sa.CheckConstraint(
            "crossfeed_graduation_mm > 0 and crossfeed_min_mm > 0 and crossfeed_max_mm >= crossfeed_min_mm",
            name=op.f("ck_machine_crossfeed"),
        ),
        sa.CheckConstraint("cut_ratio > 0 and cut_ratio <= 1", name=op.f("ck_machine_cut_ratio")),
        sa.CheckConstraint("graduation_mm > 0 and per_rev_mm >= graduation_mm", name=op.f("ck_machine_collar")),
        sa.CheckConstraint(
            "table_min_mm_s > 0 and table_max_mm_s >= table_min_mm_s", name=op.f("ck_machine_table_speed")
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_machine")),
        sa.UniqueConstraint("name", name=op.f("uq_machine_name")),
        **TABLE,
    )
    op.create_table(
        "person",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("sign_in_name", sa.String(length=40), nullable=False),
        sa.Column("name", sa.String(length=80), nullable=False),
        sa.Column("role", sa.String(length=20), nullable=False),
        sa.Column("password_hash", sa.String(length=200), nullable=False),
        sa.Column("session_stamp", sa.String(length=32), nullable=False),
        sa.Column("active", sa.Boolean(), nullable=False),
        sa.Column("created_at", MOMENT, nullable=False),
        sa.CheckConstraint("role in ('machinist', 'lead', 'inspector', 'apprentice')", name=op.f("ck_person_role")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_person")),
        sa.UniqueConstraint("sign_in_name", name=op.f("uq_person_sign_in_name")),
        **TABLE,
    )
    op.create_table(
        "sign_in_attempt",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("sign_in_name", sa.String(length=40), nullable=False),
        sa.Column("address", sa.String(length=45), nullable=False),
        sa.Column("succeeded", sa.Boolean(), nullable=False),
        sa.Column("at", MOMENT, nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_sign_in_attempt")),
        **TABLE,
    )
    op.create_index("ix_sign_in_attempt_address_at", "sign_in_attempt", ["address", "at"], unique=False)
    op.create_index("ix_sign_in_attempt_name_at", "sign_in_attempt", ["sign_in_name", "at"], unique=False)
    op.create_table(
        "wheel",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(length=80), nullable=False),
        sa.Column("marking", sa.String(length=40), nullable=False),
        sa.Column("grit", sa.Integer(), nullable=False),
        sa.Column("grade", sa.String(length=1), nullable=False),
        sa.Column("diameter_mm", LENGTH, nullable=False),
        sa.Column("width_mm", LENGTH, nullable=False),
        sa.Column("bore_mm", LENGTH, nullable=False),
        sa.Column("max_rpm", sa.Integer(), nullable=False),
        sa.CheckConstraint("grade regexp '^[A-Z]$'", name=op.f("ck_wheel_grade")),
        sa.CheckConstraint(
            "diameter_mm > 0 and width_mm > 0 and bore_mm > 0 and bore_mm < diameter_mm", name=op.f("ck_wheel_sizes")
        ),
        sa.CheckConstraint("grit between 4 and 1200", name=op.f("ck_wheel_grit")),
        sa.CheckConstraint("max_rpm > 0", name=op.f("ck_wheel_max_rpm")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_wheel")),
        sa.UniqueConstraint("name", name=op.f("uq_wheel_name")),
        **TABLE,
    )
    op.create_table(
        "job",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("number", sa.String(length=20), nullable=False),
        sa.Column("title", sa.String(length=80), nullable=False),
        sa.Column("print_unit", sa.String(length=2), nullable=False),
        sa.Column("due_on", sa.Date(), nullable=True),
        sa.Column("owner_id", sa.Integer(), nullable=False),
        sa.Column("machine_id", sa.Integer(), nullable=False),
        sa.Column("wheel_id", sa.Integer(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("created_at", MOMENT, nullable=False),
        sa.CheckConstraint("print_unit in ('mm', 'in')", name=op.f("ck_job_print_unit")),
        sa.ForeignKeyConstraint(["machine_id"], ["machine.id"], name=op.f("fk_job_machine_id")),
        sa.ForeignKeyConstraint(["owner_id"], ["person.id"], name=op.f("fk_job_owner_id")),
        sa.ForeignKeyConstraint(["wheel_id"], ["wheel.id"], name=op.f("fk_job_wheel_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_job")),
        sa.UniqueConstraint("number", name=op.f("uq_job_number")),
        **TABLE,
    )
    op.create_table(
        "part",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("job_id", sa.Integer(), nullable=False),
        sa.Column("quantity", sa.Integer(), nullable=False),
        sa.Column("material", sa.String(length=80), nullable=False),
        sa.Column("hardness_hrc", sa.Numeric(precision=4, scale=1), nullable=True),
        sa.Column("parallel_mm", LENGTH, nullable=True),
        sa.Column("mark_corner", sa.String(length=5), nullable=False),
        sa.Column("reference_face", sa.Integer(), nullable=False),
        sa.Column("min_skin_mm", LENGTH, nullable=False),
        sa.Column("first_share", sa.Numeric(precision=5, scale=4), nullable=True),
        sa.Column("remarks", sa.Text(), nullable=False),
        sa.CheckConstraint(
            "mark_corner in ('1-3-4', '1-3-6', '1-5-4', '1-5-6', '2-3-4', '2-3-6', '2-5-4', '2-5-6')",
            name=op.f("ck_part_mark_corner"),
        ),
        sa.CheckConstraint("first_share is null or first_share between 0 and 1", name=op.f("ck_part_first_share")),
        sa.CheckConstraint("min_skin_mm >= 0", name=op.f("ck_part_min_skin")),
        sa.CheckConstraint("parallel_mm is null or parallel_mm > 0", name=op.f("ck_part_parallel")),
        sa.CheckConstraint("quantity >= 1", name=op.f("ck_part_quantity")),
        sa.CheckConstraint("reference_face in (1, 2)", name=op.f("ck_part_reference_face")),
        sa.ForeignKeyConstraint(["job_id"], ["job.id"], name=op.f("fk_part_job_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_part")),
        sa.UniqueConstraint("job_id", name=op.f("uq_part_job_id")),
        **TABLE,
    )
    op.create_table(
        "plan",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("job_id", sa.Integer(), nullable=False),
        sa.Column("face", sa.Integer(), nullable=False),
        sa.Column("school", sa.String(length=20), nullable=False),
        sa.Column("stock_mm", LENGTH, nullable=False),
        sa.Column("left_on_mm", LENGTH, nullable=False),
        sa.Column("crossfeed_mm", LENGTH, nullable=False),
        sa.Column("table_mm_s", LENGTH, nullable=False),
        sa.Column("spark_passes", sa.Integer(), nullable=False),
        sa.Column("minutes", sa.Numeric(precision=8, scale=2), nullable=False),
        sa.Column("keeps_wheel_height", sa.Boolean(), nullable=False),
        sa.Column("created_by_id", sa.Integer(), nullable=False),
        sa.Column("created_at", MOMENT, nullable=False),
        sa.CheckConstraint("school in ('light', 'all_at_once')", name=op.f("ck_plan_school")),
        sa.CheckConstraint("face between 1 and 6", name=op.f("ck_plan_face")),
        sa.CheckConstraint("stock_mm >= 0 and left_on_mm >= 0 and spark_passes >= 0", name=op.f("ck_plan_figures")),
        sa.ForeignKeyConstraint(["created_by_id"], ["person.id"], name=op.f("fk_plan_created_by_id")),
        sa.ForeignKeyConstraint(["job_id"], ["job.id"], name=op.f("fk_plan_job_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_plan")),
        **TABLE,
    )
    op.create_table(
        "log_entry",
        sa.Column("seq", sa.BigInteger(), nullable=False),
        sa.Column("entry_id", sa.String(length=36), nullable=False),
        sa.Column("job_id", sa.Integer(), nullable=False),
        sa.Column("kind", sa.String(length=20), nullable=False),
        sa.Column("at", MOMENT, nullable=False),
        sa.Column("by_id", sa.Integer(), nullable=False),
        sa.Column("machine_id", sa.Integer(), nullable=True),
        sa.Column("face", sa.Integer(), nullable=True),
        sa.Column("plan_id", sa.Integer(), nullable=True),
        sa.Column("reading_mm", LENGTH, nullable=True),
        sa.Column("amount_mm", LENGTH, nullable=True),
        sa.Column("pass_count", sa.Integer(), nullable=True),
        sa.Column("note", sa.Text(), nullable=False),
        sa.Column("supersedes", sa.String(length=36), nullable=True),
        sa.Column("instrument_id", sa.Integer(), nullable=True),
        sa.Column("part_c", sa.Numeric(precision=5, scale=2), nullable=True),
        sa.Column("uncertainty_mm", LENGTH, nullable=True),
        sa.Column("verdict", sa.String(length=10), nullable=True),
        sa.Column("asked_mm", LENGTH, nullable=True),
        sa.Column("got_mm", LENGTH, nullable=True),
        sa.CheckConstraint(
            "kind <> 'measured' or (instrument_id is not null and uncertainty_mm is not null)",
            name=op.f("ck_log_entry_measured_with_what"),
        ),
        sa.CheckConstraint(
            "kind <> 'pass' or (face is not null and reading_mm is not null)",
            name=op.f("ck_log_entry_pass_has_reading"),
        ),
        sa.CheckConstraint("kind <> 'planned' or plan_id is not null", name=op.f("ck_log_entry_planned_has_plan")),
        sa.CheckConstraint("kind <> 'undone' or supersedes is not null", name=op.f("ck_log_entry_undone_supersedes")),
        sa.CheckConstraint(
            "kind in ('taken in', 'amended', 'handed over', 'planned', 'placed', 'touched off', 'pass', 'spark-out', 'dressed', 'note', 'measured', 'face done', 'undone', 'signed off')",
            name=op.f("ck_log_entry_kind"),
        ),
        sa.CheckConstraint("verdict is null or verdict in ('in', 'out', 'unsure')", name=op.f("ck_log_entry_verdict")),
        sa.CheckConstraint("face is null or face between 1 and 6", name=op.f("ck_log_entry_face")),
        sa.CheckConstraint("pass_count is null or pass_count between 1 and 50", name=op.f("ck_log_entry_pass_count")),
        sa.ForeignKeyConstraint(["by_id"], ["person.id"], name=op.f("fk_log_entry_by_id")),
        sa.ForeignKeyConstraint(["instrument_id"], ["instrument.id"], name=op.f("fk_log_entry_instrument_id")),
        sa.ForeignKeyConstraint(["job_id"], ["job.id"], name=op.f("fk_log_entry_job_id")),
        sa.ForeignKeyConstraint(["machine_id"], ["machine.id"], name=op.f("fk_log_entry_machine_id")),
        sa.ForeignKeyConstraint(["plan_id"], ["plan.id"], name=op.f("fk_log_entry_plan_id")),
        sa.ForeignKeyConstraint(["supersedes"], ["log_entry.entry_id"], name=op.f("fk_log_entry_supersedes")),
        sa.PrimaryKeyConstraint("seq", name=op.f("pk_log_entry")),
        sa.UniqueConstraint("entry_id", name=op.f("uq_log_entry_entry_id")),
        sa.UniqueConstraint("supersedes", name=op.f("uq_log_entry_supersedes")),
        **TABLE,
    )
    op.create_index("ix_log_entry_job_seq", "log_entry", ["job_id", "seq"], unique=False)
    op.create_table(
        "part_face",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("part_id", sa.Integer(), nullable=False),
        sa.Column("face", sa.Integer(), nullable=False),
        sa.Column("condition", sa.String(length=40), nullable=False),
        sa.Column("cleanup_mm", LENGTH, nullable=False),
        sa.Column("purpose", sa.String(length=10), nullable=False),
        sa.CheckConstraint(
            "`condition` in ('scale or burrs', 'sawn', 'milled', 'stable', 'ground')",
            name=op.f("ck_part_face_`condition`"),
        ),
        sa.CheckConstraint("purpose in ('bearing', 'plain')", name=op.f("ck_part_face_purpose")),
        sa.CheckConstraint("cleanup_mm >= 0", name=op.f("ck_part_face_cleanup")),
        sa.CheckConstraint("face between 1 and 6", name=op.f("ck_part_face_face")),
        sa.ForeignKeyConstraint(["part_id"], ["part.id"], name=op.f("fk_part_face_part_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_part_face")),
        sa.UniqueConstraint("part_id", "face", name="uq_part_face_face"),
        **TABLE,
    )
    op.create_table(
        "part_size",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("part_id", sa.Integer(), nullable=False),
        sa.Column("axis", sa.String(length=10), nullable=False),
        sa.Column("target_mm", LENGTH, nullable=False),
        sa.Column("tol_minus_mm", LENGTH, nullable=False),
        sa.Column("tol_plus_mm", LENGTH, nullable=False),
        sa.Column("measured_max_mm", LENGTH, nullable=False),
        sa.Column("measured_min_mm", LENGTH, nullable=False),
        sa.CheckConstraint("axis in ('length', 'width', 'thickness')", name=op.f("ck_part_size_axis")),
        sa.CheckConstraint(
            "measured_min_mm > 0 and measured_max_mm >= measured_min_mm", name=op.f("ck_part_size_measured")
        ),
        sa.CheckConstraint(
            "target_mm > 0 and tol_minus_mm >= 0 and tol_plus_mm >= 0 and tol_minus_mm + tol_plus_mm > 0 and tol_minus_mm < target_mm",
            name=op.f("ck_part_size_print"),
        ),
        sa.ForeignKeyConstraint(["part_id"], ["part.id"], name=op.f("fk_part_size_part_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_part_size")),
        sa.UniqueConstraint("part_id", "axis", name="uq_part_size_axis"),
        **TABLE,
    )
    op.create_table(
        "plan_step",
        sa.Column("plan_id", sa.Integer(), nullable=False),
        sa.Column("number", sa.Integer(), autoincrement=False, nullable=False),
        sa.Column("step_mm", LENGTH, nullable=False),
        sa.Column("depth_mm", LENGTH, nullable=False),
        sa.Column("kind", sa.String(length=10), nullable=False),
        sa.CheckConstraint("kind in ('rough', 'finish')", name=op.f("ck_plan_step_kind")),
        sa.CheckConstraint("step_mm > 0 and depth_mm >= step_mm", name=op.f("ck_plan_step_step")),
        sa.ForeignKeyConstraint(["plan_id"], ["plan.id"], name=op.f("fk_plan_step_plan_id")),
        sa.PrimaryKeyConstraint("plan_id", "number", name=op.f("pk_plan_step")),
        **TABLE,
    )
    op.create_table(
        "log_reading",
        sa.Column("seq", sa.BigInteger(), autoincrement=False, nullable=False),
        sa.Column("position", sa.Integer(), autoincrement=False, nullable=False),
        sa.Column("place", sa.String(length=80), nullable=False),
        sa.Column("value_mm", LENGTH, nullable=False),
        sa.CheckConstraint("value_mm > 0", name=op.f("ck_log_reading_value")),
        sa.ForeignKeyConstraint(["seq"], ["log_entry.seq"], name=op.f("fk_log_reading_seq")),
        sa.PrimaryKeyConstraint("seq", "position", name=op.f("pk_log_reading")),
        **TABLE,
    )
    for table in APPEND_ONLY:
        for act in ("update", "delete"):
            op.execute(
                f"create trigger {table}_no_{act} before {act} on {table} for each row "
                "signal sqlstate '45000' set message_text = 'the shop log is append-only'"
            )


def downgrade() -> None:
    for table in APPEND_ONLY:
        for act in ("update", "delete"):
            op.execute(f"drop trigger if exists {table}_no_{act}")
    op.drop_table("log_reading")
    op.drop_table("plan_step")
    op.drop_table("part_size")
    op.drop_table("part_face")
    op.drop_table("log_entry")
    op.drop_table("plan")
    op.drop_table("part")
    op.drop_table("job")
    op.drop_table("wheel")
    op.drop_table("sign_in_attempt")
    op.drop_table("person")
    op.drop_table("machine")
    op.drop_table("instrument")
