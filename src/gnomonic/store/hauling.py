"""What a workspace buys by and what it sells for: stock, what jobs reserve of it, suppliers, terms, quotes, ticks of shopping lists."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime
from decimal import Decimal
from fractions import Fraction
from typing import Any

from sqlalchemy import Connection, delete, func, select, text, update
from sqlalchemy.dialects.postgresql import insert

from gnomonic.core.errors import BadInput
from gnomonic.core.haul.held import Held
from gnomonic.core.haul.prices import Seller
from gnomonic.core.haul.quoting import Quote, must_change
from gnomonic.core.haul.supply import Lot
from gnomonic.core.haul.terms import Terms
from gnomonic.core.limits import MOST_OWN_ITEMS, MOST_SELLERS
from gnomonic.store.jobs import NotThere, must_be_there
from gnomonic.store.models import JobRow, QuoteRow, ReservedRow, SellerRow, StockRow, TermsRow, TickRow
from gnomonic.store.scope import Scope


@dataclass(frozen=True, slots=True)
class OnHand:
    """Something on hand, and how much of it each job (by id and name) has reserved."""

    held: Held
    reserved: tuple[tuple[str, str, Decimal], ...] = ()

    @property
    def free(self) -> Decimal:
        """What no job has reserved."""
        return self.held.count - sum((n for _, _, n in self.reserved), Decimal(0))

    def of(self, job_id: str) -> Decimal:
        """What a job has reserved."""
        return next((n for job, _, n in self.reserved if job == job_id), Decimal(0))


def on_hand(scope: Scope) -> list[OnHand]:
    """Everything on hand, by id."""
    taken = (
        select(ReservedRow.stock_id, ReservedRow.job_id, JobRow.name, ReservedRow.count.label("much"))
        .join(JobRow, (JobRow.workspace == ReservedRow.workspace) & (JobRow.id == ReservedRow.job_id))
        .where(ReservedRow.workspace == scope.workspace)
        .order_by(JobRow.name, ReservedRow.job_id)
    )
    with scope.reading() as connection:
        query = select(StockRow.row).where(StockRow.workspace == scope.workspace).order_by(StockRow.id)
        rows = [Held.model_validate_json(row) for row in connection.execute(query).scalars()]
        by: dict[str, list[tuple[str, str, Decimal]]] = {}
        for of in connection.execute(taken):
            by.setdefault(of.stock_id, []).append((of.job_id, of.name, of.much))
    return [OnHand(held, tuple(by.get(held.id, ()))) for held in rows]


def lots(rows: Sequence[OnHand], job_id: str) -> list[Lot]:
    """What a job may use: what is free, and what it has reserved itself."""
    return [Lot(row.held, Fraction(row.free + row.of(job_id))) for row in rows]


def put_held(scope: Scope, rows: Sequence[Held]) -> None:
    """Add things on hand, all or none; one of the same id is replaced.  Raises BadInput where less is left than jobs have reserved."""
    with scope.writing() as connection:
        for held in rows:
            own = (StockRow.workspace == scope.workspace, StockRow.id == held.id)
            connection.execute(select(StockRow.id).where(*own).with_for_update())
            taken = _taken(connection, scope, held.id)
            if taken > held.count:
                raise BadInput("count", f"{held.what or held.item}: jobs have reserved {taken:f} of it, there can’t be only {held.count:f}")  # fmt: skip
            values = {"row": held.model_dump_json(), "count": held.count}
            statement = insert(StockRow).values(workspace=scope.workspace, id=held.id, **values)
            connection.execute(statement.on_conflict_do_update(index_elements=["workspace", "id"], set_=values))
        of = select(func.count()).select_from(StockRow).where(StockRow.workspace == scope.workspace)
        if connection.execute(of).scalar_one() > MOST_OWN_ITEMS:
            raise BadInput("stock", f"there can be at most {MOST_OWN_ITEMS} rows of stock")


def drop_held(scope: Scope, held_id: str) -> None:
    """Forget something on hand.  Raises BadInput while a job has reserved of it."""
    with scope.writing() as connection:
        own = (StockRow.workspace == scope.workspace, StockRow.id == held_id)
        connection.execute(select(StockRow.id).where(*own).with_for_update())
        if _taken(connection, scope, held_id):
            raise BadInput("stock", "a job has reserved this: release it there first")
        connection.execute(delete(StockRow).where(*own))


def _taken(connection: Connection, scope: Scope, held_id: str, but: str = "") -> Decimal:
    of = (ReservedRow.workspace == scope.workspace, ReservedRow.stock_id == held_id, ReservedRow.job_id != but)
    return connection.execute(select(func.coalesce(func.sum(ReservedRow.count), Decimal(0))).where(*of)).scalar_one()


def reserve(scope: Scope, job_id: str, wanted: Sequence[tuple[str, Decimal]]) -> None:
    """Reserve things for a job, all or none, in place of what it had: so much of each (0: release it).

    Raises BadInput where others have what is asked for, NotThere.
    """
    with scope.writing() as connection:
        must_be_there(connection, scope, job_id)
        for held_id, count in sorted(wanted):
            own = (StockRow.workspace == scope.workspace, StockRow.id == held_id)
            there = connection.execute(select(StockRow.row).where(*own).with_for_update()).scalar_one_or_none()
            if there is None:
                raise NotThere(held_id)
            held = Held.model_validate_json(there)
            free = held.count - _taken(connection, scope, held_id, job_id)
            if count > free:
                raise BadInput("count", f"{held.what or held.item}: {free.normalize():f} of {held.count.normalize():f} are free, the rest is reserved for other jobs; {count.normalize():f} can’t be reserved")  # fmt: skip
            key = {"workspace": scope.workspace, "stock_id": held_id, "job_id": job_id}
            mine = (
                ReservedRow.workspace == scope.workspace,
                ReservedRow.stock_id == held_id,
                ReservedRow.job_id == job_id,
            )
            if count > 0:
                statement = insert(ReservedRow).values(**key, count=count)
                connection.execute(statement.on_conflict_do_update(index_elements=list(key), set_={"count": count}))
            else:
                connection.execute(delete(ReservedRow).where(*mine))


def settle(scope: Scope, job_id: str, left: Sequence[Held]) -> None:
    """The work is done: what a job had reserved is used up, what is ``left`` comes back, all of it or none; done twice it is done once,
    since what is left has ids of the job's own."""
    with scope.writing() as connection:
        mine = (ReservedRow.workspace == scope.workspace, ReservedRow.job_id == job_id)
        of = (StockRow.workspace == scope.workspace,)
        query = select(StockRow.row, ReservedRow.count.label("much")).join(ReservedRow, (ReservedRow.workspace == StockRow.workspace) & (ReservedRow.stock_id == StockRow.id))  # fmt: skip
        for row, much in connection.execute(query.where(*of, *mine).with_for_update()).all():
            held = Held.model_validate_json(row)
            this = (*of, StockRow.id == held.id)
            if held.count - much > 0:
                rest = held.model_copy(update={"count": held.count - much})
                connection.execute(update(StockRow).where(*this).values(row=rest.model_dump_json(), count=rest.count))
                connection.execute(delete(ReservedRow).where(*mine, ReservedRow.stock_id == held.id))
            else:
                connection.execute(delete(StockRow).where(*this))
        for held in left:
            values = {"row": held.model_dump_json(), "count": held.count}
            statement = insert(StockRow).values(workspace=scope.workspace, id=held.id, **values)
            connection.execute(statement.on_conflict_do_nothing())


