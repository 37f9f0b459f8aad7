"""The server as a command starts it: on a managed database, found by its page, ended by a signal, started again."""

import contextlib
import json
import os
import re
import select
import shutil
import signal
import socket
import subprocess
import sys
import urllib.request
import uuid
from pathlib import Path

import psycopg
import pytest
from places import HOME, few, thorough

from gnomonic import provision, serving
from gnomonic.provision import why, write_whole
from gnomonic.store import cluster
from gnomonic.store.queue import Queue
from gnomonic.store.scope import connect
from gnomonic.web.days.current import SEARCH


@pytest.fixture
def started(database, tmp_path):
    """Start ``serve`` or ``demo`` on a database of the test's own; yields a function that returns (process, address, what it said)."""
    running = []

    def start(command, *more, wait=True):
        environment = {
            **os.environ,
            "PYTHONPATH": str(HOME / "src"),
            "GNOMONIC_HOME": str(tmp_path),
            "GNOMONIC_DATABASE_URL": database.replace("+psycopg", ""),
            "NUMBA_CACHE_DIR": os.environ.get("NUMBA_CACHE_DIR", str(HOME / "var" / "numba")),
        }
        process = subprocess.Popen(
            [sys.executable, "-m", "gnomonic.cli", command, *(more or ("--workers", "1"))],
            env=environment,
            stderr=subprocess.PIPE,
            text=True,
        )
        running.append(process)
        if not wait:
            return process
        said = []
        for line in process.stderr:
            said.append(line)
            if found := re.search(r"open (http://127\.0\.0\.1:\d+/)", line):
                return process, found.group(1), "".join(said)
        raise AssertionError("".join(said))

    yield start
    serving.end(tmp_path)
    for process in running:
        process.kill()
        process.wait()
        process.stderr.close()


def page(address):
    with urllib.request.urlopen(address) as answer:
        return answer.read().decode()


def end(process):
    process.send_signal(signal.SIGINT)
    assert process.wait(60) == 0


def lines(process):
    """The rest of what a process says, once it has ended."""
    process.wait(30)
    return process.stderr.read()


def alive(pid):
    try:
        return Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[0] not in "ZX"
    except OSError:
        return False


def until_ended(pids):
    """Wait for each of some processes to end, whoever started it."""
    for pid in pids:
        with contextlib.suppress(ProcessLookupError):
            handle = os.pidfd_open(pid)
            select.select([handle], [], [], 20)
            os.close(handle)
    return not any(alive(pid) for pid in pids)


def test_a_second_start_finds_and_names_the_first(started, tmp_path):
    one, first, said = started("serve", "--workers", "1", "--helpers", "0")
    assert "No line yet" in page(first) and "PostgreSQL" not in said, "a managed server is neither made nor started"
    record = json.loads((tmp_path / "var" / "serve.json").read_text())
    assert record["pid"] == one.pid and first == f"http://127.0.0.1:{record['port']}/"
    second = started("serve", wait=False)
    said = lines(second)
    assert second.returncode == 1 and first in said and f"process {one.pid}" in said and "./gnomonic stop" in said
    (tmp_path / "var" / "serve.json").write_text("{torn")
    third = started("demo", wait=False)
    said = lines(third)
    assert third.returncode == 1 and f"being started from this checkout already (process {one.pid}" in said
    assert "Jobs" in page(first), "the first goes on"
    end(one)
    assert serving.standing(tmp_path) is None


def test_a_worker_that_dies_is_started_again_and_what_a_killed_server_left_is_ended(started, tmp_path):
    one, first, _ = started("serve", "--workers", "2", "--helpers", "0")
    page(first)
    children = Path(f"/proc/{one.pid}/task/{one.pid}/children").read_text().split()
    workers = [int(p) for p in children if b"spawn_main" in Path(f"/proc/{p}/cmdline").read_bytes()]
    os.kill(workers[0], signal.SIGKILL)
    assert until_ended(workers[:1])
    assert all("Jobs" in page(first) for _ in range(6))
    workers = [p for p in serving.belongings(tmp_path) if p != one.pid]
    assert len(workers) >= 2
    one.kill()
    one.wait()
    assert any(alive(pid) for pid in workers) and serving.standing(tmp_path) is None
    two, second, said = started("serve")
    assert "left over from a server that was killed" in said and until_ended(workers)
    assert "Jobs" in page(second)
    everything = [two.pid, *serving.belongings(tmp_path)]
    assert len(everything) > 1, "its helper"
    assert serving.end(tmp_path) and until_ended([p for p in everything if p != two.pid])
    two.wait(60)
    assert serving.standing(tmp_path) is None and not (tmp_path / "var" / "serve.json").exists()
    assert serving.end(tmp_path) == []


