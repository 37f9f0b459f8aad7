"""Plans of saved jobs, kept by the hash of their document, and what the page draws from them."""

import json
import threading
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import date
from typing import Any

import numpy as np

from gnomonic.core.demand.animals import Book, Override, with_overrides
from gnomonic.core.demand.catalog import catalog
from gnomonic.core.demand.fabrics import Fabric
from gnomonic.core.demand.section import Section
from gnomonic.core.demand.starts import reason_of
from gnomonic.core.demand.system import decision_rules, systems
from gnomonic.core.errors import BadInput
from gnomonic.core.ground.found import called, zone_m
from gnomonic.core.haul.takeoff import take_off
from gnomonic.core.job.document import Job, read_job
from gnomonic.core.plan.model import Plan
from gnomonic.core.plan.posts import sized
from gnomonic.core.plan.road import PlanMemo, plan
from gnomonic.core.prose import Both
from gnomonic.core.say import Say, Value, Why
from gnomonic.core.snags.all import snags
from gnomonic.core.snags.snag import Snag
from gnomonic.core.tell.compare import against_even
from gnomonic.core.tell.steps import steps_of
from gnomonic.core.tell.tag import Tag

KEEP = 64


@dataclass(slots=True)
class Planned:
    """A job with its plan; ``drawing`` is the JSON text the page draws from."""

    job: Job
    plan: Plan
    snags: list[Snag]
    drawing: str


@dataclass(slots=True)
class Plans:
    """Plans by document hash; the last ``KEEP`` are held, and the work of each job's last plan is used again.

    What is said of a plan also follows the workspace's rule book, read anew each time (``read_overrides``).
    """

    read_overrides: Callable[[], tuple[Override, ...]] = tuple
    held: OrderedDict[str, Planned] = field(default_factory=OrderedDict)
    memos: OrderedDict[str, PlanMemo] = field(default_factory=OrderedDict)
    lock: threading.Lock = field(default_factory=threading.Lock)

    def of(self, job_id: str, digest: str, document: str) -> Planned:
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

    def make(self, job_id: str, job: Job) -> Planned:
        """Plan a job without keeping it."""
        with self.lock:
            memo = self.memos.pop(job_id, None) or PlanMemo()
        made = plan(job, memo)
        with self.lock:
            self.memos[job_id] = memo
            while len(self.memos) > KEEP:
                self.memos.popitem(last=False)
        found = snags(job, made, date.today(), self.book())
        return Planned(
            job, made, found, json.dumps(drawing(job, made, found), ensure_ascii=False, separators=(",", ":"))
        )

    def keep(self, digest: str, planned: Planned) -> Planned:
        """Hold a plan under its document's hash."""
        with self.lock:
            self.held[self.key(digest)] = planned
            while len(self.held) > KEEP:
                self.held.popitem(last=False)
        return planned


def said(sentence: Say | str) -> dict[str, Any]:
    """A sentence for the page, which puts the values in its own units."""
    template, values = (Say(sentence) if isinstance(sentence, str) else sentence).spoken()
    return {"t": template, "v": {k: _value(v) for k, v in values.items()}}


def refusal(error: BadInput) -> Say:
    """What a refusal says, with its values where it has any."""
    return Say(error.said.t, error.said.v) if error.said else Say("{it}", {"it": error.sentence})


def _value(value: Value) -> Any:
    if isinstance(value, Both):
        return {"us": value.us, "metric": value.metric}
    return value if isinstance(value, str) else [round(value[0], 5), value[1]]


def _other(reason: Why) -> dict[str, Any] | None:
    """The other school's answer, when there is one."""
    other = reason.other
    return said(other if isinstance(other, Say) else Say(other)) if other else None


