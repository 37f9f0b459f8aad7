"""Plans of saved jobs, kept by the hash of their document; what each line draws is made when it is asked for."""

import json
import threading
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import date
from typing import Any

from gnomonic.core.demand.animals import Book, Override, with_overrides
from gnomonic.core.demand.system import decision_rules, systems
from gnomonic.core.errors import BadInput
from gnomonic.core.job.document import Job
from gnomonic.core.job.fence import Fence, fence_of
from gnomonic.core.job.reading import read_job
from gnomonic.core.plan.model import JobPlan, Plan
from gnomonic.core.plan.road import PlanMemo, plan
from gnomonic.core.say import Say
from gnomonic.core.snags.all import snags
from gnomonic.core.snags.snag import Snag
from gnomonic.web.draw.ground import Kept, lines_json
from gnomonic.web.draw.lanes import drawing
from gnomonic.web.draw.words import said

KEEP = 64


@dataclass(slots=True)
class Planned:
    """One line of a job with its plan; ``drawing`` is the JSON text the page draws from, ``lines`` that of all lines."""

    fence: Fence
    plan: Plan
    snags: list[Snag]
    drawing: str
    lines: str


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

    def line(self, line_id: str = "") -> Planned:
        """One line, the first that is to be built when none is named.  Raises KeyError; BadInput for one that stands already."""
        fence = fence_of(self.job, line_id)
        if fence.id not in self.plan.lines:
            raise BadInput("line", Say("{name} stands already: nothing is planned on it", {"name": fence.name}))
        if fence.id not in self.seen:
            made = self.plan.lines[fence.id]
            found = snags(fence, made, self.today, self.book, self.plan.meetings)
            text = json.dumps(drawing(fence, made, found), ensure_ascii=False, separators=(",", ":"))
            self.seen[fence.id] = Planned(fence, made, found, text, self.ground())
        return self.seen[fence.id]

    def ground(self) -> str:
        """All lines, as JSON."""
        if not self.lines:
            self.lines = lines_json(self.job, self.plan, self.kept)
        return self.lines

    def snag_count(self) -> int:
        """Snags of all lines; what is said of every line alike, that nobody asked for marks, counts once."""
        codes = [s.code for it in self.all() for s in it.snags]
        return len(codes) - max(0, codes.count("unmarked") - 1)

    def all(self) -> list[Planned]:
        """Every line that is planned."""
        return [self.line(k) for k in self.plan.lines]


@dataclass(slots=True)
class Plans:
    """Plans by document hash; the last ``KEEP`` are held, and the work of each job's last plan is used again.

    What is said of a plan also follows the workspace's rule book, read anew each time (``read_overrides``).
    """

    read_overrides: Callable[[], tuple[Override, ...]] = tuple
    held: OrderedDict[str, PlannedJob] = field(default_factory=OrderedDict)
    memos: OrderedDict[str, tuple[PlanMemo, Kept]] = field(default_factory=OrderedDict)
    lock: threading.Lock = field(default_factory=threading.Lock)

    def of(self, job_id: str, digest: str, document: str) -> PlannedJob:
        """The plan of a stored document, with what is to be said of it today."""
        key = self.key(digest)
        with self.lock:
            if found := self.held.get(key):
                self.held.move_to_end(key)
                return found
        return self.keep(digest, self.make(job_id, read_job(document)))

    def book(self) -> Book:
        """The rule book with the workspace's own values in it."""
        return with_overrides(self.read_overrides(), date.today())

    def key(self, digest: str) -> str:
        """Marks run out and rules are overridden: what is said of a document changes with the day and the book."""
        return f"{digest} {date.today()} {hash(self.read_overrides())}"

    def make(self, job_id: str, job: Job) -> PlannedJob:
        """Plan a job without keeping it."""
        with self.lock:
            memo, kept = self.memos.pop(job_id) if job_id in self.memos else (PlanMemo(), {})
        made = plan(job, memo)
        with self.lock:
            self.memos[job_id] = (memo, kept)
            while len(self.memos) > KEEP:
                self.memos.popitem(last=False)
        return PlannedJob(job, made, self.book(), date.today(), kept=kept)

    def keep(self, digest: str, planned: PlannedJob) -> PlannedJob:
        """Hold a plan under its document's hash."""
        with self.lock:
            self.held[self.key(digest)] = planned
            while len(self.held) > KEEP:
                self.held.popitem(last=False)
        return planned


def decision_words() -> dict[str, Any]:
    """Label, kind and reason of every decision, for the page."""
    return {k: {"label": r.label, "kind": r.kind, "reason": said(r.reason)} for k, r in decision_rules().items()}


def fabric_labels() -> dict[str, list[str]]:
    """What each system hangs, by label."""
    return {key: list(s.labels()) for key, s in systems().items()}
