"""Jobs hold lines (gnomonic-job/2); every row belongs to a workspace."""

import hashlib

import sqlalchemy as sa
from alembic import op

from gnomonic.core.errors import BadInput
from gnomonic.core.job.reading import read_job

revision = "0004"
down_revision = "0003"

TABLES = ("jobs", "versions", "arrivals", "walks", "fixes", "marks", "overrides", "own_items")
KEYS = {
    "jobs": ["id"], "arrivals": ["id"], "walks": ["id"], "fixes": ["walk_id", "n"], "overrides": ["path"], "own_items": ["key"],
}  # fmt: skip
BELONGS = {"versions": ("job_id", "jobs"), "fixes": ("walk_id", "walks"), "marks": ("walk_id", "walks")}


def upgrade() -> None:
    for table in TABLES:
        op.add_column(table, sa.Column("workspace", sa.Text, nullable=False, server_default="own"))
        op.alter_column(table, "workspace", server_default=None)
    for column in ("actor", "names"):
        op.add_column("versions", sa.Column(column, sa.Text, nullable=False, server_default=""))
        op.alter_column("versions", column, server_default=None)
    for table, (column, _) in BELONGS.items():
        op.drop_constraint(f"{table}_{column}_fkey", table, type_="foreignkey")
    for table, key in KEYS.items():
        op.drop_constraint(f"{table}_pkey", table, type_="primary")
        op.create_primary_key(f"{table}_pkey", table, ["workspace", *key])
    for table, (column, parent) in BELONGS.items():
        name = f"{table}_{column}_fkey"
        op.create_foreign_key(name, table, parent, ["workspace", column], ["workspace", "id"], ondelete="CASCADE")
    for name, table, columns in (
        ("versions_by_parent", "versions", ["workspace", "job_id", "parent_id"]),
        ("marks_by_walk", "marks", ["workspace", "walk_id"]),
    ):
        op.drop_index(name, table)
        op.create_index(name, table, columns)
    _bring_up()


def _bring_up() -> None:
    """Every stored version, the whole history, in the form of today; one that can't be read stays as it is."""
    connection = op.get_bind()
    ids = connection.execute(sa.text("SELECT id FROM versions ORDER BY id")).scalars().all()
    for number in ids:
        document = connection.execute(
            sa.text("SELECT document FROM versions WHERE id = :id"), {"id": number}
        ).scalar_one()
        try:
            made = read_job(document).canonical_json()
        except BadInput:
            continue
        if made != document:
            values = {"id": number, "document": made, "digest": hashlib.sha256(made.encode()).hexdigest()}
            connection.execute(
                sa.text("UPDATE versions SET document = :document, digest = :digest WHERE id = :id"), values
            )


def downgrade() -> None:
    raise RuntimeError(
        "jobs of this database hold several lines, which an earlier Gnomonic can't read: restore a backup made before the upgrade"
    )
