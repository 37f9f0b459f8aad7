"""What a workspace holds of its own, kept apart from what is shipped: overrides of the rule book, items of the catalog."""

from collections.abc import Sequence

from sqlalchemy import delete, select
from sqlalchemy.dialects.postgresql import insert

from gnomonic.core.demand.animals import Override
from gnomonic.core.demand.catalog import OwnItem
from gnomonic.store.models import OverrideRow, OwnItemRow
from gnomonic.store.scope import Scope


def overrides(scope: Scope) -> tuple[Override, ...]:
    """Every override, by path."""
    with scope.reading() as connection:
        query = select(OverrideRow.path, OverrideRow.value, OverrideRow.reason)
        query = query.where(OverrideRow.workspace == scope.workspace).order_by(OverrideRow.path)
        return tuple(Override(path=p, value=v, reason=r) for p, v, r in connection.execute(query))


def put_override(scope: Scope, override: Override) -> None:
    """Add an override, or put it in place of the one that was there."""
    values = {"workspace": scope.workspace, **override.model_dump()}
    with scope.writing() as connection:
        statement = insert(OverrideRow).values(values)
        changed = {"value": override.value, "reason": override.reason}
        connection.execute(statement.on_conflict_do_update(index_elements=["workspace", "path"], set_=changed))


def drop_override(scope: Scope, path: str) -> None:
    """Go back to the shipped value."""
    with scope.writing() as connection:
        connection.execute(
            delete(OverrideRow).where(OverrideRow.workspace == scope.workspace, OverrideRow.path == path)
        )


def own_items(scope: Scope) -> tuple[OwnItem, ...]:
    """Items of the workspace's own, by key."""
    with scope.reading() as connection:
        rows = connection.execute(
            select(OwnItemRow.row).where(OwnItemRow.workspace == scope.workspace).order_by(OwnItemRow.key)
        ).scalars()
        return tuple(OwnItem.model_validate_json(row) for row in rows)


def put_items(scope: Scope, items: Sequence[OwnItem]) -> None:
    """Add items, all or none; one of the same key is replaced."""
    with scope.writing() as connection:
        for item in items:
            row = item.model_dump_json()
            statement = insert(OwnItemRow).values(workspace=scope.workspace, key=item.key, row=row)
            connection.execute(statement.on_conflict_do_update(index_elements=["workspace", "key"], set_={"row": row}))


def drop_item(scope: Scope, key: str) -> None:
    """Forget an item of the workspace's own."""
    with scope.writing() as connection:
        connection.execute(delete(OwnItemRow).where(OwnItemRow.workspace == scope.workspace, OwnItemRow.key == key))
