"""Days: the crew of a workspace, what is asked and made of a job's days, ticks, papers made beside the pages; the queue of heavy work."""

import sqlalchemy as sa
from alembic import op
from procrastinate.schema import SchemaManager

revision, down_revision = "0010", "0009"


def _key(name: str) -> "sa.Column[str]":
    return sa.Column(name, sa.Text, primary_key=True)


def _of_job() -> sa.ForeignKeyConstraint:
    return sa.ForeignKeyConstraint(["workspace", "job_id"], ["jobs.workspace", "jobs.id"], ondelete="CASCADE")


def upgrade() -> None:
    op.create_table("crews", _key("workspace"), sa.Column("row", sa.Text, nullable=False))
    op.create_table(
        "day_plans",
        _key("workspace"),
        _key("job_id"),
        sa.Column("asked", sa.Text, nullable=False),
        sa.Column("stamp", sa.Text, nullable=False, server_default=""),
        sa.Column("made", sa.Text, nullable=False, server_default=""),
        sa.Column("until", sa.Date),
        _of_job(),
    )
    op.create_table(
        "day_ticks",
        _key("workspace"),
        _key("job_id"),
        _key("id"),
        sa.Column("row", sa.Text, nullable=False),
        sa.Column("kept_at", sa.DateTime, server_default=sa.func.now(), nullable=False),
        _of_job(),
    )
    op.create_table(
        "papers",
        _key("workspace"),
        _key("job_id"),
        _key("kind"),
        sa.Column("stamp", sa.Text, nullable=False),
        sa.Column("state", sa.Text, nullable=False),
        sa.Column("body", sa.LargeBinary),
        _of_job(),
    )
    raw = op.get_bind().connection.driver_connection
    assert raw is not None
    raw.execute(SchemaManager.get_schema())


def downgrade() -> None:
    for table in ("papers", "day_ticks", "day_plans", "crews"):
        op.drop_table(table)
    op.execute(
        "DROP TABLE procrastinate_events, procrastinate_periodic_defers, procrastinate_jobs, procrastinate_workers CASCADE"
    )
    op.execute(
        "DO $$ DECLARE f regprocedure; BEGIN FOR f IN SELECT p.oid::regprocedure FROM pg_proc p JOIN pg_namespace n ON n.oid = p.pronamespace "
        "WHERE p.proname LIKE 'procrastinate%' AND n.nspname = current_schema() LOOP EXECUTE 'DROP FUNCTION ' || f || ' CASCADE'; END LOOP; END $$"
    )
    op.execute(
        "DROP TYPE IF EXISTS procrastinate_job_to_defer_v1, procrastinate_job_status, procrastinate_job_event_type CASCADE"
    )
