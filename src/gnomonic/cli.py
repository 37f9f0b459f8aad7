"""The command line: serve · demo · test · import · plan · calc · practice · screens · bench · doctor · stop."""

import argparse
import json
import os
import signal
import socket
import subprocess
import sys
import time
from datetime import date
from pathlib import Path
from typing import Any

from gnomonic import __version__
from gnomonic.core.errors import BadInput
from gnomonic.provision import CannotInstall, chromium, ensure_chromium, ensure_postgres, postgres_bin, say

HOME = Path(os.environ.get("GNOMONIC_HOME", Path(__file__).parents[2]))
FIRST_PORT = 8470


def database_url(name: str) -> str:
    """Address of the application's database: a managed server's, or the private cluster's."""
    from gnomonic.store import cluster

    managed = os.environ.get("GNOMONIC_DATABASE_URL")
    if managed:
        return managed.replace("postgres://", "postgresql://", 1).replace("postgresql://", "postgresql+psycopg://", 1)
    return cluster.ensure_database(cluster.ensure(cluster.default_root(HOME)), name)


def _listen(port: int | None) -> socket.socket:
    """A listening socket on loopback: the port asked for, or the first free one from the usual."""
    for candidate in [port] if port is not None else range(FIRST_PORT, FIRST_PORT + 50):
        listener = socket.socket()
        listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        listener.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)  # accepted connections inherit it
        try:
            listener.bind(("127.0.0.1", candidate))
        except OSError:
            listener.close()
            continue
        listener.listen(128)
        return listener
    raise CannotInstall(f"port {port or FIRST_PORT} on 127.0.0.1 is taken: give another with --port")


def serve(demo: bool, port: int | None) -> int:
    """Serve until interrupted."""
    import uvicorn

    from gnomonic.store import jobs
    from gnomonic.store.scope import Scope
    from gnomonic.web.app import LOOPBACK, create_app

    listener = _listen(port)
    url = database_url("gnomonic_demo" if demo else "gnomonic")
    jobs.migrate(url)
    scope = Scope(jobs.connect(url))
    ids: list[str] = []
    if demo and not jobs.count(scope):
        from datetime import timedelta

        from gnomonic.demo.load import demo_jobs, holm_facts
        from gnomonic.store import events

        say("loading the demo co-op Larkspur Holm")
        made = demo_jobs()
        ids = [jobs.create(scope, job) for job in made]
        events.add(scope, ids[-1], holm_facts(made[-1]), timedelta())
    _warm()
    hosts = os.environ.get("GNOMONIC_HOSTS")
    app = create_app(scope, [*LOOPBACK, *hosts.split(",")] if hosts else None, demo)
    _count(app, scope, ids)
    record = HOME / "var" / "serve.pid"
    record.parent.mkdir(parents=True, exist_ok=True)
    record.write_text(f"{os.getpid()}\n")
    say(f"open http://127.0.0.1:{listener.getsockname()[1]}/ in a browser; Ctrl+C ends it")
    config = uvicorn.Config(app, log_level="warning", access_log=False, timeout_graceful_shutdown=2)
    try:
        uvicorn.Server(config).run(sockets=[listener])
    except KeyboardInterrupt:
        pass
    finally:
        record.unlink(missing_ok=True)
    return 0


def _count(app: Any, scope: Any, ids: list[str]) -> None:
    """Have what the list shows of new jobs ready before it is looked at."""
    from gnomonic.store import jobs
    from gnomonic.web.home import summary

    for job_id in ids:
        row = jobs.load(scope, job_id)
        summary.keep(scope, job_id, row.version, app.state.plans.of(job_id, row.key, row.document, row.names))


def _warm() -> None:
    """Have the compiled loops ready before the first page."""
    from gnomonic.core.calc import calc

    cache = Path(os.environ.get("NUMBA_CACHE_DIR", HOME / "var" / "numba"))
    if not cache.exists():
        say("compiling the set-out for this machine (once, a few seconds)")
    limits = {"clearance_m": 0.05, "gap_min_m": 0, "gap_max_m": 0.1, "max_spacing_m": 4}
    calc("setout", {"profile": [[0, 0], [8, 1], [20, 0]], **limits})


