"""A whole workspace out and back into a fresh database: jobs byte for byte, and a file that is damaged restores nothing."""

import io
import json
import os
import zipfile
from dataclasses import replace

import pytest
from sqlalchemy import select, text
from sqlalchemy.exc import DBAPIError

from gnomonic.core.errors import BadInput
from gnomonic.demo.load import holm, holm_crew, single_jobs
from gnomonic.store import accounts, backup, cluster, days, events, jobs, people
from gnomonic.store.models import Base
from gnomonic.store.scope import Scope, connect
from gnomonic.web.app import create_app
from gnomonic.web.field import sample as logs


@pytest.fixture
def other(postgres, template):
    """A database on another machine, migrated and empty."""
    made = Scope(connect(cluster.clone_database(postgres, template, "restored")))
    yield made
    made.engine.dispose()
    cluster_drop(postgres)


def cluster_drop(postgres):
    engine = connect(cluster.ensure_database(postgres, "template")).execution_options(isolation_level="AUTOCOMMIT")
    with engine.connect() as connection:
        connection.execute(text("DROP DATABASE IF EXISTS restored WITH (FORCE)"))
    engine.dispose()


@pytest.fixture
def lived_in(scope, quick_hashes):
    return live_in(scope)


@pytest.fixture(scope="module")
def whole(postgres, template):
    """The backup of such a workspace, and the version of its tables."""
    made = Scope(connect(cluster.clone_database(postgres, template, f"lived{os.getpid()}")))
    live_in(made)
    _, body = written(made)
    made.engine.dispose()
    return body


def live_in(scope):
    """A workspace with jobs, edits, a crew, people, a log with photos, an issue; the ids of its jobs."""
    ids = [jobs.create(scope, job) for job in (single_jobs()[3], holm())]
    days.put_crew(scope, holm_crew()[0])
    logs.fill(create_app(scope).state.room, ids[1], ids[0])
    return ids


def everything(scope, workspace="own"):
    with scope.reading() as connection:
        found = {}
        for table in backup.tables():
            which = table.c.workspace == workspace if "workspace" in table.c else text("true")
            found[table.name] = sorted(str(row) for row in connection.execute(select(table).where(which)))
        return found


def written(scope):
    out = io.BytesIO()
    told = backup.write(scope, out)
    return told, out.getvalue()


def test_a_workspace_comes_back_whole_on_a_fresh_machine(scope, lived_in, other):
    told, body = written(scope)
    assert (
        told.rows["jobs"] == 2 and told.rows["photos"] == 1 and told.rows["people"] == 5 and told.rows["events"] > 100
    )
    back = backup.restore(other, io.BytesIO(body))
    assert back.rows == told.rows and back.notes == () and everything(other) == everything(scope)
    for job_id in lived_in:
        one, two = jobs.load(scope, job_id), jobs.load(other, job_id)
        assert one == two and one.document.encode() == two.document.encode()
        assert events.of_job(scope, job_id) == events.of_job(other, job_id)
    # what is written afterwards goes on behind what was restored
    stored = jobs.load(other, lived_in[0])
    assert jobs.step(other, lived_in[1], jobs.load(other, lived_in[1]).version, back=True).version != stored.version
    assert jobs.create(other, single_jobs()[0]) not in lived_in
    _, again = written(other)
    assert zipfile.ZipFile(io.BytesIO(again)).namelist() == zipfile.ZipFile(io.BytesIO(body)).namelist()


def test_every_table_of_a_workspace_is_in_it(scope):
    names = {t.name for t in backup.tables()}
    assert {t.name for t in Base.metadata.sorted_tables} - names == backup.LEFT_OUT
    with scope.reading() as connection:
        there = set(
            connection.execute(
                text(
                    "SELECT table_name FROM information_schema.columns WHERE column_name = 'workspace' AND table_schema = 'public'"
                )
            ).scalars()
        )
    assert there <= names | backup.LEFT_OUT


@pytest.mark.parametrize(
    "spoil", ["byte 40", "byte 300", "byte 2000", "byte 9000", "cut", "row", "form", "later", "none"]
)
def test_a_damaged_file_restores_nothing(whole, other, spoil):
    body = whole
    before = everything(other)
    if spoil.startswith("byte"):
        at = body.index(b"versions.jsonl") + int(spoil.split()[1])
        body = body[:at] + bytes([body[at] ^ 1]) + body[at + 1 :]
    elif spoil == "cut":
        body = body[: len(body) // 2]
    elif spoil == "none":
        body = b"nothing of ours"
    else:
        body = changed(body, spoil)
    with pytest.raises(BadInput, match=r"damaged|form|tables of version|nothing was restored"):
        backup.restore(other, io.BytesIO(body))
    assert everything(other) == before


def changed(body, spoil):
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(body)) as old, zipfile.ZipFile(out, "w") as new:
        for name in old.namelist():
            part = old.read(name)
            if name == "events.jsonl" and spoil == "row":
                part = part[: part.rindex(b"\n", 0, -1) + 1]
            if name == "manifest.json" and spoil in ("form", "later"):
                data = json.loads(part)
                data |= {"form": "gnomonic-backup/9"} if spoil == "form" else {"tables": "0999"}
                part = json.dumps(data).encode()
            new.writestr(name, part)
    return out.getvalue()


def test_it_is_not_put_over_a_workspace_that_is_there(scope, lived_in):
    _, body = written(scope)
    before = everything(scope)
    with pytest.raises(BadInput, match="here already and not empty"):
        backup.restore(scope, io.BytesIO(body))
    assert everything(scope) == before


def test_somebody_who_has_an_account_there_already_keeps_it(scope, lived_in, other, quick_hashes):
    mine = replace(other, workspace="next-door")
    accounts.make_workspace(other.engine, "next-door", "Next Door")
    person = people.add_person(mine, "wren@larkspur.example", "Wren Elsewhere", "owner")
    _, body = written(scope)
    told = backup.restore(other, io.BytesIO(body))
    assert told.notes == ("Wren has an account here already, which stays as it is",)
    wren = next(m for m in people.members(other) if m.login.startswith("wren"))
    assert wren.person == person and wren.name == "Wren Elsewhere" and wren.role == "owner"


def test_a_backup_is_of_one_moment_and_a_change_after_a_read_is_whole_or_none(scope, paddock):
    """What is added meanwhile is not in it, and nothing can be changed through it; a connection that read is given back for changes."""
    counted = text("SELECT count(*) FROM jobs")
    with scope.at_one_moment() as steady:
        assert steady.execute(counted).scalar_one() == 0
        jobs.create(scope, paddock)
        assert steady.execute(counted).scalar_one() == 0
        with pytest.raises(DBAPIError, match="read-only"):
            steady.execute(text("DELETE FROM jobs"))

    def broken_off():
        with scope.writing() as connection:
            connection.execute(text("DELETE FROM jobs"))
            raise ZeroDivisionError

    with pytest.raises(ZeroDivisionError):
        broken_off()
    assert jobs.count(scope) == 1
