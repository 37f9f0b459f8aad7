"""Every row of the table of limits, shown: just within it is taken where that is cheap to try, beyond it is refused as the table says."""

import hashlib
import io
import json
import threading
import time
from contextlib import contextmanager
from datetime import date, datetime

import pytest
from fastapi.testclient import TestClient
from PIL import Image
from places import demo_fences
from sqlalchemy import text

from gnomonic.core import limits
from gnomonic.core.days import solve
from gnomonic.core.days.made import Asked
from gnomonic.core.days.progress import Tick
from gnomonic.core.errors import Away, BadInput
from gnomonic.core.ground.book import read_book
from gnomonic.core.ground.course import course
from gnomonic.core.haul.prices import Seller
from gnomonic.core.job.document import Job
from gnomonic.core.job.fence import one_line
from gnomonic.core.job.parts import Frame, MeasuredLine, Point, Source
from gnomonic.core.job.reading import must_fit
from gnomonic.core.limits import TABLE
from gnomonic.core.plain_json import read_json
from gnomonic.core.plan.road import plan
from gnomonic.demo.load import single_jobs
from gnomonic.formats.beside import beside
from gnomonic.formats.bring_in import bring_in
from gnomonic.formats.catalog_csv import read_catalog
from gnomonic.formats.grid import drape
from gnomonic.formats.photo import shown
from gnomonic.formats.price_csv import read_prices
from gnomonic.formats.raw import Shape, gathered
from gnomonic.formats.zipped import members
from gnomonic.standins.rover import Manners
from gnomonic.store import days, events, field, hauling, jobs, walks
from gnomonic.store.scope import DatabaseAway, Scope, connect
from gnomonic.web import plans
from gnomonic.web.app import create_app
from gnomonic.web.days import making
from gnomonic.web.days.current import current
from gnomonic.web.guard import ROUND_A_FILE
from gnomonic.web.stand.log import read_events
from gnomonic.web.walk import marking, receiver, recorder
from gnomonic.web.walk.recorder import Hub


class Door:
    """What the shows below need: a client, a scope, and a way to make a limit smaller for the time of a test."""

    def __init__(self, client, scope, small):
        self.client, self.scope, self.small = client, scope, small

    @contextmanager
    def as_served(self):
        """The same rows, waited for no longer than where it serves."""
        made = Scope(connect(self.scope.engine.url.render_as_string(hide_password=False)))
        try:
            yield made
        finally:
            made.engine.dispose()

    def refuses(self, words, act):
        with pytest.raises(BadInput) as caught:
            act()
        assert words in caught.value.sentence, caught.value.sentence

    def too_large(self, path, most, round_it=0, kind="application/json"):
        headers = {"Content-Type": kind}
        over = self.client.post(path, headers={**headers, "Content-Length": str(most + round_it + 1)}, content=b"")
        assert over.status_code == 413 and f"longer than {most / 1e6:.3g} MB" in over.text
        assert self.client.post(path, headers=headers, content=b" " * min(most, 900_000)).status_code != 413


def two(n):
    return MeasuredLine(points=(Point(e_m=0, n_m=0, h_m=0), Point(e_m=n, n_m=0, h_m=0)), source=Source(kind="csv", points_read=2))  # fmt: skip


def with_many(key, one, count):
    """A job's document with so many of something on its line."""
    data = single_jobs()[0].model_dump(mode="json")
    data["lines"][0][key] = [one(k) for k in range(count)]
    return Job.model_validate_json(json.dumps(data))


def too_many(key, one, most):
    def show(door):
        with pytest.raises(ValueError, match=f"at most {most} items"):
            with_many(key, one, most + 1)

    return show


def hog(size):
    return len(bytearray(size))


def spin():
    while True:
        pass


def jobs_a_page(door):
    for k in range(limits.MOST_A_PAGE + 1):
        jobs.create(door.scope, single_jobs()[0].model_copy(update={"name": f"job {k}"}))
    assert door.client.get("/").text.count('class="job"') == limits.MOST_A_PAGE


def too_many_lines(door):
    line = single_jobs()[0].lines[0]
    letters = [a + b for a in ("", *"ABCD") for b in "ABCDEFGHIJKLMNOPQRSTUVWXYZ"][: limits.MOST_LINES + 1]
    lines = tuple(line.model_copy(update={"id": k, "name": k, "found": ()}) for k in letters)
    with pytest.raises(ValueError, match="lines are more than the 100 a job holds"):
        Job(name="many", lines=lines)


