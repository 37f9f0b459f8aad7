"""Tables: jobs, their immutable versions, files that have arrived, walks, what a workspace has of its own, who comes in where.

Every row belongs to a workspace, but for people (they may come into several) and for what is counted of tries to sign in.
"""

from datetime import date, datetime
from decimal import Decimal

from sqlalchemy import (
    BigInteger,
    Computed,
    DateTime,
    ForeignKeyConstraint,
    Identity,
    Index,
    LargeBinary,
    Numeric,
    SmallInteger,
    Text,
    false,
    func,
)
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column


class Base(DeclarativeBase):
    """Root of the tables."""


class JobRow(Base):
    """A job and the version it stands at; what the list shows of it, as it was at one version, and the words it is ``sought`` by;
    the version printed last; the last event from the field."""

    __tablename__ = "jobs"
    workspace: Mapped[str] = mapped_column(Text, primary_key=True)
    id: Mapped[str] = mapped_column(Text, primary_key=True)
    name: Mapped[str] = mapped_column(Text)
    head_id: Mapped[int]
    created_at: Mapped[datetime] = mapped_column(server_default=func.now())
    changed_at: Mapped[datetime] = mapped_column(server_default=func.now())
    summary: Mapped[str | None] = mapped_column(Text)
    summary_of: Mapped[int | None]
    hung: Mapped[str] = mapped_column(Text, server_default="")
    sought: Mapped[str] = mapped_column(Text, Computed("lower(name || ' ' || hung)", persisted=True))
    printed_id: Mapped[int | None]
    printed_at: Mapped[datetime | None]
    last_event: Mapped[int] = mapped_column(BigInteger, server_default="0")
    __table_args__ = (Index("jobs_by_change", "workspace", "changed_at"),)


class VersionRow(Base):
    """One immutable version: the document, the edit that made it and what the edit did."""

    __tablename__ = "versions"
    id: Mapped[int] = mapped_column(Identity(always=True), primary_key=True)
    workspace: Mapped[str] = mapped_column(Text)
    job_id: Mapped[str] = mapped_column(Text)
    parent_id: Mapped[int | None]
    document: Mapped[str] = mapped_column(Text)
    digest: Mapped[str] = mapped_column(Text)
    edit: Mapped[str | None] = mapped_column(Text)
    names: Mapped[str] = mapped_column(Text)
    actor: Mapped[str] = mapped_column(Text)
    made_at: Mapped[datetime] = mapped_column(server_default=func.now())
    __table_args__ = (
        ForeignKeyConstraint(["workspace", "job_id"], ["jobs.workspace", "jobs.id"], ondelete="CASCADE"),
        Index("versions_by_parent", "workspace", "job_id", "parent_id"),
    )


class AskedRow(Base):
    """A change that was asked for under a key of the page's own, and the version it made: asked again, it is not done again."""

    __tablename__ = "asked"
    workspace: Mapped[str] = mapped_column(Text, primary_key=True)
    key: Mapped[str] = mapped_column(Text, primary_key=True)
    job_id: Mapped[str] = mapped_column(Text)
    version: Mapped[int]
    made_at: Mapped[datetime] = mapped_column(server_default=func.now())


class EventRow(Base):
    """A fact from the field (JSON), as it came; ``n`` counts arrivals; ``held`` says why it is not taken in (wait | dropped), empty where it is."""

    __tablename__ = "events"
    workspace: Mapped[str] = mapped_column(Text, primary_key=True)
    job_id: Mapped[str] = mapped_column(Text, primary_key=True)
    id: Mapped[str] = mapped_column(Text, primary_key=True)
    n: Mapped[int] = mapped_column(BigInteger, Identity(always=True))
    event: Mapped[str] = mapped_column(Text)
    offset_s: Mapped[float]
    actor: Mapped[str] = mapped_column(Text)
    received_at: Mapped[datetime] = mapped_column(server_default=func.now())
    held: Mapped[str] = mapped_column(Text, server_default="")
    __table_args__ = (
        ForeignKeyConstraint(["workspace", "job_id"], ["jobs.workspace", "jobs.id"], ondelete="CASCADE"),
        Index("events_in_order", "workspace", "job_id", "n"),
    )


