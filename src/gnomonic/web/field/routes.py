"""The field pages: one application that opens without a signal; what it is given, and issues of a plan."""

import hashlib
import json
from functools import lru_cache
from pathlib import Path
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import JSONResponse, RedirectResponse, Response

from gnomonic.core.limits import PHOTO_SIDE
from gnomonic.core.log.events import MORE_GAP_M, SAME_DEPTH_M
from gnomonic.core.log.kinds import bounds_for_the_phone, for_the_phone
from gnomonic.core.log.safety import cards, rule, toolbox
from gnomonic.core.log.upkeep import repairs, rounds
from gnomonic.store import days, field, jobs, people
from gnomonic.store.jobs import Stored
from gnomonic.web.field.pack import changed, pack, packed
from gnomonic.web.parts import planned_job
from gnomonic.web.plans import PlannedJob
from gnomonic.web.room import Room, room

router = APIRouter()
HERE = Path(__file__).parent
# what the application is made of, kept on the phone; a test sees that nothing it loads is missing here
PARTS = (
    "static/mark.svg", "static/tokens.css", "static/vendor/atkinson/atkinson-hyperlegible-next-latin-wght-normal.woff2", "static/vendor/idb/idb.js", "static/units.js",
    "static/theme.js", "field/field.css", "field/app.js", "field/keep.js", "field/fold.js", "field/sync.js", "field/turn.js", "field/draw.js", "field/ui.js", "field/more.js", "field/cards.js", "field/safety.js", "field/place.js", "field/day.js", "field/photos.js", "field/hand.js",
    "field/icon-192.png", "field/icon-512.png",
)  # fmt: skip


@router.get("/field", include_in_schema=False)
def without_end(request: Request) -> Response:
    """To the application."""
    return RedirectResponse("/field/", 307)


@router.get("/field/", include_in_schema=False)
def application(request: Request) -> Response:
    """The application: the same for everybody, nothing of anybody in it."""
    answer: Response = request.app.state.templates.TemplateResponse(request, "field.html", {"trade": _trade()})
    answer.headers["Cache-Control"] = "no-cache"
    return answer


@router.get("/field/worker.js", include_in_schema=False)
def worker(request: Request) -> Response:
    """What keeps the application on the phone."""
    asset = request.app.state.templates.env.globals["asset"]
    parts = ["/field/", "/field/manifest.webmanifest", *(asset(part) for part in PARTS)]
    mark = hashlib.sha256(("".join(parts) + _trade() + (HERE / "field.html").read_text("utf8")).encode()).hexdigest()[
        :12
    ]
    text = (HERE / "worker.js").read_text("utf8").replace('"PARTS"', json.dumps(parts)).replace("MARK", mark)
    return Response(text, media_type="text/javascript", headers={"Cache-Control": "no-cache"})


@router.get("/field/manifest.webmanifest", include_in_schema=False)
def manifest(request: Request) -> Response:
    """What a phone calls the application when it is put on its first page."""
    asset = request.app.state.templates.env.globals["asset"]
    icons = [
        {"src": asset(f"field/icon-{size}.png"), "sizes": f"{size}x{size}", "type": "image/png", "purpose": "any"}
        for size in (192, 512)
    ]
    body = {
        "name": "Gnomonic in the field", "short_name": "Gnomonic", "start_url": "/field/", "scope": "/field/", "display": "standalone", "background_color": "#fffdf6",
        "theme_color": "#22302f", "icons": icons,
    }  # fmt: skip
    return Response(json.dumps(body), media_type="application/manifest+json", headers={"Cache-Control": "no-cache"})


@lru_cache(maxsize=1)
def _trade() -> str:
    """Kinds of events, cards, rules, repairs and rounds as the application has them."""

    def rows(table: Any, *keys: str) -> dict[str, dict[str, Any]]:
        return {name: {k: getattr(row, k) for k in keys} for name, row in table.items()}

    body = {
        "kinds": for_the_phone(),
        "bounds": bounds_for_the_phone(),
        "cards": rows(cards(), "title", "first", "call"),
        "toolbox": [t.text for t in toolbox()],
        "rules": {
            **{k: rule(k) for k in ("near", "stand_off", "override", "boot_toe")},
            "more_gap": MORE_GAP_M,
            "same_depth": SAME_DEPTH_M,
            "photo_side": PHOTO_SIDE,
        },
        "repairs": rows(repairs(), "title", "minutes", "hands", "needs", "steps", "material", "caution"),
        "rounds": rows(rounds(), "title", "look", "water"),
    }
    return json.dumps(body, ensure_ascii=False).replace("<", "\\u003c")


@router.get("/api/v1/field")
def offered(request: Request) -> Response:
    """Jobs that may be taken to the field, with the number of their last issue, and who works here."""
    scope = room(request).scope
    numbers = field.last_issues(scope)
    rows = [{"id": r.job_id, "name": r.name, "issue": numbers.get(r.job_id, 0)} for r in jobs.listed(scope, "", 0, 200)]
    crew = days.crew(scope)
    names = [m.name for m in people.members(scope) if m.left_at is None] + (
        [p.name for p in crew.people] if crew else []
    )
    return JSONResponse({"jobs": rows, "people": list(dict.fromkeys(names))}, headers={"Cache-Control": "no-store"})


@router.get("/api/v1/jobs/{job_id}/field")
def taken(request: Request, job_id: str) -> Response:
    """A job as it goes to the field: its last issue as it was given out; before the first one the plan as it stands, as issue 0."""
    here = room(request)
    stored = jobs.glance(here.scope, job_id)
    number = field.last_issues(here.scope).get(job_id, 0)
    body = field.pack(here.scope, job_id, number) if number else packed(pack(planned_job(request, stored), job_id))
    return Response(
        f'{{"issue":{number},"pack":{body}}}', media_type="application/json", headers={"Cache-Control": "no-store"}
    )


def give_out(here: Room, stored: Stored, job: PlannedJob) -> None:
    """Give a plan out as the next issue, with what it changes against the one before."""
    before = field.issues(here.scope, stored.job_id)
    old = json.loads(field.pack(here.scope, stored.job_id, before[0].number)) if before else None
    words = changed(old, job) or "no post; braces, gates or what hangs"
    field.give_out(here.scope, stored.job_id, stored.version, stored.events, words, packed(pack(job, stored.job_id)))


@router.post("/jobs/{job_id}/issues", include_in_schema=False)
def issue(request: Request, job_id: str) -> Response:
    """The planner's yes: the plan as it stands, with what the log says of the ground, goes to the crew."""
    stored = jobs.glance(room(request).scope, job_id)
    give_out(room(request), stored, planned_job(request, stored))
    return RedirectResponse(f"/jobs/{job_id}/log", 303)