def tag_json(tag: Tag) -> dict[str, Any]:
    """A tag for the page."""
    facts = [
        {
            "name": f.name,
            "value": said(f.value),
            "note": said(f.note) if f.note else "",
            "why": {
                "rule": said(f.why.rule),
                "working": said(f.why.working),
                "source": said(f.why.source),
                "other": _other(f.why),
            },
        }
        for f in tag.facts
    ]
    fittings = [
        {
            "item": f.item,
            "title": catalog()[f.item].title,
            "count": f.count,
            "heights": [_mm(h) for h in f.heights_m],
            "way": said(f.way),
            "order": f.order,
            "tied": f.tied,
        }
        for f in tag.fittings
    ]
    return {
        "title": tag.title,
        "station_m": tag.station_m,
        "facts": facts,
        "cautions": [said(c) for c in tag.cautions],
        "fittings": fittings,
    }


def _mm(value: float) -> float:
    return round(value, 4)


def drawing(job: Job, made: Plan, found: list[Snag]) -> dict[str, Any]:
    """Everything the strip, the map, the snags and the decisions draw, in SI."""
    line, rolls = made.course, made.rolls.rolls
    profile = np.column_stack([line.stations_m, line.east_m, line.north_m, line.profile.heights_m])
    return {
        "name": job.name,
        "length": _mm(line.length_m),
        "closed": line.closed,
        "area": line.area_m2(),
        "ground": np.round(profile, 4).tolist(),
        "posts": [
            {
                "s": _mm(p.station_m),
                "kind": p.kind,
                "role": p.role,
                "e": _mm(p.east_m),
                "n": _mm(p.north_m),
                "z": _mm(p.ground_m),
                "depth": _mm(p.depth_m),
                "above": _mm(p.above_m),
                "turn": round(p.turn_deg, 1),
                "forced": p.forced,
                "fixed": p.fixed,
                "wide": _mm(made.section.posts[p.kind].diameter_m),
                **({"shared": p.shared} if p.shared else {}),
            }
            for p in made.posts
        ],
        "bays": [
            {
                "run": b.run,
                "a": b.from_post,
                "b": b.to_post,
                "from": _mm(b.from_m),
                "to": _mm(b.to_m),
                "fill": _mm(b.ground.fill_m2),
                "cut": _mm(b.ground.cut_m2),
                "worst": _mm(b.ground.worst_gap_m),
                "least": _mm(b.ground.least_gap_m),
            }
            for b in made.bays
        ],
        "runs": [{"from": _mm(r.start.station_m), "to": _mm(r.end.station_m)} for r in made.runs],
        "gates": [{"id": g.id, "at": _mm(g.at_m), "opening": _mm(g.opening_m), "name": g.name} for g in made.gates],
        "forbidden": [
            {"from": _mm(b.from_m), "to": _mm(b.to_m), "reason": b.reason, "found": b.found_id} for b in made.barred
        ],
        "found": [
            {
                "id": t.found.id,
                "kind": t.found.kind,
                "title": t.kind.title,
                "group": t.kind.group,
                "effect": t.kind.effect,
                "name": called(t.found),
                "side": t.found.side,
                "count": t.found.count,
                "zone": _mm(zone_m(t.found)),
                "shape": [[_mm(e), _mm(n)] for e, n in t.found.shape],
                "at": [[_mm(low), _mm(high)] for low, high in t.stretches],
            }
            for t in made.things
        ],
        "swath": job.swath_m,
        "braces": [{"at": [_mm(s) for s in b.end.stations_m], "rail": _mm(b.rail_height_m)} for b in made.braces],
        "struts": [
            {
                "at": _mm(s.station_m),
                "reach": _mm(s.statics.reach_m),
                "high": _mm(s.height_m),
                "way": 1 if abs(s.station_m - made.runs[s.run].start.station_m) < 1e-6 else -1,
            }
            for s in made.struts
        ],
        "materials": {kind: rule.material for kind, rule in made.section.posts.items()},
        "uses": {
            "brace": made.system.brace,
            "firm": made.system.firm_post != made.system.line_post,
            "battens": any(rule.every == "batten_m" for rule in made.system.bay_fittings),
        },
        "fabric": section_json(made.section, job.decisions.clearance_m),
        "pieces": [
            {"run": p.run, "stock": p.stock, "length": _mm(p.length_m), "from": _mm(p.from_m), "to": _mm(p.to_m)}
            for p in made.rolls.pieces
        ],
        "splices": [{"from": _mm(s.from_m), "at": _mm(s.at_m), "clear": _mm(s.clear_m)} for s in made.rolls.splices],
        "rolls": {"new": rolls.new_rolls, "longest": _mm(rolls.longest_offcut_m), "proven": rolls.proven},
        "takeoff": [
            {"name": said(i.name), "count": _mm(i.count), "unit": i.unit, "where": said(i.where)}
            for i in take_off(job, made)
        ],
        "snags": [
            {
                "at": _mm(s.at_m),
                "grave": s.grave,
                "title": said(s.title),
                "consequence": said(s.consequence),
                "go": s.go,
                "remedies": [{"label": said(r.label), "edit": r.edit} for r in s.remedies],
            }
            for s in found
        ],
        "steps": [
            {"text": said(step.text), "caution": said(step.caution) if step.caution.t else ""}
            for step in steps_of(job, made)
        ],
        "decisions": job.decisions.model_dump(),
        "reasons": {key: said(reason_of(made.section, key).reason) for key in decision_rules()},
        "source": {"kind": job.line.source.kind, "file": job.line.source.file, "notes": list(job.line.source.notes)},
        "label": job.barrier.label,
        "offcuts": list(job.offcuts_m),
        "even": said(against_even(made)),
    }


