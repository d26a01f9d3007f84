"""slots, inclined faces, chamfers, radii and edges of a print; how far a sine plate's rolls are apart, and how fine a cross slide is turned"""

import sqlalchemy as sa
from alembic import op

LENGTH = sa.Numeric(14, 7)
CENTRES = "(centres_mm is null or centres_mm > 0) and (top_centres_mm is null or top_centres_mm > 0)"

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("machine", sa.Column("cross_dial_mm", LENGTH, nullable=True))
    op.create_check_constraint(op.f("ck_machine_cross_dial"), "machine", "cross_dial_mm is null or cross_dial_mm > 0")
    op.add_column("part", sa.Column("features", sa.Text(), nullable=True))
    op.add_column("fixture", sa.Column("centres_mm", LENGTH, nullable=True))
    op.add_column("fixture", sa.Column("top_centres_mm", LENGTH, nullable=True))
    op.create_check_constraint(op.f("ck_fixture_centres"), "fixture", CENTRES)


def downgrade() -> None:
    """A print's slots and angles are not told by the older tables: a job that has some goes without them."""
    op.execute("alter table fixture drop constraint if exists ck_fixture_centres")
    op.drop_column("fixture", "top_centres_mm")
    op.drop_column("fixture", "centres_mm")
    op.drop_column("part", "features")
    op.execute("alter table machine drop constraint if exists ck_machine_cross_dial")
    op.drop_column("machine", "cross_dial_mm")
