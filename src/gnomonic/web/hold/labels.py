"""The label reader: what is printed on a roll, in words, drawn to scale, and which demands it meets."""

import json
from typing import Annotated, Any

from fastapi import APIRouter, Form, Request
from fastapi.responses import RedirectResponse, Response

from gnomonic.core.calc.wire import explain_label
from gnomonic.core.demand.animals import Book
from gnomonic.core.demand.by_label import hang_said
from gnomonic.core.errors import BadInput
from gnomonic.core.fabric.counter import Unclear, read_roll
from gnomonic.core.job.parts import Hold, Presence
from gnomonic.web.parts import change_job, planned_of, safe
from gnomonic.web.room import room

router = APIRouter()
EXAMPLES = ("9-49-6", "949-6", "1348-12", "13-48-4 fixed knot 12½/12½ 330 ft", "12½/14½", "48-11-2", "20-96-6")


@router.get("/labels", include_in_schema=False)
def labels_page(
    request: Request, label: str = "9-49-6", animal: str = "sheep", job: str = "", units: str = "us"
) -> Response:
    """Read a label, and hold it against an animal, or against what a job must hold."""
    book: Book = room(request).plans.book()
    context: dict[str, Any] = {
        "label": label,
        "animal": animal,
        "for": book.animals[animal].title if animal in book.animals else "",
        "job": "",
        "animals": {k: a.title for k, a in book.animals.items()},
        "examples": EXAMPLES,
        "units": units,
        "error": "",
        "offers": (),
        "read": None,
        "drawn": "null",
    }
    status = 200
    hold = Hold(animals=(Presence(animal=animal[:31], side="left"),)) if animal in book.animals else Hold()
    bay_m = None
    if job:
        stored, planned = planned_of(request, job)
        context |= {"job": job, "for": stored.name}
        hold, bay_m = planned.fence.hold, planned.fence.decisions.longest_bay_m
    try:
        if animal not in book.animals:
            raise BadInput("animal", f"there is no “{animal[:40]}” in the rule book")
        if not label.strip() or len(label) > 80:
            raise BadInput("label", "write what is printed on the label, like 9-49-6 or 48-11-2")
        read = explain_label(label, hold, book, bay_m, "metric" if units == "metric" else "us")
        context |= {"read": read, "drawn": safe(json.dumps(read.get("drawn"), ensure_ascii=False))}
    except BadInput as error:
        context["error"] = error.sentence[:1].upper() + error.sentence[1:]
        context["offers"] = error.offers if isinstance(error, Unclear) else ()
        status = 422
    return request.app.state.templates.TemplateResponse(request, "labels.html", context, status_code=status)  # type: ignore[no-any-return]


@router.post("/labels/hang", include_in_schema=False)
def hang(request: Request, job: Annotated[str, Form()], label: Annotated[str, Form(max_length=80)]) -> Response:
    """Hang what was read on the job it was read for."""
    stored, planned = planned_of(request, job)
    change_job(request, job, stored.version, hang_said(read_roll(label), planned.fence.barrier))
    return RedirectResponse(f"/jobs/{job}/hold", 303)
