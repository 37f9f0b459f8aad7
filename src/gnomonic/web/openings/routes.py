"""Gates and crossings of a line: how each is built, where a gate hangs best, what guides the line posts, what wind does to them."""

import json
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import JSONResponse, Response

from gnomonic.core.choose.siting import best_places, hung_at, sites
from gnomonic.core.demand.catalog import catalog
from gnomonic.core.edits.gates import staked_gates
from gnomonic.core.errors import BadInput
from gnomonic.core.finish.cable import cables
from gnomonic.core.finish.crossing import flaps
from gnomonic.core.finish.gates import gate_kinds, uses
from gnomonic.core.finish.hanging import GIVE_M, HungGate, Turn
from gnomonic.core.job.fence import Fence
from gnomonic.core.plan.crossings import OverWater, Water
from gnomonic.core.plan.identity import tag_name
from gnomonic.core.plan.model import Plan
from gnomonic.core.plan.wind import faces, wind_on
from gnomonic.core.setout.guide import Side, head_line, sides_of
from gnomonic.core.tell.openings import crossing_facts, crossing_order, gate_facts, gate_order, way_words, wind_said
from gnomonic.web.draw.words import facts_json, mm, said
from gnomonic.web.parts import Station, line_page, planned_of, safe
from gnomonic.web.plans import Planned

router = APIRouter()
Json = dict[str, Any]
WIDE_M = 4.0  # ground shown beside a gate
DRAWN = 160  # points of the channel that are drawn


@router.get("/jobs/{job_id}/openings", include_in_schema=False)
def openings_page(request: Request, job_id: str) -> Response:
    """Gates and crossings of a line."""
    stored, planned = planned_of(request, job_id)
    made = safe(json.dumps(openings_json(planned), ensure_ascii=False))
    return line_page(request, "openings.html", stored, planned, openings=made)


@router.get("/api/v1/jobs/{job_id}/openings")
def openings(request: Request, job_id: str) -> Response:
    """A line's gates, crossings, guide wires and what wind does to it."""
    return JSONResponse(openings_json(planned_of(request, job_id)[1]))


@router.get("/api/v1/jobs/{job_id}/siting")
def siting(request: Request, job_id: str, gate: str, low: float, high: float) -> Response:
    """A gate slid along a stretch: the ground's judgement everywhere, and the best places planned."""
    _, it = planned_of(request, job_id)
    hung = gate_of(it.plan, gate)
    found = sites(it.fence, it.plan, hung, low, high)
    places = best_places(it.fence, it.plan, hung, found)
    return JSONResponse(
        {
            "at": [mm(v) for v in found.at_m.tolist()],
            "gap": [mm(v) for v in found.gap_m.tolist()],
            "bottom": [mm(v) for v in found.bottom_m.tolist()],
            "out": list(found.ruled_out),
            "most": hung.most_gap_m,
            "places": [
                {"at": p.gate.at_m, "gap": p.gate.turn.gap_m, "bottom": p.gate.turn.worst.bottom_m, "words": way_words(p.gate), "posts": p.posts, "cost": round(p.cost, 2), "here": k == 0}
                for k, p in enumerate(places)
            ],
        }
    )  # fmt: skip


@router.get("/api/v1/jobs/{job_id}/swing")
def swing_at(request: Request, job_id: str, gate: str, at: Station) -> Response:
    """A gate as it would hang from another station: its drawing and its facts, nothing saved."""
    _, it = planned_of(request, job_id)
    return JSONResponse(gate_json(it.fence, it.plan, hung_at(it.fence, it.plan, gate_of(it.plan, gate), at)))


def gate_of(plan: Plan, gate_id: str) -> HungGate:
    """A gate of a line.  Raises BadInput (``gate``)."""
    found = next((g for g in plan.gates if g.id == gate_id), None)
    if found is None:
        raise BadInput("gate", f"there is no gate {gate_id[:24]} on this line")
    return found


def openings_json(it: Planned) -> Json:
    """Everything the page shows, in SI."""
    fence, plan = it.fence, it.plan
    return {
        "gates": [gate_json(fence, plan, g) for g in plan.gates],
        "kinds": [{"key": k, "title": said(g.title), "reason": said(g.reason), "sold": list(g.leaves_m), "leaves": g.leaves} for k, g in gate_kinds().items()],
        "uses": [{"key": k, "title": said(u.title), "clear": u.clear_m, "reason": said(u.reason)} for k, u in uses().items()],
        "crossings": [crossing_json(fence, plan, c) for c in plan.crossings],
        "waters": [_water_json(w) for w in plan.waters if w.why],
        "flaps": [{"key": k, "title": said(f.title), "reason": said(f.reason)} for k, f in flaps().items()],
        "cables": [{"key": k, "title": said(c.title)} for k, c in cables().items()],
        "guides": _guides(fence, plan),
        "wind": _wind(fence, plan),
        "length": plan.course.length_m,
        "staked": sum(map(staked_gates, fence.job.lines)),
    }  # fmt: skip


