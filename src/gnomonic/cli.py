"""The command line: serve · demo · work · owner · renew · test · import · plan · calc · practice · screens · bench · attack · mutate · doctor · stop."""

import argparse
import contextlib
import json
import logging
import os
import signal
import subprocess
import sys
from datetime import date
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from gnomonic import __version__, keeping
from gnomonic.core.errors import BadInput
from gnomonic.core.job.reading import first_error
from gnomonic.core.limits import MOST_FILE_BYTES, MOST_JOB_BYTES, MOST_NAME
from gnomonic.keeping import HOME
from gnomonic.provision import (
    CannotInstall,
    chromium,
    ensure_chromium,
    ensure_paper,
    ensure_postgres,
    postgres_bin,
    say,
)
from gnomonic.shell import STDIN, port, read_file, reason, write_out

WORKERS = 2


def serve(demo: bool, port: int | None, workers: int, helpers: int, listen: str = "127.0.0.1") -> int:
    """Serve until interrupted."""
    from gnomonic import serving
    from gnomonic.store import jobs

    where = keeping.reached_as(listen, demo)
    with serving.alone(HOME, "demo" if demo else "serve", port, listen) as (listener, address):
        ensure_paper()
        url = keeping.database_url("gnomonic_demo" if demo else "gnomonic")
        jobs.migrate(url)
        if where:
            keeping.must_have_owner(url, where)
        if demo:
            _load_demo(url)
        if not Path(os.environ.get("NUMBA_CACHE_DIR", HOME / "var" / "numba")).exists():
            say("compiling the loops for this machine (once, a few seconds)")
            serving.warm()  # once, before the workers all do
        if where:
            say(
                f"serving at {address} what speaks TLS in front passes on; others open https://{keeping.first_host()}/; Ctrl+C ends it"
            )
        else:
            say(f"open {address} in a browser; Ctrl+C ends it")
        serving.run(listener, url, demo, workers, helpers)
    return 0


def work(helpers: int) -> int:
    """Work the queue off until interrupted: what a server on any machine puts into the database."""
    from gnomonic import serving

    ensure_paper()
    os.environ[serving.DATABASE] = keeping.database_url("gnomonic")
    say(
        f"{helpers} worker{'' if helpers == 1 else 's'} for what is heavy; Ctrl+C ends {'it' if helpers == 1 else 'them'}"
    )
    with serving.helped(max(1, min(helpers, 16))), contextlib.suppress(KeyboardInterrupt):
        signal.pause()
    return 0


def _load_demo(url: str) -> None:
    """The demo's jobs, once."""
    from gnomonic.store import jobs
    from gnomonic.store.scope import Scope, connect
    from gnomonic.web import showcase
    from gnomonic.web.app import create_app

    scope = Scope(connect(url))
    if not jobs.count(scope):
        say("loading the demo co-op Larkspur Holm")
        showcase.fill(create_app(scope).state.room, say)
    scope.engine.dispose()


def bring_in_file(file: str, output: str | None, name: str | None, answers: list[str]) -> int:
    """A measured file becomes a Job document; a Job document is read and written as it is now."""
    from gnomonic.core.job.fence import checked, one_line
    from gnomonic.core.job.reading import is_job, must_fit, read_job
    from gnomonic.formats.beside import beside
    from gnomonic.formats.bring_in import bring_in

    logging.getLogger("gnomonic").addHandler(logging.NullHandler())  # one sentence is said, no traceback
    if file == STDIN:
        raise BadInput("file", "name a file: of what form it is, is told by its name")
    path = Path(file)
    body = read_file(file, MOST_FILE_BYTES)
    if is_job(body):
        must_fit(body)
        write_out(output, read_job(body).canonical_json())
        return 0
    if odd := [a for a in answers if "=" not in a]:
        raise BadInput("answer", f"--answer {odd[0]}: say KEY=VALUE, as --answer shape=2")
    given = dict(a.split("=", 1) for a in answers)
    brought = beside(bring_in, path.name, body, given)
    for number, shape in enumerate(brought.shapes, 1):
        if shape.why and not shape.taken:
            say(f"line {number} ({shape.name or shape.layer or 'unnamed'}) can't be a line of a fence: {shape.why}")
    good = [k for k, s in enumerate(brought.shapes, 1) if not s.why]
    if brought.questions:
        q = brought.questions[0]
        options = [f"--answer {q.key}={value} ({words})" for value, words in q.choices]
        options += [f"--answer {q.key}=CODE ({q.typed})"] if q.typed else []
        raise BadInput(q.key, f"{q.text} Say {' or '.join(options)}")
    if len(good) > 1 and "shape" not in given:
        named = "; ".join(
            f"{k} {brought.shapes[k - 1].name or brought.shapes[k - 1].layer or 'unnamed'}" for k in good[:12]
        )
        more = f" and {len(good) - 12} more" if len(good) > 12 else ""
        raise BadInput("shape", f"the file holds {len(good)} lines ({named}{more}): say which with --answer shape=N")
    for note in brought.notes:
        say(note)
    job = checked(
        one_line(name or path.stem[:MOST_NAME], brought.line, brought.frame),
        found=brought.found,
    )
    write_out(output, job.canonical_json())
    return 0


