"""The store and its private cluster: real processes, real kills."""

import os
import signal
import threading
from dataclasses import replace
from pathlib import Path

import psycopg
import pytest
from places import HOME, run, run_really
from sqlalchemy import text

from gnomonic.core.edits.all import apply, read_edit
from gnomonic.core.job.reading import read_job
from gnomonic.demo.load import single_jobs
from gnomonic.store import cluster, jobs


def renamed(job, name):
    return apply(job, read_edit({"do": "rename", "name": name}))


def test_versions_are_never_changed(scope, paddock):
    job_id = jobs.create(scope, paddock)
    first = jobs.load(scope, job_id)
    jobs.save(scope, job_id, first.version, renamed(paddock, "Second"), "{}")
    with scope.engine.connect() as connection:
        rows = connection.execute(
            text("SELECT document FROM versions WHERE job_id = :j ORDER BY id"), {"j": job_id}
        ).all()
    assert [read_job(r.document).name for r in rows] == [paddock.name, "Second"]
    assert rows[0].document == first.document


def test_undo_takes_the_name_back_too(scope, paddock):
    job_id = jobs.create(scope, paddock)
    stored = jobs.save(scope, job_id, jobs.load(scope, job_id).version, renamed(paddock, "Second"), "{}")
    assert (stored.name, stored.can_undo, stored.can_redo) == ("Second", True, False)
    back = jobs.step(scope, job_id, stored.version, back=True)
    assert (back.name, back.can_undo, back.can_redo) == (paddock.name, False, True)
    assert [row.name for row in jobs.listed(scope)] == [paddock.name]


