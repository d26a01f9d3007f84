"""sign-ins that end on the server, versions of what two people may change, who read an entry in, releases by number,
finer figures"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

MOMENT = mysql.DATETIME(fsp=6)
TABLE = {"mariadb_charset": "utf8mb4", "mariadb_collate": "utf8mb4_unicode_ci", "mariadb_engine": "InnoDB"}
VERSIONED = ("machine", "wheel", "chuck", "instrument", "fixture", "person")

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "signed_in",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("token_digest", sa.String(64), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("began_at", MOMENT, nullable=False),
        sa.Column("last_at", MOMENT, nullable=False),
        sa.Column("address", sa.String(45), nullable=False),
        sa.Column("browser", sa.String(200), nullable=False),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_signed_in_person_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_signed_in")),
        sa.UniqueConstraint("token_digest", name=op.f("uq_signed_in_token_digest")),
        **TABLE,
    )
    op.drop_column("person", "session_stamp")
    for table in VERSIONED:
        op.add_column(table, sa.Column("version", sa.Integer(), server_default="1", nullable=False))
    op.add_column("log_entry", sa.Column("read_in_by_id", sa.Integer(), nullable=True))
    op.add_column("log_entry", sa.Column("read_in_at", MOMENT, nullable=True))
    op.create_foreign_key(op.f("fk_log_entry_read_in_by_id"), "log_entry", "person", ["read_in_by_id"], ["id"])
    op.add_column("part_plan", sa.Column("release", sa.Integer(), nullable=True))
    op.execute(
        "update part_plan p join (select id, row_number() over (partition by job_id order by released_at, number) as n "
        "from part_plan where released_at is not null) r on r.id = p.id set p.`release` = r.n"
    )
    op.alter_column("part", "hardness_hrc", existing_type=sa.Numeric(4, 1), type_=sa.Numeric(5, 2))
    op.alter_column("part", "ra_um", existing_type=sa.Numeric(5, 2), type_=sa.Numeric(7, 4))


def downgrade() -> None:
    """Figures finer than the older tables hold are rounded; whoever is signed in is signed out."""
    op.alter_column("part", "ra_um", existing_type=sa.Numeric(7, 4), type_=sa.Numeric(5, 2))
    op.alter_column("part", "hardness_hrc", existing_type=sa.Numeric(5, 2), type_=sa.Numeric(4, 1))
    op.drop_column("part_plan", "release")
    op.drop_constraint(op.f("fk_log_entry_read_in_by_id"), "log_entry", type_="foreignkey")
    op.drop_column("log_entry", "read_in_at")
    op.drop_column("log_entry", "read_in_by_id")
    for table in VERSIONED:
        op.drop_column(table, "version")
    op.add_column("person", sa.Column("session_stamp", sa.String(32), server_default="", nullable=False))
    op.execute("update person set session_stamp = md5(concat(rand(), id))")
    op.execute("alter table person alter column session_stamp drop default")
    op.drop_table("signed_in")
