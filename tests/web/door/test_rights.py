"""Every door tried in every role, by a stranger, and from another workspace: against rules written by hand."""

import re
from dataclasses import replace

import pytest
from gate import PASSWORD, doors, press, token
from places import ALL
from sqlalchemy import Delete, Join, Select, Table, Update, event, select
from sqlalchemy.sql import visitors
from sqlalchemy.sql.elements import ColumnClause

from gnomonic.core.job.fence import checked
from gnomonic.demo.load import holm
from gnomonic.store import accounts, jobs, passes, people
from gnomonic.store.models import Base
from gnomonic.web.haul import sample as books
from gnomonic.web.home import sample
from gnomonic.web.plans import Plans

RANK = {"crew": 1, "planner": 2, "owner": 3}
OPEN = re.compile(
    r"/(assets/.*|api/v1/health|openapi.json|sign-in|join/.*|renew/.*|look/.*|field.*|api/v1/passkeys/sign-in(/ask)?)$"
)
OWN = re.compile(r"/(sign-out|me|me/.*|api/v1/me)$")
OF_PERSON = re.compile(
    r"/api/v1/jobs/{job_id}/(log|photos/{digest})$|/api/v1/passkeys(/ask|/prove)?$|/me/passkeys/drop$"
)
PRICES = re.compile(
    r"/jobs/{job_id}/(cost|terms|quotes.*|options|suppliers.*|prices.csv|settle|stock.*|shopping.xlsx|shopping.pdf)$"
)
BEGINS = re.compile(
    r"/(bring-in(/{arrival_id})?|draw|rover(/{walk_id})?|jobs/{job_id}/crew)$"
)  # what only a planner ends
FROM_THE_FIELD = re.compile(
    r"(/api/v1/jobs/{job_id}/(events|shopping|weigh)|/jobs/{job_id}/(brace|gate|ticks|log/phone)|/api/v1/calc/{kind}|/api/v1/book|/sums/{kind})$"
)
CLIENTS = re.compile(r"/jobs/{job_id}/look$|/api/v1/jobs/{job_id}/photos/{digest}$")
GOING = re.compile(r"/sign-out|/me/")


def least(method, path):
    """Who a door is for, said once more."""
    if OPEN.match(path):
        return 0
    if method == "POST" and OF_PERSON.match(path):
        return 0.7  # also of one who left, never of a client
    if OWN.match(path):
        return 0.5
    if path.startswith("/people") or path.endswith("/log/decide"):
        return 3
    if PRICES.match(path) or (method == "GET" and BEGINS.match(path)):
        return 2
    return 1 if method == "GET" or FROM_THE_FIELD.match(path) else 2


def filled(path, job_id):
    values = {
        "job_id": job_id,
        "line_id": "A",
        "kind": "setout",
        "form": "gpx",
        "secret": "nosuch",
        "digest": "0" * 64,
        "number": "1",
        "revision": "1",
        "mark_id": "1",
        "path": "x",
    }
    return re.sub(r"{(\w+)(?::path)?}", lambda m: values.get(m.group(1), "nosuch"), path)


def small_ground():
    """The co-op's ground with two of its lines and what joins them; all of it in ``test --all``."""
    whole = holm()
    lines = whole.lines if ALL else whole.lines[:2]
    names = {line.id for line in lines}
    joins = tuple(j for j in whole.joins if {j.line, j.on} <= names)
    return checked(whole, lines=lines, joins=joins)


@pytest.fixture
def job(scope):
    return jobs.create(scope, sample.job())


def rows_of(scope, workspace):
    """All there is of a workspace in the database."""
    with scope.reading() as connection:
        tables = [t for t in Base.metadata.sorted_tables if "workspace" in t.c and t.name != "audit"]
        return {
            t.name: sorted(map(str, connection.execute(select(t).where(t.c.workspace == workspace)))) for t in tables
        }


def go(client, method, path, given):
    body = {} if method == "GET" else {"headers": {"X-Page-Token": given}}
    return client.request(method, path, **body)


def least_of(need):
    """The least role that may open a door."""
    return min((r for r in accounts.ROLES if RANK[r] >= need), key=RANK.get, default="")


