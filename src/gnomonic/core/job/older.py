"""Documents of earlier forms, brought to the form of today.  Plain data in, plain data out: never changed again once released."""

from typing import Any


def from_1(data: dict[str, Any]) -> dict[str, Any]:
    """gnomonic-job/1, one line a job, as gnomonic-job/2 with that line in it.

    What was found along a shape and the marking belong to the job now, the frame too; offcuts are of the fabric that
    hung.  A key that form did not have is kept with the line, where it is refused by name.
    """
    rest = dict(data)
    rest.pop("format", None)
    name, measured = rest.pop("name", None), rest.pop("line", None)
    frame = None
    if isinstance(measured, dict):
        measured = dict(measured)
        frame = measured.pop("frame", None)
    found = rest.pop("found", [])
    offcuts, marking = rest.pop("offcuts_m", []), rest.pop("marking", None)
    if isinstance(marking, dict) and "route" in marking:
        marking = {**{k: v for k, v in marking.items() if k != "route"}, "routes": [marking["route"]]}
    on_map = [f for f in found if isinstance(f, dict) and f.get("shape")] if isinstance(found, list) else []
    at_stations = [f for f in found if f not in on_map] if isinstance(found, list) else found
    barrier = rest.get("barrier")
    label = barrier.get("label", "9-49-6") if isinstance(barrier, dict) else "9-49-6"
    line = {"id": "A", "name": name, "measured": measured, **rest, "found": at_stations}
    made: dict[str, Any] = {
        "format": "gnomonic-job/2",
        "name": name,
        "lines": [{k: v for k, v in line.items() if v is not None}],
        "found": on_map,
        "marking": marking,
        "stock": {
            "offcuts": [{"label": label, "length_m": m} for m in offcuts] if isinstance(offcuts, list) else offcuts
        },
    }
    if name is None:
        del made["name"]
    if frame is not None:
        made["frame"] = frame
    return made


def where_in_1(path: str) -> str:
    """A field of the brought-up document by its name in gnomonic-job/1."""
    path = path.replace("lines[0].measured", "line").removeprefix("lines[0].")
    path = f"line.{path}" if path.startswith("frame") else path
    return path.replace("stock.offcuts", "offcuts_m") if path.startswith("stock") else path