def events_of_a_job(door):
    assert events.MOST_EVENTS == limits.MOST_EVENTS
    door.small(events, "MOST_EVENTS", 1)
    job = jobs.create(door.scope, single_jobs()[0])
    body = [{"id": f"0f0f0f0f-0000-4000-8000-{k:012d}", "device": "d", "seq": k, "clock": "2026-03-02T09:00:00Z", "line": "A", "post": "1", "at_m": 0.0, "kind": "depth", "reached_m": 0.5} for k in range(2)]  # fmt: skip
    refused = door.client.post(f"/api/v1/jobs/{job}/events", json={"events": body})
    assert refused.status_code == 422 and "a job keeps 20,000 events at most" in refused.json()["detail"]


def walks_at_once(door):
    assert recorder.MOST_LIVE_WALKS == limits.MOST_LIVE_WALKS
    door.small(recorder, "MOST_LIVE_WALKS", 1)
    five, take = threading.Event(), receiver.LiveWalk._take

    def taken(live, fixes):
        take(live, fixes)
        if live.next_n >= 5:
            five.set()

    door.small(receiver.LiveWalk, "_take", taken)
    hub = Hub(door.scope)
    first, second = (recorder.begin(hub, "practice", Manners()) for _ in "12")
    assert five.wait(20) and first in hub.live and second not in hub.live
    hub.close()


def walks_of_a_workspace(door):
    assert walks.MOST_WALKS == limits.MOST_WALKS
    door.small(walks, "MOST_WALKS", 0)
    door.refuses("throw some away first", lambda: walks.begin(door.scope, "practice"))


def fixes_of_a_walk(door):
    assert receiver.MOST_FIXES == limits.MOST_FIXES
    live = receiver.LiveWalk(door.scope, "w", "127.0.0.1", 9)
    live.next_n = limits.MOST_FIXES - 1
    assert not live.full
    live.next_n += 1
    assert live.full


def asleep(door, before):
    with door.as_served() as served, served.reading() as connection:
        connection.execute(text(before))
        connection.execute(text("SELECT pg_sleep(30)"))


def waiting(door):
    start = time.monotonic()
    with pytest.raises(DatabaseAway):
        asleep(door, "SET statement_timeout = 0")
    assert limits.DATABASE_S - 0.5 < time.monotonic() - start < limits.DATABASE_S + 4


def a_statement(door):
    start = time.monotonic()
    with pytest.raises(DatabaseAway):
        asleep(door, "SELECT 1")
    assert limits.STATEMENT_S - 0.5 < time.monotonic() - start < limits.STATEMENT_S + 4


def held_by_another(door):
    job = jobs.create(door.scope, single_jobs()[0])
    base = jobs.load(door.scope, job).version
    with door.as_served() as served, jobs.holding(served, job, base):
        start = time.monotonic()
        with pytest.raises(DatabaseAway, match="somebody else is changing"):
            jobs.step(served, job, base, True)
        assert limits.LOCK_S - 0.5 < time.monotonic() - start < limits.LOCK_S + 4


def a_name(door):
    job = jobs.create(door.scope, single_jobs()[0])
    base = jobs.load(door.scope, job).version
    for long, status in ((limits.MOST_NAME, 200), (limits.MOST_NAME + 1, 422), (5000, 422)):
        body = {"base": base, "edit": {"do": "rename", "name": "n" * long}}
        answer = door.client.post(f"/api/v1/jobs/{job}/edits", json=body)
        assert answer.status_code == status
        base = answer.json().get("version", base)


def a_quote(door):
    sentence = BadInput("x", f"row 2 has “{'9' * 5000}” under “height”").sentence
    assert sentence == f"row 2 has “{'9' * (limits.MOST_QUOTED - 1)}…” under “height”"


def over_a_file(bytes_, name, words):
    return lambda door: door.refuses(words, lambda: bring_in(name, bytes_()))


def a_zip(door):
    import io
    import zipfile

    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        for k in range(limits.MOST_MEMBERS + 1):
            archive.writestr(f"{k}.txt", "")
    door.refuses("more than 1,000 files", lambda: members(out.getvalue(), "the zip", (".shp",)))


def a_line(door):
    assert course(two(limits.LONGEST_JOB_M)).length_m == limits.LONGEST_JOB_M
    door.refuses("more than 50 km is more than one job", lambda: course(two(limits.LONGEST_JOB_M + 600)))


