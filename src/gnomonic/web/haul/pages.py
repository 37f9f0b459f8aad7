"""What the pages of money share: what stands over them, and what wares are called."""

from collections.abc import Mapping
from decimal import Decimal
from fractions import Fraction
from typing import Any

from fastapi import Request
from fastapi.responses import Response

from gnomonic.core.haul.takeoff import UNIT_KINDS
from gnomonic.core.haul.wares import unit_of, ware, ware_of
from gnomonic.core.tell.needs import named
from gnomonic.core.units import System, format_quantity
from gnomonic.store.jobs import Stored
from gnomonic.web.haul.costed import Costed


def page(
    request: Request, template: str, stored: Stored, units: System, here: str, status: int = 200, **more: Any
) -> Response:
    """A page of a job that is not a drawing of a line, with what stands over all of them."""
    context = {**head_of(request, stored, units, here), **more}
    return request.app.state.templates.TemplateResponse(request, template, context, status_code=status)  # type: ignore[no-any-return]


def head_of(request: Request, stored: Stored, units: System, here: str) -> dict[str, Any]:
    """The head of every page of a job: its name, its units, the line."""
    line = request.query_params.get("line", "")[:3]
    return {
        "job_id": stored.job_id,
        "name": stored.name,
        "units": units,
        "here": here,
        "line": line,
        "error": "",
        "typed": {},
    }


def words_of(job: Costed, units: System) -> dict[str, str]:
    """What wares of a job are called, by key; of what is on hand as it was called there."""
    words = {row.held.item: row.held.what for row in job.books.rows if row.held.what}
    return words | {ware_of(n.need).key: named(n.need).text(units) for n in job.needs}


def called(key: str, words: Mapping[str, str], units: System) -> str:
    """A ware in words; one that is only longer or shorter than one the job needs is called like that."""
    if key in words:
        return words[key]
    of = ware(key)
    alike = next((text for k, text in words.items() if ware(k).family == of.family), "")
    name = (
        alike.partition(",")[0]
        or of.family.partition(".")[2].rpartition(".")[0].replace("-", " ")
        or of.family.replace("-", " ")
    )
    return f"{name}, {format_quantity(of.long_m, 'depth', units)}" if of.long_mm else name


def counted(key: str, amount_of: Fraction | Decimal | float, units: System) -> str:
    """An amount of a ware in its unit."""
    return format_quantity(float(amount_of), UNIT_KINDS[unit_of(key)], units)
