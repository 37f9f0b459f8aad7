"""Debian packages that a command needs: say what is missing, install it, touch nothing else."""

import os
import shutil
import subprocess
import sys
from pathlib import Path

BROWSERS = ("chromium-headless-shell", "chromium")  # the first that is there is taken
NO_MAIN = Path("/etc/postgresql-common/createcluster.d/gnomonic-no-main.conf")


class CannotInstall(Exception):
    """Something is missing and can't be installed from here; the message says what to do."""


def say(text: str) -> None:
    """Tell the user what goes on, on standard error."""
    print(f"gnomonic: {text}", file=sys.stderr, flush=True)


def postgres_bin() -> Path | None:
    """Folder of the newest PostgreSQL server programs, or None."""
    versions = sorted(Path("/usr/lib/postgresql").glob("*/bin/initdb"), key=lambda p: float(p.parts[-3]))
    return versions[-1].parent if versions else None


def chromium() -> str | None:
    """Path of Debian's Chromium, or None: the one without windows where it is, which opens a page in a quarter of the time."""
    return next(filter(None, map(shutil.which, BROWSERS)), None)


def _as_root(*command: str) -> None:
    prefix: list[str] = []
    if os.geteuid() != 0:
        if not shutil.which("sudo"):
            raise CannotInstall(
                f"“{' '.join(command)}” needs root, and there is no sudo: run it yourself, then try again"
            )
        prefix = ["sudo"]
    environment = {**os.environ, "DEBIAN_FRONTEND": "noninteractive"}
    log = Path(os.environ.get("GNOMONIC_HOME", "/tmp")) / "var" / "first-start.log"
    log.parent.mkdir(parents=True, exist_ok=True)
    with log.open("a") as said:
        said.write(f"\n$ {' '.join(command)}\n")
        said.flush()
        done = subprocess.run([*prefix, *command], env=environment, stdout=said, stderr=said, check=False)
    if done.returncode:
        last = log.read_text(errors="replace").splitlines()[-8:]
        print("\n".join(f"    {line}" for line in last), file=sys.stderr)
        raise CannotInstall(f"“{command[0]} …” failed: {why(chr(10).join(last))}. All of it is in {log}")


def why(last: str) -> str:
    """What the last lines of an installation mean, in a sentence (the launcher says the same before there is Python)."""
    meanings = (
        (("ertificate", "SSL", "TLS"), "the certificate of the package server is not trusted here (a proxy, or a clock that is wrong?)"),
        (("No space left",), "the disk is full"),
        (("esolv", "unreachable", "onnection refused", "imed out", "No route", "Failed to fetch", "from versions: none"), "the package server is not reached: is there a network?"),
        (("ermission denied", "not permitted", "are you root", "not in the sudoers"), "the rights for it are missing"),
    )  # fmt: skip
    return next((said for marks, said in meanings if any(m in last for m in marks)), "the last lines above say why")


def _install(*packages: str) -> None:
    say(f"installing Debian packages: {', '.join(packages)} (a minute or two)")
    _as_root("apt-get", "update", "-qq")
    _as_root("apt-get", "install", "-y", "-qq", "--no-install-recommends", *packages)


def ensure_postgres() -> Path:
    """PostgreSQL's server programs, installed if need be (without a cluster of the system's own)."""
    found = postgres_bin()
    if found is None:
        fresh = not Path("/etc/postgresql-common/createcluster.conf").exists()
        if fresh:
            _as_root("sh", "-c", f"mkdir -p {NO_MAIN.parent} && echo 'create_main_cluster = false' > {NO_MAIN}")
        try:
            _install("postgresql")
        finally:
            if fresh:
                _as_root("rm", "-f", str(NO_MAIN))
        found = postgres_bin()
    if found is None:
        raise CannotInstall("PostgreSQL's server programs are not where Debian puts them (/usr/lib/postgresql)")
    return found


def ensure_chromium() -> str:
    """Debian's Chromium with fonts, and what the library that drives it links to, installed if need be."""
    if chromium() is None or not any(Path("/usr/lib").glob("*/libatomic.so.1")):
        small, whole = BROWSERS
        try:
            _install(small, "fonts-liberation2", "libatomic1")
        except CannotInstall:
            say(f"{small} is not to be had here; the whole Chromium does as well")
            _install(whole, "fonts-liberation2", "libatomic1")
    found = chromium()
    if found is None:
        raise CannotInstall("Chromium was installed but is not on the path")
    return found


def ensure_paper() -> None:
    """What lays papers out as PDF links to, installed if need be; without it everything else works."""
    needed = {"libpango-1.0.so.0": "libpango-1.0-0", "libpangoft2-1.0.so.0": "libpangoft2-1.0-0", "libharfbuzz-subset.so.0": "libharfbuzz-subset0"}  # fmt: skip
    missing = [package for file, package in needed.items() if not any(Path("/usr/lib").glob(f"*/{file}"))]
    if missing:
        _install(*missing)


def write_whole(path: Path, text: str, mode: int = 0o644) -> None:
    """Write a file so that it is there whole or not at all, whatever happens meanwhile."""
    path.parent.mkdir(parents=True, exist_ok=True)
    beside = path.with_name(f".{path.name}.{os.getpid()}")
    with open(beside, "w", encoding="utf8", opener=lambda name, flags: os.open(name, flags, mode)) as handle:
        handle.write(text)
        handle.flush()
        os.fsync(handle.fileno())
    if path.exists() and os.geteuid() == 0:
        os.chown(beside, path.stat().st_uid, path.stat().st_gid)
    os.replace(beside, path)