def bring_in_file(file: str, output: str | None, name: str | None, answers: list[str]) -> int:
    """A measured file becomes a Job document."""
    from gnomonic.core.job.fence import checked, one_line
    from gnomonic.formats.bring_in import bring_in

    path = Path(file)
    given = dict(a.split("=", 1) for a in answers if "=" in a)
    brought = bring_in(path.name, path.read_bytes(), given)
    if brought.questions:
        q = brought.questions[0]
        options = " or ".join(f"--answer {q.key}={value} ({words})" for value, words in q.choices)
        raise BadInput(q.key, f"{q.text} Say {options}")
    for note in brought.notes:
        say(note)
    job = checked(one_line(name or path.stem[:120], brought.line, brought.frame), found=brought.found)
    _write(output, job.canonical_json())
    return 0


def plan_file(file: str, output: str | None) -> int:
    """A Job document becomes a plan."""
    from gnomonic.core.job.fence import fences
    from gnomonic.core.job.reading import read_job
    from gnomonic.core.plan.road import plan
    from gnomonic.core.snags.all import snags
    from gnomonic.web.draw.lanes import drawing, take_off_json

    job = read_job(Path(file).read_bytes())
    made = plan(job)
    lines, count = [], 0
    for fence in fences(job):
        if fence.id in made.lines:
            found = snags(fence, made.lines[fence.id], date.today(), meetings=made.meetings)
            lines.append(drawing(fence, made.lines[fence.id], found))
            count += len(found)
    body = {"format": "gnomonic-plan/2", "name": job.name, "lines": lines, "takeoff": take_off_json(job, made)}
    _write(output, json.dumps(body, ensure_ascii=False, indent=1) + "\n")
    plans = made.lines.values()
    posts = sum(not p.shared for one in plans for p in one.posts)
    rolls, splices = sum(p.rolls.rolls.new_rolls for p in plans), sum(p.rolls.rolls.splices for p in plans)
    say(f"lines {len(lines)}, posts {posts}, rolls {rolls}, splices {splices}, snags {count}")
    return 0


def _write(output: str | None, text: str) -> None:
    if output is None:
        sys.stdout.write(text)
    else:
        Path(output).write_text(text, "utf8")


def calc_file(kind: str, file: str) -> int:
    """A pocket sum from a JSON file (- for standard input)."""
    from gnomonic.core.calc import calc, read_json

    answer: dict[str, Any] = calc(kind, read_json(sys.stdin.read() if file == "-" else Path(file).read_bytes()))
    print(json.dumps(answer, ensure_ascii=False, indent=1, allow_nan=False))
    return 0


def practice(what: str, more: list[str]) -> int:
    """A practice rover or marking desk by itself, until interrupted."""
    if what == "rover":
        from gnomonic.demo.load import demo_path
        from gnomonic.standins.rover import main as rover

        return rover(more, demo_path())
    from gnomonic.standins.desk import main as desk

    return desk(more)


def run_tests(more: list[str]) -> int:
    """Lint, types, contracts and all tests."""
    ensure_chromium()
    ensure_postgres()
    python = [sys.executable, "-m"]
    steps: list[tuple[str, list[str]]] = []
    if not more:
        steps = [
            ("lint", [*python, "ruff", "check", "-q", "."]),
            ("format", [*python, "ruff", "format", "-q", "--check", "."]),
            ("types", [*python, "mypy"]),
            ("contracts", [str(Path(sys.executable).parent / "lint-imports"), "--no-cache"]),
        ]
    for name, command in steps:
        say(f"checking {name}")
        if code := subprocess.run(command, cwd=HOME, check=False).returncode:
            say(f"the {name} check failed")
            return code
        say("running the set-out with bounds checked")
        checked = {"NUMBA_BOUNDSCHECK": "1", "NUMBA_CACHE_DIR": str(HOME / "var" / "numba-checked")}
        kernels = [
            "tests/core/test_setout.py",
            "tests/core/test_exhaustive.py",
            "tests/validation/test_shortest_path.py",
        ]
        if code := subprocess.run(
            [*python, "pytest", *kernels], cwd=HOME, check=False, env={**os.environ, **checked}
        ).returncode:
            return code
    say("running the tests")
    spread = [] if more else ["-n", "3", "--cov", "--cov-report=term:skip-covered", "--cov-fail-under=95"]
    return subprocess.run([*python, "pytest", *spread, *more], cwd=HOME, check=False).returncode


