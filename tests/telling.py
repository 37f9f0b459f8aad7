"""Which of a function's shaken calls are kept: those whose result a small wrong change of the function alters.

A call that runs code no call ran before is changed again, as a fuzzer does.
"""

import json
import os
import random
import subprocess
import sys
import time
import zlib
from collections import Counter
from pathlib import Path

import shaken
from places import HOME
from strewn import days_strewn, jobs_strewn, logs_strewn
from told import text_of

from gnomonic.workshop.mutate.changes import changes_of

FIRST = 200  # calls that are changed once
MANY = 600  # calls that are looked at
LOOKING_S = 1.0  # for them
CHANGING_S = 3.0  # for all changes of a function
SLOW_S = 0.15  # a call that takes longer is not kept
ALL_S = 0.25  # and all that are kept take no longer
PLAIN = 2  # calls as they were made that are kept in any case
DEEPEST = shaken.CHILDREN**4
KEPT = HOME / "tests" / "kept" / "shaken.json"
FOUND = HOME / "var" / "shaken"


def sums_of(name, numbers):
    return [zlib.crc32((shaken.shaken(name, k) or "").encode()) for k in numbers]


def sum_of(name, numbers):
    """One number for all that comes of some calls."""
    return zlib.crc32(repr(sums_of(name, numbers)).encode())


def in_its_own(work):
    """What comes of work in a fork of this process, None where it does not end well."""
    read, write = os.pipe()
    if not (pid := os.fork()):
        try:
            os.write(write, json.dumps(work()).encode())
        finally:
            os._exit(0)
    os.close(write)
    with os.fdopen(read) as said:
        told = said.read()
    os.waitpid(pid, 0)
    return json.loads(told) if told else None


def changes_by_name():
    """The small wrong changes of every function of the core."""
    found, core = {}, Path(shaken.CORE)
    for file in sorted(core.rglob("*.py")):
        module = ".".join(file.relative_to(core).with_suffix("").parts).removesuffix(".__init__")
        for change in changes_of(file):
            found.setdefault(f"{module}:{change.function}", []).append(change)
    return found


def codes_in(code):
    """A function's code and that of all that is defined in it."""
    return {code}.union(*(codes_in(c) for c in code.co_consts if hasattr(c, "co_code")))


def went_through(name, number):
    """What comes of a call, its seconds, and the places in the function's code it went through."""
    codes, places = codes_in(shaken.calls()[name].function.__code__), set()

    def inside(frame, event, arg):
        if event == "opcode":
            places.add((frame.f_code, frame.f_lasti))
        return inside

    def trace(frame, event, arg):
        if frame.f_code not in codes:
            return None
        frame.f_trace_opcodes = True
        return inside

    before = time.process_time()
    sys.settrace(trace)
    try:
        told = shaken.shaken(name, number)
    finally:
        sys.settrace(None)
    return told, time.process_time() - before, places


def looked_at(name):
    """By number, what comes of calls and their seconds, quickest first."""
    rng, start = random.Random(1), time.process_time()
    found, gone, parents, born = {}, set(), [], Counter()
    for n in range(MANY):
        if time.process_time() - start > LOOKING_S:
            break
        if n < FIRST or not parents:
            number = n
        else:
            parent = rng.choice(parents)
            born[parent] += 1
            number = parent * shaken.CHILDREN + born[parent]
        told, took, places = went_through(name, number)
        if told is None or took >= SLOW_S or told in shaken.TOO_LONG:
            continue
        found[number] = (took, told)
        if not places <= gone and 0 < number < DEEPEST:
            parents.append(number)
            gone |= places
    return dict(sorted(found.items(), key=lambda f: f[1][0]))


def chosen(name, changes):
    """Numbers of the calls to keep, how many changes were tried, and those that none tells.  It spoils the process it is done in."""
    shaken.ENDLESS_S = 1.0
    function = shaken.calls()[name].function
    calls = looked_at(name)
    telling, left, tried, start = Counter(), [], 0, time.process_time()
    for change in random.Random(name).sample(changes, len(changes)):
        if time.process_time() - start > CHANGING_S:
            break
        code = change.code()
        if code is None or len(code.co_freevars) != len(function.__code__.co_freevars):
            continue
        tried += 1
        for k in [*(k for k, _ in telling.most_common()), *(k for k in calls if k not in telling)]:
            plain, function.__code__ = function.__code__, code
            told = shaken.shaken(name, k)
            function.__code__ = plain
            if told == calls[k][1]:
                continue
            if shaken.shaken(name, k) == calls[k][1]:
                telling[k] += 1
                break
            del calls[k]  # it comes to something else each time
            telling.pop(k, None)
        else:
            left.append(f"{change.line}: {change.before} → {change.after}")
    numbers, took = [], 0.0
    for k in [*(k for k, _ in telling.most_common()), *[k for k in calls if k < shaken.CHILDREN][-PLAIN:]]:
        before = time.process_time()
        if k not in numbers and shaken.shaken(name, k) == calls[k][1]:
            took += time.process_time() - before
            if took < ALL_S:
                numbers.append(k)
    return sorted(numbers), tried, left


