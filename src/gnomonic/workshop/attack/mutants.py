"""Damaged files: every importer is given thousands of files with some bytes wrong, and must refuse or read each."""

import io
import json
import random
import re
import struct
import traceback
import zipfile
from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from functools import cache

import numpy as np

from gnomonic.core.calc import calc, read_json
from gnomonic.core.errors import BadInput
from gnomonic.core.ground.course import Course
from gnomonic.core.job.fence import Fence, fences
from gnomonic.core.job.parts import Frame
from gnomonic.core.job.reading import read_job
from gnomonic.core.plan.road import plan
from gnomonic.demo.load import demo_jobs
from gnomonic.formats.bring_in import bring_in, preview_json
from gnomonic.formats.catalog_csv import read_catalog, shipped_items, write_catalog
from gnomonic.formats.export import export_line
from gnomonic.formats.grid import drape
from gnomonic.formats.nmea import NmeaReader
from gnomonic.formats.sheets import plan_geojson
from gnomonic.formats.walk import write_walk

TOKENS = (
    b"NaN", b"-Infinity", b"1e999", b"-1e308", b"0", b"-1", b"1e7", b"91", b"181", b"9" * 400, b"9" * 5000, "²".encode(), "١".encode(), b"\x00", b"\xff\xfe",
    b"\xed\xa0\x80", b"", b" ", b"\n", b"\r", b'"', b"'", b"<", b">", b"&", b"&#0;", b"]]>", b"{", b"[", b"}", b"]", b",", b"null", b"true", b"[]", b"{}",
    b"1_0", b"0x10", b"+nadgrids=@x", b"%", b"EPSG:" + b"1" * 60, b"=1+1", b"\t",
)  # fmt: skip
_NUMBER = re.compile(rb"-?\d+(?:\.\d+)?")
GRID = b"ncols 4\nnrows 4\nxllcorner -50\nyllcorner -50\ncellsize 100\nNODATA_value -9999\n" + b"5 6 7 8\n" * 4
MOST_QUOTE = 82


@dataclass(slots=True)
class Tally:
    """What came of the mutants: results, refusals (``caught`` of them by the guard alone), and what should not be."""

    tried: int = 0
    read: int = 0
    refused: int = 0
    caught: int = 0
    wrong: list[str] = field(default_factory=list)
    kinds: Counter[str] = field(default_factory=Counter)


@cache
def demo_fences() -> list[Fence]:
    """Every line of the demo's jobs."""
    return [fence for job in demo_jobs() for fence in fences(job) if fence.own.standing != "there"]


@cache
def seeds() -> dict[str, bytes]:
    """A good file of every form, by name."""
    fence = next(f for f in demo_fences() if f.frame.kind == "geographic")
    made = plan(fence.job).lines[fence.id]
    found = {f"line.{form.removeprefix('shp.')}": export_line(fence, made, form) for form in ("kml", "kmz", "gpx", "dxf", "shp.zip", "csv", "legs")}  # fmt: skip
    found["line.geojson"] = plan_geojson(fence, made)
    found["walk.json"] = write_walk([[-30 + k * 1e-5, 47.0, 5.0, 0.02, "c" if k % 5 == 0 else ""] for k in range(20)], [{"kind": "gate", "name": "", "at": [-30.0, 47.0]}], 0.05)  # fmt: skip
    rows = [f"{k * 9},{5 + k % 3} " for k in range(12)]
    found["stations.csv"] = "\n".join(["station (m),height (m)", *rows]).encode()
    found["older.json"] = json.dumps({"type": "LineString", "crs": {"properties": {"name": "urn:ogc:def:crs:EPSG::32626"}}, "coordinates": [[500000, 5205000, 1], [500100, 5205000, 2]]}).encode()  # fmt: skip
    found["many.json"] = json.dumps({"type": "GeometryCollection", "geometries": [{"type": "MultiPolygon", "coordinates": [[[[0, 0], [0.001, 0], [0.001, 0.001], [0, 0]]]]}, {"type": "MultiLineString", "coordinates": [[[0, 0, 1], [0.001, 0, 2]], [[0, 0]]]}]}).encode()  # fmt: skip
    found["job.json"] = fence.job.canonical_json().encode()
    found["grid.asc"], found["grid.tif"] = GRID, _tiff()
    found["catalog.csv"] = write_catalog(shipped_items()[:12])
    found["fixes.nmea"] = b"$GPGGA,123519,4807.038,N,01131.000,E,1,08,0.9,545.4,M,46.9,M,,*47\r\n$GPRMC,123519,A,4807.038,N,01131.000,E,022.4,084.4,230394,003.1,W*6A\r\n" * 3  # fmt: skip
    found["sum.json"] = json.dumps({"profile": [[0, 1], [10, 0], [20, 1]], "clearance_m": 0.05, "gap_min_m": 0.0, "gap_max_m": 0.1, "max_spacing_m": 4.0}).encode()  # fmt: skip
    return found


@cache
def local_line() -> Course:
    """A line in metres of its own, for grids to be laid under."""
    fence = next(f for f in demo_fences() if f.frame.kind == "local")
    return plan(fence.job).courses[fence.id]