def test_every_door_in_every_role_and_as_a_stranger(scope, staffed, signed, job):
    stranger, others = signed(), {role: signed(f"{role}@holm") for role in accounts.ROLES}
    gone = signed("crew@holm")
    people.add_person(scope, "gone@holm", "the one who left", "planner", PASSWORD)
    gone = signed("gone@holm")
    people.take_away(scope, next(m.person for m in people.members(scope) if m.login == "gone@holm"))
    client = signed()
    assert (
        client.get(f"/look/{passes.give_pass(scope, 'look', accounts.LOOKED, job_id=job, whom='a client')}").status_code
        == 303
    )
    tokens = {id(c): token(c) for c in (*others.values(), gone, client)}
    app = stranger.app
    found = doors(app)
    assert len(found) > 110 and ("GET", "/jobs/{job_id}/cost") in found
    wrong = []
    for method, path in found:
        need, at = least(method, path), filled(path, job)
        answer = go(stranger, method, at, "")
        turned = answer.status_code == 401 or answer.headers.get("location", "").startswith("/sign-in?next=")
        if turned != (need > 0):
            wrong.append(("stranger", method, path, answer.status_code))
        for role, one in (("left", gone), ("client", client)):
            let = need <= (0.7 if role == "left" else 0.5) or (
                role == "client" and method == "GET" and bool(CLIENTS.match(path))
            )
            if let and GOING.match(path):
                continue
            answer = go(one, method, at, tokens[id(one)])
            if (answer.status_code == 403) == let:
                wrong.append((role, method, path, answer.status_code))
        for role, one in others.items():
            let = RANK[role] >= need
            if let and GOING.match(path):
                continue
            there = not let or (method == "GET" and (ALL or role == least_of(need)))  # the others see no more of it
            answer = go(one, method, at if there else filled(path, "nosuchjob"), tokens[id(one)])
            if (answer.status_code in (401, 403)) == let or answer.status_code >= 500:
                wrong.append((role, method, path, answer.status_code))
    assert not wrong


def test_a_client_changes_nothing_of_the_job_that_may_be_looked_at(scope, staffed, signed, job):
    client = signed()
    client.get(f"/look/{passes.give_pass(scope, 'look', accounts.LOOKED, job_id=job, whom='a client')}")
    before, given = rows_of(scope, "own"), {"X-Page-Token": token(client)}
    event = {
        "id": "00000000-0000-4000-8000-000000000001",
        "device": "a",
        "seq": 1,
        "clock": "2026-06-01T08:00:00Z",
        "kind": "thunder",
    }
    said = client.post(
        f"/api/v1/jobs/{job}/log", json={"events": [event], "now": "2026-06-01T08:00:00Z"}, headers=given
    )
    assert said.status_code == 403 and said.json()["detail"] == "this link shows one job and no more"
    assert (
        client.post(
            f"/api/v1/jobs/{job}/photos/{'0' * 64}", content=b"x", headers={**given, "Content-Type": "image/jpeg"}
        ).status_code
        == 403
    )
    after = rows_of(scope, "own")
    assert {k: v for k, v in after.items() if k != "sessions"} == {k: v for k, v in before.items() if k != "sessions"}


def test_nothing_of_a_workspace_is_seen_or_changed_from_another(scope, staffed, signed, job):
    accounts.make_workspace(scope.engine, "next-door", "Next Door")
    far = replace(scope, workspace="next-door")
    people.add_person(far, "far@door", "far", "owner", PASSWORD)
    one = signed("far@door")
    given, before, kept = token(one), jobs.load(scope, job), rows_of(scope, "own")
    for method, path in doors(one.app):
        if "{job_id}" in path:
            answer = go(one, method, filled(path, job), given)
            assert answer.status_code in (404, 422) or (method == "POST" and answer.status_code == 303), (method, path)
            assert before.name not in answer.text
    assert rows_of(scope, "own") == kept
    after = jobs.load(scope, job)
    assert (after.version, after.name) == (before.version, before.name)
    assert job not in one.get("/").text and job in signed("owner@holm").get("/").text
    for person in staffed.values():
        assert press(one, f"/people/{person}/take-away").status_code == 404
    assert all(m.left_at is None for m in people.members(scope))


def test_a_change_without_the_token_of_its_page_or_from_another_site_is_refused(staffed, signed, job):
    one = signed("planner@holm")
    assert one.post("/sample").status_code == 403 and "older than your sign-in" in one.post("/sample").text
    assert one.post("/sample", data={"page_token": token(signed("owner@holm"))}).status_code == 403
    given = token(one)
    assert one.post("/sample", data={"page_token": given}, headers={"Sec-Fetch-Site": "cross-site"}).status_code == 403
    assert one.post("/sample", data={"page_token": given}, headers={"Sec-Fetch-Site": "same-site"}).status_code == 403
    assert one.post("/sample", data={"page_token": given}, headers={"Origin": "http://evil.example"}).status_code == 403
    assert (
        one.post(
            "/sample",
            data={"page_token": given},
            headers={"Sec-Fetch-Site": "same-origin", "Origin": "http://localhost"},
        ).status_code
        == 303
    )


def test_every_form_that_changes_something_carries_the_token(staffed, signed, job):
    one = signed("owner@holm")
    given, forms = token(one), 0
    for method, path in doors(one.app):
        if method == "GET" and "live" not in path and "{walk_id}" not in path:
            answer = one.get(filled(path, job))
            if "text/html" in answer.headers.get("content-type", ""):
                for form in re.findall(r"<form\b[^>]*method=\"?post\"?.*?</form>", answer.text, re.S | re.I):
                    forms += 1
                    assert f'name="page_token" value="{given}"' in form, (path, form[:200])
    assert forms > 25


