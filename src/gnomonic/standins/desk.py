"""A practice utility-marking desk: an HTTP service on loopback that takes requests and, after a while, sends marks.

    POST /tickets      {"routes": [[[e, n], …], …], "frame": "geographic" | "local", "reach_m": …, "white": [[e, n], …]}
                       → {"ticket": …, "state": "requested", "wait_until": "2026-05-04"}
    GET  /tickets/T    → {"state": "requested" | "marked" | "clear", "expires_on": …, "marks": [{"name", "shape", "zone_m"}]}

Positions are longitude, latitude for a geographic frame and metres for a local one.  What it marks is made up from the
routes; the real call is always the fencer's own.
"""  # fmt: skip

import argparse
import fcntl
import json
import math
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from datetime import date, timedelta
from itertools import pairwise
from pathlib import Path
from typing import Any
from urllib.parse import unquote

from gnomonic.provision import write_whole
from gnomonic.shell import port
from gnomonic.standins.service import Answer, Service

WAIT_DAYS = 3
GOOD_DAYS = 21
ANSWERS_AFTER_S = 6.0
ZONE_M = 0.6096
CLEAR_BELOW_M = 60.0
MOST_BYTES = 2_000_000
# made up: what crosses a route, where along it, at what angle to it, how far each side it is marked
SERVICES = (("water pipe", 0.44, 80.0, 12.0), ("power cable", 0.13, 55.0, 9.0))


@dataclass(slots=True)
class Ticket:
    """One request and when it was made."""

    ticket: str
    asked_on: date
    asked_at: float
    body: dict[str, Any]


@dataclass(slots=True)
class Desk:
    """The desk's own books; kept in a file where one is given, so that a restart forgets nothing."""

    answers_after_s: float = ANSWERS_AFTER_S
    file: Path | None = None
    tickets: dict[str, Ticket] = field(default_factory=dict)
    lock: threading.Lock = field(default_factory=threading.Lock)

    @contextmanager
    def _books(self) -> Iterator[None]:
        """The tickets as the file has them, for this process alone; other processes may keep the same file."""
        with self.lock:
            if self.file is None:
                yield
                return
            self.file.parent.mkdir(parents=True, exist_ok=True)
            with open(self.file.with_suffix(".lock"), "a") as handle:
                fcntl.flock(handle, fcntl.LOCK_EX)
                self._read()
                yield

    def _read(self) -> None:
        """Tickets of the file; of a torn one those that are known already."""
        try:
            rows = json.loads(self.file.read_text()) if self.file is not None else []
            found = [Ticket(r["ticket"], date.fromisoformat(r["asked_on"]), r["asked_at"], r["body"]) for r in rows]
        except (OSError, ValueError, KeyError, TypeError):
            return
        self.tickets = {t.ticket: t for t in found}

    def _write(self) -> None:
        if self.file is None:
            return
        rows = [
            {"ticket": t.ticket, "asked_on": t.asked_on.isoformat(), "asked_at": t.asked_at, "body": t.body}
            for t in self.tickets.values()
        ]
        write_whole(self.file, json.dumps(rows))

    def ask(self, body: dict[str, Any]) -> dict[str, Any]:
        """Take a request.  Raises ValueError with what is wrong with it."""
        if not _routes(body) or not body.get("white"):
            raise ValueError("a request has routes of two positions or more and the list of white marks")
        with self._books():
            today = date.today()
            ticket = f"P{today:%y%m%d}-{len(self.tickets) + 1:03d}"
            self.tickets[ticket] = Ticket(ticket, today, time.time(), body)
            self._write()
        return {"ticket": ticket, "state": "requested", "wait_until": (today + timedelta(days=WAIT_DAYS)).isoformat()}

    def look(self, ticket: str) -> dict[str, Any] | None:
        """The answer so far, None for a ticket that is not known."""
        with self._books():
            known = self.tickets.get(ticket)
        if known is None:
            return None
        if time.time() - known.asked_at < self.answers_after_s:
            return {"ticket": ticket, "state": "requested"}
        geographic = known.body.get("frame") == "geographic"
        marks = [mark for route in _routes(known.body) for mark in invented(route, geographic)]
        expires = (known.asked_on + timedelta(days=GOOD_DAYS)).isoformat()
        return {"ticket": ticket, "state": "marked" if marks else "clear", "expires_on": expires, "marks": marks}


def _routes(body: dict[str, Any]) -> list[list[list[float]]]:
    """The routes of a request; none where one of them is not two positions or more."""
    routes = body.get("routes", [body.get("route")])  # one route, as asked for in earlier days
    good = isinstance(routes, list) and all(
        isinstance(r, list) and len(r) > 1 and all(isinstance(p, list) and len(p) == 2 for p in r) for r in routes
    )
    return routes if good else []


def invented(route: list[list[float]], geographic: bool) -> list[dict[str, Any]]:
    """Marks across a route, made up from its shape alone, so that the same route gets the same marks."""
    scale = 111_320.0 if geographic else 1.0
    shrink = math.cos(math.radians(route[0][1])) if geographic else 1.0
    places = [((e - route[0][0]) * scale * shrink, (n - route[0][1]) * scale) for e, n in route]
    lengths = [math.dist(a, b) for a, b in pairwise(places)]
    total = sum(lengths)
    if total < CLEAR_BELOW_M:
        return []
    marks = []
    for name, share, angle, reach in SERVICES:
        at, k = share * total, 0
        while at > lengths[k]:
            at -= lengths[k]
            k += 1
        (x0, y0), (x1, y1) = places[k], places[k + 1]
        x, y = x0 + (x1 - x0) * at / lengths[k], y0 + (y1 - y0) * at / lengths[k]
        way = math.atan2(y1 - y0, x1 - x0) + math.radians(angle)
        shape = [
            [
                route[0][0] + (x + way_m * math.cos(way)) / (scale * shrink),
                route[0][1] + (y + way_m * math.sin(way)) / scale,
            ]
            for way_m in (-reach, reach)
        ]
        marks.append({"name": name, "shape": shape, "zone_m": ZONE_M})
    return marks


class PracticeDesk(Service):
    """The desk listening on loopback."""

    def __init__(self, desk: Desk, port: int = 0) -> None:
        def get(path: str) -> Answer:
            found = desk.look(unquote(path.removeprefix("/tickets/")))
            return (200, found) if found else (404, {"detail": "no such ticket"})

        def post(path: str, body: dict[str, Any]) -> Answer:
            if path != "/tickets":
                raise ValueError("send a request to /tickets")
            return 201, desk.ask(body)

        super().__init__("practice marking desk", get, post, MOST_BYTES, port)


def main(words: list[str]) -> int:
    """``gnomonic practice desk``: a practice desk by itself."""
    parser = argparse.ArgumentParser(prog="gnomonic practice desk", description="A practice marking desk on loopback.")
    parser.add_argument("--port", type=port, default=0)
    parser.add_argument("--answers-after", type=float, default=ANSWERS_AFTER_S, metavar="S")
    given = parser.parse_args(words)
    desk = PracticeDesk(Desk(answers_after_s=given.answers_after), given.port)
    return desk.until_interrupted("practice marking desk")
