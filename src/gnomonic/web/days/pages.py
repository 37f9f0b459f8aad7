"""What the pages of days share: what stands over them, and which day is meant."""

from datetime import date
from typing import Any

from fastapi import Request
from fastapi.responses import Response

from gnomonic.core.errors import BadInput
from gnomonic.core.units import System
from gnomonic.web.days.board import days_of
from gnomonic.web.days.current import Current
from gnomonic.web.haul.pages import page
from gnomonic.web.parts import line_asked


def show(
    request: Request, now: Current, units: System, here: str, template: str, status: int = 200, **more: Any
) -> Response:
    """A page of days, with what stands over all of them, and why there is no plan where none can be made."""
    return page(
        request,
        template,
        now.stored,
        units,
        here,
        status,
        **{"error": now.refused, "line": line_of(request, now), **more},
    )


def line_of(request: Request, now: Current) -> str:
    """The letter of the line that is asked for; empty for all of them."""
    line = line_asked(request)
    return line if line in now.given.job.plan.lines else ""


def day_of(text: str, now: Current) -> date:
    """The day asked for; today, or the first on which something is done after it."""
    if text:
        try:
            return date.fromisoformat(text)
        except ValueError:
            raise BadInput("day", f"“{text[:20]}” is not a day: write it like 2026-03-21") from None
    worked, today = days_of(now.made) if now.made else [], now.given.now.date()
    return next((d for d in worked if d >= today), worked[-1] if worked else today)