@thorough
def test_the_demo_is_loaded_once_and_is_there_after_a_kill(started):
    process, address, said = started("demo")
    assert "loading the demo co-op" in said
    first = re.findall(r"/jobs/\w+", page(address))
    assert page(address).count("Larkspur Holm") >= 3
    process.kill()
    process.wait()
    again, address, said = started("demo")
    assert "loading the demo co-op" not in said and re.findall(r"/jobs/\w+", page(address)) == first
    end(again)


def test_a_port_that_is_taken_is_said_to_be(started, tmp_path):
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        asked = started("serve", "--port", str(taken.getsockname()[1]), wait=False)
        assert "is taken: give another with --port" in lines(asked) and asked.returncode == 1


@pytest.fixture
def own_cluster():
    root = Path("/dev/shm" if os.access("/dev/shm", os.W_OK) else "/tmp") / f"gnomonic-torn-{uuid.uuid4().hex[:8]}"
    made = cluster.ensure(root, throwaway=True)
    with psycopg.connect(made.url("postgres").replace("+psycopg", ""), autocommit=True) as connection:
        connection.execute("CREATE DATABASE kept")
    yield made
    cluster.stop(root)
    cluster.remove(root)


def has_kept(made):
    with psycopg.connect(made.url("kept").replace("+psycopg", "")) as connection:
        return connection.execute("SELECT 1").fetchone() == (1,)


def killed(made):
    pid = int((made.data / "postmaster.pid").read_text().split()[0])
    os.kill(pid, signal.SIGKILL)
    assert until_ended([pid])


@pytest.mark.parametrize("what", ["port", "pw", "pid", "made", "port lost", "all"])
def test_torn_state_of_the_cluster_is_mended_and_nothing_in_it_is_lost(own_cluster, what):
    killed(own_cluster)
    if what in ("port", "all"):
        (own_cluster.root / "port").write_text("")
    if what == "port lost":
        (own_cluster.root / "port").unlink()
        (own_cluster.data / "postmaster.pid").unlink()
    if what in ("pw", "all"):
        (own_cluster.root / "pw").write_text("")
    if what in ("pid", "all"):
        (own_cluster.data / "postmaster.pid").write_text("")
    if what in ("made", "all"):
        (own_cluster.root / "made").unlink()
    assert has_kept(cluster.ensure(own_cluster.root, throwaway=True))


def test_a_port_taken_while_our_own_database_was_dead_is_left_to_who_has_it(own_cluster):
    port = own_cluster.port()
    killed(own_cluster)
    with socket.socket() as taken:
        taken.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        taken.bind(("127.0.0.1", port))
        taken.listen()
        again = cluster.ensure(own_cluster.root, throwaway=True)
        assert again.port() != port and has_kept(again)
    killed(again)
    there = again.port()
    assert cluster.ensure(again.root, throwaway=True).port() == there, (
        "one that is free is taken again: who knows it finds it"
    )


def test_a_half_made_cluster_is_put_aside_not_thrown_away(tmp_path_factory):
    root = Path("/tmp") / f"gnomonic-half-{uuid.uuid4().hex[:8]}"
    (root / "data").mkdir(parents=True)
    (root / "data" / "something").write_text("of somebody")
    made = cluster.ensure(root, throwaway=True)
    (aside,) = root.parent.glob(f"{root.name}.unfinished-*")
    assert (aside / "data" / "something").read_text() == "of somebody" and cluster.state(root) == "running"
    cluster.stop(made.root)
    cluster.remove(root)
    shutil.rmtree(aside)