def sellers(scope: Scope) -> list[Seller]:
    """Every supplier, by name."""
    query = select(SellerRow.row).where(SellerRow.workspace == scope.workspace).order_by(SellerRow.name)
    with scope.reading() as connection:
        return [Seller.model_validate_json(row) for row in connection.execute(query).scalars()]


def put_sellers(scope: Scope, rows: Sequence[Seller]) -> None:
    """Add suppliers or put them in place of those of the same name, all or none.  Raises BadInput beyond ``MOST_SELLERS``."""
    with scope.writing() as connection:
        for seller in rows:
            statement = insert(SellerRow).values(
                workspace=scope.workspace, name=seller.name, row=seller.model_dump_json()
            )
            changed = {"row": seller.model_dump_json()}
            connection.execute(statement.on_conflict_do_update(index_elements=["workspace", "name"], set_=changed))
        of = select(func.count()).select_from(SellerRow).where(SellerRow.workspace == scope.workspace)
        if connection.execute(of).scalar_one() > MOST_SELLERS:
            raise BadInput("suppliers", f"at most {MOST_SELLERS} suppliers are compared: forget one first")


def drop_seller(scope: Scope, name: str) -> None:
    """Forget a supplier."""
    with scope.writing() as connection:
        connection.execute(delete(SellerRow).where(SellerRow.workspace == scope.workspace, SellerRow.name == name))


