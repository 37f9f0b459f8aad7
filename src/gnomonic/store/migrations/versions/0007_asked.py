"""What was asked for under a key, once; walks that are recorded by a process of their own."""

import sqlalchemy as sa
from alembic import op

revision, down_revision = "0007", "0006"


def upgrade() -> None:
    op.create_table(
        "asked",
        sa.Column("workspace", sa.Text, primary_key=True),
        sa.Column("key", sa.Text, primary_key=True),
        sa.Column("job_id", sa.Text, nullable=False),
        sa.Column("version", sa.Integer, nullable=False),
        sa.Column("made_at", sa.DateTime, nullable=False, server_default=sa.func.now()),
    )
    for name in ("wanted", "ended"):
        op.add_column("walks", sa.Column(name, sa.Boolean, nullable=False, server_default=sa.false()))
    for name in ("manners", "order", "told"):
        op.add_column("walks", sa.Column(name, sa.Text, nullable=False, server_default=""))
    op.add_column("walks", sa.Column("told_at", sa.DateTime))


def downgrade() -> None:
    for name in ("told_at", "told", "order", "manners", "ended", "wanted"):
        op.drop_column("walks", name)
    op.drop_table("asked")
