"""Passkeys: keys a phone or a computer keeps for somebody; what they were asked to sign; when a session last proved who holds it."""

import sqlalchemy as sa
from alembic import op

revision, down_revision = "0012", "0011"


def _text(name: str) -> "sa.Column[str]":
    return sa.Column(name, sa.Text, nullable=False)


def upgrade() -> None:
    now = sa.func.now()
    op.create_table(
        "passkeys",
        sa.Column("id", sa.Text, primary_key=True),
        _text("person"),
        _text("site"),
        _text("label"),
        sa.Column("public_key", sa.LargeBinary, nullable=False),
        sa.Column("uses", sa.BigInteger, nullable=False),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False, server_default=now),
        sa.Column("used_at", sa.DateTime(timezone=True)),
        sa.ForeignKeyConstraint(["person"], ["people.id"], ondelete="CASCADE"),
    )
    op.create_index("passkeys_by_person", "passkeys", ["person"])
    op.create_table(
        "challenges",
        sa.Column("digest", sa.Text, primary_key=True),
        _text("purpose"),
        sa.Column("until", sa.DateTime(timezone=True), nullable=False),
    )
    op.add_column("sessions", sa.Column("proved_at", sa.DateTime(timezone=True), nullable=False, server_default=now))
    op.execute("UPDATE sessions SET proved_at = made_at")


def downgrade() -> None:
    op.drop_column("sessions", "proved_at")
    for table in ("challenges", "passkeys"):
        op.drop_table(table)
