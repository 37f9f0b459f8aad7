"""The server as a command starts it: on a managed database, found by its page, ended by a signal, started again."""

import os
import re
import signal
import subprocess
import sys
import urllib.request

import pytest
from places import HOME


@pytest.fixture
def started(database, tmp_path):
    """Start ``serve`` or ``demo`` on a database of the test's own; yields a function that returns (process, address)."""
    running = []

    def start(command):
        environment = {
            **os.environ,
            "PYTHONPATH": str(HOME / "src"),
            "GNOMONIC_HOME": str(tmp_path),
            "GNOMONIC_DATABASE_URL": database.replace("+psycopg", ""),
            "NUMBA_CACHE_DIR": os.environ.get("NUMBA_CACHE_DIR", str(HOME / "var" / "numba")),
        }
        process = subprocess.Popen(
            [sys.executable, "-m", "gnomonic.cli", command], env=environment, stderr=subprocess.PIPE, text=True
        )
        running.append(process)
        said = []
        for line in process.stderr:
            said.append(line)
            if found := re.search(r"open (http://127\.0\.0\.1:\d+/)", line):
                return process, found.group(1), "".join(said)
        raise AssertionError("".join(said))

    yield start
    for process in running:
        process.kill()
        process.wait()
        process.stderr.close()


def page(address):
    with urllib.request.urlopen(address) as answer:
        return answer.read().decode()


def end(process):
    process.send_signal(signal.SIGINT)
    assert process.wait(20) == 0


def test_serving_an_empty_managed_database_twice_at_once(started, tmp_path):
    one, first, said = started("serve")
    assert "No line yet" in page(first) and "PostgreSQL" not in said, "a managed server is neither made nor started"
    assert (tmp_path / "var" / "serve.pid").read_text().strip() == str(one.pid)
    two, second, _ = started("serve")
    assert first != second and "Jobs" in page(first) and "Jobs" in page(second)
    end(one)
    end(two)
    assert not (tmp_path / "var" / "serve.pid").exists()


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
