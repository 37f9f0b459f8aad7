"""Accounts: workspaces, people, what they may do, sessions, links that open something, the audit trail; photos and issues of the field."""

import sqlalchemy as sa
from alembic import op

revision, down_revision = "0011", "0010"
Column = sa.Column[str]


def _key(name: str, kind: type[sa.types.TypeEngine[object]] = sa.Text) -> "sa.Column[object]":  # type: ignore[assignment]
    return sa.Column(name, kind, primary_key=True)


def _text(name: str, empty: bool = False) -> Column:
    return sa.Column(name, sa.Text, nullable=False, server_default="" if empty else None)


def _when(name: str, now: bool = True) -> "sa.Column[object]":
    kind = sa.DateTime(timezone=True)
    return sa.Column(name, kind, nullable=False, server_default=sa.func.now()) if now else sa.Column(name, kind)


def _to(here: list[str], there: list[str]) -> sa.ForeignKeyConstraint:
    return sa.ForeignKeyConstraint(here, there, ondelete="CASCADE")


IN_WORKSPACE = (["workspace"], ["workspaces.workspace"])
OF_PERSON = (["person"], ["people.id"])
OF_JOB = (["workspace", "job_id"], ["jobs.workspace", "jobs.id"])


def upgrade() -> None:
    op.create_table("workspaces", _key("workspace"), _text("name"), _when("made_at"))
    op.execute(
        "INSERT INTO workspaces (workspace, name) SELECT DISTINCT workspace, workspace FROM jobs WHERE workspace <> 'own' "
        "UNION SELECT 'own', 'Our fences'"
    )
    op.create_table(
        "people", _key("id"), sa.Column("login", sa.Text, nullable=False, unique=True), _text("name"), _text("password", True), _when("made_at")
    )  # fmt: skip
    op.create_table(
        "members", _key("workspace"), _key("person"), _text("role"), _when("since"), _when("left_at", False), _to(*IN_WORKSPACE), _to(*OF_PERSON)
    )  # fmt: skip
    op.create_index("members_by_person", "members", ["person"])
    op.create_table(
        "sessions", _key("digest"), _text("workspace"), sa.Column("person", sa.Text), _text("job_id", True), _text("given_by", True), _text("agent", True),
        _when("made_at"), _when("seen_at"), sa.Column("until", sa.DateTime(timezone=True), nullable=False), _to(*IN_WORKSPACE), _to(*OF_PERSON),
    )  # fmt: skip
    op.create_index("sessions_by_person", "sessions", ["person"])
    op.create_table(
        "passes", _key("digest"), _text("workspace"), _text("kind"), _text("role", True), sa.Column("person", sa.Text), _text("job_id", True), _text("whom", True),
        _text("made_by", True), _when("made_at"), sa.Column("until", sa.DateTime(timezone=True), nullable=False), _when("used_at", False), _to(*IN_WORKSPACE), _to(*OF_PERSON),
    )  # fmt: skip
    op.create_index("passes_of_workspace", "passes", ["workspace", "kind"])

    def count() -> "sa.Column[int]":
        return sa.Column("n", sa.BigInteger, sa.Identity(always=True), primary_key=True)

    op.create_table("audit", count(), _text("workspace"), _when("at"), _text("actor"), _text("what"), _text("about"))
    op.create_index("audit_of_workspace", "audit", ["workspace", "n"])
    op.create_table("tries", count(), _text("key"), _when("at"))
    op.create_index("tries_by_key", "tries", ["key", "at"])
    op.create_table(
        "photos", _key("workspace"), _key("job_id"), _key("digest"), sa.Column("wide", sa.Integer, nullable=False), sa.Column("high", sa.Integer, nullable=False),
        sa.Column("body", sa.LargeBinary, nullable=False), _text("actor", True), _when("kept_at"), _to(*OF_JOB),
    )  # fmt: skip
    op.create_table(
        "issues", _key("workspace"), _key("job_id"), _key("number", sa.Integer), sa.Column("version", sa.Integer, nullable=False),  # type: ignore[arg-type]
        sa.Column("last_event", sa.BigInteger, nullable=False), _text("said"), _text("pack"), _text("actor", True), _when("made_at"), _to(*OF_JOB),
    )  # fmt: skip
    op.add_column("events", _text("held", True))


def downgrade() -> None:
    op.drop_column("events", "held")
    for table in ("issues", "photos", "tries", "audit", "passes", "sessions", "members", "people", "workspaces"):
        op.drop_table(table)
