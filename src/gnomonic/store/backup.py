"""A whole workspace in one file, and back: every row of every table that belongs to it, checked by digest, all or nothing.

The file is a zip: ``manifest.json`` (form, version of the tables, workspace, rows and SHA-256 of each part) and a part a table, a row of
JSON a line; bytes as base64, dates and decimals as text.  Source: docs/operating.md.
"""

import base64
import hashlib
import json
import zipfile
import zlib
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date, datetime
from decimal import Decimal
from typing import Any

from sqlalchemy import (
    Connection,
    Date,
    DateTime,
    Identity,
    LargeBinary,
    Numeric,
    Table,
    delete,
    func,
    insert,
    select,
    text,
)
from sqlalchemy.exc import IntegrityError

from gnomonic.core.errors import BadInput
from gnomonic.store.jobs import alembic_config
from gnomonic.store.models import Base, MemberRow, PersonRow, WorkspaceRow
from gnomonic.store.scope import Scope

FORM = "gnomonic-backup/1"
# what is no part of a workspace: who is signed in now, open links, passkeys (a device's, for the name of one server), what was asked for
# twice, papers made anew
LEFT_OUT = {"sessions", "passes", "passkeys", "challenges", "tries", "arrivals", "asked", "papers"}
NUMBERED_ANEW = {"audit": "n", "marks": "id"}  # nothing names these by number: they get new ones, in their order
AT_ONCE = 500


@dataclass(frozen=True, slots=True)
class Told:
    """What was written or read: rows by table, and what of it had to be left out."""

    workspace: str
    name: str
    rows: dict[str, int]
    notes: tuple[str, ...] = ()


def tables() -> list[Table]:
    """The tables a workspace's rows lie in, those first that others point to; a new one is in by itself."""
    return [
        t for t in Base.metadata.sorted_tables if t.name not in LEFT_OUT and ("workspace" in t.c or t.name == "people")
    ]


def head_version() -> str:
    """The version of the tables this program makes."""
    from alembic.script import ScriptDirectory

    return str(ScriptDirectory.from_config(alembic_config()).get_current_head())


def _out(value: Any) -> Any:
    if isinstance(value, bytes | memoryview):
        return {"b64": base64.b64encode(bytes(value)).decode()}
    if isinstance(value, datetime | date):
        return value.isoformat()
    return str(value) if isinstance(value, Decimal) else value


def _in(column: Any, value: Any) -> Any:
    if value is None:
        return None
    kind = column.type
    if isinstance(kind, LargeBinary):
        return base64.b64decode(value["b64"], validate=True)
    if isinstance(kind, DateTime):
        return datetime.fromisoformat(value)
    if isinstance(kind, Date):
        return date.fromisoformat(value)
    return Decimal(value) if isinstance(kind, Numeric) and kind.asdecimal else value


def _rows(connection: Connection, table: Table, workspace: str) -> Iterator[bytes]:
    mine = select(MemberRow.person).where(MemberRow.workspace == workspace)
    which = table.c.id.in_(mine) if table.name == "people" else table.c.workspace == workspace
    order = list(table.primary_key.columns)
    found = connection.execution_options(yield_per=AT_ONCE).execute(select(table).where(which).order_by(*order))
    for row in found:
        yield (json.dumps({k: _out(v) for k, v in row._mapping.items()}, ensure_ascii=False) + "\n").encode()


def write(scope: Scope, out: Any) -> Told:
    """Write a workspace as it is at one moment.  Raises DatabaseAway."""
    parts: dict[str, dict[str, Any]] = {}
    with scope.at_one_moment() as connection, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made:
        name = connection.execute(
            select(WorkspaceRow.name).where(WorkspaceRow.workspace == scope.workspace)
        ).scalar_one_or_none()
        for table in tables():
            digest, count = hashlib.sha256(), 0
            with made.open(f"{table.name}.jsonl", "w", force_zip64=True) as part:
                for line in _rows(connection, table, scope.workspace):
                    part.write(line)
                    digest.update(line)
                    count += 1
            parts[table.name] = {"rows": count, "sha256": digest.hexdigest()}
        manifest = {
            "form": FORM,
            "tables": head_version(),
            "workspace": scope.workspace,
            "name": name or scope.workspace,
            "made_at": datetime.now().astimezone().isoformat(),
            "parts": parts,
        }
        made.writestr("manifest.json", json.dumps(manifest, indent=1))
    return Told(scope.workspace, name or scope.workspace, {k: p["rows"] for k, p in parts.items()})