def test_files_are_written_whole(tmp_path):
    write_whole(tmp_path / "deep" / "a", "one", 0o600)
    write_whole(tmp_path / "deep" / "a", "two", 0o600)
    assert (tmp_path / "deep" / "a").read_text() == "two" and [p.name for p in (tmp_path / "deep").iterdir()] == ["a"]
    assert (tmp_path / "deep" / "a").stat().st_mode & 0o777 == 0o600


@pytest.mark.parametrize(
    ("last", "said"),
    [
        ("E: Temporary failure resolving 'deb.example'", "is there a network?"),
        ("error sending request: Connection refused", "is there a network?"),
        ("SSL: CERTIFICATE_VERIFY_FAILED certificate verify failed", "certificate"),
        ("E: Could not open lock file - open (13: Permission denied)", "the rights for it are missing"),
        ("write error: No space left on device", "the disk is full"),
        ("something else", "the last lines above say why"),
    ],
)
def test_what_a_failed_installation_means(last, said):
    """In the program and in the launcher, which has no Python yet, alike."""
    assert said in why(last)
    script = (HOME / "gnomonic").read_text()
    body = script[script.index("why() {") : script.index("# Runs a step")]
    shell = subprocess.run(["sh", "-c", f'log=$1\n{body}why', "sh", "/dev/stdin"], input=last, capture_output=True, text=True, check=True)  # fmt: skip
    assert said in shell.stdout


@pytest.mark.parametrize("to_be_had", [{"chromium-headless-shell", "chromium"}, {"chromium"}, set()])
def test_the_browser_without_windows_is_taken_where_it_is_to_be_had(monkeypatch, to_be_had):
    """Else the whole one, and where there is neither it is said; one that is there already is taken as it is."""
    there, asked = set(), []

    def install(browser, *_):
        asked.append(browser)
        if browser not in to_be_had:
            raise provision.CannotInstall("no such package")
        there.add(browser)

    monkeypatch.setattr(provision, "_install", install)
    monkeypatch.setattr(provision.shutil, "which", lambda name: f"/usr/bin/{name}" if name in there else None)
    if not to_be_had:
        with pytest.raises(provision.CannotInstall):
            provision.ensure_chromium()
        return
    first = "chromium-headless-shell" if len(to_be_had) > 1 else "chromium"
    assert provision.ensure_chromium() == f"/usr/bin/{first}"
    assert asked[-1] == first
    count = len(asked)
    assert provision.ensure_chromium() == f"/usr/bin/{first}" and len(asked) == count


def children_of(pid):
    """Processes a process has started."""
    found = []
    for entry in Path("/proc").iterdir():
        if entry.name.isdigit():
            with contextlib.suppress(OSError):
                if int((entry / "stat").read_text().rpartition(")")[2].split()[1]) == pid:
                    found.append(int(entry.name))
    return found


TOLD = """LISTEN told; CREATE FUNCTION told() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN NOTIFY told; RETURN NULL; END $$;
CREATE TRIGGER told AFTER UPDATE ON procrastinate_jobs EXECUTE FUNCTION told()"""  # what becomes of the work


@pytest.mark.parametrize("sent", few([signal.SIGTERM, signal.SIGKILL], 1))
def test_a_worker_by_itself_works_the_queue_and_leaves_nobody_behind(started, database, sent):
    """``work`` on a managed database, as on another machine: what waits is taken; told to end, or killed, it takes its helper with it."""
    queue = Queue(connect(database))
    assert queue.put(SEARCH, "own nobody", workspace="own", job_id="nobody")
    with psycopg.connect(database.replace("+psycopg", ""), autocommit=True) as connection:
        connection.execute(TOLD)
        process = started("work", "--helpers", "1", wait=False)
        assert any(not queue.waiting(SEARCH, "own nobody") for _ in connection.notifies(timeout=60)), "nobody took it"
    helpers = children_of(process.pid)
    assert len(helpers) == 1
    process.send_signal(sent)
    process.wait(timeout=30)
    assert until_ended(helpers)
    queue.close()
    queue.engine.dispose()
