"""Posts and braces: how every end is held, in what soil, what the holes, lows and dips take."""

import json
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import JSONResponse, Response

from gnomonic.core.job.fence import Fence
from gnomonic.core.plan.identity import tag_name
from gnomonic.core.plan.lows import Patch, blade, filled, filler_kinds, patches
from gnomonic.core.plan.model import Holding, Plan, Post
from gnomonic.core.soil.soils import soils
from gnomonic.core.tell.bends import Bend, bends
from gnomonic.core.tell.bracing import KINDS, anchor_facts, brace_facts, strut_facts
from gnomonic.core.tell.compare_braces import compare
from gnomonic.core.tell.dips import Dip, dips
from gnomonic.core.tell.facts import Fact
from gnomonic.core.tell.holding import hold_facts
from gnomonic.core.tell.holes import Hole, holes
from gnomonic.web.draw.words import facts_json, said
from gnomonic.web.parts import Station, line_page, planned_of, safe
from gnomonic.web.plans import Planned
from gnomonic.web.stand.sheet import CAUTION

router = APIRouter()
Json = dict[str, Any]


@router.get("/jobs/{job_id}/stand", include_in_schema=False)
def stand_page(request: Request, job_id: str) -> Response:
    """Posts and braces of a line."""
    stored, planned = planned_of(request, job_id)
    return line_page(
        request, "stand.html", stored, planned, stand=safe(json.dumps(stand_json(planned), ensure_ascii=False))
    )


@router.get("/api/v1/jobs/{job_id}/stand")
def stand(request: Request, job_id: str) -> Response:
    """How a line's ends are held, and what its ground takes."""
    return JSONResponse(stand_json(planned_of(request, job_id)[1]))


@router.get("/api/v1/jobs/{job_id}/compare")
def compared(request: Request, job_id: str, at: Station, ahead: bool) -> Response:
    """Ways to brace one end side by side."""
    _, it = planned_of(request, job_id)
    rows = compare(it.fence, it.plan, at, ahead)
    return JSONResponse(
        [
            {
                "ask": {k: v for k, v in r.ask.model_dump().items() if v not in (None, "")},
                "rail": r.rail_n,
                "wire": r.wire_n,
                "shear": r.shear_n,
                "uplift": r.uplift_n,
                "holds": r.holds,
                "side": min(r.side_share, 99.0),
                "lift": min(r.lift_share, 99.0),
                "cost": round(r.cost, 2),
                "because": r.because,
            }
            for r in rows
        ]
    )


def stand_json(it: Planned) -> Json:
    """Everything the page shows, in SI."""
    fence, plan = it.fence, it.plan
    ground = fence.soil
    return {
        "soils": [{"key": k, "title": said(s.title), "reason": said(s.reason)} for k, s in soils().items()],
        "soil": ground.model_dump(mode="json"),
        "ends": _ends(fence, plan),
        "holes": [_hole(fence, h) for h in holes(fence, plan)],
        "patches": [_patch(fence, plan, p) for p in patches(plan)],
        "fillers": [{"key": k, "title": said(f.title), "reason": said(f.reason)} for k, f in filler_kinds().items()],
        "bends": [_bend(fence, b) for b in bends(fence, plan)],
        "dips": [_dip(fence, plan, d) for d in dips(plan)],
        "blade": said(blade(fence, plan)),
        "factor": fence.decisions.hold_factor,
        "shave": fence.decisions.shave_m,
        "spacing": fence.own.spacing,
        "rail": fence.own.rail,
        "railed": plan.section.railed,
        "rails": _rails(plan),
        "high": plan.fence_height_m,
        "cost": {"own": plan.cost, "even": sum(e.cost for e in plan.even)},
        "press": plan.system.rule("press_most_n"),
        "caution": CAUTION,
    }


def _rails(plan: Plan) -> list[Json]:
    return [
        {
            "run": k + 1,
            "straight": r.straight,
            "kinks": [round(s, 3) for s, _ in r.nodes_m[1:-1]],
            "a": r.heights_m[0],
            "b": r.heights_m[-1],
            "worst": r.string.worst_clear_m - plan.section.top_m,
            "at": r.string.worst_clear_at_m,
            "hump": r.string.hump_at_m,
            "both": r.string.raise_both_m,
            "left": r.string.raise_a_only_m,
            "right": r.string.raise_b_only_m,
            "trench": r.string.trench_m,
        }
        for k, r in enumerate(plan.rails)
    ]


def _holding(held: Holding | None) -> Json | None:
    if held is None:
        return None
    return {
        "side": held.side_n, "asked": held.asked_side_n, "at": held.side_at_m, "has": held.has_n, "code": held.code_n, "lean": held.lean_m,
        "lift": held.asked_lift_n, "grip": held.grip_n, "times": held.factor, "method": held.method, "holds": held.holds,
        "deep": held.at.depth_m, "wide": held.at.wide_m, "soil": held.at.soil.words, "wet": held.at.wet, "stands": held.stands,
        "sideOk": held.side_share <= 1, "liftOk": held.lift_share <= 1, "leans": held.leans,
    }  # fmt: skip


