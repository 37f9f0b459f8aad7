"""Plans of saved jobs, kept by the hash of their document; what each line draws is made when it is asked for."""

import hashlib
import json
import threading
from collections import OrderedDict
from collections.abc import Callable, Iterable
from contextvars import ContextVar
from dataclasses import dataclass, field
from datetime import date
from functools import partial
from typing import Any, TypeVar

from gnomonic.core.demand.animals import Book, Override, with_overrides
from gnomonic.core.demand.system import systems
from gnomonic.core.errors import BadInput
from gnomonic.core.job.decided import decision_rules
from gnomonic.core.job.document import Job
from gnomonic.core.job.fence import Fence, fence_of
from gnomonic.core.job.reading import read_job
from gnomonic.core.limits import MOST_HELD_POSTS
from gnomonic.core.log.facts import Known
from gnomonic.core.plan.identity import Names, carried, in_order, named
from gnomonic.core.plan.model import JobPlan, Plan
from gnomonic.core.plan.road import NamesOf, PlanMemo, plan
from gnomonic.core.say import Say
from gnomonic.core.snags.all import snags
from gnomonic.core.snags.snag import Snag
from gnomonic.web.draw.ground import Kept, lines_json
from gnomonic.web.draw.lanes import PARTS
from gnomonic.web.draw.words import said

KEEP = 64
WORK_KEPT = 16  # jobs whose set-out is used again by their next change: it takes twice the memory of a plan
Kind = TypeVar("Kind")
WITH_EVENTS = "#"  # in the key of a stored job that has events from the field
of_this_request: ContextVar[dict[str, tuple[Override, ...]]] = ContextVar("of_this_request")


def nothing_known(job_id: str) -> Known:
    """A job without events from the field."""
    return {}


def together(objects: Iterable[str]) -> str:
    """JSON texts of objects as one object."""
    return f"{{{','.join(text[1:-1] for text in objects)}}}"


@dataclass(slots=True)
class Planned:
    """One line of a job with its plan; its snags are looked for (``find``) when they are first asked for.  ``lines`` is the JSON text of all
    lines."""

    fence: Fence
    plan: Plan
    find: Callable[[], list[Snag]]
    lines: str
    drawn: dict[str, str] = field(default_factory=dict)
    found: list[Snag] | None = None

    @property
    def snags(self) -> list[Snag]:
        """What is not to be liked of the line, the worst first."""
        if self.found is None:
            self.found = self.find()
        return self.found

    @property
    def parts(self) -> dict[str, str]:
        """The parts of the drawing as JSON texts, made when they are first asked for."""
        if not self.drawn:
            made = {key: make(self.fence, self.plan, self.snags) for key, make in PARTS.items()}
            texts = {k: json.dumps(part, ensure_ascii=False, separators=(",", ":")) for k, part in made.items()}
            self.drawn = texts  # whole or not at all: others may be asking for it at the same time
        return self.drawn

    @property
    def drawing(self) -> str:
        """The JSON text the page draws from."""
        return together(self.parts.values())


@dataclass(slots=True)
class PlannedJob:
    """A job with the plan of all its lines; each line's snags and drawing are made when first asked for."""

    job: Job
    plan: JobPlan
    book: Book
    today: date
    seen: dict[str, Planned] = field(default_factory=dict)
    lines: str = ""
    kept: Kept = field(default_factory=dict)
    known: Known | None = None

    @property
    def size(self) -> int:
        """How much it takes to hold it: its posts."""
        return sum(len(made.posts) for made in self.plan.lines.values())

    def line(self, line_id: str = "") -> Planned:
        """One line, the first that is to be built when none is named.  Raises KeyError; BadInput for one that stands already."""
        fence = fence_of(self.job, line_id)
        if fence.id not in self.plan.lines:
            raise BadInput("line", Say("{name} stands already: nothing is planned on it", {"name": fence.name}))
        if fence.id not in self.seen:
            made = self.plan.lines[fence.id]
            find = partial(snags, fence, made, self.today, self.book, self.plan.meetings)
            self.seen[fence.id] = Planned(fence, made, find, self.ground())
        return self.seen[fence.id]

    def ground(self) -> str:
        """All lines, as JSON."""
        if not self.lines:
            self.lines = lines_json(self.job, self.plan, self.kept)
        return self.lines

    def names(self) -> str:
        """What posts are called, as JSON, of the lines where that is not simply in order; empty where it is everywhere."""
        odd = {
            k: names
            for k, made in self.plan.lines.items()
            if (names := [p.name for p in made.posts]) != list(in_order(made, fence_of(self.job, k).facts))
        }
        return json.dumps(odd, separators=(",", ":")) if odd else ""

    def worst(self) -> list[tuple[Planned, int, Snag]]:
        """Snags of all lines with their number on their line, the worst first; what is said of every line alike, that nobody asked for marks, stands once."""
        rows = [(it, k, s) for it in self.all() for k, s in enumerate(it.snags)]
        rows.sort(key=lambda row: (not row[2].grave, -row[2].weight))
        once = next((row for row in rows if row[2].code == "unmarked"), None)
        return [row for row in rows if row[2].code != "unmarked" or row is once]

    def all(self) -> list[Planned]:
        """Every line that is planned."""
        return [self.line(k) for k in self.plan.lines]


