"""A line's drawing, lane by lane: ground, posts, what is on it, braces, fabric; and what stands beside it."""

from collections.abc import Callable
from typing import Any

import numpy as np

from gnomonic.core.demand.starts import reason_of
from gnomonic.core.ground.found import called, zone_m
from gnomonic.core.haul.takeoff import Need, job_take_off, take_off
from gnomonic.core.job.decided import decision_rules
from gnomonic.core.job.document import Job
from gnomonic.core.job.fence import Fence, fences
from gnomonic.core.log.events import SAME_DEPTH_M
from gnomonic.core.plan.identity import tag_name
from gnomonic.core.plan.model import JobPlan, Plan
from gnomonic.core.say import Say
from gnomonic.core.snags.snag import Snag
from gnomonic.core.tell.compare import against_even
from gnomonic.core.tell.needs import group_of, named, where, where_of_job
from gnomonic.core.tell.pull_laying import laying
from gnomonic.core.tell.steps import steps_of
from gnomonic.web.draw.section import section_json
from gnomonic.web.draw.words import mm, said

Json = dict[str, Any]


def drawing(fence: Fence, plan: Plan, snags: list[Snag]) -> Json:
    """Everything of a line that is drawn, counted and said, in SI."""
    parts = [make(fence, plan, snags) for make in PARTS.values()]
    return {**{k: v for part in parts for k, v in part.items()}, **counted(fence, plan), **steps_json(fence, plan)}


def _of_the_line(fence: Fence, plan: Plan, snags: list[Snag]) -> Json:
    source = fence.line.source
    return {
        "id": fence.id,
        "name": fence.name,
        "job": fence.job.name,
        "title": fence.title,
        "closed": plan.course.closed,
        "area": plan.course.area_m2(),
        "swath": fence.swath_m,
        "source": {"kind": source.kind, "file": source.file, "notes": list(source.notes)},
    }


def _ground(fence: Fence, plan: Plan, snags: list[Snag]) -> Json:
    line = plan.course
    profile = np.column_stack([line.stations_m, line.east_m, line.north_m, line.profile.heights_m])
    return {
        "length": mm(line.length_m),
        "ground": np.round(profile, 4).tolist(),
        "forbidden": [
            {"from": mm(b.from_m), "to": mm(b.to_m), "reason": b.reason, "found": b.found_id} for b in plan.barred
        ],
    }


def _posts(fence: Fence, plan: Plan, snags: list[Snag]) -> Json:
    weak = {h.post for h in plan.holds if not h.holds}
    return {
        "posts": [
            {
                "name": tag_name(fence, p.name),
                "s": mm(p.station_m),
                "kind": p.kind,
                "role": p.role,
                "e": mm(p.east_m),
                "n": mm(p.north_m),
                "z": mm(p.ground_m),
                "depth": mm(p.depth_m),
                "above": mm(p.above_m),
                "turn": round(p.turn_deg, 1),
                "forced": p.forced,
                "fixed": p.fixed,
                "wide": mm(p.rule.diameter_m),
                **({"weak": True} if p.index in weak else {}),
                **(
                    {"in": mm(p.built.reached_m), "short": p.planned_m - p.built.reached_m > SAME_DEPTH_M}
                    if p.built and p.built.reached_m is not None
                    else {}
                ),
                **({"shared": p.shared} if p.shared else {}),
                **({"joined": list(p.joined)} if p.joined else {}),
            }
            for p in plan.posts
        ],
        "bays": [
            {
                "run": b.run,
                "a": b.from_post,
                "b": b.to_post,
                "from": mm(b.from_m),
                "to": mm(b.to_m),
                "fill": mm(b.ground.fill_m2),
                "cut": mm(b.ground.cut_m2),
                "worst": mm(b.ground.worst_gap_m),
                "least": mm(b.ground.least_gap_m),
                **({"edge": [mm(plan.edge_m(b, False)), mm(plan.edge_m(b, True))]} if plan.rails else {}),
            }
            for b in plan.bays
        ],
        "runs": [{"from": mm(r.start.station_m), "to": mm(r.end.station_m)} for r in plan.runs],
        "gates": [
            {
                "id": g.id,
                "at": mm(g.at_m),
                "opening": mm(g.opening_m),
                "name": g.name,
                "clear": mm(g.clear_m),
                "leaf": mm(g.leaf_m),
                "leaves": g.kind.leaves,
                "high": mm(g.high_m),
                "hinge": g.turn.hinge,
                "side": g.turn.side,
                "hung": [[mm(s.bottom_m), round(s.slope, 5)] for s in g.turn.swings],
                "first": mm(g.posts_m[0]),
                "last": mm(g.posts_m[1]),
            }
            for g in plan.gates
        ],
        "crossings": [
            {
                "at": mm(c.at_m),
                "to": mm(c.to_m),
                "name": c.name,
                "sag": mm(c.built.sag_m),
                "head": mm(plan.fence_height_m),
                "under": mm(c.built.rules.under_m),
                "pitch": c.built.flap.pitch_m,
                "flood": mm(c.built.flood_m),
            }
            for c in plan.crossings
        ],
        "materials": {kind: rule.material for kind, rule in plan.section.posts.items()},
        "even": said(against_even(plan)),
    }


