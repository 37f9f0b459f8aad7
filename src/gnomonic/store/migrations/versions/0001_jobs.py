"""Jobs, versions and arrivals."""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None


def upgrade() -> None:
    op.create_table(
        "jobs",
        sa.Column("id", sa.Text, primary_key=True),
        sa.Column("name", sa.Text, nullable=False),
        sa.Column("head_id", sa.Integer, nullable=False),
        sa.Column("created_at", sa.DateTime, server_default=sa.func.now(), nullable=False),
        sa.Column("changed_at", sa.DateTime, server_default=sa.func.now(), nullable=False),
    )
    op.create_table(
        "versions",
        sa.Column("id", sa.Integer, sa.Identity(always=True), primary_key=True),
        sa.Column("job_id", sa.Text, sa.ForeignKey("jobs.id", ondelete="CASCADE"), nullable=False),
        sa.Column("parent_id", sa.Integer),
        sa.Column("document", sa.Text, nullable=False),
        sa.Column("digest", sa.Text, nullable=False),
        sa.Column("edit", sa.Text),
        sa.Column("made_at", sa.DateTime, server_default=sa.func.now(), nullable=False),
    )
    op.create_index("versions_by_parent", "versions", ["job_id", "parent_id"])
    op.create_table(
        "arrivals",
        sa.Column("id", sa.Text, primary_key=True),
        sa.Column("name", sa.Text, nullable=False),
        sa.Column("body", sa.LargeBinary, nullable=False),
        sa.Column("arrived_at", sa.DateTime, server_default=sa.func.now(), nullable=False),
    )


def downgrade() -> None:
    for table in ("arrivals", "versions", "jobs"):
        op.drop_table(table)
