"""part plans, fixtures, chucks and their maps, relations on the print"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import DATETIME

LENGTH = sa.Numeric(14, 7)
MOMENT = DATETIME(fsp=6)
TABLE = {"mariadb_charset": "utf8mb4", "mariadb_collate": "utf8mb4_unicode_ci", "mariadb_engine": "InnoDB"}

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None

OLD_SCHOOLS = "school in ('light', 'all_at_once')"
SCHOOLS = "school in ('quickest', 'light', 'all_at_once', 'peel', 'sharp_wide', 'auto', 'own')"
RELATIONS = "(square_mm is null or square_mm > 0) and (flat_mm is null or flat_mm > 0) and (ra_um is null or ra_um > 0)"


def upgrade() -> None:
    op.create_table(
        "fixture",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(length=80), nullable=False),
        sa.Column("kind", sa.String(length=20), nullable=False),
        sa.Column("square_mm", LENGTH, nullable=False),
        sa.Column("over_mm", LENGTH, nullable=False),
        sa.Column("seating_mm", LENGTH, nullable=False),
        sa.Column("base_length_mm", LENGTH, nullable=False),
        sa.Column("base_width_mm", LENGTH, nullable=False),
        sa.Column("checked_on", sa.Date(), nullable=True),
        sa.CheckConstraint(
            "kind in ('angle_plate', 'square_block', 'vee_or_vise', 'small_part_fixture', 'shim', 'assembly')",
            name=op.f("ck_fixture_kind"),
        ),
        sa.CheckConstraint(
            "square_mm >= 0 and over_mm > 0 and seating_mm >= 0 and base_length_mm > 0 and base_width_mm > 0",
            name=op.f("ck_fixture_figures"),
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_fixture")),
        sa.UniqueConstraint("name", name=op.f("uq_fixture_name")),
        **TABLE,
    )
    op.create_table(
        "chuck",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(length=80), nullable=False),
        sa.Column("machine_id", sa.Integer(), nullable=False),
        sa.Column("length_mm", LENGTH, nullable=False),
        sa.Column("width_mm", LENGTH, nullable=False),
        sa.Column("pull_n_cm2", sa.Numeric(precision=7, scale=2), nullable=False),
        sa.Column("pull_tested", sa.Boolean(), nullable=False),
        sa.CheckConstraint("length_mm > 0 and width_mm > 0 and pull_n_cm2 >= 0", name=op.f("ck_chuck_figures")),
        sa.ForeignKeyConstraint(["machine_id"], ["machine.id"], name=op.f("fk_chuck_machine_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_chuck")),
        sa.UniqueConstraint("machine_id", name=op.f("uq_chuck_machine_id")),
        sa.UniqueConstraint("name", name=op.f("uq_chuck_name")),
        **TABLE,
    )
    op.create_table(
        "chuck_map",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("chuck_id", sa.Integer(), nullable=False),
        sa.Column("taken_at", MOMENT, nullable=False),
        sa.Column("points", sa.Text(), nullable=False),
        sa.ForeignKeyConstraint(["chuck_id"], ["chuck.id"], name=op.f("fk_chuck_map_chuck_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_chuck_map")),
        **TABLE,
    )
    op.create_table(
        "part_plan",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("job_id", sa.Integer(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("based_on", sa.Integer(), nullable=False),
        sa.Column("choices", sa.Text(), nullable=False),
        sa.Column("figures", sa.Text(), nullable=False),
        sa.Column("made_by_id", sa.Integer(), nullable=False),
        sa.Column("made_at", MOMENT, nullable=False),
        sa.Column("released_by_id", sa.Integer(), nullable=True),
        sa.Column("released_at", MOMENT, nullable=True),
        sa.CheckConstraint("number >= 1", name=op.f("ck_part_plan_number")),
        sa.ForeignKeyConstraint(["job_id"], ["job.id"], name=op.f("fk_part_plan_job_id")),
        sa.ForeignKeyConstraint(["made_by_id"], ["person.id"], name=op.f("fk_part_plan_made_by_id")),
        sa.ForeignKeyConstraint(["released_by_id"], ["person.id"], name=op.f("fk_part_plan_released_by_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_part_plan")),
        sa.UniqueConstraint("job_id", "number", name="uq_part_plan_number"),
        **TABLE,
    )
    op.add_column("part", sa.Column("square_mm", LENGTH, nullable=True))
    op.add_column("part", sa.Column("flat_mm", LENGTH, nullable=True))
    op.add_column("part", sa.Column("ra_um", sa.Numeric(precision=5, scale=2), nullable=True))
    op.create_check_constraint(op.f("ck_part_relations"), "part", RELATIONS)
    op.add_column("plan", sa.Column("finish_crossfeed_mm", LENGTH, nullable=True))
    op.add_column("plan", sa.Column("finish_table_mm_s", LENGTH, nullable=True))
    op.add_column("plan", sa.Column("rough_blanks", sa.Integer(), server_default="0", nullable=False))
    op.add_column("plan", sa.Column("rough_dress", sa.String(length=10), server_default="", nullable=False))
    op.add_column("plan", sa.Column("finish_dress", sa.String(length=10), server_default="", nullable=False))
    op.add_column("plan", sa.Column("skew_deg", sa.Numeric(precision=5, scale=2), server_default="0", nullable=False))
    op.drop_constraint(op.f("ck_plan_school"), "plan", type_="check")
    op.create_check_constraint(op.f("ck_plan_school"), "plan", SCHOOLS)


def downgrade() -> None:
    op.drop_constraint(op.f("ck_plan_school"), "plan", type_="check")
    op.execute("update plan set school = 'light' where school not in ('light', 'all_at_once')")
    op.create_check_constraint(op.f("ck_plan_school"), "plan", OLD_SCHOOLS)
    for column in (
        "skew_deg",
        "finish_dress",
        "rough_dress",
        "rough_blanks",
        "finish_table_mm_s",
        "finish_crossfeed_mm",
    ):
        op.drop_column("plan", column)
    op.drop_constraint(op.f("ck_part_relations"), "part", type_="check")
    for column in ("ra_um", "flat_mm", "square_mm"):
        op.drop_column("part", column)
    for table in ("part_plan", "chuck_map", "chuck", "fixture"):
        op.drop_table(table)