def terms(scope: Scope) -> Terms | None:
    """The workspace's terms; none before they were said."""
    with scope.reading() as connection:
        row = connection.execute(select(TermsRow.row).where(TermsRow.workspace == scope.workspace)).scalar_one_or_none()
    return None if row is None else Terms.model_validate_json(row)


def put_terms(scope: Scope, made: Terms) -> None:
    """Say the workspace's terms."""
    with scope.writing() as connection:
        values = {"row": made.model_dump_json()}
        statement = insert(TermsRow).values(workspace=scope.workspace, **values)
        connection.execute(statement.on_conflict_do_update(index_elements=["workspace"], set_=values))


@dataclass(frozen=True, slots=True)
class StoredQuote:
    """A quote as it went out, and whether it was accepted."""

    quote: Quote
    job_id: str
    accepted_on: date | None
    accepted_by: str


def quotes(scope: Scope, job_id: str) -> list[StoredQuote]:
    """Quotes and change orders of a job, in the order they were made."""
    query = select(QuoteRow).where(QuoteRow.workspace == scope.workspace, QuoteRow.job_id == job_id)
    query = query.order_by(QuoteRow.made_at, QuoteRow.kind.desc(), QuoteRow.number, QuoteRow.revision)
    with scope.reading() as connection:
        return [_stored(row) for row in connection.execute(query)]


def _stored(row: Any) -> StoredQuote:
    return StoredQuote(Quote.model_validate_json(row.row), row.job_id, row.accepted_on, row.accepted_by)


def _this(scope: Scope, kind: str, number: int, revision: int) -> tuple[Any, ...]:
    return (
        QuoteRow.workspace == scope.workspace,
        QuoteRow.kind == kind,
        QuoteRow.number == number,
        QuoteRow.revision == revision,
    )


def quote(scope: Scope, kind: str, number: int, revision: int) -> StoredQuote:
    """One of them.  Raises NotThere."""
    with scope.reading() as connection:
        row = connection.execute(select(QuoteRow).where(*_this(scope, kind, number, revision))).first()
    if row is None:
        raise NotThere(f"{kind} {number}")
    return _stored(row)


class QuotedMeanwhile(Exception):
    """Since the page was drawn another quote of the job was made, or this one already."""


