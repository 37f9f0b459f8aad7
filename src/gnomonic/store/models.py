"""Tables: jobs, their immutable versions, and files that have arrived but are not yet a job."""

from datetime import datetime

from sqlalchemy import ForeignKey, Identity, Index, LargeBinary, Text, func
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column


class Base(DeclarativeBase):
    """Root of the tables."""


class JobRow(Base):
    """A job and the version it stands at."""

    __tablename__ = "jobs"
    id: Mapped[str] = mapped_column(Text, primary_key=True)
    name: Mapped[str] = mapped_column(Text)
    head_id: Mapped[int]
    created_at: Mapped[datetime] = mapped_column(server_default=func.now())
    changed_at: Mapped[datetime] = mapped_column(server_default=func.now())


class VersionRow(Base):
    """One immutable version: the document, the edit that made it and what the edit did."""

    __tablename__ = "versions"
    id: Mapped[int] = mapped_column(Identity(always=True), primary_key=True)
    job_id: Mapped[str] = mapped_column(ForeignKey("jobs.id", ondelete="CASCADE"))
    parent_id: Mapped[int | None]
    document: Mapped[str] = mapped_column(Text)
    digest: Mapped[str] = mapped_column(Text)
    edit: Mapped[str | None] = mapped_column(Text)
    made_at: Mapped[datetime] = mapped_column(server_default=func.now())
    __table_args__ = (Index("versions_by_parent", "job_id", "parent_id"),)


class ArrivalRow(Base):
    """A file being looked at in the preview."""

    __tablename__ = "arrivals"
    id: Mapped[str] = mapped_column(Text, primary_key=True)
    name: Mapped[str] = mapped_column(Text)
    body: Mapped[bytes] = mapped_column(LargeBinary)
    arrived_at: Mapped[datetime] = mapped_column(server_default=func.now())
