"""The catalog as CSV: a row an item, every measure written with its unit."""

import re
from collections.abc import Sequence
from datetime import date

from pydantic import ValidationError

from gnomonic.core.demand.catalog import OwnItem, catalog
from gnomonic.core.errors import BadInput
from gnomonic.core.fabric.fabrics import Fabric, fabrics
from gnomonic.core.fabric.label import read_label
from gnomonic.core.limits import MOST_OWN_ITEMS
from gnomonic.core.units import INCH_M, number, parse_length_m, plain_fractions
from gnomonic.formats.cells import write_rows
from gnomonic.formats.table_csv import at, must_have, read_table

COLUMNS = (
    "key",
    "title",
    "group",
    "unit",
    "length",
    "width",
    "diameter",
    "mass",
    "strength",
    "index",
    "wires",
    "gauges",
    "roll",
)
NEEDED = ("key", "title", "group", "index")
LENGTHS = ("length", "width", "diameter", "roll")
MASS_KG = {"kg": 1.0, "g": 0.001, "lb": 0.45359237}
FORCE_N = {"n": 1.0, "kn": 1000.0, "lb": 4.4482216152605, "lbf": 4.4482216152605}


def shipped_items() -> list[OwnItem]:
    """What is shipped, in the form of own items."""
    items = [
        OwnItem(key=key, **row.model_dump(exclude={"reason", "source", "checked"})) for key, row in catalog().items()
    ]
    for f in fabrics().values():
        words = f"{f.kind} fabric" if f.kind == "woven" else f.kind
        items.append(
            OwnItem(
                key=f.label, title=words, group="fabric", unit="m", width_m=f.height_m, mass_kg=f.mass_kg_m, index=f.index,
                fabric=f,
            )
        )  # fmt: skip
    return items


def write_catalog(items: Sequence[OwnItem]) -> bytes:
    """Items as CSV, SI with the unit in the cell; a cell a spreadsheet would run is quoted with an apostrophe."""
    rows = []
    for i in items:
        lengths = {"length": i.length_m, "width": i.width_m, "diameter": i.diameter_m}
        row = {"key": i.key, "title": i.title, "group": i.group, "unit": i.unit, "index": f"{i.index:g}"}
        row |= {name: f"{m * 1000:g} mm" if m else "" for name, m in lengths.items()}
        row |= {
            "mass": f"{i.mass_kg:g} kg" if i.mass_kg else "",
            "strength": f"{i.strength_n:g} N" if i.strength_n else "",
        }
        if i.fabric and i.fabric.spacing_in:
            row["wires"] = " ".join(f"{s:g}" for s in i.fabric.spacing_in) + " in"
            row["gauges"] = f"{i.fabric.outer_gauge:g}/{i.fabric.filler_gauge:g}"
            row["roll"] = f"{i.fabric.roll_m:g} m"
        rows.append(row)
    return write_rows(COLUMNS, rows)


def _measure(row: int, column: str, text: str, units: dict[str, float]) -> float:
    """A number with its unit.  Raises BadInput naming row and column."""
    match = re.fullmatch(r"([\d.]+)\s*([A-Za-z]*)", text)
    if not match or match.group(1).count(".") > 1 or match.group(1) == ".":
        raise BadInput(at(row, column), f"{at(row, column)}: “{text}” is not a number with a unit")
    if not match.group(2):
        known = " or ".join(f"{match.group(1)} {u}" for u in list(units)[:2])
        raise BadInput(at(row, column), f"{at(row, column)}: “{text}” has no unit; write {known}")
    if match.group(2).lower() not in units:
        raise BadInput(
            at(row, column), f"{at(row, column)}: “{match.group(2)}” is not a unit of it; {', '.join(units)} are"
        )
    return float(match.group(1)) * units[match.group(2).lower()]


def _length(row: int, column: str, text: str) -> float:
    try:
        parse_length_m(text, "m")
    except BadInput:
        raise BadInput(at(row, column), f"{at(row, column)}: “{text}” is not a length; write 50 mm or 2 in") from None
    try:
        return parse_length_m(text, None)
    except BadInput:
        raise BadInput(at(row, column), f"{at(row, column)}: “{text}” has no unit; write 50 mm or 2 in") from None


def read_catalog(body: bytes) -> list[OwnItem]:
    """Items of a CSV file that are not as shipped.  Raises BadInput naming the row and the column."""
    first: dict[str, int] = {}
    items = []
    as_shipped = {i.key: i for i in shipped_items()}
    for n, row in read_table(body, COLUMNS, NEEDED, MOST_OWN_ITEMS):
        item = _item(n, row)
        if item.key in first:
            raise BadInput(at(n, "key"), f"{at(n, 'key')}: “{item.key}” was in row {first[item.key]} already")
        first[item.key] = n
        if not _same(item, as_shipped.get(item.key)):
            items.append(item)
    return items