def _ends(fence: Fence, plan: Plan) -> list[Json]:
    by_post = {h.post: h for h in plan.holds}
    found = []
    for brace in plan.braces:
        at = brace.end.stations_m[0]
        s = brace.statics
        own = {
            "kind": brace.kind,
            "crossed": brace.end.crossed,
            "shared": brace.end.shared,
            "lay": brace.lay,
            "pull": brace.pull_n,
            "pullAt": brace.pull_height_m,
            "panels": [
                {"level": p.level_m, "out": p.rail_out_m, "in": p.rail_in_m, "wire": p.wire_in_m, "rise": p.rise_m}
                for p in brace.panels
            ],
            "rails": list(s.rail_n or ()),
            "wires": list(s.wire_n),
            "shear": list(s.foot_shear_n or ()),
            "uplift": list(s.uplift_n or ()),
            "because": said(s.because) if s.because else None,
            "cuts": list(brace.rail_cut_m),
        }
        found.append(_end(fence, plan, by_post, at, brace.end.at_start, own, brace_facts(plan.section, brace, False)))
    for strut in plan.struts:
        d, (start, end, deep) = strut.statics, strut.trench_m
        own = {
            "kind": "strut", "pull": strut.pull_n, "pullAt": strut.pull_height_m, "high": strut.height_m, "reach": d.reach_m, "rise": strut.rise_m,
            "tie": strut.tie, "strut": d.strut_n, "tieN": d.tie_n, "shear": [d.foot_shear_n], "uplift": [d.end_post_uplift_n], "angle": d.angle_deg,
            "trench": [start, end, deep], "side": strut.side,
        }  # fmt: skip
        found.append(
            _end(fence, plan, by_post, strut.station_m, strut.at_start, own, strut_facts(plan.section, strut, False))
        )
    for a in plan.anchors:
        if a.pull_n:
            own = {"kind": a.kind, "pull": a.pull_n, "pullAt": a.pull_height_m, "shear": [a.shear_n], "uplift": [a.uplift_n], "head": a.head_m, "reach": a.reach_m, "wireN": a.wire_n}  # fmt: skip
            found.append(_end(fence, plan, by_post, a.station_m, a.at_start, own, anchor_facts(plan.section, a, False)))
    return sorted(found, key=lambda e: (e["at"], e["ahead"]))


def _end(
    fence: Fence, plan: Plan, by_post: dict[int, Holding], at_m: float, ahead: bool, own: Json, facts: list[Fact]
) -> Json:
    post = plan.post_at(at_m)
    assert post is not None  # a run ends on a terminal
    held = by_post.get(post.index)
    ask = fence.bracing(at_m, ahead)
    return {
        "post": post.index,
        "name": tag_name(fence, post.name),
        "role": post.role,
        "at": at_m,
        "ahead": ahead,
        "shared_with": post.shared,
        "depth": post.depth_m,
        "above": post.above_m,
        "wide": post.rule.diameter_m,
        "words": said(KINDS[own["kind"]]),
        "ask": {k: v for k, v in ask.model_dump().items() if v not in (None, "") and k not in ("at_m", "ahead")},
        "held": _holding(held),
        "facts": facts_json([*facts, *(hold_facts(plan, post, held) if held else [])]),
        **own,
    }


def _hole(fence: Fence, h: Hole) -> Json:
    p, t = h.post, h.takes
    return {
        "post": p.index, "name": tag_name(fence, p.name), "at": p.station_m, "role": p.role, "kind": said(p.rule.title), "depth": p.depth_m,
        "planned": p.planned_m, "long": p.length_m, "auger": h.auger_m, "pilot": h.pilot_m, "soil": said(h.soil), "wet": h.wet, "fill": said(h.fill or ("tamped" if h.auger_m else "driven")),
        "spoil": t.hole_m3 if t else 0.0, "round": t.round_m3 if t else 0.0, "lifts": t.lifts if t else 0, "bags": t.bags if t else 0.0,
        "cement": t.cement_kg if t else 0.0, "water": t.water_kg if t else 0.0, "hand": h.by_hand, "frost": h.over_frost,
        "built": _built(p),
    }  # fmt: skip


def _built(post: Post) -> Json | None:
    b = post.built
    if b is None:
        return None
    return {"reached": b.reached_m, "met": b.met, "proud": b.proud_m, "along": b.along_m, "accepted": b.accepted, "cut": b.cut, "pilot": b.pilot_met, "earlier": len(b.earlier)}  # fmt: skip


def _patch(fence: Fence, plan: Plan, p: Patch) -> Json:
    f = filled(fence, p, fence.decisions.shave_m)
    return {
        "low": p.low, "from": p.from_m, "to": p.to_m, "at": p.at_m, "gap": p.gap_m, "beyond": p.beyond_m, "area": p.area_m2,
        "what": f.what, "pieces": f.pieces, "length": f.length_m, "volume": f.volume_m3 if p.low else p.area_m2 * fence.decisions.shave_m, "strands": f.strands,
    }  # fmt: skip


def _dip(fence: Fence, plan: Plan, d: Dip) -> Json:
    outs = [o for o in d.pressed.out if o is not None]
    return {
        "post": d.post.index, "name": tag_name(fence, d.post.name), "at": d.post.station_m, "from": d.from_m, "to": d.to_m, "hangs": d.hangs_m,
        "force": d.pressed.force_n, "start": d.pressed.force_at_start_n, "pull": d.pressed.pull_n, "out": max(outs, default=0.0),
        "curved": bool(outs), "lift": d.held.lift_n,
        "grip": d.held.grip_n, "ok": d.held.holds, "bars": d.bars, "wires": d.wires, "ties": [fence.id + n for n in d.ties],
    }  # fmt: skip


def _bend(fence: Fence, b: Bend) -> Json:
    post = b.post
    return {
        "at": b.at_m, "turn": abs(b.turn_deg), "way": "right" if b.turn_deg > 0 else "left", "side": b.side_n, "how": b.how, "outside": b.outside,
        "post": tag_name(fence, post.name) if post else None, "kind": said(post.rule.title) if post else None, "depth": post.depth_m if post else 0.0,
        "auger": post.rule.hole_m if post else 0.0, "held": _holding(b.held),
    }  # fmt: skip