def test_only_one_of_many_windows_wins(scope, paddock):
    job_id = jobs.create(scope, paddock)
    base = jobs.load(scope, job_id).version
    won, told, ready = [], [], threading.Barrier(6)

    def window(number):
        ready.wait()
        try:
            won.append(jobs.save(scope, job_id, base, renamed(paddock, f"Window {number}"), "{}").name)
        except jobs.Moved as moved:
            told.append(moved.head)

    threads = [threading.Thread(target=window, args=(k,)) for k in range(6)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    stored = jobs.load(scope, job_id)
    assert won == [stored.name] and told == [stored.version] * 5


@pytest.mark.parametrize("search", ["", "field"])
def test_a_part_of_the_list_says_how_many_there_are_in_this_workspace(scope, paddock, search):
    """Three here and one elsewhere: the second of the list is the one made second, of three."""
    for name in ("Field 1", "Field 2", "Field 3"):
        jobs.create(scope, renamed(paddock, name))
    jobs.create(replace(scope, workspace="elsewhere"), renamed(paddock, "Field 4"))
    (row,) = jobs.listed(scope, search, 1, 1)
    assert (row.name, row.of_all) == ("Field 2", 3)


def test_the_list_has_the_last_changed_first_and_removal_takes_all_versions(scope, paddock):
    first, second = jobs.create(scope, paddock), jobs.create(scope, single_jobs()[0])
    assert {r.job_id for r in jobs.listed(scope)} == {first, second}
    jobs.save(scope, first, jobs.load(scope, first).version, renamed(paddock, "Again"), "{}")
    assert jobs.listed(scope)[0].job_id == first
    jobs.remove(scope, first)
    with pytest.raises(jobs.NotThere):
        jobs.load(scope, first)
    with scope.engine.connect() as connection:
        assert connection.execute(text("SELECT count(*) FROM versions WHERE job_id = :j"), {"j": first}).scalar() == 0


def test_arrivals_are_kept_for_a_day(scope):
    old = jobs.keep_arrival(scope, "old.gpx", b"\x00\xffold")
    assert jobs.arrival(scope, old) == ("old.gpx", b"\x00\xffold")
    with scope.engine.begin() as connection:
        connection.execute(text("UPDATE arrivals SET arrived_at = now() - interval '25 hours'"))
    jobs.keep_arrival(scope, "new.gpx", b"new")
    with pytest.raises(jobs.NotThere):
        jobs.arrival(scope, old)


def test_migrating_again_changes_nothing(database, scope, paddock):
    job_id = jobs.create(scope, paddock)
    jobs.migrate(database)
    assert jobs.load(scope, job_id).document == paddock.canonical_json()


@pytest.fixture
def own(tmp_path_factory):
    """A cluster of this test's own, in a folder any user can reach."""
    root = Path("/dev/shm" if os.access("/dev/shm", os.W_OK) else "/tmp") / f"gnomonic-own-{os.getpid()}"
    yield root
    cluster.stop(root)
    cluster.remove(root)


def test_a_killed_cluster_mends_itself_and_loses_no_row(own):
    assert cluster.state(own) == "absent" and not cluster.stop(own)
    made = cluster.ensure(own)
    url = cluster.ensure_database(made, "kept").replace("+psycopg", "")
    with psycopg.connect(url) as connection:
        connection.execute("CREATE TABLE line (posts int)")
        connection.execute("INSERT INTO line VALUES (244)")
    first = int((made.data / "postmaster.pid").read_text().split()[0])
    assert cluster.ensure(own) == made, "starting a running cluster changes nothing"
    assert int((made.data / "postmaster.pid").read_text().split()[0]) == first
    os.kill(first, signal.SIGKILL)
    again = cluster.ensure(own)
    with psycopg.connect(cluster.ensure_database(again, "kept").replace("+psycopg", "")) as connection:
        assert connection.execute("SELECT posts FROM line").fetchone() == (244,)
    assert cluster.state(own) == "running" and cluster.stop(own) and cluster.state(own) == "stopped"
    (again.data / "postmaster.pid").write_text("999999\n")  # stale
    cluster.ensure(own)
    assert cluster.state(own) == "running"
    for path in (own, own / "s"):
        assert path.stat().st_mode & 0o077 == 0
    assert (own / "pw").stat().st_mode & 0o077 == 0


def test_the_cluster_listens_on_loopback_only_and_wants_its_password(postgres):
    url = postgres.url("postgres").replace("+psycopg", "")
    with psycopg.connect(url) as connection:
        assert connection.execute("SHOW listen_addresses").fetchone() == ("127.0.0.1",)
        assert connection.execute("SHOW password_encryption").fetchone() == ("scram-sha-256",)
    with pytest.raises(psycopg.OperationalError):
        psycopg.connect(url.replace(url.split(":")[2].split("@")[0], "wrong"))


def test_a_checkout_nobody_else_can_reach_keeps_its_cluster_elsewhere(tmp_path):
    home = tmp_path / "closed"
    home.mkdir(mode=0o700)
    root = cluster.default_root(home)
    assert (str(root).startswith("/var/lib/gnomonic/")) == (os.geteuid() == 0)


def test_from_a_file_to_a_plan_in_the_shell(tmp_path):
    source = HOME / "src" / "gnomonic" / "demo" / "brook-paddock.gpx"
    made = run_really("import", str(source), "-o", "job.json", "--name", "Paddock", cwd=tmp_path)
    assert made.returncode == 0 and made.stdout == "" and "closes exactly" in made.stderr
    assert read_job((tmp_path / "job.json").read_text()).name == "Paddock"
    planned = run_really("plan", "job.json", "-o", "plan.json", cwd=tmp_path)
    assert planned.returncode == 0 and "posts 2" in planned.stderr
    assert '"format": "gnomonic-plan/2"' in (tmp_path / "plan.json").read_text()


@pytest.mark.parametrize(
    ("words", "stdin", "code", "said"),
    [
        (["calc", "gauge", "-"], '{"gauge": 12.5}', 0, ""),
        (["calc", "gauge", "-"], '{"gauge": NaN}', 2, "gauge: must be a finite number\n"),
        (["calc", "gauge", "-"], '{"gage": 9}', 2, "gauge: is missing\n"),
        (["calc", "setout", "-"], "[]", 2, "the input must be a JSON object with named fields\n"),
        (
            ["calc", "tea", "-"],
            "{}",
            2,
            "there is no pocket sum called “tea”: use setout, brace, corner, lift, press, stringline, embed, backfill, gate_opening, gate_sweep, cable, wind, pull, tieoff, dummy, rolls, label, gauge, traverse, levels, square, demand, layers, chainlink, stock, buy, eac, mass, days\n",
        ),
        (["calc", "gauge", "nowhere.json"], None, 2, "nowhere.json: there is no such file\n"),
        (["plan", "-"], "{}", 2, "name: is missing\n"),
        (["import", "-"], "", 2, "name a file: of what form it is, is told by its name\n"),
        (["import", "README.md"], None, 2, None),
    ],
)
def test_exit_codes_and_one_sentence(words, stdin, code, said):
    done = run(*words, stdin=stdin, cwd=HOME)
    assert done.returncode == code
    if code:
        assert done.stdout == "" and done.stderr.count("\n") == 1
    if said is not None:
        assert done.stderr == said


def test_doctor_says_what_is_here():
    done = run("doctor")
    assert done.returncode == 0 and "/usr/lib/postgresql/" in done.stdout and "private cluster" in done.stdout
