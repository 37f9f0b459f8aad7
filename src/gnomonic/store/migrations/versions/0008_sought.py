"""The words a job is found by, in small letters, kept beside it."""

import sqlalchemy as sa
from alembic import op

revision, down_revision = "0008", "0007"


def upgrade() -> None:
    op.add_column("jobs", sa.Column("sought", sa.Text, sa.Computed("lower(name || ' ' || hung)", persisted=True)))


def downgrade() -> None:
    op.drop_column("jobs", "sought")