def of_no_workspace(statement):
    """Tables of a statement that have workspaces, where it does not say whose rows it means."""
    tables = {t for t in visitors.iterate(statement) if isinstance(t, Table) and "workspace" in t.c}
    said = {
        c.table
        for part in _conditions(statement)
        for c in visitors.iterate(part)
        if isinstance(c, ColumnClause) and c.name == "workspace"
    }
    names = {getattr(t, "element", t).name for t in said if t is not None}
    return {t.name for t in tables} if not names else set()


def _conditions(statement):
    if isinstance(statement, Select):
        yield from [c for c in (statement.whereclause,) if c is not None]
        yield from [j.onclause for f in statement.get_final_froms() for j in visitors.iterate(f) if isinstance(j, Join)]
    elif (where := getattr(statement, "whereclause", None)) is not None:
        yield where


GATE = {
    "sessions",
    "passes",
    "members",
    "workspaces",
    "people",
    "tries",
}  # asked by a secret or a person, before it is known where one comes in


def test_every_query_says_whose_rows_it_means(scope, staffed, signed, job):
    """Every statement on rows of a workspace names it; the gate asks by a secret's digest or by a person instead."""
    seen, loose = set(), set()

    @event.listens_for(scope.engine, "before_execute")
    def look(connection, statement, *_):
        if isinstance(statement, Select | Update | Delete):
            seen.add(statement.__class__)
            loose.update(of_no_workspace(statement) - GATE)

    owner = signed("owner@holm")
    given = token(owner)
    press(owner, f"/jobs/{job}/issues")
    for method, path in doors(owner.app):
        if method == "GET":
            owner.get(filled(path, job))
    for name, values in (("", {"which": job}), ("/days", {"start": "2026-12-01"})):
        owner.post(f"/jobs/{job}/{name or 'calendar/first'}".replace("//", "/"), data={"page_token": given, **values})
    owner.post(
        f"/api/v1/jobs/{job}/log", json={"events": [], "now": "2026-06-01T08:00:00Z"}, headers={"X-Page-Token": given}
    )
    press(owner, f"/jobs/{job}/remove")
    assert seen == {Select, Update, Delete} and loose <= {
        "walks"
    }  # which workspaces record just now, when a server starts


def test_the_crew_sees_no_prices(scope, staffed, signed):
    """With suppliers, terms and quotes in the books, nothing the crew may look at has an amount of money in it."""
    ground = jobs.create(scope, small_ground())
    books.fill(scope, Plans(read_known=lambda job_id: {}), ground, [])
    crew, found, seen = signed("crew@holm"), [], 0
    for method, path in doors(crew.app):
        if method != "GET" or "{walk_id}" in path or "{arrival_id}" in path:
            continue
        for at in (filled(path, ground), filled(path, ground) + "?line=B"):
            answer = crew.get(at)
            if answer.status_code != 200 or not re.search("html|json|csv", answer.headers.get("content-type", "")):
                continue
            seen += 1
            found += [
                (path, m.group(0))
                for m in re.finditer(r"(?<!\w)(?:\$ ?\d[\d,.]*|\d[\d,.]* ?(?:USD|EUR|\$|€))(?!\w)", answer.text)
            ][:2]
    assert seen > 60 and not found


def test_the_crew_is_shown_no_door_it_may_not_open(scope, staffed, signed):
    """Every page of the crew, gone through from the list of jobs on: no link leads to a refusal, no form is a planner's."""
    ground = jobs.create(scope, small_ground())
    planner, crew = signed("planner@holm"), signed("crew@holm")
    press(planner, f"/jobs/{ground}/issues")
    assert press(planner, f"/jobs/{ground}/days", start="2026-12-01").status_code == 303
    known = [(m, path, re.compile(re.sub(r"{\w+(:path)?}", "[^/]+", path) + "$")) for m, path in doors(crew.app)]
    crew.get("/")
    todo, seen, forms, wrong = ["/"], {}, 0, []
    while todo:
        at = todo.pop()
        if (place := at.split("?")[0].split("#")[0]) in seen or not place.startswith("/"):
            continue
        answer = crew.get(at.split("#")[0])
        seen[place] = answer.status_code
        if answer.status_code == 403:
            wrong.append(("link", at))
        if "text/html" not in answer.headers.get("content-type", ""):
            continue
        todo += re.findall(r"<a\b[^>]*?href=\"(/[^\"/][^\"]*|/)\"", answer.text)
        for form in re.findall(r"<form\b[^>]*method=\"?post\"?[^>]*>", answer.text, re.I):
            action = (re.search(r'action="([^"]*)"', form) or [form, ""])[1].split("?")[0] or place
            door = next(path for m, path, fits in known if m == "POST" and fits.match(action))
            forms += 1
            if least("POST", door) > 1:
                wrong.append(("form", place, door))
    assert not wrong and forms > 5
    assert len(seen) > 40 and seen[f"/jobs/{ground}/days"] == seen[f"/jobs/{ground}/log"] == 200
    assert {"/catalog", "/rules"} <= set(seen) and "data-looks" in crew.get("/").text
    assert "data-looks" not in planner.get("/").text and "/bring-in" in planner.get("/").text