def plan_file(file: str, output: str | None) -> int:
    """A Job document becomes a plan."""
    from gnomonic.core.job.fence import fences
    from gnomonic.core.job.reading import read_job
    from gnomonic.core.plan.road import plan
    from gnomonic.core.snags.all import snags
    from gnomonic.web.draw.lanes import drawing, take_off_json

    job = read_job(read_file(file, MOST_JOB_BYTES))
    made = plan(job)
    lines, count = [], 0
    for fence in fences(job):
        if fence.id in made.lines:
            found = snags(fence, made.lines[fence.id], date.today(), meetings=made.meetings)
            lines.append(drawing(fence, made.lines[fence.id], found))
            count += len(found)
    body = {"format": "gnomonic-plan/2", "name": job.name, "lines": lines, "takeoff": take_off_json(job, made)}
    write_out(output, json.dumps(body, ensure_ascii=False, indent=1) + "\n")
    plans = made.lines.values()
    posts = sum(not p.shared for one in plans for p in one.posts)
    rolls, splices = sum(p.rolls.rolls.new_rolls for p in plans), sum(p.rolls.rolls.splices for p in plans)
    say(f"lines {len(lines)}, posts {posts}, rolls {rolls}, splices {splices}, snags {count}")
    return 0


def calc_file(kind: str, file: str) -> int:
    """A pocket sum from a JSON file (- for standard input)."""
    from gnomonic.core.calc import calc, must_be_one, read_json

    must_be_one(kind)
    answer: dict[str, Any] = calc(kind, read_json(read_file(file, MOST_JOB_BYTES)))
    write_out(None, json.dumps(answer, ensure_ascii=False, indent=1, allow_nan=False) + "\n")
    return 0


def practice(what: str, more: list[str]) -> int:
    """A practice rover, marking desk, suppliers or weather by themselves, until interrupted."""
    if what == "rover":
        from gnomonic.demo.load import demo_path
        from gnomonic.standins.rover import main as rover

        return rover(more, demo_path())
    if what == "suppliers":
        from gnomonic.standins.suppliers import main as suppliers

        return suppliers(more)
    if what == "weather":
        from gnomonic.standins.weather import main as weather

        return weather(more)
    from gnomonic.standins.desk import main as desk

    return desk(more)


CHECKS = (
    ("lint", ["-m", "ruff", "check", "-q", "."]),
    ("format", ["-m", "ruff", "format", "-q", "--check", "."]),
    ("types", ["-m", "mypy"]),
    ("contracts", ["-c", "from importlinter.cli import lint_imports_command; lint_imports_command(['--no-cache'])"]),
)
BOUNDS = ("tests/core/test_setout.py", "tests/core/test_exhaustive.py", "tests/validation/test_shortest_path.py")
MORE = 1  # test processes than cores: much of their time they wait for a database, a browser, a server


