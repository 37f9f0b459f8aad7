"""Who records the walks: one process of all that serve a database, by turns; pages and recorder speak through the walk's row.

A web process holds no state: the walk, what is wanted of it and what it told last are in the database.  The process that
holds the lock of the recordings keeps the connections to receivers; when it ends, another takes the walks up where they stand.
"""

import contextlib
import json
import secrets
import threading
import time
from dataclasses import asdict, dataclass, field
from typing import Any

from sqlalchemy import Connection, text
from sqlalchemy.exc import SQLAlchemyError

from gnomonic.core.errors import Away, BadInput
from gnomonic.core.limits import MOST_LIVE_WALKS
from gnomonic.demo.load import demo_path
from gnomonic.standins.rover import Manners, Rover
from gnomonic.store import walks
from gnomonic.store.scope import FateUnknown, Scope
from gnomonic.web.walk.receiver import LiveWalk, configured

LIVE_S = 0.25
IDLE_S = 1.0
PATIENCE_S = 4.0
FIRST_S = 5.0
LOCK = 7_461_015


@dataclass(slots=True)
class Hub:
    """The walks recorded by this process, and the practice rovers it plays."""

    scope: Scope
    live: dict[str, LiveWalk] = field(default_factory=dict)
    practice: dict[str, Rover] = field(default_factory=dict)
    lead: Connection | None = None
    away_at: float = -1e9
    thread: threading.Thread | None = None
    wake: threading.Event = field(default_factory=threading.Event)
    ended: threading.Event = field(default_factory=threading.Event)
    lock: threading.Lock = field(default_factory=threading.Lock)

    def notice(self) -> None:
        """Something is wanted: look at once, and go on looking."""
        with self.lock:
            if self.thread is None and not self.ended.is_set():
                self.thread = threading.Thread(target=self._run, daemon=True, name="walks")
                self.thread.start()
        self.wake.set()

    def close(self) -> None:
        """End every recording of this process, with what came saved; what is wanted stays wanted."""
        self.ended.set()
        self.wake.set()
        if self.thread is not None:
            self.thread.join(15)
        for walk_id in [*self.live, *self.practice]:
            self._let_go(walk_id)
        self._hand_over()

    def _run(self) -> None:
        while not self.ended.is_set():
            try:
                self._round()
            except (SQLAlchemyError, Away, FateUnknown):
                self.away_at = time.monotonic()
                self._hand_over()  # the database is away: what is recorded waits to be saved
            self.wake.wait(LIVE_S if self.live else IDLE_S)
            self.wake.clear()

    def _round(self) -> None:
        rows = walks.wanted(self.scope)
        if not rows and not self.live:
            self._hand_over()
            return
        if not self.live and time.monotonic() - self.away_at < FIRST_S:
            return  # who was recording when the database went has fixes that wait: it takes the lead again first
        if not self._leads():
            for walk_id in [*self.live]:
                self._let_go(walk_id)
            return
        ids = {row.walk_id for row in rows}
        for walk_id in [*self.live]:
            if walk_id not in ids:
                counts = dict(self.live[walk_id].counts)
                self._let_go(walk_id)
                walks.tell(self.scope, walk_id, {"state": "ended", "counts": counts})
        for row in rows:
            if row.walk_id not in self.live and len(self.live) < MOST_LIVE_WALKS:
                self._take_up(row)
            if row.walk_id in self.live:
                walk = self.live[row.walk_id]
                given = json.loads(row.order) if row.order else None
                answer = self._obeyed(walk, given) if given else {}
                walks.tell(self.scope, row.walk_id, walk.snapshot() | answer, taken=row.order)
            if row.walk_id in self.live and self.live[row.walk_id].full:
                walks.want(self.scope, row.walk_id, False)

    def _leads(self) -> bool:
        """Whether this process holds the lock of the recordings, or takes it now."""
        if self.lead is None:
            held = self.scope.engine.connect().execution_options(isolation_level="AUTOCOMMIT")
            if not held.execute(
                text("SELECT pg_try_advisory_lock(:key, hashtext(:of))"), {"key": LOCK, "of": self.scope.workspace}
            ).scalar():
                held.close()
                return False
            self.lead = held
        self.lead.execute(text("SELECT 1"))
        return True

    def _hand_over(self) -> None:
        held, self.lead = self.lead, None
        if held is not None:
            with contextlib.suppress(SQLAlchemyError):
                held.invalidate()  # closing the session gives its lock up
                held.close()

    def _take_up(self, row: walks.Wanted) -> None:
        try:
            if row.source == "practice":
                if row.walk_id not in self.practice:
                    manners = Manners(**json.loads(row.manners)) if row.manners else Manners()
                    self.practice[row.walk_id] = Rover(demo_path(), manners)
                host, port = self.practice[row.walk_id].address
            else:
                host, port = configured()
        except BadInput as error:
            walks.tell(self.scope, row.walk_id, {"state": "lost", "said": error.sentence, "counts": {}})
            return
        self.live[row.walk_id] = LiveWalk(self.scope, row.walk_id, host, port)
        self.live[row.walk_id].start()

    def _let_go(self, walk_id: str) -> None:
        """End a recording; what came is saved.  A practice rover stands where it is until it is heard again."""
        if walk_id in self.live:
            self.live.pop(walk_id).end()
        if walk_id in self.practice and (self.ended.is_set() or not walks.is_there(self.scope, walk_id)):
            self.practice.pop(walk_id).stop()

    def _obeyed(self, walk: LiveWalk, order: dict[str, Any]) -> dict[str, Any]:
        """An order carried out, and the answer to it."""
        answer = {"id": order["id"], "field": "", "sentence": ""}
        try:
            if order["do"] == "mark":
                walk.mark(order["kind"], order["name"], order["seconds"])
                if walk.walk_id in self.practice:
                    self.practice[walk.walk_id].stand(order["seconds"])
            else:
                walk.flush()
        except BadInput as error:
            answer |= {"field": error.field, "sentence": error.sentence}
        return {"answer": answer}


