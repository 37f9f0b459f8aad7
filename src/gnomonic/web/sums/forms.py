"""Pocket sums as forms: fields written in the fencer's units, read into the JSON the sum takes."""

import re
import tomllib
from collections.abc import Callable, Mapping
from functools import cache
from pathlib import Path
from typing import Any, Literal

from pydantic import Field

from gnomonic.core.errors import BadInput
from gnomonic.core.record import Record
from gnomonic.core.say import Say
from gnomonic.core.units import POUND_FORCE_N, System, number, parse_length_m, plain_fractions

FieldType = Literal[
    "length", "force", "number", "numbers", "count", "text", "choice", "tick", "lengths", "rows", "animals"
]  # what is written in a field
FORCES_N = {"lb": POUND_FORCE_N, "lbs": POUND_FORCE_N, "n": 1.0, "kn": 1000.0}


class FormField(Record):
    """A field: the key it fills, what it asks, how it is written (``forms.toml``).

    One whose key is not the sum's (``sold``) only says which others are asked; it is left out (``OURS``).  It is asked ``only`` where another field (the first) has one of the values after it; a number is taken ``times`` so
    much; left empty it is ``blank``, where it has that.
    """

    key: str
    ask: str
    type: FieldType
    example: str
    optional: bool = False
    cells: tuple[tuple[str, str], ...] = ()
    as_: Literal["list", "object", "readings"] = Field("list", alias="as")
    choices: tuple[tuple[str, str], ...] = ()
    only: tuple[str, ...] = ()
    times: float = 1.0
    blank: str = ""


@cache
def forms() -> dict[str, tuple[FormField, ...]]:
    """The fields of every sum."""
    data = tomllib.loads((Path(__file__).parent / "forms.toml").read_text("utf8"))
    return {kind: tuple(FormField.model_validate(row) for row in rows) for kind, rows in data.items()}


def example(kind: str, units: System) -> dict[str, str]:
    """A worked example as it is typed in either unit system."""
    return {f.key: _typed(f, units) for f in forms()[kind]}


def _typed(field: FormField, units: System) -> str:
    """A field's example, each cell of it in the units."""
    kinds = [kind for _, kind in field.cells] if field.type == "rows" and field.as_ != "readings" else []
    rows = []
    for line in field.example.split("\n"):
        cells = line.split(", ")
        row = [
            Say(cell).text(units) if k >= len(kinds) or kinds[k] in ("length", "force") else cell
            for k, cell in enumerate(cells)
        ]
        rows.append(", ".join(row))
    return "\n".join(rows) if field.type in TYPED else field.example


OURS = ("sold",)  # choices of the form alone
TYPED = ("length", "force", "lengths", "rows")


def read_form(kind: str, typed: Mapping[str, str], units: System) -> dict[str, Any]:
    """What was typed, as the sum takes it.  Raises BadInput with the field's key, naming it by what it asks."""
    read: dict[str, Any] = {}
    for field in forms()[kind]:
        if field.only and typed.get(field.only[0]) not in field.only[1:]:
            continue
        text = typed.get(field.key, "").strip()
        if field.key in OURS:
            continue
        if field.type == "tick":
            read[field.key] = bool(text)
            continue
        if not text:
            if field.blank:
                read[field.key] = field.blank
            elif not field.optional:
                words = " or ".join(title for _, title in field.choices)
                say = f"choose {words}" if words else "write it like " + field.example.split("\n")[0]
                raise BadInput(field.key, f"{field.ask}: this is missing; {say}")
            continue
        try:
            read[field.key] = _value(field, text, units)
        except BadInput as error:
            raise BadInput(field.key, f"{field.ask}: {error.sentence}") from None
    return GATHERED[kind](read) if kind in GATHERED else read


def _offered(read: dict[str, Any]) -> dict[str, Any]:
    """Offers, which a form has as rows of their own, with their suppliers.  Raises BadInput (``offers``)."""
    suppliers = {s["name"]: {**s, "offers": []} for s in read["suppliers"]}
    for offer in read.pop("offers"):
        name = offer.pop("name")
        if name not in suppliers:
            raise BadInput("offers", f"Offers: there is no supplier called “{name}”; name one of those above")
        suppliers[name]["offers"].append(offer)
    return {**read, "suppliers": list(suppliers.values())}


