"""The log going out: CSV, GeoJSON (RFC 7946) and XLSX, one row an event that stands or was taken back, everything as it was written."""

import json
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from gnomonic.core.job.parts import Frame
from gnomonic.core.log.events import Kept
from gnomonic.formats.cells import write_rows
from gnomonic.formats.frame import to_world
from gnomonic.formats.workbook import sheet_xlsx

COLUMNS = (
    "when (UTC)", "line", "post", "station (m)", "kind", "in words", "author", "signed in as", "depth (m)", "met", "plumb", "moved along (m)", "gap (m)", "clear (m)", "curve left top", "curve left bottom",
    "force (N)", "temperature (°C)", "found", "note", "stands", "device", "device clock", "put right by (s)", "id",
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class LogRow:
    """An event with its words, and whether it ``stands``: yes | earlier | taken back."""

    kept: Kept
    words: str
    stands: str


def _cells(row: LogRow) -> dict[str, str]:
    e, k = row.kept.event, row.kept

    def number(value: float | None) -> str:
        return "" if value is None else f"{value:.6g}"

    values = (
        k.order[0].isoformat(timespec="seconds").replace("+00:00", "Z"), e.line, e.post, number(e.at_m if e.post else None), e.kind, row.words, e.author, k.by, number(e.reached_m), e.met or "",
        "" if e.plumb is None else "yes" if e.plumb else "no", number(e.along_m), number(e.gap_m), number(e.clear_m), number(e.left_top), number(e.left_bottom), number(e.force_n), number(e.temp_c),
        e.what or "", e.note, row.stands, e.device, e.clock.isoformat(), number(k.offset.total_seconds()), e.id,
    )  # fmt: skip
    return dict(zip(COLUMNS, values, strict=True))


def log_csv(rows: Sequence[LogRow]) -> bytes:
    """A table; cells that a spreadsheet would run as a formula are marked as words."""
    return write_rows(COLUMNS, [_cells(r) for r in rows])


def log_xlsx(title: str, rows: Sequence[LogRow]) -> bytes:
    """A workbook of the same table."""
    return sheet_xlsx(
        title, COLUMNS, [list(_cells(r).values()) for r in rows], numbers=(3, 8, 11, 12, 13, 14, 15, 16, 17, 23)
    )


def log_geojson(rows: Sequence[LogRow], frame: Frame) -> bytes:
    """Points where each event was, in degrees; without a place (null geometry) where the job is in metres of its own or the event has none."""
    features = []
    for row in rows:
        e = row.kept.event
        place = None
        if frame.kind != "local" and e.e_m is not None and e.n_m is not None:
            lon, lat = to_world(frame, np.array([e.e_m]), np.array([e.n_m]))
            place = {"type": "Point", "coordinates": [round(float(lon[0]), 7), round(float(lat[0]), 7)]}
        properties = {k: v for k, v in _cells(row).items() if v}
        features.append({"type": "Feature", "id": e.id, "geometry": place, "properties": properties})
    return (json.dumps({"type": "FeatureCollection", "features": features}, ensure_ascii=False) + "\n").encode()