def decision_words() -> dict[str, Any]:
    """Label, kind and reason of every decision, for the page."""
    return {k: {"label": r.label, "kind": r.kind, "reason": said(r.reason)} for k, r in decision_rules().items()}


def section_json(hung: Section, clearance_m: float) -> dict[str, Any]:
    """What hangs, for the drawings: line wires, layers with their mesh, strands, posts.

    Heights above the bottom edge, which hangs ``clearance_m`` above the ground.
    """
    posts = {}
    for kind in ("terminal", hung.system.line_post):
        rule = hung.posts[kind]
        depth, length, _ = sized(rule, clearance_m + hung.top_m, 0.0)
        posts["terminal" if kind == "terminal" else "line"] = {
            "title": rule.title,
            "material": rule.material,
            "above": _mm(length - depth),
            "depth": _mm(depth),
            "wide": _mm(rule.diameter_m),
            "hole": _mm(rule.hole_m),
        }
    return {
        "system": hung.system.key,
        "title": hung.system.title,
        "word": hung.system.word,
        "label": hung.named,
        "extras": [said(e.title) for e in hung.extras],
        "clear": _mm(clearance_m),
        "wires": [_mm(h) for h in hung.fabric_wires_m],
        "top": _mm(hung.top_m),
        "stay": _mm(hung.fabric.stay_m) if hung.fabric else 0,
        "layers": [
            fabric_json(x.fabric) | {"bottom": _mm(x.bottom_m), "top": _mm(x.top_m), "lip": _mm(x.lip_m)}
            for x in hung.layers
        ],
        "strands": [{"key": s.key, "word": s.wire.word, "at": _mm(s.at_m)} for s in hung.strands],
        "aprons": [{"label": a.label, "out": _mm(a.height_m)} for a in hung.aprons],
        "posts": posts,
    }


def fabric_json(fabric: Fabric) -> dict[str, Any]:
    """A fabric for the drawings."""
    return {
        "label": fabric.label,
        "kind": fabric.kind,
        "mesh": [round(m, 5) for m in fabric.mesh_m],
        "stay": _mm(fabric.stay_m),
        "wires": [_mm(h) for h in fabric.wire_heights_m],
        "knot": fabric.knot,
        "high": _mm(fabric.height_m),
    }


def fabric_labels() -> dict[str, list[str]]:
    """What each system hangs, by label."""
    return {key: list(s.labels()) for key, s in systems().items()}
