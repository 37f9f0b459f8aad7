"""What goes to the field of a plan: every post, brace, gate and crossing with what is done there, and what lies near.

Everything is of the plan; the phone reckons nothing of it anew.
"""

import json
from collections.abc import Iterable
from typing import Any

import numpy as np

from gnomonic.core.ground.found import OnLine, called
from gnomonic.core.log.events import CLEAR_LEAST_M, CLEAR_MOST_M
from gnomonic.core.plan.model import Bay, Brace, Plan, Post, along_ground_m, hand_dug, taped_from
from gnomonic.core.snags.built import least_depth_m
from gnomonic.core.tell.brace_sheet import Measured, brace_sheet
from gnomonic.core.tell.tag import ROLE_WORDS
from gnomonic.core.units import INCH_M
from gnomonic.web.draw.words import mm, said
from gnomonic.web.field.marks import Marks, of_lines
from gnomonic.web.plans import Planned, PlannedJob

FORM = "gnomonic-field/1"
PROFILE_POINTS = 240
MOST_SNAGS = 40  # of a line, the worst first
NEWS = ("unmarked", "short-hole")  # what the phone itself knows better than any issue: marks, and how deep posts came
CLEAR_STEPS = {"us": (INCH_M / 4, 24), "metric": (0.005, 30)}  # what may be measured in place of the plan's, each way
Json = dict[str, Any]


def pack(job: PlannedJob, job_id: str) -> Json:
    """All of it, but for the number of the issue it goes out as."""
    frame = job.job.frame
    units = next((line.measured.source.unit for line in job.job.lines if line.measured.source.unit), "")
    origin = None if frame.kind == "local" else [frame.lon0_deg, frame.lat0_deg]
    marks = of_lines(job.job, job.today)
    lines = [_line(it, marks) for it in job.all()]
    return {
        "form": FORM,
        "job": job_id,
        "name": job.job.name,
        "units": units,
        "origin": origin,
        "lines": lines,
    }


def _line(it: Planned, marks: Marks) -> Json:
    fence, plan = it.fence, it.plan
    by_hand, along = hand_dug(plan), along_ground_m(plan)
    after = {b.from_post: b for b in plan.bays}
    return {
        "id": fence.id,
        "name": fence.name,
        "ground": _profile(plan),
        "marks": marks[fence.id],
        "posts": [_post(it, p, p.index in by_hand, m, after.get(p.index)) for p, m in zip(plan.posts, along, strict=True)],
        "braces": [row for b in plan.braces if (row := _brace(it, b))],
        "gates": [_opening(plan, g.id, g.name, g.at_m, g.at_m + g.opening_m, gap_m=mm(g.turns[0].gap_m) if g.turns else None) for g in plan.gates],
        "crossings": [_opening(plan, c.thing, c.name, c.at_m, c.to_m) for c in plan.crossings],
        "runs": [_run(plan, r.start.station_m, r.end.station_m, along) for r, along in zip(plan.runs, plan.slope_m, strict=True)],
        "snags": [{"at": mm(s.at_m), "grave": s.grave, "title": said(s.title), "why": said(s.consequence)} for s in it.snags[:MOST_SNAGS] if s.code not in NEWS],
        "things": [_thing(t) for t in plan.things if t.kind.group in ("hazard", "service", "ground") and t.stretches],
    }  # fmt: skip


def _profile(plan: Plan) -> list[list[float]]:
    """The ground as it is drawn behind the posts: stations and heights, no more than a phone has pixels for."""
    at = np.linspace(0.0, plan.course.length_m, PROFILE_POINTS)
    at = np.unique(np.concatenate([at, [p.station_m for p in plan.posts]]))
    return [[mm(s), mm(h)] for s, h in zip(at.tolist(), plan.course.profile.at(at).tolist(), strict=True)]


def _is(post: Post) -> Json:
    """Where a post stands and what it is: what an issue is told to have changed by."""
    row: Json = {
        "name": post.name, "e": mm(post.east_m), "n": mm(post.north_m), "kind": post.rule.title, "deep": mm(post.planned_m), "long": mm(post.stock_m), "across": mm(post.rule.diameter_m),
    }  # fmt: skip
    return row | ({"fill": post.fill} if post.fill else {})


