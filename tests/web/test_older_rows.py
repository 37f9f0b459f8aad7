"""Rows as version 0.3.1 stored them, with their whole undo history, brought to the form of today and planned as they were.

``rows_of_0_3_1.json.gz`` was written by that version: its 14 demo lines brought in and edited step by step, some steps taken
back, and beside each stored version the take-off it planned.
"""

import gzip
import json
from pathlib import Path

import psycopg
import pytest
from alembic import command
from alembic.config import Config
from places import run
from sqlalchemy import text

from gnomonic.core.haul.takeoff import job_take_off
from gnomonic.core.job.fence import fences
from gnomonic.core.job.parts import Crossing
from gnomonic.core.job.reading import read_job
from gnomonic.core.plan.road import plan
from gnomonic.core.tell.needs import named
from gnomonic.store import cluster, jobs
from gnomonic.store.scope import Scope, connect
from gnomonic.workshop.running import PATIENCE

ROWS = json.loads(gzip.decompress((Path(__file__).parent / "rows_of_0_3_1.json.gz").read_bytes()))
HEADS = {row["head_id"] for row in ROWS["jobs"]}


def moved_to(url, revision, way=command.upgrade):
    config = Config()
    config.set_main_option("script_location", "gnomonic.store:migrations")
    config.attributes["url"] = url
    way(config, revision)


@pytest.fixture(scope="module")
def migrated(postgres):
    """A database of version 0.3.1 with its rows in it, brought up to date."""
    url = cluster.ensure_database(postgres, "of_0_3_1")
    moved_to(url, "0003")
    with psycopg.connect(url.replace("+psycopg", "")) as connection, connection.cursor() as cursor:
        for row in ROWS["jobs"]:
            cursor.execute("INSERT INTO jobs (id, name, head_id) VALUES (%(id)s, %(name)s, %(head_id)s)", row)
        for row in ROWS["versions"]:
            cursor.execute(
                "INSERT INTO versions (id, job_id, parent_id, document, digest, edit) OVERRIDING SYSTEM VALUE "
                "VALUES (%(id)s, %(job_id)s, %(parent_id)s, %(document)s, %(digest)s, %(edit)s)",
                row,
            )
        cursor.execute("SELECT setval(pg_get_serial_sequence('versions', 'id'), max(id)) FROM versions")
        cursor.execute("INSERT INTO jobs (id, name, head_id) VALUES ('torn', 'Torn', 9000)")
        cursor.execute(
            "INSERT INTO versions (id, job_id, document, digest) OVERRIDING SYSTEM VALUE VALUES (9000, 'torn', '{\"format\": 1', 'x')"
        )
        cursor.execute("INSERT INTO overrides (path, value, reason) VALUES ('a.b', 1.5, 'ours')")
        cursor.execute("INSERT INTO walks (id, source) VALUES ('w1', 'rover')")
        cursor.execute("INSERT INTO fixes VALUES ('w1', 0, 1, 2, 3, 4, 0.1, 4, 9, 'good', true)")
    jobs.migrate(url)
    made = Scope(connect(url, PATIENCE))
    yield url, made
    made.engine.dispose()


def test_no_row_and_no_step_of_the_history_is_lost(migrated):
    _, scope = migrated
    with scope.engine.connect() as connection:
        rows = connection.execute(
            text("SELECT id, job_id, parent_id, document, edit, workspace FROM versions ORDER BY id")
        ).all()
        assert connection.execute(text("SELECT document FROM versions WHERE id = 9000")).scalar() == '{"format": 1', (
            "left as it is"
        )
        assert connection.execute(text("SELECT workspace FROM fixes UNION SELECT workspace FROM overrides")).all() == [
            ("own",)
        ]
    rows = [r for r in rows if r.id != 9000]
    assert [(r.id, r.job_id, r.parent_id, r.edit) for r in rows] == [
        (v["id"], v["job_id"], v["parent_id"], v["edit"]) for v in ROWS["versions"]
    ]
    assert all(json.loads(r.document)["format"] == "gnomonic-job/2" and r.workspace == "own" for r in rows)


@pytest.mark.parametrize("row", ROWS["versions"], ids=[str(v["id"]) for v in ROWS["versions"]])
def test_every_stored_version_says_what_it_said(row):
    old, job = json.loads(row["document"]), read_job(row["document"])
    (line,) = job.lines
    new = json.loads(job.canonical_json())
    own = new["lines"][0]
    assert job.name == line.name == old["name"]
    assert own["measured"]["points"] == old["line"]["points"] and new["frame"] == old["line"]["frame"]
    assert own["decisions"] == old["decisions"] | {"hold_factor": 1.5, "shave_m": 0.9144, "wind_m_s": 30.0}
    assert [{k: g[k] for k in ("id", "at_m", "opening_m", "name")} for g in own["gates"]] == old["gates"]
    assert all(g["leaf_m"] is None for g in own["gates"])  # staked between centres: asked about, not guessed
    for key in ("hold", "barrier", "posts", "forbidden", "shared", "swath_m"):
        assert own[key] == old[key]
    assert sorted(f["id"] for f in (*own["found"], *new["found"])) == sorted(f["id"] for f in old["found"])
    assert [o["length_m"] for o in new["stock"]["offcuts"]] == old["offcuts_m"]
    assert (new["marking"] or {}).get("routes") == ([old["marking"]["route"]] if old["marking"] else None)


