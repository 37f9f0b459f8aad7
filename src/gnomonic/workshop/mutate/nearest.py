"""Which tests go through which function of the core, and how long each takes; kept until a test's file changes."""

import ast
import hashlib
import json
import os
import subprocess
import sys
import xml.etree.ElementTree as ET
from collections import defaultdict
from pathlib import Path
from typing import Any

from gnomonic.workshop.mutate.changes import functions_of

TESTS = ("tests/core", "tests/validation", "src/gnomonic/core")
Kept = dict[str, dict[str, Any]]


def nearest(home: Path) -> tuple[dict[str, list[str]], dict[str, float]]:
    """By function (``file::name``) the tests that go through it, fastest first, and every test's seconds."""
    kept_in = home / "var" / "mutate" / "nearest.json"
    kept: Kept = json.loads(kept_in.read_text()) if kept_in.exists() else {}
    now = {str(f.relative_to(home)): hashlib.sha256(f.read_bytes()).hexdigest() for f in _files(home)}
    stale = [f for f, digest in now.items() if kept.get(f, {}).get("digest") != digest]
    if stale:
        found = _gone_through(home, stale)
        kept = {f: row for f, row in kept.items() if f in now} | {f: {"digest": now[f], **found[f]} for f in stale}
        kept_in.parent.mkdir(parents=True, exist_ok=True)
        kept_in.write_text(json.dumps(kept))
    seconds = {test: s for row in kept.values() for test, s in row["seconds"].items()}
    tests: dict[str, list[str]] = defaultdict(list)
    for row in kept.values():
        for function, names in row["through"].items():
            tests[function] += names
    return {f: sorted(names, key=lambda n: seconds.get(n, 1.0)) for f, names in tests.items()}, seconds


def _files(home: Path) -> list[Path]:
    modules = [f for f in (home / TESTS[2]).rglob("*.py") if ">>> " in f.read_text()]
    return sorted([f for place in TESTS[:2] for f in (home / place).glob("test_*.py")] + modules)


def _gone_through(home: Path, files: list[str]) -> Kept:
    """Run tests under coverage, a context a test."""
    import coverage

    made = home / "var" / "mutate"
    made.mkdir(parents=True, exist_ok=True)
    data, report = made / "coverage", made / "seconds.xml"
    command = [sys.executable, "-m", "pytest", "-n", str(os.cpu_count() or 1), "--cov=src/gnomonic/core", "--cov-context=test",
               "--cov-report=", f"--junitxml={report}", "-o", "junit_family=xunit1", *files]  # fmt: skip
    subprocess.run(command, cwd=home, check=True, env={**os.environ, "COVERAGE_FILE": str(data)})
    read = coverage.CoverageData(str(data))
    read.read()
    through: dict[str, dict[str, set[str]]] = defaultdict(lambda: defaultdict(set))
    for measured in read.measured_files():
        path = Path(measured)
        lines = read.contexts_by_lineno(measured)
        for name, function in functions_of(ast.parse(path.read_bytes())):
            for line in range(function.body[0].lineno, (function.end_lineno or 0) + 1):
                for context in lines.get(line, ()):
                    test = context.partition("|")[0]
                    if test:
                        through[test.partition("::")[0]][f"{path.relative_to(home)}::{name}"].add(test)
    seconds: dict[str, dict[str, float]] = defaultdict(dict)
    for case in ET.parse(report).getroot().iter("testcase"):
        file = case.get("file", "")
        inner = case.get("classname", "").rpartition(Path(file).stem)[2].strip(".")
        seconds[file]["::".join([file, *([inner] if inner else []), case.get("name", "")])] = float(case.get("time", 0))
    return {f: {"seconds": seconds[f], "through": {k: sorted(v) for k, v in through[f].items()}} for f in files}
