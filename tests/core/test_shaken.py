"""What comes of each function of the core, as it is called and with something of what it is given changed, stays what it was.

The sums in ``tests/kept/shaken.json`` (how often a function is called, and of all that comes of it) are the program's own and prove
nothing by themselves: they say that a function does as it did.  Where one changes on purpose, run this file with ``GNOMONIC_KEEP=1``
before and after, which writes what comes of each call below ``var/shaken``, and read the difference.
"""

import contextlib
import json
import os
import time
import zlib
from collections import defaultdict

import pytest
import shaken
from places import HOME

from gnomonic.workshop.mutate.fresh import CHANGE

KEPT = HOME / "tests" / "kept" / "shaken.json"
CALLS = 60
LONGEST_S = 0.25  # for all calls of a function; a slow one is called less often, or not at all
FEWEST = 4
SUMS = json.loads(KEPT.read_text()) if KEPT.exists() else {}
MODULES = defaultdict(list)
for name in SUMS:
    MODULES[name.partition(":")[0]].append(name)

pytestmark = pytest.mark.skipif(CHANGE in os.environ, reason="what functions are given is noted before one is changed")
before_changes = shaken.calls  # noted once by ``./gnomonic mutate``


def kept_anew():
    """What is to be kept of every function: none whose result is another in a process of its own than after all others."""
    names = list(shaken.calls())
    counts = {name: in_its_own(lambda name=name: steady(name)) for name in names}
    alone = {name: in_its_own(lambda name=name: sum_of(name, counts[name])) for name in names}
    rows = {}
    for name in names:
        if counts[name] < FEWEST or alone[name] != sum_of(name, counts[name]):
            print("left out:", name)
        else:
            rows[name] = [counts[name], alone[name]]
            path = HOME / "var" / "shaken" / f"{name.replace(':', '.')}.txt"
            path.parent.mkdir(parents=True, exist_ok=True)
            path.write_text("\n\n".join(shaken.shaken(name, k) for k in range(counts[name])))
    KEPT.write_text("{\n" + ",\n".join(f"{json.dumps(n)}: {json.dumps(row)}" for n, row in rows.items()) + "\n}\n")


def in_its_own(work):
    """What comes of work in a fork of this process; 0 where it does not end well."""
    read, write = os.pipe()
    if not (pid := os.fork()):
        with contextlib.suppress(BaseException):
            os.write(write, str(work()).encode())
        os._exit(0)
    os.close(write)
    with os.fdopen(read) as said:
        number = said.read()
    os.waitpid(pid, 0)
    return int(number or 0)


def steady(name):
    """How many calls of a function can be made in good time."""
    start, number = time.process_time(), 0
    while number < CALLS and time.process_time() - start < LONGEST_S:
        before = time.perf_counter()
        if shaken.shaken(name, number) in shaken.TOO_LONG or time.perf_counter() - before > LONGEST_S:
            break
        number += 1
    return number


def sum_of(name, count):
    return zlib.crc32("\n\n".join(shaken.shaken(name, k) for k in range(count)).encode())


@pytest.mark.skipif("GNOMONIC_KEEP" not in os.environ, reason="only to keep sums anew")
def test_keeping_anew():
    with shaken.guarded():
        kept_anew()


@pytest.mark.skipif("GNOMONIC_KEEP" in os.environ, reason="kept anew")
@pytest.mark.parametrize("module", MODULES)
def test_of(module):
    with shaken.guarded():
        now = {name: sum_of(name, SUMS[name][0]) for name in MODULES[module] if name in shaken.calls()}
    assert [name for name in MODULES[module] if now.get(name) != SUMS[name][1]] == []
