"""Hold: what the barrier must hold or keep out, and the barriers that do it, ranked."""

import json
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import JSONResponse, Response

from gnomonic.core.choose.rank import Candidate, ground_of, rank
from gnomonic.core.demand.animals import Book
from gnomonic.core.demand.demand import Demand, Want, demand_of
from gnomonic.core.demand.judge import AVOID_WORDS, STRENGTH_WORDS, TOP_WORDS, Verdict, below_words
from gnomonic.core.demand.starts import starts_of
from gnomonic.core.demand.system import systems
from gnomonic.core.errors import BadInput
from gnomonic.core.say import Say
from gnomonic.core.snags.hold import verdicts_of
from gnomonic.store import jobs, workspace
from gnomonic.web.draw.section import section_json
from gnomonic.web.draw.words import said
from gnomonic.web.parts import line_page, planned_of, safe
from gnomonic.web.plans import Planned
from gnomonic.web.room import room

router = APIRouter()
SHOWN_EACH = 24


@router.get("/jobs/{job_id}/hold", include_in_schema=False)
def hold_page(request: Request, job_id: str) -> Response:
    """What is to be held, the demands, the ranking."""
    stored, planned = planned_of(request, job_id)
    book = room(request).plans.book()
    hold = safe(json.dumps(hold_json(request, planned), ensure_ascii=False))
    words = safe(json.dumps(words_json(book), ensure_ascii=False))
    return line_page(request, "hold.html", stored, planned, hold=hold, words=words)


@router.get("/api/v1/jobs/{job_id}/hold")
def hold_state(request: Request, job_id: str) -> Response:
    """Demands and ranking of the job as it stands."""
    _, planned = planned_of(request, job_id)
    return JSONResponse(hold_json(request, planned))


def words_json(book: Book) -> dict[str, Any]:
    """Animals, what they may do, and the schools of every system."""
    return {
        "animals": {k: {"title": a.title, "group": a.group, "does": list(a.does)} for k, a in book.animals.items()},
        "behaviours": {k: b.title for k, b in book.behaviours.items()},
        "extras": {
            key: [
                {
                    "key": e.key,
                    "title": said(e.title),
                    "reason": said(e.reason),
                    "strand": e.strands[0].wire if e.strands else "",
                }
                for e in system.extras
            ]
            for key, system in systems().items()
        },
        "schools": {
            key: [
                {
                    "key": school.key,
                    "question": school.question,
                    "ways": [{"key": w.key, "title": said(w.title), "reason": said(w.reason)} for w in school.ways],
                }
                for school in system.schools
            ]
            for key, system in systems().items()
        },
    }


def hold_json(request: Request, planned: Planned) -> dict[str, Any]:
    """What the page shows: the hold as said, the demands, what hangs now, and the ranking."""
    fence, plan = planned.fence, planned.plan
    book = room(request).plans.book()
    answer: dict[str, Any] = {
        "hold": fence.hold.model_dump(mode="json"),
        "barrier": fence.barrier.model_dump(mode="json"),
        "shared": [s.model_dump() for s in fence.shared],
        "closed": fence.line.closed,
        "others": _other_ends(request, planned),
        "refused": "",
    }
    try:
        demand = demand_of(fence.hold, book)
    except BadInput as error:
        return answer | {
            "refused": error.sentence,
            "demands": [],
            "now": [],
            "meets": [],
            "near": [],
            "years": fence.hold.years,
            "meets_count": 0,
            "others_count": 0,
        }
    own = [i.fabric for i in workspace.own_items(room(request).scope) if i.fabric]
    ranking = rank(fence, plan, book, own)
    return answer | {
        "demands": demands_json(demand),
        "now": [verdict_json(v) for v in verdicts_of(fence, plan, demand)],
        "ground": list(ground_of(fence, plan.course, plan.things).is_.values()),
        "meets": [candidate_json(c, demand) for c in ranking.meets[:SHOWN_EACH]],
        "near": [candidate_json(c, demand) for c in ranking.near[:SHOWN_EACH]],
        "years": ranking.years,
        "meets_count": len(ranking.meets),
        "others_count": ranking.others + max(0, len(ranking.near) - SHOWN_EACH),
    }


def _other_ends(request: Request, planned: Planned) -> list[str]:
    """Names of the other lines of the workspace, whose posts an end may stand on."""
    return [name for name in jobs.names(room(request).scope) if name != planned.fence.job.name]


def verdict_json(v: Verdict) -> dict[str, Any]:
    """A verdict for the page."""
    return {
        "title": v.title,
        "ok": v.ok,
        "wanted": said(v.wanted),
        "given": said(v.given),
        "by": v.by,
        "reason": said(v.reason),
        "source": said(v.source),
        "margin": v.margin_m,
    }


def candidate_json(c: Candidate, demand: Demand) -> dict[str, Any]:
    """A ranked barrier for the page."""
    clear = starts_of(demand, c.section)["clearance_m"]
    return {
        "edit": c.edit,
        "section": section_json(c.section, clear),
        "verdicts": [verdict_json(v) for v in c.verdicts],
        "cost": round(c.cost),
        "labour": round(c.labour),
        "life": c.life_years,
        "parts": [[name, round(value)] for name, value in c.parts],
        "work_parts": [[name, round(value)] for name, value in c.work_parts],
        "tools": [said(tool) for tool in c.section.system.tools],
        "notes": [said(n) for n in c.notes],
        "mends": [said(e.title) for e in c.section.extras],
        "misses": [v.title for v in c.misses],
    }


def _want(title: str, text: Say, want: Want) -> dict[str, Any]:
    return {"title": title, "text": said(text), "by": want.by, "reason": said(want.reason), "source": said(want.source)}


def demands_json(demand: Demand) -> list[dict[str, Any]]:
    """Every demand, the strictest of each, with who set it and why."""
    rows = []
    if demand.height:
        rows.append(_want("High", Say("at least {m}", {"m": (demand.height.value, "cut")}), demand.height))
    for b in demand.openings:
        heights = {"m": (b.want.value, "gap"), "a": (b.from_m, "cut"), "b": (b.to_m, "cut")}
        text = "at most {m} up to {b}" if b.from_m < 0.01 else "at most {m} from {a} to {b}"
        rows.append(_want("Openings", Say(text, heights), b.want))
    if demand.gap:
        rows.append(_want("Gap underneath", Say("at most {m}", {"m": (demand.gap.value, "gap")}), demand.gap))
    for s in demand.stuck:
        apart = {"a": (s.low_m, "gap"), "b": (s.high_m, "gap")}
        rows.append(_want("Stays", Say("up to {a} apart, or {b} and more", apart), s.want))
    for below in demand.below:
        rows.append(_want("At the ground", below_words(below.any), below.want))
    if demand.strength:
        words = STRENGTH_WORDS[int(demand.strength.value)].removeprefix("a ")
        rows.append(_want("Strong", Say(f"{words} fabric, or stronger"), demand.strength))
    for top in demand.top:
        rows.append(_want("Top", Say(TOP_WORDS[top.what]), top.want))
    for avoid in demand.avoid:
        words = "no " + AVOID_WORDS[avoid.what].removeprefix("a ")
        rows.append(_want("Not near it", Say(words), avoid.want))
    for side in demand.sides:
        words = "no strut or stay" if side.what == "struts_away" else "no post"
        rows.append(_want("Sides", Say(f"{words} on the {side.side}"), side.want))
    return rows
