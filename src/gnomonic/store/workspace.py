"""What a workspace holds of its own, kept apart from what is shipped: overrides of the rule book, items of the catalog."""

from collections.abc import Sequence

from sqlalchemy import Engine, delete, select
from sqlalchemy.dialects.postgresql import insert

from gnomonic.core.demand.animals import Override
from gnomonic.core.demand.catalog import OwnItem
from gnomonic.store.models import OverrideRow, OwnItemRow


def overrides(engine: Engine) -> tuple[Override, ...]:
    """Every override, by path."""
    with engine.connect() as connection:
        query = select(OverrideRow.path, OverrideRow.value, OverrideRow.reason).order_by(OverrideRow.path)
        return tuple(Override(path=p, value=v, reason=r) for p, v, r in connection.execute(query))


def put_override(engine: Engine, override: Override) -> None:
    """Add an override, or put it in place of the one that was there."""
    values = override.model_dump()
    with engine.begin() as connection:
        statement = insert(OverrideRow).values(values)
        changed = {"value": override.value, "reason": override.reason}
        connection.execute(statement.on_conflict_do_update(index_elements=["path"], set_=changed))


def drop_override(engine: Engine, path: str) -> None:
    """Go back to the shipped value."""
    with engine.begin() as connection:
        connection.execute(delete(OverrideRow).where(OverrideRow.path == path))


def own_items(engine: Engine) -> tuple[OwnItem, ...]:
    """Items of the workspace's own, by key."""
    with engine.connect() as connection:
        rows = connection.execute(select(OwnItemRow.row).order_by(OwnItemRow.key)).scalars()
        return tuple(OwnItem.model_validate_json(row) for row in rows)


def put_items(engine: Engine, items: Sequence[OwnItem]) -> None:
    """Add items, all or none; one of the same key is replaced."""
    with engine.begin() as connection:
        for item in items:
            row = item.model_dump_json()
            statement = insert(OwnItemRow).values(key=item.key, row=row)
            connection.execute(statement.on_conflict_do_update(index_elements=["key"], set_={"row": row}))


def drop_item(engine: Engine, key: str) -> None:
    """Forget an item of the workspace's own."""
    with engine.begin() as connection:
        connection.execute(delete(OwnItemRow).where(OwnItemRow.key == key))