def add_quote(scope: Scope, job_id: str, made: Quote, revises: int = 0, seen: int | None = None) -> Quote:
    """Keep a quote under the next number of its kind, or as the next revision of the number it ``revises``.

    Raises NotThere; QuotedMeanwhile where the job has other than the ``seen`` number of them, so that asked for twice it is made once.
    """
    with scope.writing() as connection:
        connection.execute(text("SELECT pg_advisory_xact_lock(hashtext(:name))"), {"name": f"quotes {scope.workspace}"})
        mine = (QuoteRow.workspace == scope.workspace, QuoteRow.job_id == job_id)
        there = connection.execute(select(func.count()).select_from(QuoteRow).where(*mine)).scalar_one()
        if seen is not None and there != seen:
            raise QuotedMeanwhile(job_id)
        of = [QuoteRow.workspace == scope.workspace, QuoteRow.kind == made.kind]
        column = QuoteRow.number
        if revises:
            of += [QuoteRow.number == revises, QuoteRow.job_id == job_id]
            column = QuoteRow.revision
        last = connection.execute(select(func.max(column)).where(*of)).scalar_one()
        if revises and last is None:
            raise NotThere(f"{made.kind} {revises}")
        given = {"number": revises, "revision": last + 1} if revises else {"number": (last or 0) + 1, "revision": 1}
        kept = made.model_copy(update=given)
        values = {
            "workspace": scope.workspace,
            "job_id": job_id,
            "kind": kept.kind,
            **given,
            "row": kept.model_dump_json(),
        }
        connection.execute(insert(QuoteRow).values(**values))
    return kept


def accept(scope: Scope, kind: str, number: int, revision: int, by: str, day: date) -> None:
    """Say that a quote was accepted; what was once stays so.  Raises BadInput where it was already or there is a later revision, NotThere."""
    with scope.writing() as connection:
        of = (QuoteRow.workspace == scope.workspace, QuoteRow.kind == kind, QuoteRow.number == number)
        rows = connection.execute(select(QuoteRow).where(*of).with_for_update()).all()
        mine = next((r for r in rows if r.revision == revision), None)
        if mine is None:
            raise NotThere(f"{kind} {number}")
        must_change(Quote.model_validate_json(mine.row), mine.accepted_on is not None)
        if mine.revision != max(r.revision for r in rows):
            raise BadInput("quote", "there is a later revision of this quote: accept that one")
        values = {"accepted_on": day, "accepted_by": by}
        connection.execute(update(QuoteRow).where(*_this(scope, kind, number, revision)).values(**values))


@dataclass(frozen=True, slots=True)
class Ticked:
    """What was got of a line of a shopping list (empty: not yet), how much was asked for then, and when that was said."""

    item: str
    got: str
    much: str
    at: datetime


def ticks(scope: Scope, job_id: str) -> list[Ticked]:
    """What was ticked off a job's shopping list."""
    query = select(TickRow.item, TickRow.got, TickRow.much, TickRow.ticked_at)
    query = query.where(TickRow.workspace == scope.workspace, TickRow.job_id == job_id)
    with scope.reading() as connection:
        return [Ticked(item, got, much, at.replace(tzinfo=UTC)) for item, got, much, at in connection.execute(query)]


def tick(scope: Scope, job_id: str, rows: Sequence[Ticked]) -> None:
    """Take ticks in; of two of a line the later stands.  Raises NotThere."""
    with scope.writing() as connection:
        must_be_there(connection, scope, job_id)
        for row in rows:
            values = {"got": row.got, "much": row.much, "ticked_at": row.at.astimezone(UTC).replace(tzinfo=None)}
            statement = insert(TickRow).values(workspace=scope.workspace, job_id=job_id, item=row.item, **values)
            later = TickRow.ticked_at <= statement.excluded.ticked_at
            keys = ["workspace", "job_id", "item"]
            connection.execute(statement.on_conflict_do_update(index_elements=keys, set_=values, where=later))


def prices_as_kept(scope: Scope) -> tuple[str, tuple[str, ...]]:
    """Terms and suppliers as they are kept (JSON), empty where none were said."""
    with scope.reading() as connection:
        query = select(TermsRow.row).where(TermsRow.workspace == scope.workspace)
        terms = connection.execute(query).scalar_one_or_none() or ""
        rows = select(SellerRow.row).where(SellerRow.workspace == scope.workspace).order_by(SellerRow.name)
        return terms, tuple(connection.execute(rows).scalars())