def _worked(read: dict[str, Any]) -> dict[str, Any]:
    """What comes before a task and what plant it takes, which a form has as rows of their own, with the tasks.  Raises BadInput."""
    tasks = {t["id"]: {**t, "after": [], "plant": {}} for t in read["tasks"]}
    if len(tasks) < len(read["tasks"]):
        raise BadInput("tasks", "Tasks: two have the same name; each task has a name of its own")
    for key, ask in (("after", "After"), ("takes", "Plant taken")):
        for row in read.pop(key, []):
            name = row.pop("task")
            if name not in tasks:
                raise BadInput(key, f"{ask}: there is no task called “{name}”; name one of those above")
            if key == "after":
                tasks[name]["after"].append(row)
            else:
                tasks[name]["plant"][row["plant"]] = row["units"]
    plant = {row["name"]: row["units"] for row in read.get("plant", [])}
    return {**read, "tasks": list(tasks.values()), "plant": plant}


GATHERED: dict[str, Callable[[dict[str, Any]], dict[str, Any]]] = {"buy": _offered, "days": _worked}


def _value(field: FormField, text: str, units: System) -> Any:
    match field.type:
        case "lengths":
            return [_cell("length", part, units) for part in _parted(text)]
        case "numbers":
            return [_number(part) for part in _parted(text)]
        case "rows":
            return [_row(field, line, units) for line in text.splitlines() if line.strip()]
        case "animals":
            return [{"animal": part.replace(" ", "_")} for part in _parted(text)]
        case "count":
            return _cell("count", text, units)
        case "number":
            return _number(text) * field.times
        case _:
            return _cell(field.type, text, units)


def _parted(text: str) -> list[str]:
    return [part.strip() for part in re.split(r"[,;\n]", text) if part.strip()]


def _cell(kind: str, text: str, units: System) -> Any:
    if kind == "thin":
        return parse_length_m(text, "mm")
    if kind == "length":
        return parse_length_m(text, "m" if units == "metric" else "ft")
    if kind == "force":
        match = re.fullmatch(r"([\d.]+)\s*([A-Za-z]*)", text.replace(",", ""))
        unit = (match.group(2).lower() or ("n" if units == "metric" else "lb")) if match else ""
        if match is None or unit not in FORCES_N:
            raise BadInput("", f"“{text}” is not a force: write it like 900 lb, 4 kN or 4000 N")
        return _number(match.group(1)) * FORCES_N[unit]
    if kind == "count":
        value = _number(text)
        if value != int(value):
            raise BadInput("", f"“{text}” is not a whole number")
        return int(value)
    return _number(text) if kind == "number" else text


def _number(text: str) -> float:
    plain = plain_fractions(text.strip()).replace("−", "-")
    if not re.fullmatch(r"-?(?:\d+ \d+/\d+|\d+/\d+|\d+(?:\.\d+)?|\.\d+)", plain):
        raise BadInput("", f"“{text}” is not a number")
    return -number(plain[1:]) if plain.startswith("-") else number(plain)


def _row(field: FormField, line: str, units: System) -> Any:
    """One line of a table: cells parted by commas, or staff readings by their names."""
    if field.as_ == "readings":
        found = {}
        for part in line.split(","):
            word, _, value = part.strip().partition(" ")
            if word.lower() not in ("back", "inter", "fore") or not value.strip():
                raise BadInput("", f"“{part.strip()}” does not say what was read: write it like back 1.52 m")
            found[f"{word.lower()}_m"] = _cell("length", value, units)
        return found
    parts = [p.strip() for p in line.split(",")]
    if len(parts) != len(field.cells):
        names = ", ".join(
            name.removesuffix("_m").removesuffix("_n").removesuffix("_deg").replace("_", " ") for name, _ in field.cells
        )
        raise BadInput("", f"“{line.strip()}” has {len(parts)} cells: write {names}, parted by commas")
    values = [_cell(kind, part, units) for (_, kind), part in zip(field.cells, parts, strict=True)]
    return values if field.as_ == "list" else dict(zip((n for n, _ in field.cells), values, strict=True))
