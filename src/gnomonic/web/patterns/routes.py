"""Every pattern of the interface once, with all its states; served in demo mode only."""

import json
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import Response

from gnomonic.core.edits.all import apply, read_edit
from gnomonic.core.snags.all import snags
from gnomonic.core.tell.tag import post_tag
from gnomonic.web.draw.lanes import steps_json, take_off_json
from gnomonic.web.draw.words import tag_json
from gnomonic.web.home import sample
from gnomonic.web.home.summary import summary
from gnomonic.web.parts import safe
from gnomonic.web.plans import decision_words, fabric_labels
from gnomonic.web.room import room
from gnomonic.web.stand.routes import stand_json

router = APIRouter()


def _end(request: Request, kind: str) -> dict[str, Any]:
    """The sample's first end, held one way."""
    held = apply(sample.job(), read_edit({"do": "brace_end", "kind": kind, "at_m": 0.0}))
    it = room(request).plans.make(f"patterns-{kind}", held).line()
    return {**stand_json(it)["ends"][0], "high": it.plan.fence_height_m}


@router.get("/patterns", include_in_schema=False)
def patterns(request: Request) -> Response:
    """The sample line, drawn by the same modules as everywhere."""
    plans = room(request).plans
    job = plans.make("patterns", sample.job())
    it = job.line()
    found = snags(it.fence, it.plan, job.today)
    data = {
        "drawing": json.loads(it.drawing),
        "lines": json.loads(job.ground()),
        "tag": tag_json(post_tag(it.fence, it.plan, min(5, len(it.plan.posts) - 1))),
        "steps": steps_json(it.fence, it.plan)["steps"],
        "needs": take_off_json(job.job, job.plan),
        "words": {"decisions": decision_words(), "fabrics": fabric_labels()},
        "card": summary(job),
        "snags": len(found),
        "ends": {kind: _end(request, kind) for kind in ("h", "strut", "deadman", "none")},
    }
    context = {"data": safe(json.dumps(data, ensure_ascii=False))}
    return request.app.state.templates.TemplateResponse(request, "patterns.html", context)  # type: ignore[no-any-return]