def doctor() -> int:
    """Say what is here and what is not."""
    from gnomonic.store import cluster

    root = cluster.default_root(HOME)
    rows = [
        ("Gnomonic", __version__),
        ("Python", sys.version.split()[0]),
        ("PostgreSQL programs", str(postgres_bin() or "not installed; demo, serve and test bring them")),
        ("private cluster", f"{cluster.state(root)} ({root})"),
        ("managed database", "GNOMONIC_DATABASE_URL is set" if os.environ.get("GNOMONIC_DATABASE_URL") else "none"),
        ("Chromium", chromium() or "not installed; only test and screens need it"),
    ]
    for name, text in rows:
        print(f"{name:22}{text}")
    return 0


def stop() -> int:
    """End the server this checkout started, and its private cluster."""
    from gnomonic.store import cluster

    record = HOME / "var" / "serve.pid"
    if record.exists():
        pid = int(record.read_text())
        try:
            ours = b"gnomonic" in Path(f"/proc/{pid}/cmdline").read_bytes()
        except OSError:
            ours = False
        if ours:
            os.kill(pid, signal.SIGINT)
            for _ in range(50):
                if not Path(f"/proc/{pid}").exists():
                    break
                time.sleep(0.1)
            say("the server has stopped")
        record.unlink(missing_ok=True)
    if postgres_bin() and cluster.stop(cluster.default_root(HOME)):
        say("the private PostgreSQL cluster has stopped")
    return 0


def parser() -> argparse.ArgumentParser:
    """The commands and what they take."""
    top = argparse.ArgumentParser(prog="gnomonic", description="Plans wire fence over real ground.")
    top.add_argument("--version", action="version", version=__version__)
    commands = top.add_subparsers(dest="command", required=True, metavar="COMMAND")
    for name, text in (("demo", "serve with the demo co-op's jobs"), ("serve", "serve without demo data")):
        command = commands.add_parser(name, help=text)
        command.add_argument("--port", type=int)
    command = commands.add_parser("test", help="run every check and test (more words go to pytest)")
    command.add_argument("more", nargs=argparse.REMAINDER)
    command = commands.add_parser("import", help="a measured file becomes a Job document")
    command.add_argument("file")
    command.add_argument("-o", dest="output")
    command.add_argument("--name")
    command.add_argument("--answer", action="append", default=[], metavar="KEY=VALUE")
    command = commands.add_parser("plan", help="a Job document becomes a plan")
    command.add_argument("file")
    command.add_argument("-o", dest="output")
    command = commands.add_parser("practice", help="a practice rover or marking desk by itself, on loopback")
    command.add_argument("what", choices=["rover", "desk"])
    command.add_argument("more", nargs=argparse.REMAINDER)
    command = commands.add_parser("calc", help="a pocket sum, JSON in and JSON out")
    command.add_argument("kind")
    command.add_argument("file")
    for name, text in (
        ("screens", "make the pictures in docs/screenshots from the demo data"),
        ("bench", "measure speed, as ratios in one run"),
        ("doctor", "say what is installed and running"),
        ("stop", "stop the server and the private cluster"),
    ):
        commands.add_parser(name, help=text)
    return top


def main(arguments: list[str] | None = None) -> int:
    """Run a command; 2 and one sentence on standard error for bad input."""
    given = parser().parse_args(arguments)
    try:
        match given.command:
            case "demo" | "serve":
                return serve(given.command == "demo", given.port)
            case "test":
                return run_tests(given.more)
            case "import":
                return bring_in_file(given.file, given.output, given.name, given.answer)
            case "plan":
                return plan_file(given.file, given.output)
            case "calc":
                return calc_file(given.kind, given.file)
            case "practice":
                return practice(given.what, given.more)
            case "screens":
                from gnomonic.workshop.screens import screens

                return screens(HOME)
            case "bench":
                from gnomonic.workshop.bench import bench

                return bench(HOME)
            case "doctor":
                return doctor()
            case _:
                return stop()
    except BadInput as error:
        print(error.sentence, file=sys.stderr)
        return 2
    except FileNotFoundError as error:
        print(f"there is no file {error.filename}", file=sys.stderr)
        return 2
    except (OSError, CannotInstall) as error:
        print(str(error), file=sys.stderr)
        return 1


if __name__ == "__main__":
    sys.exit(main())