def _turn(turn: Turn, most: float) -> Json:
    return {
        "hinge": turn.hinge, "side": turn.side, "lie": turn.lie, "gap": turn.gap_m, "ok": turn.gap_m <= most + GIVE_M,
        "leaves": [
            {"bottom": s.bottom_m, "slope": s.slope, "highest": s.highest_m, "deg": round(s.at_rad * 57.29578, 1), "along": s.at_m, "tip": s.tip_gap_m, "gapAt": s.gap_at_m,
             "angles": [round(a * 57.29578, 1) for a in s.angles_rad[::5].tolist()], "tips": [mm(v) for v in s.tips_m[::5].tolist()]}
            for s in turn.swings
        ],
    }  # fmt: skip


def gate_json(fence: Fence, plan: Plan, gate: HungGate) -> Json:
    """A gate as it is drawn and told."""
    line = plan.course
    low, high = max(0.0, gate.at_m - WIDE_M), min(line.length_m, gate.end_m + WIDE_M)
    stations = sorted({low, high, gate.at_m, gate.end_m, *line.profile.breaks_between(low, high).tolist()})
    posts = [plan.post_at(at) for at in (gate.at_m, gate.end_m)]
    counts = gate.kind.counts(gate.high_m)
    places = [line.place(s) for s in stations]
    return {
        "id": gate.id,
        "name": gate.name,
        "at": gate.at_m,
        "end": gate.end_m,
        "kind": gate.key,
        "own": gate.gate.kind,
        "title": said(gate.kind.title),
        "draw": gate.kind.draw,
        "leaf": gate.leaf_m,
        "high": gate.high_m,
        "leaves": gate.kind.leaves,
        "stacked": gate.kind.stacked,
        "rails": gate.kind.rails(gate.high_m),
        "clear": gate.clear_m,
        "posts": [
            {"name": tag_name(fence, p.name), "at": p.station_m, "wide": p.rule.diameter_m, "above": p.above_m, "depth": p.depth_m, "title": said(p.rule.title)}
            for p in posts
            if p is not None
        ],
        "hingeGap": gate.kind.hinge_gap_m,
        "pins": list(gate.hinges_m) if gate.kind.leaves else [],
        "made": gate.made,
        "measured": gate.gate.measured,
        "fits": gate.fits_m,
        "most": gate.most_gap_m,
        "say": {"hinge": gate.gate.hinge, "side": gate.gate.side, "lie": gate.gate.lie, "open": gate.gate.open_deg, "rise": gate.gate.rise_left},
        "across": gate.across[0],
        "known": gate.across[1],
        "words": way_words(gate),
        "turn": _turn(gate.turn, gate.most_gap_m),
        "turns": [_turn(t, gate.most_gap_m) for t in gate.turns],
        "ground": [[mm(s), mm(z)] for s, z in zip(stations, line.profile.at(line.stations_m[:1] * 0 + stations).tolist(), strict=True)],
        "way": [[mm(e), mm(n)] for e, n in places],
        "facts": facts_json(gate_facts(plan, gate)),
        "order": [said(s) for s in gate_order(plan, gate)],
        "hardware": [{"title": said(catalog()[h.item].title), "count": counts[h.item], "way": said(h.way)} for h in gate.kind.hardware],
    }  # fmt: skip