class ArrivalRow(Base):
    """A file being looked at in the preview."""

    __tablename__ = "arrivals"
    workspace: Mapped[str] = mapped_column(Text, primary_key=True)
    id: Mapped[str] = mapped_column(Text, primary_key=True)
    name: Mapped[str] = mapped_column(Text)
    body: Mapped[bytes] = mapped_column(LargeBinary)
    arrived_at: Mapped[datetime] = mapped_column(server_default=func.now())


class WalkRow(Base):
    """A walk with a receiver: whether recording is ``wanted``, an ``order`` to the recorder (JSON), and what it ``told`` last (JSON);
    ``ended`` when it was brought in."""

    __tablename__ = "walks"
    workspace: Mapped[str] = mapped_column(Text, primary_key=True)
    id: Mapped[str] = mapped_column(Text, primary_key=True)
    source: Mapped[str] = mapped_column(Text)
    started_at: Mapped[datetime] = mapped_column(server_default=func.now())
    wanted: Mapped[bool] = mapped_column(server_default=false())
    ended: Mapped[bool] = mapped_column(server_default=false())
    manners: Mapped[str] = mapped_column(Text, server_default="")
    order: Mapped[str] = mapped_column(Text, server_default="")
    told: Mapped[str] = mapped_column(Text, server_default="")
    told_at: Mapped[datetime | None]


class FixRow(Base):
    """One fix of a walk as it came, with the verdict on it; ``shown`` when it lies a step from the last one shown."""

    __tablename__ = "fixes"
    workspace: Mapped[str] = mapped_column(Text, primary_key=True)
    walk_id: Mapped[str] = mapped_column(Text, primary_key=True)
    n: Mapped[int] = mapped_column(primary_key=True)
    t_s: Mapped[float]
    lon: Mapped[float]
    lat: Mapped[float]
    h_m: Mapped[float]
    good_m: Mapped[float]
    quality: Mapped[int] = mapped_column(SmallInteger)
    satellites: Mapped[int] = mapped_column(SmallInteger)
    verdict: Mapped[str] = mapped_column(Text)
    shown: Mapped[bool]
    __table_args__ = (
        ForeignKeyConstraint(["workspace", "walk_id"], ["walks.workspace", "walks.id"], ondelete="CASCADE"),
    )


class MarkRow(Base):
    """A stop that was averaged and named; fixes ``from_n`` to ``to_n`` went into it."""

    __tablename__ = "marks"
    id: Mapped[int] = mapped_column(Identity(always=True), primary_key=True)
    workspace: Mapped[str] = mapped_column(Text)
    walk_id: Mapped[str] = mapped_column(Text)
    kind: Mapped[str] = mapped_column(Text)
    name: Mapped[str] = mapped_column(Text)
    lon: Mapped[float]
    lat: Mapped[float]
    h_m: Mapped[float]
    good_m: Mapped[float]
    scatter_m: Mapped[float]
    used: Mapped[int]
    left_out: Mapped[int]
    from_n: Mapped[int]
    to_n: Mapped[int]
    __table_args__ = (
        ForeignKeyConstraint(["workspace", "walk_id"], ["walks.workspace", "walks.id"], ondelete="CASCADE"),
        Index("marks_by_walk", "workspace", "walk_id"),
    )


class OverrideRow(Base):
    """A workspace's own value in place of a shipped one, and why."""

    __tablename__ = "overrides"
    workspace: Mapped[str] = mapped_column(Text, primary_key=True)
    path: Mapped[str] = mapped_column(Text, primary_key=True)
    value: Mapped[float]
    reason: Mapped[str] = mapped_column(Text)
    made_at: Mapped[datetime] = mapped_column(server_default=func.now())


class OwnItemRow(Base):
    """An item of a workspace's own, as JSON."""

    __tablename__ = "own_items"
    workspace: Mapped[str] = mapped_column(Text, primary_key=True)
    key: Mapped[str] = mapped_column(Text, primary_key=True)
    row: Mapped[str] = mapped_column(Text)
    made_at: Mapped[datetime] = mapped_column(server_default=func.now())


class StockRow(Base):
    """Something on hand, as JSON, and how much of it there is."""

    __tablename__ = "stock"
    workspace: Mapped[str] = mapped_column(Text, primary_key=True)
    id: Mapped[str] = mapped_column(Text, primary_key=True)
    row: Mapped[str] = mapped_column(Text)
    count: Mapped[Decimal] = mapped_column(Numeric(14, 4))


