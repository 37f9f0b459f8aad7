"""The days to come as they go to the field: the same boards the day sheets are printed from, in both systems of units."""

from datetime import UTC, datetime
from typing import Any, get_args

from fastapi import APIRouter, Request
from fastapi.responses import JSONResponse, Response

from gnomonic.core.units import System
from gnomonic.web.days.board import Board, ahead
from gnomonic.web.days.current import current
from gnomonic.web.room import room

router = APIRouter()
MOST_DAYS = 10  # a phone that is out longer hears of the plan again
OF_BOARD = ("title", "sun", "weather", "rows", "cautions", "load", "wearing", "people")
OF_ROW = ("at", "what", "line", "line_name", "side", "amount", "who", "long", "plant", "part", "alone", "done", "text")


@router.get("/api/v1/jobs/{job_id}/field/days")
def day_sheets(request: Request, job_id: str) -> Response:
    """The next days on which something is planned, as they stand now; ``planned`` is false before the job has a beginning."""
    here = room(request)
    now = current(here, job_id)
    body: dict[str, Any] = {
        "at": datetime.now(UTC).isoformat(), "planned": now.made is not None, "refused": now.refused, "practice": here.skies.is_practice,
        **{system: [_sheet(b) for b in ahead(now.given, now.made, system, MOST_DAYS)] for system in get_args(System)},
    }  # fmt: skip
    return JSONResponse(body, headers={"Cache-Control": "no-store"})


def _sheet(board: Board) -> dict[str, Any]:
    sheet = {key: getattr(board, key) for key in OF_BOARD}
    return sheet | {"day": board.day.isoformat(), "rows": [{k: row[k] for k in OF_ROW} for row in board.rows]}