def crossing_json(fence: Fence, plan: Plan, over: OverWater) -> Json:
    """A crossing as it is drawn and told."""
    own = next((a for a in fence.own.crossings if over.at_m <= a.at_m <= over.to_m), None)
    c = over.built
    step = max(1, len(c.section.stations_m) // DRAWN)
    stations, bed = c.section.stations_m[::step].tolist(), c.section.bed_m[::step].tolist()
    rope = c.section.rope_m(c.sag_m)[::step].tolist()
    posts = [plan.post_at(at) for at in (over.at_m, over.to_m)]
    outside = [max(0.0, over.at_m - WIDE_M), min(plan.course.length_m, over.to_m + WIDE_M)]
    beyond = [
        sorted({outside[0], over.at_m, *plan.course.profile.breaks_between(outside[0], over.at_m).tolist()}),
        sorted({over.to_m, outside[1], *plan.course.profile.breaks_between(over.to_m, outside[1]).tolist()}),
    ]
    return {
        "name": over.name,
        "at": over.at_m,
        "to": over.to_m,
        "middle": over.middle_m,
        "channels": over.channels,
        "bed": [[mm(s), mm(z)] for s, z in zip(stations, bed, strict=True)],
        "banks": [[[mm(s), mm(z)] for s, z in zip(row, plan.course.profile.at(plan.course.stations_m[:1] * 0 + row).tolist(), strict=True)] for row in beyond],
        "rope": [[mm(s), mm(z)] for s, z in zip(stations, rope, strict=True)],
        "under": c.rules.under_m,
        "pitch": c.flap.pitch_m,
        "flap": c.flap_key,
        "cable": c.cable_key,
        "flood": c.flood_m,
        "level": c.section.lowest_m + c.flood_m,
        "speed": c.speed_m_s,
        "sag": c.sag_m / c.section.span_m,
        "said": c.flood_said,
        "ok": c.rest_holds and c.fails_first and not c.over_posts,
        "heavy": c.heavy,
        "ask": {"flap": own.flap if own else "", "cable": own.cable if own else ""},
        "posts": [{"at": p.station_m, "wide": p.rule.diameter_m, "above": p.above_m, "depth": p.depth_m, "ground": p.ground_m} for p in posts if p is not None],
        "facts": facts_json(crossing_facts(plan, over)),
        "order": [said(s) for s in crossing_order(plan, over)],
    }  # fmt: skip


def _water_json(water: Water) -> Json:
    return {
        "name": water.name,
        "from": water.from_m,
        "to": water.to_m,
        "at": water.at_m,
        "why": water.why,
        "most": water.most_m,
    }


def _guides(fence: Fence, plan: Plan) -> Json:
    rule, profile = plan.system.rule, plan.course.profile
    sides = sides_of(plan.course, rule("guide_high_m"), rule("noticed_turn_deg"))
    heads = []
    for run in plan.runs:
        low, high = run.start.station_m, run.end.station_m
        own = [p for p in plan.posts if low - 1e-6 <= p.station_m <= high + 1e-6]
        if len(own) < 3:
            continue
        nodes, off = head_line(
            [p.station_m for p in own], [p.ground_m + p.above_m for p in own], rule("top_line_give_m")
        )
        heads.append(
            {
                "run": run.index + 1,
                "posts": [{"name": tag_name(fence, p.name), "at": p.station_m, "head": p.above_m + o, "off": o, "node": k in nodes, "depth": p.depth_m - o} for k, (p, o) in enumerate(zip(own, off, strict=True))],
            }
        )  # fmt: skip
    return {
        "high": rule("guide_high_m"),
        "tolerance": rule("top_line_m"),
        "give": rule("top_line_give_m"),
        "holed": any("hole" in t or "pilot" in t for t in plan.system.tools)
        or plan.system.key in ("concrete", "multiwire", "orchard"),
        "offsets": _offsets(plan),
        "railed": plan.section.railed,
        "sides": [_side(profile, s, plan) for s in sides],
        "heads": heads,
    }


def _side(profile: Any, side: Side, plan: Plan) -> Json:
    inside = [p for p in plan.posts if side.from_m + 0.01 < p.station_m < side.to_m - 0.01 and not p.fixed]
    over = [side.over_m(profile, p.station_m) for p in inside]
    return {
        "from": side.from_m, "to": side.to_m, "long": side.length_m, "least": side.least_m, "most": side.most_m, "sights": [list(s) for s in side.sights], "posts": len(inside),
        "over": [[p.station_m, mm(h)] for p, h in zip(inside, over, strict=True)],
        "held": [list(h) for h in side.held_m],
    }  # fmt: skip


def _offsets(plan: Plan) -> list[Json]:
    """How far each kind of line post stands off a string along the terminals' faces, for all to share a centreline."""
    terminal = plan.section.posts["terminal"]
    kinds = {p.kind: p.rule for p in plan.posts if not p.fixed}
    return [
        {
            "title": said(r.title),
            "wide": r.diameter_m,
            "terminal": terminal.diameter_m,
            "off": (terminal.diameter_m - r.diameter_m) / 2,
        }
        for r in kinds.values()
    ]


def _wind(fence: Fence, plan: Plan) -> Json:
    rows = wind_on(fence, plan)
    return {
        "speed": fence.decisions.wind_m_s,
        "factor": plan.system.rule("wind_factor"),
        "top": plan.fence_height_m,
        "foot": fence.decisions.clearance_m,
        "faces": [{"case": f.case, "push": f.push_n_m, "at": f.at_m + fence.decisions.clearance_m, "share": f.solidity, "speed": f.speed_m_s} for f in faces(plan.section, fence.decisions.wind_m_s, fence.decisions.clearance_m)],
        "rows": [
            {"high": b.at_m, "push": b.push_n, "need": b.push_n * b.factor, "has": min(b.has_n, b.stands_n or b.has_n), "above": b.post.above_m, "wide": b.post.rule.diameter_m, "name": tag_name(fence, b.post.name), "at": b.post.station_m, "kind": said(b.post.rule.title), "soil": b.at.soil.words + (", wet" if b.at.wet else ""), "depth": b.post.depth_m, "share": min(b.share, 99.0), "ok": b.holds, "bent": bool(b.stands_n), "words": said(wind_said(fence, b))}
            for b in rows
        ],
    }  # fmt: skip