def lines_together(door):
    line = single_jobs()[0].lines[0]
    each = two(limits.LONGEST_JOB_M - 1)
    lines = tuple(
        line.model_copy(update={"id": k, "name": k, "measured": each, "found": (), "gates": ()}) for k in "ABCDEFGHIJK"
    )
    door.refuses("550 km together; more than 500 km is more than one job", lambda: plan(Job(name="far", lines=lines)))


def a_document(door):
    must_fit("x" * limits.MOST_JOB_BYTES)
    door.refuses("longer than 4 MB: make two jobs of it", lambda: must_fit("x" * (limits.MOST_JOB_BYTES + 1)))
    points = tuple(Point(e_m=k * 1.0, n_m=0.0, h_m=0.1234567) for k in range(45_000))
    long = MeasuredLine(points=points, source=Source(kind="csv", points_read=45_000))
    door.refuses("longer than 4 MB", lambda: jobs.create(door.scope, one_line("long", long)))
    assert jobs.count(door.scope) == 0, "nothing of it was saved"


def nested(door):
    deep = limits.MOST_JSON_DEPTH
    read_json("[" * deep + "]" * deep)
    door.refuses(f"nests deeper than {deep} levels", lambda: read_json("[" * (deep + 2) + "]" * (deep + 2)))


def own_items(door):
    body = "key,title,group,index\n" + "".join(f"k{k},t,tools,1\n" for k in range(limits.MOST_OWN_ITEMS + 1))
    door.refuses("more than 5000 rows", lambda: read_catalog(body.encode()))


def sellers(door):
    rows = [Seller(name=f"s{k}", currency="USD", dated=date(2026, 6, 1)) for k in range(limits.MOST_SELLERS + 1)]
    hauling.put_sellers(door.scope, rows[:-1])
    door.refuses("at most 8 suppliers are compared", lambda: hauling.put_sellers(door.scope, rows[-1:]))
    assert len(hauling.sellers(door.scope)) == 8


def offers(door):
    head = "supplier,item,unit,pack,price,currency\n"
    body = head + "".join(f"s,staple,each,{k + 1},1,USD\n" for k in range(limits.MOST_OFFERS))
    door.refuses("more than 2000 rows", lambda: read_prices(body.encode(), date(2026, 6, 1)))


def day_ticks(door):
    job_id = jobs.create(door.scope, single_jobs()[0])
    door.small(days, "MOST_TICKS", 2)
    rows = [Tick(id=f"t{k}", task="A.1.marks", share=1.0, at=datetime(2026, 3, 2, 12)) for k in range(3)]
    days.add_ticks(door.scope, job_id, rows[:2])
    door.refuses("at most 2 ticks are kept of a job", lambda: days.add_ticks(door.scope, job_id, rows[2:]))
    assert len(days.day_ticks(door.scope, job_id)) == 2


def a_search(door):
    """What the search is given, of the work and of the clock on the wall."""
    given = []
    door.small(
        making,
        "solve",
        lambda problem, work_s, wall_s, *more: given.append((work_s, wall_s)) or solve.solve(problem, 0.1, 0.5, *more),
    )
    scope, job_id = door.scope, jobs.create(door.scope, single_jobs()[0])
    days.ask_days(scope, job_id, Asked(start=date.today()))
    making.searched(current(create_app(scope).state.room, job_id).given)
    assert given == [(limits.SEARCH_S * 0.8, limits.SEARCH_S)]


def many_points(door):
    rows = "0,0 " * (limits.MOST_POINTS + 1)
    body = f"<kml><LineString><coordinates>{rows}</coordinates></LineString></kml>".encode()
    door.refuses("500,001 positions in one line; more than 500,000", lambda: bring_in("a.kml", body))


def many_shapes(door):
    import numpy as np

    shapes = [Shape("", "", np.zeros((2, 3))) for _ in range(limits.MOST_SHAPES + 1)]
    door.refuses("10,001 lines; more than 10,000", lambda: gathered("dxf", False, shapes, "none"))


def a_grid(door):
    line = demo_fences()[0]
    body = b"x" * (limits.MOST_GRID_BYTES + 1)
    door.refuses("larger than 200 MB", lambda: drape("g.asc", body, course(line.line), Frame(), {}))