def _post(it: Planned, post: Post, by_hand: bool, along_m: float, after: Bay | None) -> Json:
    plan = it.plan
    run = taped_from(plan, post)
    start = plan.post_at(run.start.station_m)
    row = _is(post) | {
        "at": mm(post.station_m), "h": mm(post.ground_m), "role": ROLE_WORDS.get(post.role, "Line post"), "dug": post.rule.fit != "drive",
        "pass": mm(least_depth_m(plan, it.fence, post)), "over": mm(post.stock_m - post.planned_m), "taped": mm(post.station_m - run.start.station_m), "along": mm(along_m), "from": start.name if start else "",
    }  # fmt: skip
    more = {
        "board": post.block,
        "by_hand": by_hand,
        "because": post.because,
        "shared": post.shared,
        "fixed": post.fixed,
    }
    row |= {k: v for k, v in more.items() if v}
    if after is not None:
        row["gap"] = {
            "m": mm(after.ground.worst_gap_m),
            "at": mm(after.ground.worst_gap_at_m),
            "to": plan.posts[after.to_post].name,
        }
    return row


def _brace(it: Planned, brace: Brace) -> Json | None:
    """A brace with what its rail and wire are cut to, for every clear distance it may be found to have."""
    plan = it.plan
    post = plan.post_at(brace.end.stations_m[0])
    if post is None or not brace.panels:
        return None
    outer, inner = post.rule.diameter_m, plan.section.posts["brace"].diameter_m
    clear = brace.panels[0].level_m - (outer + inner) / 2
    tables: Json = {}
    for system, (step, count) in CLEAR_STEPS.items():
        middle = round(clear / step) * step
        rows = []
        for k in range(-count, count + 1):
            asked = middle + k * step
            if CLEAR_LEAST_M <= asked <= CLEAR_MOST_M:
                cut = brace_sheet(plan, brace, Measured(asked, outer, inner)).panels[0]
                rows.append([mm(asked), mm(cut.rail_m), mm(cut.wire_m)])
        tables[system] = rows
    sheet = brace_sheet(plan, brace)
    return {
        "post": post.name, "at": mm(post.station_m), "ahead": brace.end.at_start, "clear": mm(clear), "outer": mm(outer), "inner": mm(inner),
        "string": mm(sheet.string_m), "marks": [[mm(p.outer.below_m), mm(p.inner.below_m)] for p in sheet.panels], "cuts": tables,
    }  # fmt: skip


def _opening(plan: Plan, key: str, name: str, at_m: float, to_m: float, **more: Any) -> Json:
    posts = [p.name for s in (at_m, to_m) if (p := plan.post_at(s)) is not None]
    return {"id": key, "name": name, "at": mm(at_m), "to": mm(to_m), "posts": posts, **more}


def _run(plan: Plan, from_m: float, to_m: float, along_m: float) -> Json:
    ends = [p.name for s in (from_m, to_m) if (p := plan.post_at(s)) is not None]
    return {"from": mm(from_m), "to": mm(to_m), "along": mm(along_m), "posts": ends}


def _thing(thing: OnLine) -> Json:
    low, high = thing.stretches[0]
    return {
        "kind": thing.found.kind,
        "name": called(thing.found),
        "group": thing.kind.group,
        "caution": thing.kind.caution,
        "from": mm(low),
        "to": mm(high),
    }


def packed(made: Json) -> str:
    """It as it goes over the line."""
    return json.dumps(made, ensure_ascii=False, separators=(",", ":"))


def changed(before: Json | None, now: PlannedJob) -> str:
    """What a plan changes against an issue, by the names of posts; empty where it changes none of them."""
    if before is None:
        return "the first issue"
    was = {f"{line['id']}{p['name']}": p for line in before["lines"] for p in line["posts"]}
    is_now = {f"{k}{p.name}": _is(p) for k, plan in now.plan.lines.items() for p in plan.posts}

    def differs(key: str, *of: str) -> bool:
        return any(was[key].get(k) != is_now[key].get(k) for k in of)

    both = [k for k in is_now if k in was]
    parts = [
        ("new", [k for k in is_now if k not in was]),
        ("gone", [k for k in was if k not in is_now]),
        ("moved", [k for k in both if abs(was[k]["e"] - is_now[k]["e"]) + abs(was[k]["n"] - is_now[k]["n"]) > 0.01]),
        ("otherwise deep, long or stout", [k for k in both if differs(k, "deep", "long", "kind", "across", "fill")]),
    ]
    return "; ".join(f"{word} {_some(names)}" for word, names in parts if names)


def _some(names: Iterable[str], most: int = 12) -> str:
    rows = list(names)
    return ", ".join(rows[:most]) + (f" and {len(rows) - most} more" if len(rows) > most else "")
