"""What was found in the field, as events: kept once by their id, never changed, of a job that knows its last."""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    op.create_table(
        "events",
        sa.Column("workspace", sa.Text, primary_key=True),
        sa.Column("job_id", sa.Text, primary_key=True),
        sa.Column("id", sa.Text, primary_key=True),
        sa.Column("n", sa.BigInteger, sa.Identity(always=True), nullable=False),
        sa.Column("event", sa.Text, nullable=False),
        sa.Column("offset_s", sa.Float, nullable=False),
        sa.Column("actor", sa.Text, nullable=False),
        sa.Column("received_at", sa.DateTime, nullable=False, server_default=sa.func.now()),
        sa.ForeignKeyConstraint(["workspace", "job_id"], ["jobs.workspace", "jobs.id"], ondelete="CASCADE"),
    )
    op.add_column("jobs", sa.Column("last_event", sa.BigInteger, nullable=False, server_default="0"))
    op.create_index("events_in_order", "events", ["workspace", "job_id", "n"])


def downgrade() -> None:
    op.drop_table("events")
    op.drop_column("jobs", "last_event")
