"""Live walks: the server keeps the connection to a receiver, judges and saves every fix, and tells the page.

A thread a walk.  What it holds does not grow: fixes go to the database in small batches, stops are averaged from there.
"""

import os
import socket
import threading
import time
from dataclasses import asdict, dataclass, field
from typing import Any

from sqlalchemy.exc import SQLAlchemyError

from gnomonic.core.errors import Away, BadInput
from gnomonic.core.ground.found import found_kinds
from gnomonic.core.ground.walking import QUALITY, Fix, Watch, average, worth_keeping
from gnomonic.core.limits import MOST_FIXES
from gnomonic.formats.nmea import NmeaReader
from gnomonic.formats.reading import whole
from gnomonic.formats.walk import write_walk
from gnomonic.store import walks
from gnomonic.store.scope import FateUnknown, Scope
from gnomonic.store.walks import Judged

BATCH_S = 0.5
QUIET_S = 5.0
RETRY_S = (0.2, 0.5, 1.0, 2.0, 5.0)
STEP_M = 0.3
LONGEST_STOP_S = 120.0


def configured() -> tuple[str, int]:
    """Host and port of the receiver in ``GNOMONIC_ROVER``.  Raises BadInput where there is none."""
    host, _, port = os.environ.get("GNOMONIC_ROVER", "").rpartition(":")
    number = whole(port)
    if not host or number is None or not 0 < number < 65536:
        raise BadInput(
            "source", "no receiver is configured: start Gnomonic with GNOMONIC_ROVER=host:port, or walk with the practice rover"
        )  # fmt: skip
    return host, number


@dataclass(slots=True)
class Stopping:
    """A stop being averaged."""

    kind: str
    name: str
    from_n: int
    seconds: float
    ends_at: float


@dataclass(slots=True)
class LiveWalk:
    """One walk being recorded.  ``state`` connecting | walking | lost | ended."""

    scope: Scope
    walk_id: str
    host: str
    port: int
    state: str = "connecting"
    said: str = ""
    watch: Watch = field(default_factory=Watch)
    reader: NmeaReader = field(default_factory=NmeaReader)
    waiting: list[Judged] = field(default_factory=list)
    counts: dict[str, int] = field(default_factory=dict)
    next_n: int = 0
    reconnects: int = 0
    unsure: bool = False
    last: Fix | None = None
    shown: Fix | None = None
    stopping: Stopping | None = None
    lock: threading.RLock = field(default_factory=threading.RLock)
    ended: threading.Event = field(default_factory=threading.Event)
    thread: threading.Thread | None = None

    @property
    def full(self) -> bool:
        """Whether the walk holds as many fixes as one may."""
        return self.next_n >= MOST_FIXES

    def start(self) -> None:
        """Go on from what is saved already."""
        counts = walks.count(self.scope, self.walk_id)
        self.next_n = counts.pop("next")
        self.counts = counts
        self.thread = threading.Thread(target=self._run, daemon=True, name=f"walk {self.walk_id}")
        self.thread.start()

    def end(self) -> None:
        """Hang up, with everything that came saved."""
        self.ended.set()
        if self.thread is not None:
            self.thread.join(10)
        with self.lock:
            self._save()
            self.state = "ended"

    def _run(self) -> None:
        tries = 0
        while not self.ended.is_set():
            try:
                with socket.create_connection((self.host, self.port), timeout=QUIET_S) as link:
                    tries = 0
                    self._listen(link)
            except OSError as error:
                self.said = f"no receiver answers at {self.host}:{self.port} ({error.strerror or 'timed out'})"
            if self.ended.is_set():
                break
            with self.lock:
                self._take(self.reader.broken())
                self._save()
                self.state = "lost" if self.next_n else "connecting"
                self.reconnects += 1
            self.ended.wait(RETRY_S[min(tries, len(RETRY_S) - 1)])
            tries += 1

    def _listen(self, link: socket.socket) -> None:
        link.settimeout(0.2)
        saved = heard = time.monotonic()
        while not self.ended.is_set():
            try:
                data = link.recv(65536)
                if not data:
                    self.said = "the receiver hung up; trying again"
                    return
                heard = time.monotonic()
            except TimeoutError:
                data = b""
            with self.lock:
                if data:
                    self.state, self.said = "walking", ""
                    self._take(self.reader.feed(data))
                elif time.monotonic() - heard > QUIET_S:
                    self.said = f"nothing heard from the receiver for {QUIET_S:.0f} s; trying again"
                    return
                if time.monotonic() - saved > BATCH_S:
                    self._save()
                    saved = time.monotonic()
                self._stopped()

    def _take(self, fixes: list[Fix]) -> None:
        for fix in fixes:
            verdict = self.watch.judge(fix)
            shown = verdict == "good" and self.stopping is None and worth_keeping(self.shown, fix, STEP_M)
            self.waiting.append(Judged(self.next_n, fix, verdict, shown))
            self.next_n += 1
            self.counts[verdict] += 1
            self.last = fix
            if shown:
                self.shown = fix

    def _save(self) -> bool:
        """Save what waits; where the database does not answer it goes on waiting."""
        try:
            if self.unsure:  # whether the last ones were saved
                saved = walks.count(self.scope, self.walk_id)["next"]
                self.waiting = [j for j in self.waiting if j.n >= saved]
            walks.keep(self.scope, self.walk_id, self.waiting)
        except (SQLAlchemyError, Away, FateUnknown):
            self.unsure = True
            self.said = f"the database does not answer: {len(self.waiting)} fixes wait to be saved"
            return False
        self.waiting, self.unsure = [], False
        return True

    def flush(self) -> None:
        """Save what has come so far."""
        with self.lock:
            self._save()

    def mark(self, kind: str, name: str, seconds: float) -> None:
        """Begin averaging a stop.  Raises BadInput."""
        if kind not in found_kinds():
            raise BadInput("kind", f"there is no kind of find called {kind[:40]}")
        if not 0 < seconds <= LONGEST_STOP_S:
            raise BadInput("seconds", f"a stop is averaged for up to {LONGEST_STOP_S:.0f} seconds, not {seconds:g}")
        with self.lock:
            if self.state != "walking":
                raise BadInput("kind", "the receiver is not heard just now: wait until it is, then mark")
            if self.stopping is not None:
                raise BadInput("kind", "a stop is being averaged already: stand still until it is done")
            self.stopping = Stopping(kind, name, self.next_n, seconds, time.monotonic() + seconds)

    def _stopped(self) -> None:
        """When the time of a stop is over, average what came and save it."""
        stop = self.stopping
        if stop is None or time.monotonic() < stop.ends_at:
            return
        if not self._save():
            return
        last = self.next_n - 1
        seen = walks.between(self.scope, self.walk_id, stop.from_n, last)
        good = [j.fix for j in seen if j.verdict == "good"]
        found = average(good)
        if found is None:
            self.said = "no good fix came while you stood: the mark was not made, stand again"
        else:
            whole = type(found)(**{**asdict(found), "left_out": found.left_out + len(seen) - len(good)})
            walks.mark(self.scope, self.walk_id, stop.kind, stop.name, whole, stop.from_n, last)
        self.stopping = None

    def snapshot(self) -> dict[str, Any]:
        """What the page shows, apart from the trail."""
        with self.lock:
            fix, stop = self.last, self.stopping
            return {
                "state": self.state,
                "said": self.said,
                "counts": {**self.counts, "bad": self.reader.bad, "cut": self.reader.cut},
                "reconnects": self.reconnects,
                "n": self.next_n,
                "fix": None
                if fix is None
                else {
                    "quality": QUALITY.get(fix.quality, "unknown"),
                    "code": fix.quality,
                    "satellites": fix.satellites,
                    "good": round(fix.good_m, 3),
                    "lon": fix.lon_deg,
                    "lat": fix.lat_deg,
                    "h": round(fix.h_m, 3),
                },
                "stopping": None
                if stop is None
                else {
                    "kind": stop.kind,
                    "left": round(max(0.0, stop.ends_at - time.monotonic()), 1),
                    "of": stop.seconds,
                },
            }


