"""wheels have a log, a life, and a flange; machines list what hums"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import DATETIME

LENGTH = sa.Numeric(14, 7)
TABLE = {"mariadb_charset": "utf8mb4", "mariadb_collate": "utf8mb4_unicode_ci", "mariadb_engine": "InnoDB"}

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None

KINDS = "'checked', 'taken down', 'balance', 'dressed', 'shaped', 'printed', 'put out', 'note', 'undone'"
WHEEL_COLUMNS = (
    "off_mm",
    "new_diameter_mm",
    "least_diameter_mm",
    "price",
    "mass_g",
    "side_work",
    "flange_id",
    "ground_mm3",
    "scrapped",
    "mounted_on",
    "next_step",
)


def upgrade() -> None:
    op.create_table(
        "flange",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("version", sa.Integer(), server_default="1", nullable=False),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("kind", sa.String(10), nullable=False),
        sa.Column("diameter_mm", LENGTH, nullable=False),
        sa.Column("spigot_mm", LENGTH, nullable=False),
        sa.Column("radius_mm", LENGTH, nullable=False),
        sa.Column("holes", sa.Integer(), nullable=True),
        sa.Column("masses", sa.String(200), nullable=False),
        sa.CheckConstraint("kind in ('weights', 'ring', 'plain')", name=op.f("ck_flange_kind")),
        sa.CheckConstraint("diameter_mm > 0 and spigot_mm > 0 and radius_mm > 0", name=op.f("ck_flange_figures")),
        sa.CheckConstraint("holes is null or holes between 1 and 48", name=op.f("ck_flange_holes")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_flange")),
        sa.UniqueConstraint("name", name=op.f("uq_flange_name")),
        **TABLE,
    )
    for column in (
        sa.Column("off_mm", LENGTH, server_default="0", nullable=False),
        sa.Column("new_diameter_mm", LENGTH, nullable=True),
        sa.Column("least_diameter_mm", LENGTH, nullable=True),
        sa.Column("price", sa.Numeric(10, 2), nullable=True),
        sa.Column("mass_g", sa.Numeric(9, 1), nullable=True),
        sa.Column("side_work", sa.Boolean(), server_default="0", nullable=False),
        sa.Column("flange_id", sa.Integer(), nullable=True),
        sa.Column("ground_mm3", sa.Numeric(18, 2), server_default="0", nullable=False),
        sa.Column("scrapped", sa.Boolean(), server_default="0", nullable=False),
        sa.Column("mounted_on", sa.String(80), nullable=True),
        sa.Column("next_step", sa.String(20), nullable=True),
    ):
        op.add_column("wheel", column)
    op.create_foreign_key(op.f("fk_wheel_flange_id"), "wheel", "flange", ["flange_id"], ["id"])
    op.create_check_constraint(
        op.f("ck_wheel_use"), "wheel", "off_mm >= 0 and 2 * off_mm < diameter_mm and ground_mm3 >= 0"
    )
    op.add_column("machine", sa.Column("hums", sa.String(600), server_default="", nullable=False))
    op.create_table(
        "wheel_entry",
        sa.Column("seq", sa.BigInteger(), nullable=False, autoincrement=True),
        sa.Column("entry_id", sa.String(36), nullable=False),
        sa.Column("wheel_id", sa.Integer(), nullable=False),
        sa.Column("kind", sa.String(10), nullable=False),
        sa.Column("said", sa.Text(), nullable=False),
        sa.Column("note", sa.String(300), nullable=False),
        sa.Column("at", DATETIME(fsp=6), nullable=False),
        sa.Column("by_id", sa.Integer(), nullable=False),
        sa.Column("machine_id", sa.Integer(), nullable=True),
        sa.Column("job_seq", sa.BigInteger(), nullable=True),
        sa.CheckConstraint(f"kind in ({KINDS})", name=op.f("ck_wheel_entry_kind")),
        sa.ForeignKeyConstraint(["wheel_id"], ["wheel.id"], name=op.f("fk_wheel_entry_wheel_id")),
        sa.ForeignKeyConstraint(["by_id"], ["person.id"], name=op.f("fk_wheel_entry_by_id")),
        sa.ForeignKeyConstraint(["machine_id"], ["machine.id"], name=op.f("fk_wheel_entry_machine_id")),
        sa.ForeignKeyConstraint(["job_seq"], ["log_entry.seq"], name=op.f("fk_wheel_entry_job_seq")),
        sa.PrimaryKeyConstraint("seq", name=op.f("pk_wheel_entry")),
        sa.UniqueConstraint("entry_id", name=op.f("uq_wheel_entry_entry_id")),
        sa.UniqueConstraint("job_seq", name=op.f("uq_wheel_entry_job_seq")),
        **TABLE,
    )
    op.create_index("ix_wheel_entry_wheel", "wheel_entry", ["wheel_id", "seq"])
    op.execute(
        "create trigger wheel_entry_no_update before update on wheel_entry for each row "
        "signal sqlstate '45000' set message_text = 'a wheel''s log is append-only'"
    )
    op.execute(
        "create trigger wheel_entry_no_delete before delete on wheel_entry for each row "
        "if old.job_seq is null then signal sqlstate '45000' set message_text = 'a wheel''s log is append-only'; end if"
    )


def downgrade() -> None:
    op.drop_table("wheel_entry")
    op.drop_column("machine", "hums")
    op.execute("update `wheel` set diameter_mm = diameter_mm - 2 * off_mm")
    op.execute("alter table `wheel` drop constraint if exists `ck_wheel_use`")
    op.drop_constraint("fk_wheel_flange_id", "wheel", type_="foreignkey")
    op.drop_index("fk_wheel_flange_id", "wheel", if_exists=True)
    for name in WHEEL_COLUMNS:
        op.drop_column("wheel", name)
    op.drop_table("flange")