class ReservedRow(Base):
    """How much of something on hand is a job's."""

    __tablename__ = "reserved"
    workspace: Mapped[str] = mapped_column(Text, primary_key=True)
    stock_id: Mapped[str] = mapped_column(Text, primary_key=True)
    job_id: Mapped[str] = mapped_column(Text, primary_key=True)
    count: Mapped[Decimal] = mapped_column(Numeric(14, 4))
    __table_args__ = (
        ForeignKeyConstraint(["workspace", "stock_id"], ["stock.workspace", "stock.id"], ondelete="CASCADE"),
        ForeignKeyConstraint(["workspace", "job_id"], ["jobs.workspace", "jobs.id"], ondelete="CASCADE"),
    )


class SellerRow(Base):
    """A supplier with its prices, as JSON."""

    __tablename__ = "sellers"
    workspace: Mapped[str] = mapped_column(Text, primary_key=True)
    name: Mapped[str] = mapped_column(Text, primary_key=True)
    row: Mapped[str] = mapped_column(Text)


class TermsRow(Base):
    """The terms of a workspace, as JSON."""

    __tablename__ = "terms"
    workspace: Mapped[str] = mapped_column(Text, primary_key=True)
    row: Mapped[str] = mapped_column(Text)


class QuoteRow(Base):
    """A quote or a change order, frozen as JSON; when and by whom it was accepted."""

    __tablename__ = "quotes"
    workspace: Mapped[str] = mapped_column(Text, primary_key=True)
    kind: Mapped[str] = mapped_column(Text, primary_key=True)
    number: Mapped[int] = mapped_column(primary_key=True)
    revision: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[str] = mapped_column(Text)
    row: Mapped[str] = mapped_column(Text)
    accepted_on: Mapped[date | None]
    accepted_by: Mapped[str] = mapped_column(Text, server_default="")
    made_at: Mapped[datetime] = mapped_column(server_default=func.now())
    __table_args__ = (
        ForeignKeyConstraint(["workspace", "job_id"], ["jobs.workspace", "jobs.id"], ondelete="CASCADE"),
        Index("quotes_by_job", "workspace", "job_id"),
    )


class TickRow(Base):
    """What was got of a line of the shopping list, how much was asked for then, and when that was ticked."""

    __tablename__ = "ticks"
    workspace: Mapped[str] = mapped_column(Text, primary_key=True)
    job_id: Mapped[str] = mapped_column(Text, primary_key=True)
    item: Mapped[str] = mapped_column(Text, primary_key=True)
    got: Mapped[str] = mapped_column(Text)
    much: Mapped[str] = mapped_column(Text)
    ticked_at: Mapped[datetime]
    __table_args__ = (ForeignKeyConstraint(["workspace", "job_id"], ["jobs.workspace", "jobs.id"], ondelete="CASCADE"),)


class CrewRow(Base):
    """A workspace's people, plant and calendar, as JSON."""

    __tablename__ = "crews"
    workspace: Mapped[str] = mapped_column(Text, primary_key=True)
    row: Mapped[str] = mapped_column(Text)


class DayPlanRow(Base):
    """What is asked of a job's days, the plan that was made of it with the ``stamp`` of what it was made from, as JSON, and the day it ends."""

    __tablename__ = "day_plans"
    workspace: Mapped[str] = mapped_column(Text, primary_key=True)
    job_id: Mapped[str] = mapped_column(Text, primary_key=True)
    asked: Mapped[str] = mapped_column(Text)
    stamp: Mapped[str] = mapped_column(Text, server_default="")
    made: Mapped[str] = mapped_column(Text, server_default="")
    until: Mapped[date | None]
    __table_args__ = (ForeignKeyConstraint(["workspace", "job_id"], ["jobs.workspace", "jobs.id"], ondelete="CASCADE"),)


class DayTickRow(Base):
    """What was said to be done of a task, kept once however often it is sent."""

    __tablename__ = "day_ticks"
    workspace: Mapped[str] = mapped_column(Text, primary_key=True)
    job_id: Mapped[str] = mapped_column(Text, primary_key=True)
    id: Mapped[str] = mapped_column(Text, primary_key=True)
    row: Mapped[str] = mapped_column(Text)
    kept_at: Mapped[datetime] = mapped_column(server_default=func.now())
    __table_args__ = (ForeignKeyConstraint(["workspace", "job_id"], ["jobs.workspace", "jobs.id"], ondelete="CASCADE"),)