def document(scope: Scope, walk_id: str, tolerance_m: float) -> bytes:
    """The walk as a file to be brought in: the trail with each corner's average in the place of its stop, and how so many fixes came
    to so many places."""
    places: list[tuple[float, list[Any]]] = []
    made = walks.marks(scope, walk_id)
    stops = [(m["from_n"], m["to_n"]) for m in made]
    trail = walks.trail(scope, walk_id)
    for judged in trail:
        if not any(a <= judged.n <= b for a, b in stops):
            fix = judged.fix
            places.append((judged.n, [fix.lon_deg, fix.lat_deg, fix.h_m, fix.good_m, ""]))
    finds = []
    for number, m in enumerate(made, 1):
        if m["kind"] == "corner":
            name = m["name"] or f"corner {number}"
            places.append((m["from_n"], [m["lon"], m["lat"], m["h_m"], m["good_m"], name]))
        else:
            finds.append({"kind": m["kind"], "name": m["name"], "at": [m["lon"], m["lat"]]})
    ordered = [row for _, row in sorted(places, key=lambda p: p[0])]
    points = [row for k, row in enumerate(ordered) if row[4] or not any(_beside(row, ordered[j]) for j in (k - 1, k + 1) if 0 <= j < len(ordered))]  # fmt: skip
    if len(points) < 2:
        raise BadInput("walk", "this walk has fewer than two places yet: walk on, or stand at a corner and mark it")
    counts = walks.count(scope, walk_id)
    return write_walk(points, finds, tolerance_m, how_many(counts, len(trail), len(made), len(points)))


def how_many(counts: dict[str, int], drawn: int, marked: int, places: int) -> str:
    """How the fixes of a walk came to the places of its line."""
    came = counts["good"] + counts["jump"] + counts["nofix"]
    out = [f"{counts['good'] - drawn} within a step of the one before or while you stood"]
    out += [f"{counts['jump']} jump{'' if counts['jump'] == 1 else 's'}"] if counts["jump"] else []
    out += [f"{counts['nofix']} without a position"] if counts["nofix"] else []
    beside = f"; with {marked} marked place{'' if marked == 1 else 's'} that makes" if marked else "; that makes"
    return f"{came} fixes came; left out: {', '.join(out)}{beside} {places} places of the line"


def _beside(row: list[Any], other: list[Any]) -> bool:
    """Whether a fix lies within a step of a marked corner: the corner says it better."""
    here, there = (Fix(0, lon, lat, h, 4, good_m=good) for lon, lat, h, good, _ in (row, other))
    return bool(other[4]) and not worth_keeping(there, here, STEP_M)