def many_cells(door):
    """Sixty thousand columns of half a millimetre in a file of a few kilobytes: 20 m of line each way would be 1,600 million cells."""
    import numpy as np
    from rasterio.io import MemoryFile
    from rasterio.transform import from_origin

    with MemoryFile() as file:
        with file.open(driver="GTiff", width=60_000, height=60_000, count=1, dtype="uint8", transform=from_origin(-5, 25, 5e-4, 5e-4), sparse_ok=True) as grid:  # fmt: skip
            grid.write(np.zeros((1, 1, 1), dtype=np.uint8), window=((0, 1), (0, 1)))
        body = bytes(file.read())
    line = MeasuredLine(points=(Point(e_m=0, n_m=0, h_m=0), Point(e_m=20, n_m=20, h_m=0)), source=Source(kind="csv", points_read=2))  # fmt: skip
    door.refuses("cells round the line; more than 16,000,000 are not read", lambda: drape("g.tif", body, course(line), Frame(), {"crs": "local"}))  # fmt: skip


def drawn_by_hand(door):
    for count, status in ((limits.MOST_DRAWN, 201), (limits.MOST_DRAWN + 1, 422)):
        body = {"name": "drawn", "points": [[k * 0.5, 0.0] for k in range(count)]}
        assert door.client.post("/api/v1/jobs", json=body).status_code == status


def edited(door, edit):
    job = jobs.create(door.scope, single_jobs()[0])
    return door.client.post(
        f"/api/v1/jobs/{job}/edits", json={"base": jobs.load(door.scope, job).version, "edit": edit}
    )


def an_outline(door):
    for count, status in ((limits.MOST_OUTLINE, 200), (limits.MOST_OUTLINE + 1, 422)):
        shape = [[k * 0.01, 2.0] for k in range(count)]
        assert edited(door, {"do": "add_found", "kind": "rock", "shape": shape}).status_code == status


def heights_at_once(door):
    refused = edited(door, {"do": "set_heights", "heights_m": [0.0] * (limits.MOST_HEIGHTS + 1)})
    assert refused.status_code == 422 and f"at most {limits.MOST_HEIGHTS} items" in refused.json()["detail"]


def looked_for(door):
    most = limits.MOST_SEARCHED
    assert [door.client.get("/", params={"q": "x" * n}).status_code for n in (most, most + 1)] == [200, 422]


def a_key(door):
    job = jobs.create(door.scope, single_jobs()[0])
    for long, status in ((limits.MOST_KEY, 200), (limits.MOST_KEY + 1, 422)):
        body = {"base": jobs.load(door.scope, job).version, "edit": {"do": "rename", "name": f"by a key of {long}"}}
        asked = {"Idempotency-Key": "k" * long}
        assert door.client.post(f"/api/v1/jobs/{job}/edits", json=body, headers=asked).status_code == status


def a_desk(door):
    class Endless:
        def read1(self, most):
            return b" " * most

    with pytest.raises(Away, match="longer than 5 MB: nothing was changed"):
        marking.OUTSIDE.whole(Endless())


def held_posts(door):
    assert plans.MOST_HELD_POSTS == limits.MOST_HELD_POSTS
    held, job = plans.Plans(), single_jobs()[0]
    size = held.make("a", job).size
    door.small(plans, "MOST_HELD_POSTS", 2 * size)
    for k in range(3):
        held.keep(str(k), held.make(str(k), job))
    assert [key.split(" ")[0] for key in held.held] == ["1", "2"]


def a_picture(wide, high):
    out = io.BytesIO()
    Image.new("L", (wide, high)).save(out, "PNG")
    return hashlib.sha256(out.getvalue()).hexdigest(), out.getvalue()


def a_wide_photo(door):
    door.refuses("40 million are taken", lambda: shown(*a_picture(8001, 5000)))


def a_long_photo(door):
    assert shown(*a_picture(4000, 1000))[1:] == (limits.PHOTO_SIDE, 400)


def photos_of_a_job(door):
    door.small(field, "MOST_PHOTOS", 1)
    job = jobs.create(door.scope, single_jobs()[0])
    for (digest, body), status in ((a_picture(20, 20), 200), (a_picture(30, 20), 422)):
        where = f"/api/v1/jobs/{job}/photos/{digest}"
        assert door.client.post(where, content=body, headers={"Content-Type": "image/png"}).status_code == status