class PaperRow(Base):
    """A paper made beside the pages: the ``stamp`` of what it is of, its ``state`` (asked | made | failed), its bytes."""

    __tablename__ = "papers"
    workspace: Mapped[str] = mapped_column(Text, primary_key=True)
    job_id: Mapped[str] = mapped_column(Text, primary_key=True)
    kind: Mapped[str] = mapped_column(Text, primary_key=True)
    stamp: Mapped[str] = mapped_column(Text)
    state: Mapped[str] = mapped_column(Text)
    body: Mapped[bytes | None] = mapped_column(LargeBinary)
    __table_args__ = (ForeignKeyConstraint(["workspace", "job_id"], ["jobs.workspace", "jobs.id"], ondelete="CASCADE"),)


class WorkspaceRow(Base):
    """A workspace: what it is called."""

    __tablename__ = "workspaces"
    workspace: Mapped[str] = mapped_column(Text, primary_key=True)
    name: Mapped[str] = mapped_column(Text)
    made_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), server_default=func.now())


class PersonRow(Base):
    """Somebody with an account: signs in by ``login`` (in small letters); ``password`` is its Argon2id hash, empty before one was chosen."""

    __tablename__ = "people"
    id: Mapped[str] = mapped_column(Text, primary_key=True)
    login: Mapped[str] = mapped_column(Text, unique=True)
    name: Mapped[str] = mapped_column(Text)
    password: Mapped[str] = mapped_column(Text, server_default="")
    made_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), server_default=func.now())


class MemberRow(Base):
    """What somebody may do in a workspace; ``left_at`` when that was taken away."""

    __tablename__ = "members"
    workspace: Mapped[str] = mapped_column(Text, primary_key=True)
    person: Mapped[str] = mapped_column(Text, primary_key=True)
    role: Mapped[str] = mapped_column(Text)
    since: Mapped[datetime] = mapped_column(DateTime(timezone=True), server_default=func.now())
    left_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
    __table_args__ = (
        ForeignKeyConstraint(["workspace"], ["workspaces.workspace"], ondelete="CASCADE"),
        ForeignKeyConstraint(["person"], ["people.id"], ondelete="CASCADE"),
        Index("members_by_person", "person"),
    )


class SessionRow(Base):
    """Somebody signed in, or a client's look at one job; only the digest of what the browser holds is kept.

    ``proved_at``: when the password or a passkey last showed who holds it.
    """

    __tablename__ = "sessions"
    digest: Mapped[str] = mapped_column(Text, primary_key=True)
    workspace: Mapped[str] = mapped_column(Text)
    person: Mapped[str | None] = mapped_column(Text)
    job_id: Mapped[str] = mapped_column(Text, server_default="")
    given_by: Mapped[str] = mapped_column(Text, server_default="")
    agent: Mapped[str] = mapped_column(Text, server_default="")
    made_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), server_default=func.now())
    seen_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), server_default=func.now())
    until: Mapped[datetime] = mapped_column(DateTime(timezone=True))
    proved_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), server_default=func.now())
    __table_args__ = (
        ForeignKeyConstraint(["workspace"], ["workspaces.workspace"], ondelete="CASCADE"),
        ForeignKeyConstraint(["person"], ["people.id"], ondelete="CASCADE"),
        Index("sessions_by_person", "person"),
    )


class PassRow(Base):
    """A link that opens something: an invitation (join), a new password (renew), a client's look at a job (look); its digest alone is kept."""

    __tablename__ = "passes"
    digest: Mapped[str] = mapped_column(Text, primary_key=True)
    workspace: Mapped[str] = mapped_column(Text)
    kind: Mapped[str] = mapped_column(Text)
    role: Mapped[str] = mapped_column(Text, server_default="")
    person: Mapped[str | None] = mapped_column(Text)
    job_id: Mapped[str] = mapped_column(Text, server_default="")
    whom: Mapped[str] = mapped_column(Text, server_default="")
    made_by: Mapped[str] = mapped_column(Text, server_default="")
    made_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), server_default=func.now())
    until: Mapped[datetime] = mapped_column(DateTime(timezone=True))
    used_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
    __table_args__ = (
        ForeignKeyConstraint(["workspace"], ["workspaces.workspace"], ondelete="CASCADE"),
        ForeignKeyConstraint(["person"], ["people.id"], ondelete="CASCADE"),
        Index("passes_of_workspace", "workspace", "kind"),
    )