def _tiff() -> bytes:
    from rasterio.io import MemoryFile
    from rasterio.transform import from_origin

    with MemoryFile() as file:
        with file.open(driver="GTiff", width=4, height=4, count=1, dtype="float32", crs="EPSG:32626", transform=from_origin(-50, 350, 100, 100)) as grid:  # fmt: skip
            grid.write(np.full((1, 4, 4), 5.0, dtype=np.float32))
        return bytes(file.read())


def mutant(seed: bytes, chance: random.Random) -> bytes:
    """A file with one to four things wrong in it."""
    body = bytearray(seed)
    for _ in range(chance.choice((1, 1, 1, 2, 4))):
        at = chance.randrange(len(body) + 1)
        match chance.randrange(9):
            case 0 if body:
                body[at % len(body)] ^= 1 << chance.randrange(8)
            case 1:
                del body[at : at + chance.choice((1, 2, 7, 60, 900))]
            case 2:
                body[at:at] = chance.choice(TOKENS)
            case 3 if numbers := list(_NUMBER.finditer(bytes(body[:200_000]))):
                one = chance.choice(numbers)
                body[one.start() : one.end()] = chance.choice(TOKENS)
            case 4:
                del body[at:]
            case 5:
                body[at:at] = body[max(0, at - chance.choice((3, 40, 300))) : at] * chance.choice((1, 2, 30))
            case 6 if len(body) > 8:
                at = min(at, len(body) - 8)
                body[at : at + 8] = struct.pack("<d", chance.choice((float("nan"), float("inf"), 1e300, -1e9, 0.0)))
            case 7 if len(body) > 4:
                at = min(at, len(body) - 4)
                body[at : at + 4] = struct.pack("<I", chance.choice((0, 1, 0x7FFFFFFF, 0xFFFFFFFF, 65536)))
            case _:
                lines = bytes(body).split(b"\n")
                a, b = chance.randrange(len(lines)), chance.randrange(len(lines))
                lines[a], lines[b] = lines[b], lines[a]
                body = bytearray(b"\n".join(lines))
    return bytes(body)


def within_zip(name: str, chance: random.Random) -> bytes:
    """A zip whose packing is whole and whose members are not."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(seeds()[name])) as old, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as new:
        for row in old.infolist():
            body = old.read(row)
            new.writestr(row.filename, mutant(body, chance) if chance.random() < 0.6 else body)
    return out.getvalue()


def mutants(count: int, seed: int) -> Iterator[tuple[str, bytes]]:
    """So many damaged files of every form in turn, always the same for a seed."""
    chance = random.Random(seed)
    names = sorted(seeds())
    for k in range(count):
        name = names[k % len(names)]
        if name in ("line.kmz", "line.zip") and chance.random() < 0.6:
            yield name, within_zip(name, chance)
        else:
            yield name, mutant(seeds()[name], chance)


def read(name: str, body: bytes) -> None:
    """Give a file to what reads its form."""
    line = local_line()
    ways: dict[str, Callable[[], object]] = {
        "job.json": lambda: plan(read_job(body)),
        "grid.asc": lambda: drape(name, body, line, Frame(), {"crs": "local"}),
        "grid.tif": lambda: drape(name, body, line, Frame(kind="geographic", lon0_deg=-30, lat0_deg=47), {}),
        "catalog.csv": lambda: read_catalog(body),
        "fixes.nmea": lambda: NmeaReader().feed(body),
        "sum.json": lambda: calc("setout", read_json(body)),
    }
    if name in ways:
        ways[name]()
        return
    for answers in ({}, {"units": "ft", "crs": "32626", "heights": "asis"}):
        try:
            json.loads(preview_json(bring_in(name, body, answers)))
        except BadInput as error:
            if answers:
                raise
            sound(error)


def sound(error: BadInput) -> None:
    """A refusal is one sentence that quotes little."""
    quotes = re.findall(r"“([^”]*)”", error.sentence)
    assert error.sentence.strip() and "\n" not in error.sentence and len(error.sentence) < 700, error.sentence
    assert all(len(q) <= MOST_QUOTE for q in quotes), error.sentence
    assert "Traceback" not in error.sentence and "pydantic" not in error.sentence


def attack(count: int, seed: int = 15, first: int = 0) -> Tally:
    """Read so many mutants and tell what came of it."""
    tally = Tally()
    for k, (name, body) in enumerate(mutants(count, seed)):
        if k < first:
            continue
        tally.tried += 1
        try:
            read(name, body)
            tally.read += 1
        except BadInput as error:
            tally.refused += 1
            if "is damaged in its" in error.sentence:
                tally.caught += 1
                tally.kinds[name] += 1
            try:
                sound(error)
            except AssertionError as unsound:
                tally.wrong.append(f"mutant {k} of {name}: unsound sentence: {unsound}")
        except Exception as error:
            where = traceback.extract_tb(error.__traceback__)[-1]
            tally.wrong.append(f"mutant {k} of {name}: {type(error).__name__}: {str(error)[:120]} at {where.filename[-40:]}:{where.lineno}")  # fmt: skip
    return tally