def run_tests(more: list[str]) -> int:
    """Lint, types and contracts beside all tests; with ``--all`` the long ones too, with ``--cover`` the core's branches are counted.

    Other words go to pytest, and then nothing else is checked.
    """
    own = {"--all", "--cover"}
    every, cover, rest = "--all" in more, "--cover" in more, [w for w in more if w not in own]
    places = [w for w in rest if w.startswith(("tests", "src"))]
    if not places or any(not w.startswith(("tests/core", "tests/validation", "src")) for w in places):
        ensure_chromium()
        ensure_postgres()
        ensure_paper()
    surroundings = dict(os.environ)
    if every:
        surroundings |= {"GNOMONIC_TEST_ALL": "1", "HYPOTHESIS_PROFILE": "deep"}
    counted = ["--cov", "--cov-report=term:skip-covered", "--cov-fail-under=95"] if cover or every else []
    pytest = [sys.executable, "-m", "pytest"]
    if rest:
        counted = ["--cov", "--cov-report=term:skip-covered"] if cover else []  # a part of the tests covers a part
        return subprocess.run([*pytest, *counted, *rest], cwd=HOME, check=False, env=surroundings).returncode
    say("compiling the loops, then running the tests, with lint, types and contracts beside them")
    beside = [(name, _begun([sys.executable, *words], surroundings)) for name, words in CHECKS]
    checked = {**surroundings, "NUMBA_BOUNDSCHECK": "1", "NUMBA_CACHE_DIR": str(HOME / "var" / "numba-checked")}
    beside.append(("bounds", _begun([*pytest, "-p", "no:cacheprovider", *BOUNDS], checked)))
    warm = [sys.executable, "-c", "from gnomonic.serving import warm; warm()"]
    subprocess.run(warm, cwd=HOME, check=False, env=surroundings)
    longest_first = ["--dist", "loadfile", "--no-loadscope-reorder"]  # in the order of tests/conftest.py
    spread = ["-n", str(MORE + (os.cpu_count() or 1)), *longest_first]
    code = subprocess.run([*pytest, *spread, *counted], cwd=HOME, check=False, env=surroundings).returncode
    for name, process in beside:
        said, _ = process.communicate()
        if process.returncode:
            print(said)
            say(f"the {name} check failed")
            code = code or process.returncode
    if every and not code:
        say("attacking, quick")
        code = subprocess.run(
            [sys.executable, "-m", "gnomonic.cli", "attack", "--quick"], cwd=HOME, check=False
        ).returncode
    return code


def _begun(command: list[str], surroundings: dict[str, str]) -> "subprocess.Popen[str]":
    """A check that runs beside the tests; what it says is kept."""
    return subprocess.Popen(
        command, cwd=HOME, env=surroundings, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True
    )


def doctor() -> int:
    """Say what is here and what is not."""
    from gnomonic.serving import standing
    from gnomonic.store import cluster

    root = cluster.default_root(HOME)
    there = standing(HOME)
    rows = [
        ("Gnomonic", __version__),
        ("Python", sys.version.split()[0]),
        ("server", f"{there.address} ({there.command}, process {there.pid})" if there else "not running"),
        ("PostgreSQL programs", str(postgres_bin() or "not installed; demo, serve and test bring them")),
        ("private cluster", f"{cluster.state(root)} ({root})"),
        ("managed database", "GNOMONIC_DATABASE_URL is set" if os.environ.get("GNOMONIC_DATABASE_URL") else "none"),
        ("Chromium", chromium() or "not installed; only test and screens need it"),
    ]
    for name, text in rows:
        print(f"{name:22}{text}")
    return 0