GATE = {"opening_m": 1.0}
SHOWN = {
    "a measured file, also unpacked": over_a_file(lambda: b"<" + b" " * limits.MOST_FILE_BYTES, "a.gpx", "more than 40 MB is not taken"),
    "a height grid": a_grid,
    "cells of a height grid round a line": many_cells,
    "a catalog in CSV": lambda door: door.too_large("/catalog", limits.MOST_CATALOG_BYTES, ROUND_A_FILE),
    "the JSON of a request": lambda door: door.too_large("/api/v1/book", limits.MOST_JSON_BYTES),
    "the JSON of a pocket sum": lambda door: door.too_large("/api/v1/calc/gauge", limits.MOST_JOB_BYTES),
    "a Job document": a_document,
    "a form without a file": lambda door: door.too_large("/rules", limits.MOST_FORM_BYTES),
    "how deep JSON nests": nested,
    "points of one line in a file": many_points,
    "lines in a file": many_shapes,
    "elements of a GPX or KML": over_a_file(lambda: b"<gpx>" + b"<a/>" * 1_000_001 + b"</gpx>", "a.gpx", "more than 1,000,000 are not read"),
    "objects, positions and values of a GeoJSON": over_a_file(lambda: b"[" + b"1," * 1_500_001 + b"1]", "a.json", "1,500,001 values"),
    "a DXF drawing": over_a_file(lambda: b"0\nX\n" * 300_001, "a.dxf", "more than 600,000 are not read"),
    "files in a zip": a_zip,
    "a field book": over_a_file(lambda: b"# " + b"x" * limits.MOST_BOOK_CHARACTERS, "a.legs", "more than 200,000 are not taken"),
    "reading one file, beside the request": lambda door: door.refuses("took more than 1 s", lambda: beside(spin, seconds=1)),
    "memory for reading one file": lambda door: door.refuses("or 400 MB to read", lambda: beside(hog, 700_000_000)),
    "a name": a_name,
    "what a sentence quotes of what was given": a_quote,
    "a line": a_line,
    "the lines of a job together (some 15 s of CPU)": lines_together,
    "lines of a job": too_many_lines,
    "gates of a line": too_many("gates", lambda k: {"id": f"g{k}", "at_m": k * 3.0, **GATE}, limits.MOST_GATES),
    "posts put by hand on a line": too_many("posts", lambda k: {"at_m": k * 1.0}, limits.MOST_FORCED),
    "found things of a job": too_many("found", lambda k: {"id": f"f{k}", "kind": "rock", "from_m": 1.0, "to_m": 2.0}, limits.MOST_FOUND),
    "points of a line drawn by hand": drawn_by_hand,
    "places of the outline of a found thing, or of a mark": an_outline,
    "heights given to a line at once": heights_at_once,
    "events of a job": events_of_a_job,
    "events sent at once": lambda door: door.refuses("more than 500", lambda: read_events([{}] * 501)),
    "a photo from the field": lambda door: door.too_large(f"/api/v1/jobs/x/photos/{'0' * 64}", limits.MOST_PHOTO_BYTES, kind="image/jpeg"),
    "a photo unpacked": a_wide_photo,
    "the longer side of a photo as it is kept": a_long_photo,
    "photos of a job": photos_of_a_job,
    "walks of a workspace": walks_of_a_workspace,
    "walks recorded at once": walks_at_once,
    "fixes of a walk": fixes_of_a_walk,
    "items of a workspace's own": own_items,
    "suppliers whose prices are compared": sellers,
    "offers of a supplier": offers,
    "ticks of a job's days": day_ticks,
    "searching for a better order of days, beside the pages": a_search,
    "jobs on one page of the list": jobs_a_page,
    "what is looked for in the list": looked_for,
    "the key of a change that may be asked for twice": a_key,
    "what a marking desk answers": a_desk,
    "posts of the plans one process holds (some 11 KB each)": held_posts,
    "waiting for the database": waiting,
    "one statement of the database": a_statement,
    "waiting for a job somebody else is changing": held_by_another,
}  # fmt: skip


def test_every_row_is_shown():
    assert [row.what for row in TABLE] == list(SHOWN)
    assert read_book("N 0 E 10 m").spots, "what is within is read"


@pytest.mark.parametrize("what", SHOWN)
def test_the_limit_of(what, scope, monkeypatch):
    app = create_app(scope)
    client = TestClient(app, raise_server_exceptions=False)
    SHOWN[what](Door(client, scope, monkeypatch.setattr))
    app.state.room.hub.close()