@pytest.mark.parametrize("row", [v for v in ROWS["versions"] if v["id"] in HEADS], ids=lambda v: str(v["id"]))
def test_a_job_of_one_line_plans_as_it_did(row):
    """Fabric over the water, as it was before 0.7; a gate's posts, hardware and second brace wire are of 0.7."""
    job = read_job(row["document"])
    (line,) = job.lines
    water = [f for f in line.found if f.kind == "water"]
    over = tuple(Crossing(at_m=(f.from_m + f.to_m) / 2, how="over") for f in water)
    job = job.model_copy(update={"lines": (line.model_copy(update={"crossings": over}),)})
    made = plan(job)
    items = {
        named(i.need).text("metric"): round(i.count, 3)
        for i in job_take_off([(f, made.lines[f.id]) for f in fences(job)])
    }
    plain = {
        ("diagonal strut" if k.startswith("diagonal strut") else k): v for k, v in items.items() if k != "soil for lows"
    }
    was = {("diagonal strut" if k.startswith("diagonal strut") else k): v for k, v in row["planned"]["items"].items()}
    of_gates = (
        "gate",
        "hinge",
        "screw",
        "latch",
        "chain",
        "slot",
        "nut and",
        "terminal",
        "strainer",
        "wood post",
        "timber post",
        "corner post",
        "brace wire",
        "twist stick",
    )
    kept = {k for k in plain.keys() | was.keys() if not (line.gates and any(w in k for w in of_gates))}
    assert kept & plain.keys() == kept & was.keys()
    for item in sorted(kept):  # brace wire follows the ground since 0.6, a few per cent on these slopes
        count = plain[item]
        give = (
            {"rel": 0.03} if "wire" in item or (line.gates and item in ("concrete", "crushed rock")) else {"abs": 1e-3}
        )
        assert count == pytest.approx(was[item], **give), item
    (one,) = made.lines.values()
    assert (len(one.posts), len(one.rolls.splices)) == (row["planned"]["posts"], row["planned"]["splices"])


def test_steps_are_undone_and_done_again_through_the_whole_history(migrated):
    _, scope = migrated
    for row in ROWS["jobs"]:
        stored = jobs.load(scope, row["id"])
        assert (stored.version, stored.name) == (row["head_id"], row["name"])
        names = []
        while stored.can_undo:
            stored = jobs.step(scope, row["id"], stored.version, back=True)
            names.append(read_job(stored.document).name)
        while stored.version != row["head_id"]:
            stored = jobs.step(scope, row["id"], stored.version, back=False)
        assert stored.name == row["name"]


def test_there_is_no_way_back_and_that_is_said(migrated, tmp_path):
    url, scope = migrated
    with pytest.raises(RuntimeError, match="restore a backup made before the upgrade"):
        moved_to(url, "0003", command.downgrade)
    with scope.engine.begin() as connection:
        connection.execute(text("UPDATE alembic_version SET version_num = '0999'"))
    with pytest.raises(jobs.TooNew, match="made by a later Gnomonic"):
        jobs.migrate(url)
    with scope.engine.begin() as connection:
        connection.execute(text("UPDATE alembic_version SET version_num = '0004'"))
    (tmp_path / "old.json").write_text(ROWS["versions"][0]["document"])
    done = run("plan", "old.json", "-o", "plan.json", cwd=tmp_path)
    assert done.returncode == 0 and done.stderr.startswith("gnomonic: lines 1, posts")


def test_rows_of_one_workspace_are_not_seen_from_another(scope, paddock):
    other = Scope(scope.engine, "neighbours", "somebody")
    mine, theirs = jobs.create(scope, paddock), jobs.create(other, paddock)
    assert [r.job_id for r in jobs.listed(scope)] == [mine] and [r.job_id for r in jobs.listed(other)] == [theirs]
    for act in (
        lambda: jobs.load(scope, theirs),
        lambda: jobs.save(scope, theirs, jobs.load(other, theirs).version, paddock, "{}"),
        lambda: jobs.step(scope, theirs, 1, back=True),
        lambda: jobs.save_together(scope, [(theirs, jobs.load(other, theirs).version, paddock, "{}")]),
        lambda: jobs.arrival(scope, jobs.keep_arrival(other, "a.gpx", b"x")),
    ):
        with pytest.raises(jobs.NotThere):
            act()
    jobs.remove(scope, theirs)
    assert jobs.load(other, theirs).name == paddock.name and jobs.names(other) == [paddock.name]
    with scope.engine.connect() as connection:
        assert connection.execute(text("SELECT actor FROM versions WHERE workspace = 'neighbours'")).all() == [
            ("somebody",)
        ]