def begin(hub: Hub, source: str, manners: Manners) -> str:
    """Start a walk and return its id.  Raises BadInput where there are too many, or another walk holds the receiver."""
    held_by_none(hub.scope, source, "")
    walk_id = walks.begin(hub.scope, source, json.dumps(asdict(manners)))
    hub.notice()
    return walk_id


def go_on(hub: Hub, walk_id: str, source: str) -> None:
    """Record on, after a pause.  Raises BadInput where another walk holds the receiver."""
    held_by_none(hub.scope, source, walk_id)
    walks.want(hub.scope, walk_id, True)
    hub.notice()


def held_by_none(scope: Scope, source: str, walk_id: str) -> None:
    """Raises BadInput (``source``), naming the walk that holds the receiver."""
    if source != "receiver":
        return
    configured()
    for other in walks.wanted(scope):
        if other.source == source and other.walk_id != walk_id:
            raise BadInput(
                "source",
                f"the receiver is held by the walk begun {other.started_at:%Y-%m-%d %H:%M}: pause that one or bring it in, then "
                "walk on with this",
            )


def ordered(hub: Hub, walk_id: str, do: str, **more: Any) -> None:
    """Have the recorder do something to a walk that is being recorded, and wait until it has.  Raises BadInput, Away."""
    order = {"id": secrets.token_hex(6), "do": do, **more}
    if not walks.give(hub.scope, walk_id, json.dumps(order)):
        raise BadInput("kind", "the recorder has not taken the last mark up yet: wait a moment, then mark again")
    hub.notice()
    deadline = time.monotonic() + PATIENCE_S
    while time.monotonic() < deadline:
        answer = walks.there(hub.scope, walk_id).told.get("answer") or {}
        if answer.get("id") == order["id"]:
            if answer["sentence"]:
                raise BadInput(answer["field"], answer["sentence"])
            return
        time.sleep(0.03)
    walks.give(hub.scope, walk_id, "", anyway=True)
    raise Away("walk", "the recorder does not answer just now: see below whether it was marked before you mark again")


def settled(hub: Hub, walk_id: str) -> None:
    """Wait, not for long, until the recorder has let go of a walk and all that came is saved."""
    hub.notice()
    deadline = time.monotonic() + PATIENCE_S
    while time.monotonic() < deadline and walks.there(hub.scope, walk_id).told.get("state") not in (None, "ended"):
        time.sleep(0.03)