def _same(item: OwnItem, shipped: OwnItem | None) -> bool:
    """Whether a row is as shipped: what its columns can say of it."""
    if shipped is None:
        return False
    whole = write_catalog([item]), write_catalog([shipped])
    return whole[0] == whole[1]


def _item(n: int, row: dict[str, str]) -> OwnItem:
    must_have(n, row, NEEDED)
    values: dict[str, float] = {}
    for name in ("length", "width", "diameter"):
        values[f"{name}_m"] = _length(n, name, row[name]) if row.get(name) else 0.0
    if row.get("mass"):
        values["mass_kg"] = _measure(n, "mass", row["mass"], MASS_KG)
    if row.get("strength"):
        values["strength_n"] = _measure(n, "strength", row["strength"], FORCE_N)
    try:
        index = float(row["index"])
    except ValueError:
        index = -1.0
    if not 0 <= index <= 1e6:
        raise BadInput(
            at(n, "index"),
            f"{at(n, 'index')}: “{row['index']}” is not a price index; a driven 6 ft steel post is 100",
        )
    if (
        len(row["key"]) > 60
        or len(row["title"]) > 120
        or not row["key"].isprintable()
        or not row["title"].isprintable()
    ):
        raise BadInput(at(n, "key"), f"{at(n, 'key')}: keys have at most 60 plain letters, titles 120")
    fabric = (
        _fabric(n, row, index, values.get("mass_kg", 0.0)) if row["group"] == "fabric" and row.get("wires") else None
    )
    return OwnItem(
        key=row["key"], title=row["title"], group=row["group"][:40], unit=row.get("unit", "")[:8], index=index, fabric=fabric,
        **values,
    )  # fmt: skip


def _fabric(n: int, row: dict[str, str], index: float, mass_kg: float) -> Fabric:
    """A woven fabric of one's own: label as key, line-wire spacings from the bottom with one unit, gauges outer/filler."""
    try:
        label = read_label(row["key"])
    except BadInput as error:
        raise BadInput(at(n, "key"), f"{at(n, 'key')}: {error.sentence}") from None
    if label.kind != "woven" or label.height_in is None:
        raise BadInput(at(n, "key"), f"{at(n, 'key')}: a fabric with wires is woven; its key is a label like 10-47-6")
    match = re.fullmatch(r"([\d ./½¼¾⅛⅜⅝⅞]+?)\s*(in|mm|cm)", row["wires"])
    if not match:
        raise BadInput(
            at(n, "wires"), f"{at(n, 'wires')}: write the spacings from the bottom and one unit, like 4 4½ 5 6 in"
        )
    scale = {"in": 1.0, "mm": 0.001 / INCH_M, "cm": 0.01 / INCH_M}[match.group(2)]
    try:
        spacing = tuple(number(plain_fractions(p)) * scale for p in match.group(1).split())
    except (ValueError, BadInput):
        raise BadInput(at(n, "wires"), f"{at(n, 'wires')}: “{row['wires']}” is not a row of spacings") from None
    if len(spacing) + 1 != label.line_wires or abs(sum(spacing) - label.height_in) > 1:
        raise BadInput(
            at(n, "wires"),
            f"{at(n, 'wires')}: {len(spacing) + 1} wires and {sum(spacing):g} in, where {row['key']} says "
            f"{label.line_wires} and {label.height_in:g} in",
        )
    try:
        pair = read_label(row.get("gauges", ""))
    except BadInput:
        pair = None
    if pair is None or pair.kind != "gauge_pair":
        raise BadInput(
            at(n, "gauges"), f"{at(n, 'gauges')}: write the gauges of the outer and filler wires, like 12½/14½"
        )
    roll = _length(n, "roll", row["roll"]) if row.get("roll") else 100.584
    try:
        return Fabric(
            label=row["key"], spacing_in=spacing, outer_gauge=pair.outer_gauge or 0.0, filler_gauge=pair.filler_gauge or 0.0,
            curve_m=0.004, knot="hinge", strength=3, index=index, mass_kg_m=mass_kg, life_years=20, roll_m=roll,
            reason="an item of this workspace's own", source="this workspace", checked=date.today(),
        )  # fmt: skip
    except ValidationError as error:
        raise BadInput(f"row {n}", f"row {n}: {error.errors()[0]['msg']}") from None