def stop() -> int:
    """End the server this checkout started, with all it started, and its private cluster."""
    from gnomonic import serving
    from gnomonic.store import cluster

    if ended := serving.end(HOME):
        say(f"the server has stopped (process{'' if len(ended) == 1 else 'es'} {', '.join(map(str, ended))})")
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
        command.add_argument("--port", type=port)
        command.add_argument("--workers", type=int, default=WORKERS, help="processes that serve (2)")
        command.add_argument("--helpers", type=int, default=1, help="workers beside them for what is heavy (1)")
        if name == "serve":
            command.add_argument(
                "--listen",
                default="127.0.0.1",
                help="address to listen at (127.0.0.1); beyond it needs accounts and TLS in front",
            )
    keeping.commands_of(commands)
    command = commands.add_parser(
        "work", help="take heavy work from the queue, on this or another machine, until interrupted"
    )
    command.add_argument("--helpers", type=int, default=1, help="how many at once (1)")
    commands.add_parser(
        "test", help="every check and test (--all: the long ones too; more words go to pytest)", add_help=False
    )
    command = commands.add_parser("import", help="a measured file becomes a Job document")
    command.add_argument("file")
    command.add_argument("-o", dest="output")
    command.add_argument("--name")
    command.add_argument("--answer", action="append", default=[], metavar="KEY=VALUE")
    command = commands.add_parser("plan", help="a Job document becomes a plan")
    command.add_argument("file")
    command.add_argument("-o", dest="output")
    command = commands.add_parser(
        "practice", help="a practice rover, marking desk, suppliers or weather by themselves, on loopback"
    )
    command.add_argument("what", choices=["rover", "desk", "suppliers", "weather"])
    command.add_argument("more", nargs=argparse.REMAINDER)
    command = commands.add_parser("calc", help="a pocket sum, JSON in and JSON out")
    command.add_argument("kind")
    command.add_argument("file")
    command = commands.add_parser("attack", help="damaged files, odd requests and kills, in one table")
    command.add_argument("--quick", action="store_true", help="each once (about 20 minutes)")
    command.add_argument("--hours", type=float, default=1.0, help="how long, with a new seed each time")
    command.add_argument("--seed", type=int, default=15)
    command = commands.add_parser("mutate", help="small wrong changes to the core one by one: which does no test find?")
    command.add_argument("place", nargs="?", default="", help="a file or folder of the core (all of it)")
    command.add_argument("--count", type=int, default=200)
    command.add_argument("--seed", type=int, default=31)
    for name, text in (
        ("screens", "make the pictures in docs/screenshots from the demo data"),
        ("bench", "measure speed, as ratios in one run"),
        ("doctor", "say what is installed and running"),
        ("stop", "stop the server and the private cluster"),
    ):
        commands.add_parser(name, help=text)
    return top


def _end_tidily() -> None:
    """Told to end, end as at the keyboard: what was started for the work is ended too."""
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(143))


def main(arguments: list[str] | None = None) -> int:
    """Run a command; 2 and one sentence on standard error for bad input."""
    given, more = parser().parse_known_args(arguments)
    if more and given.command != "test":
        parser().error(f"unrecognized arguments: {' '.join(more)}")
    try:
        match given.command:
            case "demo" | "serve":
                return serve(
                    given.command == "demo", given.port, max(1, min(given.workers, 64)), max(0, min(given.helpers, 16)),
                    getattr(given, "listen", "127.0.0.1"),
                )  # fmt: skip
            case "owner":
                return keeping.make_owner(given.login, given.name, given.workspace, given.called)
            case "renew":
                return keeping.renew(given.login)
            case "backup":
                return keeping.backup(given.file, given.workspace, given.demo)
            case "restore":
                return keeping.restore(given.file, given.demo)
            case "work":
                _end_tidily()
                return work(given.helpers)
            case "test":
                return run_tests(more)
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

                _end_tidily()
                return screens(HOME)
            case "bench":
                from gnomonic.workshop.bench import bench

                _end_tidily()
                return bench(HOME)
            case "attack":
                from gnomonic.workshop.attack.all import attack

                _end_tidily()
                ensure_postgres()
                return attack(HOME, given.quick, given.hours, given.seed)
            case "mutate":
                from gnomonic.workshop.mutate.runs import mutate

                return mutate(HOME, given.place, given.count, given.seed)
            case "doctor":
                return doctor()
            case _:
                return stop()
    except BadInput as error:
        print(error.sentence, file=sys.stderr)
        return 2
    except ValidationError as error:
        print(first_error(error).sentence, file=sys.stderr)
        return 2
    except BrokenPipeError:  # who reads what is printed has seen enough
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 1
    except (OSError, CannotInstall) as error:
        print(reason(error) if isinstance(error, OSError) else error, file=sys.stderr)
        return 1


if __name__ == "__main__":
    sys.exit(main())