def _on_it(fence: Fence, plan: Plan, snags: list[Snag]) -> Json:
    return {
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
                "zone": mm(zone_m(t.found)),
                "shape": [[mm(e), mm(n)] for e, n in t.found.shape],
                "at": [[mm(low), mm(high)] for low, high in t.stretches],
            }
            for t in plan.things
        ],
    }


def _braces(fence: Fence, plan: Plan, snags: list[Snag]) -> Json:
    return {
        "braces": [
            {
                "at": [mm(s) for s in b.end.stations_m],
                "high": [mm(b.panels[0].rail_out_m), *(mm(p.rail_in_m) for p in b.panels)],
                **({"crossed": True} if b.end.crossed else {}),
            }
            for b in plan.braces
        ],
        "struts": [
            {
                "at": mm(s.station_m),
                "reach": mm(s.statics.reach_m),
                "high": mm(s.height_m),
                "way": 1 if abs(s.station_m - plan.runs[s.run].start.station_m) < 1e-6 else -1,
            }
            for s in plan.struts
        ],
    }


def _fabric(fence: Fence, plan: Plan, snags: list[Snag]) -> Json:
    rolls = plan.rolls.rolls
    names = {line.id: line.name for line in fence.job.lines}
    return {
        "fabric": section_json(plan.section, fence.decisions.clearance_m),
        "pieces": [
            {
                "run": p.run,
                "stock": p.stock,
                "length": mm(p.length_m),
                "from": mm(p.from_m),
                "to": mm(p.to_m),
                **({"opened": names[p.opened]} if p.opened else {}),
                **({"rest": names[p.rest]} if p.rest else {}),
            }
            for p in plan.rolls.pieces
        ],
        "splices": [{"from": mm(s.from_m), "at": mm(s.at_m), "clear": mm(s.clear_m)} for s in plan.rolls.splices],
        "stocks": _stocks(plan, names),
        "laying": [said(s) for s in laying(plan)],
        "rolls": {
            "new": rolls.new_rolls,
            "longest": mm(plan.rolls.whole.longest_offcut_m),
            "proven": rolls.proven,
            "whole": plan.rolls.whole.new_rolls,
            "over": [names[k] for k in plan.rolls.over],
        },
    }


def _stocks(plan: Plan, names: dict[str, str]) -> list[Json]:
    """Every roll and offcut that this line hangs a piece of: its cuts in laying order, on whatever line, and its rest."""
    whole, lines = plan.rolls.whole, plan.rolls.lines
    cuts: dict[str, list[tuple[str, float]]] = {}
    for line, row in zip(lines, whole.pieces, strict=True):
        for piece in row:
            cuts.setdefault(piece.stock, []).append((names[line], piece.length_m))
    kept = dict(whole.offcuts_kept_m)
    found = []
    for stock in dict.fromkeys(p.stock for p in plan.rolls.pieces):
        found.append(
            {
                "stock": stock,
                "length": mm(sum(m for _, m in cuts[stock]) + kept.get(stock, 0.0)),
                "cuts": [{"on": name, "length": mm(m)} for name, m in cuts[stock]],
                "kept": mm(kept.get(stock, 0.0)),
            }
        )
    return found


