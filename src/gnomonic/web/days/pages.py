"""What the pages of days share: what stands over them, and which day is meant."""

from datetime import date
from typing import Any

from fastapi import Request
from fastapi.responses import Response

from gnomonic.core.errors import BadInput
from gnomonic.core.units import System
from gnomonic.web.days.board import days_of
from gnomonic.web.days.current import Current

Json = dict[str, Any]


def head(request: Request, now: Current, units: System, here: str, **more: Any) -> Json:
    """What stands over every page of days."""
    line = request.query_params.get("line", "")[:3]
    return {
        "job_id": now.stored.job_id, "name": now.stored.name, "units": units, "here": here, "line": line if line in now.given.job.plan.lines else "",
        "error": now.refused, "more_asked": "", "typed": {}, **more,
    }  # fmt: skip


def show(request: Request, template: str, context: Json, status: int = 200) -> Response:
    """A page of days."""
    return request.app.state.templates.TemplateResponse(request, template, context, status_code=status)  # type: ignore[no-any-return]


def day_of(text: str, now: Current) -> date:
    """The day asked for; today, or the first on which something is done after it."""
    if text:
        try:
            return date.fromisoformat(text)
        except ValueError:
            raise BadInput("day", f"“{text[:20]}” is not a day: write it like 2026-03-21") from None
    worked, today = days_of(now.made) if now.made else [], now.given.now.date()
    return next((d for d in worked if d >= today), worked[-1] if worked else today)
