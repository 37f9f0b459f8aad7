"""What a workspace buys by: stock and what jobs reserve of it, suppliers with their prices, terms; quotes, and what was ticked off."""

import sqlalchemy as sa
from alembic import op

revision, down_revision = "0009", "0008"


def _key(name: str) -> "sa.Column[str]":
    return sa.Column(name, sa.Text, primary_key=True)


def upgrade() -> None:
    op.create_table(
        "stock",
        _key("workspace"),
        _key("id"),
        sa.Column("row", sa.Text, nullable=False),
        sa.Column("count", sa.Numeric(14, 4), nullable=False),
    )
    op.create_table(
        "reserved",
        _key("workspace"),
        _key("stock_id"),
        _key("job_id"),
        sa.Column("count", sa.Numeric(14, 4), nullable=False),
        sa.ForeignKeyConstraint(["workspace", "stock_id"], ["stock.workspace", "stock.id"], ondelete="CASCADE"),
        sa.ForeignKeyConstraint(["workspace", "job_id"], ["jobs.workspace", "jobs.id"], ondelete="CASCADE"),
    )
    op.create_table("sellers", _key("workspace"), _key("name"), sa.Column("row", sa.Text, nullable=False))
    op.create_table("terms", _key("workspace"), sa.Column("row", sa.Text, nullable=False))
    op.create_table(
        "quotes",
        _key("workspace"),
        _key("kind"),
        sa.Column("number", sa.Integer, primary_key=True),
        sa.Column("revision", sa.Integer, primary_key=True),
        sa.Column("job_id", sa.Text, nullable=False),
        sa.Column("row", sa.Text, nullable=False),
        sa.Column("accepted_on", sa.Date),
        sa.Column("accepted_by", sa.Text, nullable=False, server_default=""),
        sa.Column("made_at", sa.DateTime, server_default=sa.func.now(), nullable=False),
        sa.ForeignKeyConstraint(["workspace", "job_id"], ["jobs.workspace", "jobs.id"], ondelete="CASCADE"),
    )
    op.create_index("quotes_by_job", "quotes", ["workspace", "job_id"])
    op.create_table(
        "ticks", _key("workspace"), _key("job_id"), _key("item"),
        sa.Column("got", sa.Text, nullable=False), sa.Column("much", sa.Text, nullable=False), sa.Column("ticked_at", sa.DateTime, nullable=False),
        sa.ForeignKeyConstraint(["workspace", "job_id"], ["jobs.workspace", "jobs.id"], ondelete="CASCADE"),
    )  # fmt: skip


def downgrade() -> None:
    for table in ("ticks", "quotes", "terms", "sellers", "reserved", "stock"):
        op.drop_table(table)