def _checked(data: zipfile.ZipFile) -> dict[str, Any]:
    """The manifest, every part held against it.  Raises BadInput (``file``)."""
    try:
        manifest: dict[str, Any] = json.loads(data.read("manifest.json"))
    except (KeyError, ValueError):
        raise BadInput("file", "that is no backup of Gnomonic: it has no manifest") from None
    if manifest.get("form") != FORM:
        raise BadInput(
            "file", f"that backup is of another form ({str(manifest.get('form'))[:40]}); this program reads {FORM}"
        )
    if manifest["tables"] != head_version():
        raise BadInput(
            "file",
            f"that backup has tables of version {str(manifest['tables'])[:12]}, this program of {head_version()}: restore it with the Gnomonic it was made with, then upgrade",
        )
    for name, part in manifest["parts"].items():
        digest, count = hashlib.sha256(), 0
        with data.open(f"{name}.jsonl") as lines:
            for line in lines:
                digest.update(line)
                count += 1
        if digest.hexdigest() != part["sha256"] or count != part["rows"]:
            raise BadInput("file", f"the backup is damaged: {name} is not what was written; nothing was restored")
    return manifest


def restore(scope: Scope, body: Any) -> Told:
    """Put a workspace back that is not there yet, or is empty, under its own key: all of it, or nothing.

    Somebody who has an account here already (by the name they sign in by) keeps it, and their password.  Raises BadInput (``file``).
    """
    try:
        with zipfile.ZipFile(body) as data:
            manifest = _checked(data)
            return _put(scope, data, manifest)
    except IntegrityError:
        raise BadInput(
            "file",
            "rows of that workspace have numbers that others have here already: restore into a database of its own; nothing was restored",
        ) from None
    except (zipfile.BadZipFile, zlib.error, EOFError, OSError, KeyError, NotImplementedError) as error:
        raise BadInput("file", f"the backup is damaged or cut off ({str(error)[:80]}); nothing was restored") from None


def _put(scope: Scope, data: zipfile.ZipFile, manifest: dict[str, Any]) -> Told:
    workspace, rows, notes = manifest["workspace"], {}, []
    with scope.writing() as connection:
        connection.execute(text("SET LOCAL statement_timeout = 0"))
        for table in tables():
            if table.name not in ("people", "workspaces") and "workspace" in table.c:
                there = connection.execute(
                    select(func.count()).select_from(table).where(table.c.workspace == workspace)
                ).scalar_one()
                if there:
                    raise BadInput(
                        "file",
                        f"the workspace “{workspace}” is here already and not empty ({table.name}): nothing was restored. Restore into a database of its own",
                    )
        connection.execute(delete(WorkspaceRow).where(WorkspaceRow.workspace == workspace))
        same: dict[str, str] = {}
        for table in tables():
            count, batch = 0, []
            if table.name not in manifest["parts"]:
                continue
            always = next((c.name for c in table.c if isinstance(c.server_default, Identity)), "")
            always = "" if table.name in NUMBERED_ANEW else always
            with data.open(f"{table.name}.jsonl") as lines:
                for line in lines:
                    row = {
                        c.name: _in(c, value)
                        for c in table.c
                        if c.computed is None
                        for value in [json.loads(line).get(c.name)]
                    }
                    if table.name == "people" and (
                        mine := connection.execute(select(PersonRow.id).where(PersonRow.login == row["login"])).scalar()
                    ):
                        same[row["id"]] = mine
                        notes.append(f"{row['name']} has an account here already, which stays as it is")
                        continue
                    row.pop(NUMBERED_ANEW.get(table.name, ""), None)
                    if row.get("person") in same:
                        row["person"] = same[row["person"]]
                    batch.append(row)
                    count += 1
                    if len(batch) >= AT_ONCE:
                        _insert(connection, table, batch, always)
                        batch = []
            if batch:
                _insert(connection, table, batch, always)
            rows[table.name] = count
            if always:
                connection.execute(
                    text(
                        f"SELECT setval(pg_get_serial_sequence('{table.name}', '{always}'), greatest((SELECT coalesce(max({always}), 1) FROM {table.name}), 1))"
                    )
                )
        return Told(workspace, manifest["name"], rows, tuple(notes))


def _insert(connection: Connection, table: Table, batch: list[dict[str, Any]], always: str) -> None:
    statement = insert(table)
    if always:  # rows keep their numbers: jobs name versions by them
        names = ", ".join(f'"{k}"' for k in batch[0])
        values = ", ".join(f":{k}" for k in batch[0])
        connection.execute(
            text(f'INSERT INTO "{table.name}" ({names}) OVERRIDING SYSTEM VALUE VALUES ({values})'), batch
        )
        return
    connection.execute(statement, batch)
