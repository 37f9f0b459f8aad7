"""What the list of jobs shows of each, kept beside it; the version that was printed last, and when."""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"


def upgrade() -> None:
    op.add_column("jobs", sa.Column("summary", sa.Text))
    op.add_column("jobs", sa.Column("summary_of", sa.Integer))
    op.add_column("jobs", sa.Column("hung", sa.Text, nullable=False, server_default=""))
    op.add_column("jobs", sa.Column("printed_id", sa.Integer))
    op.add_column("jobs", sa.Column("printed_at", sa.DateTime))
    op.create_index("jobs_by_change", "jobs", ["workspace", "changed_at"])


def downgrade() -> None:
    op.drop_index("jobs_by_change", "jobs")
    for column in ("summary", "summary_of", "hung", "printed_id", "printed_at"):
        op.drop_column("jobs", column)