class AuditRow(Base):
    """Who did what to accounts and what they reach, and when; rows are added, never changed."""

    __tablename__ = "audit"
    n: Mapped[int] = mapped_column(BigInteger, Identity(always=True), primary_key=True)
    workspace: Mapped[str] = mapped_column(Text)
    at: Mapped[datetime] = mapped_column(DateTime(timezone=True), server_default=func.now())
    actor: Mapped[str] = mapped_column(Text)
    what: Mapped[str] = mapped_column(Text)
    about: Mapped[str] = mapped_column(Text)
    __table_args__ = (Index("audit_of_workspace", "workspace", "n"),)


class TryRow(Base):
    """Something that may be tried so often in a while (signing in with a name, from an address), and when it was."""

    __tablename__ = "tries"
    n: Mapped[int] = mapped_column(BigInteger, Identity(always=True), primary_key=True)
    key: Mapped[str] = mapped_column(Text)
    at: Mapped[datetime] = mapped_column(DateTime(timezone=True), server_default=func.now())
    __table_args__ = (Index("tries_by_key", "key", "at"),)


class PasskeyRow(Base):
    """A passkey: a key some device keeps for somebody, good at one ``site``; ``uses`` as the device counts them, so that a copy is noticed."""

    __tablename__ = "passkeys"
    id: Mapped[str] = mapped_column(Text, primary_key=True)
    person: Mapped[str] = mapped_column(Text)
    site: Mapped[str] = mapped_column(Text)
    label: Mapped[str] = mapped_column(Text)
    public_key: Mapped[bytes] = mapped_column(LargeBinary)
    uses: Mapped[int] = mapped_column(BigInteger)
    made_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), server_default=func.now())
    used_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
    __table_args__ = (
        ForeignKeyConstraint(["person"], ["people.id"], ondelete="CASCADE"),
        Index("passkeys_by_person", "person"),
    )


class ChallengeRow(Base):
    """Something a passkey was asked to sign, its digest alone: for one ``purpose``, once, for minutes."""

    __tablename__ = "challenges"
    digest: Mapped[str] = mapped_column(Text, primary_key=True)
    purpose: Mapped[str] = mapped_column(Text)
    until: Mapped[datetime] = mapped_column(DateTime(timezone=True))


class PhotoRow(Base):
    """A photo from the field, as it is shown; ``digest`` of what the phone sent."""

    __tablename__ = "photos"
    workspace: Mapped[str] = mapped_column(Text, primary_key=True)
    job_id: Mapped[str] = mapped_column(Text, primary_key=True)
    digest: Mapped[str] = mapped_column(Text, primary_key=True)
    wide: Mapped[int]
    high: Mapped[int]
    body: Mapped[bytes] = mapped_column(LargeBinary)
    actor: Mapped[str] = mapped_column(Text, server_default="")
    kept_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), server_default=func.now())
    __table_args__ = (ForeignKeyConstraint(["workspace", "job_id"], ["jobs.workspace", "jobs.id"], ondelete="CASCADE"),)


class IssueRow(Base):
    """A plan as it was given to the crew: its number, of which version and last event the plan answered to, and what the phone gets of it (JSON)."""

    __tablename__ = "issues"
    workspace: Mapped[str] = mapped_column(Text, primary_key=True)
    job_id: Mapped[str] = mapped_column(Text, primary_key=True)
    number: Mapped[int] = mapped_column(primary_key=True)
    version: Mapped[int]
    last_event: Mapped[int] = mapped_column(BigInteger)
    said: Mapped[str] = mapped_column(Text)
    pack: Mapped[str] = mapped_column(Text)
    actor: Mapped[str] = mapped_column(Text, server_default="")
    made_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), server_default=func.now())
    __table_args__ = (ForeignKeyConstraint(["workspace", "job_id"], ["jobs.workspace", "jobs.id"], ondelete="CASCADE"),)
