"""What a workspace holds of its own: values in place of shipped ones, and items of its catalog."""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"


def upgrade() -> None:
    op.create_table(
        "overrides",
        sa.Column("path", sa.Text, primary_key=True),
        sa.Column("value", sa.Float, nullable=False),
        sa.Column("reason", sa.Text, nullable=False),
        sa.Column("made_at", sa.DateTime, server_default=sa.func.now(), nullable=False),
    )
    op.create_table(
        "own_items",
        sa.Column("key", sa.Text, primary_key=True),
        sa.Column("row", sa.Text, nullable=False),
        sa.Column("made_at", sa.DateTime, server_default=sa.func.now(), nullable=False),
    )


def downgrade() -> None:
    op.drop_table("own_items")
    op.drop_table("overrides")