@dataclass(slots=True)
class Plans:
    """Plans by document hash; the last ``KEEP`` are held, fewer of long ones, and the work of the last ``WORK_KEPT`` jobs' plans is used again.

    What is said of a plan also follows the workspace's rule book, read anew each time (``read_overrides``); posts as built come
    from the job's events (``read_known``).
    """

    read_overrides: Callable[[], tuple[Override, ...]] = tuple
    read_known: Callable[[str], Known] = nothing_known
    held: OrderedDict[str, PlannedJob] = field(default_factory=OrderedDict)
    memos: OrderedDict[str, tuple[PlanMemo, Kept, int]] = field(default_factory=OrderedDict)
    lock: threading.Lock = field(default_factory=threading.Lock)

    def known(self, digest: str, names: str = "") -> PlannedJob | None:
        """The plan of a document that is held."""
        key = self.key(digest + names)
        with self.lock:
            found = self.held.get(key)
            if found:
                self.held.move_to_end(key)
            return found

    def of(self, job_id: str, digest: str, document: str, names: str = "") -> PlannedJob:
        """The plan of a stored document, its posts called as stored, with what is to be said of it today."""
        if found := self.known(digest, names):
            return found
        stored: dict[str, list[str]] = json.loads(names) if names else {}

        def called(line: str, made: Plan) -> Names | None:
            known = stored.get(line, [])
            return tuple(known) if len(known) == len(made.posts) else None

        known = self.read_known(job_id) if WITH_EVENTS in digest else None
        return self.keep(digest, self.make(job_id, read_job(document), called, known), names)

    def book(self) -> Book:
        """The rule book with the workspace's own values in it."""
        return with_overrides(self.overrides(), date.today())

    def overrides(self) -> tuple[Override, ...]:
        """The workspace's own values, read once a request."""
        kept = of_this_request.get(None)
        if kept is None:
            return self.read_overrides()
        if "overrides" not in kept:
            kept["overrides"] = self.read_overrides()
        return kept["overrides"]

    def key(self, digest: str) -> str:
        """Marks run out and rules are overridden: what is said of a document changes with the day and the book."""
        return f"{digest} {date.today()} {hash(self.overrides())}"

    def mark(self, stored_key: str, line_id: str) -> str:
        """What a page says it has drawn: a line, of the document, the posts' names, the day and the rule book."""
        return hashlib.sha256(f"{self.key(stored_key)} {line_id}".encode()).hexdigest()[:12]

    def after(self, job_id: str, was: PlannedJob, job: Job) -> PlannedJob:
        """Plan what an edit made of a job, without keeping it; posts that stay are called what they were."""
        old = was.plan.lines

        def called(line: str, made: Plan) -> Names | None:
            if line not in old:
                return None
            same = made.posts is old[line].posts
            return tuple(p.name for p in old[line].posts) if same else carried(named(old[line]), made)

        return self.make(job_id, job, called, was.known)

    def make(self, job_id: str, job: Job, names_of: NamesOf | None = None, known: Known | None = None) -> PlannedJob:
        """Plan a job without keeping it."""
        with self.lock:
            memo, kept, _ = self.memos.pop(job_id) if job_id in self.memos else (PlanMemo(), {}, 0)
        made = PlannedJob(job, plan(job, memo, names_of, known), self.book(), date.today(), kept=kept, known=known)
        with self.lock:
            self.memos[job_id] = (memo, kept, made.size)
            _let_go(self.memos, lambda row: row[2], WORK_KEPT)
        return made

    def keep(self, digest: str, planned: PlannedJob, names: str = "") -> PlannedJob:
        """Hold a plan under its document's hash and what its posts are called."""
        with self.lock:
            self.held[self.key(digest + names)] = planned
            _let_go(self.held, lambda held: held.size, KEEP)
        return planned


def _let_go(kept: OrderedDict[str, Kind], size_of: Callable[[Kind], int], most: int) -> None:
    """Let the oldest go until what is kept is neither too many nor too long; the last one stays."""
    size = sum(map(size_of, kept.values()))
    while len(kept) > 1 and (len(kept) > most or size > MOST_HELD_POSTS):
        size -= size_of(kept.popitem(last=False)[1])


def decision_words() -> dict[str, Any]:
    """Label, kind and reason of every decision, for the page."""
    return {k: {"label": r.label, "kind": r.kind, "reason": said(r.reason)} for k, r in decision_rules().items()}


def fabric_labels() -> dict[str, list[str]]:
    """What each system hangs, by label."""
    return {key: list(s.labels()) for key, s in systems().items()}
