"""Walks with a receiver: every fix, and what was marked."""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    op.create_table(
        "walks",
        sa.Column("id", sa.Text, primary_key=True),
        sa.Column("source", sa.Text, nullable=False),
        sa.Column("started_at", sa.DateTime, server_default=sa.func.now(), nullable=False),
    )
    op.create_table(
        "fixes",
        sa.Column("walk_id", sa.Text, sa.ForeignKey("walks.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("n", sa.Integer, primary_key=True),
        *(sa.Column(name, sa.Float, nullable=False) for name in ("t_s", "lon", "lat", "h_m", "good_m")),
        sa.Column("quality", sa.SmallInteger, nullable=False),
        sa.Column("satellites", sa.SmallInteger, nullable=False),
        sa.Column("verdict", sa.Text, nullable=False),
        sa.Column("shown", sa.Boolean, nullable=False),
    )
    op.create_table(
        "marks",
        sa.Column("id", sa.Integer, sa.Identity(always=True), primary_key=True),
        sa.Column("walk_id", sa.Text, sa.ForeignKey("walks.id", ondelete="CASCADE"), nullable=False),
        sa.Column("kind", sa.Text, nullable=False),
        sa.Column("name", sa.Text, nullable=False),
        *(sa.Column(name, sa.Float, nullable=False) for name in ("lon", "lat", "h_m", "good_m", "scatter_m")),
        *(sa.Column(name, sa.Integer, nullable=False) for name in ("used", "left_out", "from_n", "to_n")),
    )
    op.create_index("marks_by_walk", "marks", ["walk_id"])
    # a file waits for minutes: squeezing it costs more than it saves
    op.execute("ALTER TABLE arrivals ALTER COLUMN body SET STORAGE EXTERNAL")


def downgrade() -> None:
    for table in ("marks", "fixes", "walks"):
        op.drop_table(table)