def choose(names):
    """What is chosen of each function, in as many processes as there are cores; one that was ended goes on where it was."""
    FOUND.mkdir(parents=True, exist_ok=True)
    cores, changes = os.cpu_count() or 1, changes_by_name()
    for kind in shaken.seen():
        shaken.of_kind(kind)
    left = [n for n in names if n not in _chosen()]
    pids = []
    for core in range(cores):
        if pid := os.fork():
            pids.append(pid)
            continue
        try:
            with (FOUND / f"chosen.{core}").open("a") as out, shaken.guarded():
                for name in left[core::cores]:
                    row = in_its_own(lambda name=name: chosen(name, changes.get(name, [])))
                    print(json.dumps([name, row]), file=out, flush=True)
        finally:
            os._exit(0)
    for pid in pids:
        os.waitpid(pid, 0)
    found = {name: row for name, row in sorted(_chosen().items()) if row and name in names}
    for core in FOUND.glob("chosen.*"):
        core.unlink()
    return found


def _chosen():
    return dict(json.loads(row) for core in FOUND.glob("chosen.*") for row in core.read_text().splitlines())


def kept():
    """By name of each function, the numbers of its calls and their sum."""
    return json.loads(KEPT.read_text()) if KEPT.exists() else {}


def elsewhere(rows, seed, late):
    """Sums of every call in a process of its own, where sets have another order; a late one has told other things before, and goes backwards."""
    (FOUND / "asked.json").write_text(json.dumps(list(rows.items())[:: -1 if late else 1]))
    ways = os.pathsep.join([str(HOME / "src"), str(HOME / "tests")])
    command = [sys.executable, "-W", "ignore", __file__, str(FOUND / "asked.json"), *(["late"] if late else [])]
    env = {**os.environ, "PYTHONHASHSEED": str(seed), "PYTHONPATH": ways}
    return json.loads(subprocess.run(command, env=env, check=True, capture_output=True).stdout)


def keep(choosing):
    """Keep sums anew, and what comes of each call; where asked for, choose calls of functions that are new or do otherwise."""
    FOUND.mkdir(parents=True, exist_ok=True)
    rows = {name: row[0] for name, row in kept().items() if name in shaken.calls()}
    if choosing:
        with shaken.guarded():
            new = [n for n in sorted(shaken.calls()) if n not in rows or sum_of(n, rows[n]) != kept()[n][1]]
        told = choose(new)
        (FOUND / "left.txt").write_text("".join(f"{n}: {r[1] - len(r[2])} of {r[1]}\n" + "".join(f"    {c}\n" for c in r[2]) for n, r in told.items()))  # fmt: skip
        rows = dict(sorted({**rows, **{name: row[0] for name, row in told.items()}}.items()))
    one, two = elsewhere(rows, 1, late=False), elsewhere(rows, 2, late=True)
    same = {n: [k for k, a, b in zip(numbers, one[n], two[n], strict=True) if a == b] for n, numbers in rows.items()}
    print("left out, none of its calls is steady:", *(name for name, numbers in same.items() if not numbers))
    lines = []
    with shaken.guarded():
        for name, numbers in same.items():
            if numbers:
                lines.append(f"{json.dumps(name)}: {json.dumps([numbers, sum_of(name, numbers)])}")
                said = "\n\n".join(f"# {k}\n{shaken.shaken(name, k)}" for k in numbers)
                (FOUND / f"{name.replace(':', '.')}.txt").write_text(said)
    KEPT.write_text("{\n" + ",\n".join(lines) + "\n}\n")


if __name__ == "__main__":
    if "late" in sys.argv:
        text_of(jobs_strewn(7, "us"), "us"), text_of(days_strewn(3), "us"), text_of(logs_strewn(4, "us"), "us")
    with shaken.guarded():
        print(json.dumps({name: sums_of(name, numbers) for name, numbers in json.loads(Path(sys.argv[1]).read_text())}))
