"""The first schema: edges and their readings, pictures, records with history.

Tables stand here as they were then, so that a later change of `bank.schema` does not change this step.
"""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "setups",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("told", sa.Text, nullable=False, unique=True),
    )
    op.create_table(
        "edges",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("trial", sa.String(200), nullable=False),
        sa.Column("edge", sa.String(200), nullable=False),
        sa.UniqueConstraint("trial", "edge"),
    )
    op.create_table(
        "readings",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("edge_id", sa.Integer, sa.ForeignKey("edges.id"), nullable=False),
        sa.Column("setup_id", sa.Integer, sa.ForeignKey("setups.id"), nullable=False),
        sa.Column("minutes", sa.Float, nullable=False),
        sa.Column("taken_on", sa.String(10), nullable=False),
        sa.Column("data", sa.Text, nullable=False),
        sa.Column("version", sa.Integer, nullable=False),
        sa.Column("who", sa.String(200), nullable=False),
        sa.Column("at", sa.String(32), nullable=False),
        sa.UniqueConstraint("edge_id", "minutes", "taken_on"),
    )
    op.create_index("readings_by_setup", "readings", ["setup_id"])
    op.create_table(
        "pictures",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("edge_id", sa.Integer, sa.ForeignKey("edges.id"), nullable=False),
        sa.Column("name", sa.String(200), nullable=False),
        sa.Column("minutes", sa.Float, nullable=False),
        sa.Column("mm_per_pixel", sa.Float),
        sa.Column("digest", sa.String(64), nullable=False),
        sa.Column("content", sa.LargeBinary, nullable=False),
        sa.Column("who", sa.String(200), nullable=False),
        sa.Column("at", sa.String(32), nullable=False),
        sa.UniqueConstraint("edge_id", "digest"),
    )
    op.create_table(
        "records",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("kind", sa.String(20), nullable=False),
        sa.Column("name", sa.String(200), nullable=False),
        sa.Column("data", sa.Text, nullable=False),
        sa.Column("version", sa.Integer, nullable=False),
        sa.Column("who", sa.String(200), nullable=False),
        sa.Column("at", sa.String(32), nullable=False),
        sa.UniqueConstraint("kind", "name"),
    )
    op.create_table(
        "history",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("kind", sa.String(20), nullable=False),
        sa.Column("name", sa.String(500), nullable=False),
        sa.Column("version", sa.Integer, nullable=False),
        sa.Column("who", sa.String(200), nullable=False),
        sa.Column("at", sa.String(32), nullable=False),
        sa.Column("job", sa.String(1000), nullable=False),
        sa.Column("trial", sa.String(200), nullable=False),
        sa.Column("before", sa.Text),
        sa.Column("after", sa.Text),
    )
    op.create_index("history_by_name", "history", ["kind", "name"])