def counted(fence: Fence, plan: Plan) -> Json:
    """The take-off of a line."""
    return {"takeoff": [_need_json(need, need.count, where(need, plan)) for need in take_off(fence, plan)]}


def _snags(fence: Fence, plan: Plan, snags: list[Snag]) -> Json:
    return {
        "snags": [
            {
                "at": mm(s.at_m),
                "grave": s.grave,
                "title": said(s.title),
                "consequence": said(s.consequence),
                "go": s.go,
                "remedies": [{"label": said(r.label), "edit": r.edit} for r in s.remedies],
            }
            for s in snags
        ]
    }


def steps_json(fence: Fence, plan: Plan) -> Json:
    """The work on a line, in order."""
    return {
        "steps": [
            {
                "key": step.key,
                "what": step.task.what,
                "per": step.task.per,
                "quantity": mm(step.quantity),
                "minutes": [round(m, 1) for m in step.minutes],
                "crew": step.crew,
                "tools": [said(tool) for tool in step.tools],
                "after": list(step.after),
                "wait": {"days": step.wait_days, "why": said(step.wait)} if step.wait_days else None,
                "source": step.task.source,
                "reason": said(step.task.reason),
                "text": said(step.text),
                "caution": said(step.caution) if step.caution.t else "",
            }
            for step in steps_of(fence, plan)
        ],
    }


def _decided(fence: Fence, plan: Plan, snags: list[Snag]) -> Json:
    return {
        "uses": {
            "brace": plan.system.brace,
            "firm": plan.system.firm_post != plan.system.line_post,
            "battens": any(rule.every == "batten_m" for rule in plan.system.bay_fittings),
        },
        "decisions": fence.decisions.model_dump(),
        "reasons": {key: said(reason_of(plan.section, key).reason) for key in decision_rules()},
        "label": fence.barrier.label,
        "offcuts": list(fence.on_hand_m(False)),
        "worn": list(fence.on_hand_m(True)),
        "also": list(fence.own.rolls.also_m),
        "spliceWorth": fence.own.rolls.splice_worth_m,
        "whole": [[w.from_m, w.to_m] for w in fence.own.rolls.whole],
        "facts": [{"post": tag_name(fence, f.post), "at": mm(f.at_m), "text": f.text} for f in fence.facts],
    }


# What the page draws, part by part: an edit sends those that changed.
PARTS: dict[str, Callable[[Fence, Plan, list[Snag]], Json]] = {
    "line": _of_the_line,
    "ground": _ground,
    "posts": _posts,
    "found": _on_it,
    "braces": _braces,
    "fabric": _fabric,
    "snags": _snags,
    "decided": _decided,
}


def _need_json(need: Need, count: float, goes: Say) -> Json:
    """A need with its words; ``of``, ``use`` and the sizes are for other programs."""
    return {
        "of": need.of,
        "use": need.use,
        "kind": need.sold_as,
        "size": mm(need.size_m),
        "across": mm(need.across_m),
        "name": said(named(need)),
        "count": mm(count),
        "unit": need.unit,
        "where": said(goes),
    }


def take_off_json(job: Job, plan: JobPlan) -> list[Json]:
    """The take-off of all lines together, with each line's part and where it goes there."""
    sides = [(fence, plan.lines[fence.id]) for fence in fences(job) if fence.id in plan.lines]
    rows = []
    for both in job_take_off(sides):
        goes: dict[str, Say] = {}
        for line, need in both.needs:
            goes.setdefault(line, where(need, plan.lines[line]))
        rows.append(
            {
                **_need_json(both.need, both.count, where_of_job(both, plan.lines[both.needs[0][0]])),
                "group": group_of(both.need),
                "alike": " ".join(map(str, both.need.alike)),
                "lines": {line: mm(count) for line, count in both.parts.items()},
                "goes": {line: said(text) for line, text in goes.items()},
            }
        )
    return rows
