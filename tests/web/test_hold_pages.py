"""Hold over HTTP: ranking, rule book with overrides, label reader, catalog in and out."""

import csv
import io

import pytest
from fastapi.testclient import TestClient
from places import few

from gnomonic.core.demand.catalog import catalog
from gnomonic.core.errors import BadInput
from gnomonic.core.fabric.fabrics import fabrics
from gnomonic.demo.load import single_jobs
from gnomonic.formats.catalog_csv import read_catalog, shipped_items, write_catalog
from gnomonic.store import jobs, workspace
from gnomonic.web.app import create_app

HEAD = "key,title,group,unit,length,width,diameter,mass,strength,index,wires,gauges,roll\n"
OWN = "10-47-6,our fabric,fabric,m,,,,,,21,3 3½ 4 4½ 5 6 6½ 7 7½ in,12½/14½,330 ft\n"


@pytest.fixture
def client(scope):
    with TestClient(create_app(scope)) as made:
        yield made


@pytest.fixture
def job(scope):
    return jobs.create(scope, single_jobs()[-1])


def test_every_demo_line_has_its_hold_page(client, scope):
    for made in few(single_jobs(), 0, 3, 8, 10, -1):
        job_id = jobs.create(scope, made)
        state = client.get(f"/api/v1/jobs/{job_id}/hold").json()
        assert state["refused"] == "" and (state["meets"] or state["near"])
        page = client.get(f"/jobs/{job_id}/hold")
        assert page.status_code == 200 and made.name in page.text
        printed = client.get(f"/jobs/{job_id}/print").text
        assert (
            "The work in order" in printed and "{" not in printed.split('<ol class="worksteps">')[1].split("</ol>")[0]
        )


def test_the_ranking_answers_an_edit(client, job):
    version = client.get(f"/api/v1/jobs/{job}/plan").json()["version"]
    hold = {"animals": [{"animal": "horses", "side": "left", "also": []}], "years": 20}
    answer = client.post(f"/api/v1/jobs/{job}/edits", json={"base": version, "edit": {"do": "say_hold", "hold": hold}})
    assert answer.status_code == 200
    state = client.get(f"/api/v1/jobs/{job}/hold").json()
    assert any(row["by"] == "horses" for row in state["demands"]) and all(c["misses"] == [] for c in state["meets"])
    edit = state["meets"][0]["edit"]
    hung = client.post(f"/api/v1/jobs/{job}/edits", json={"base": answer.json()["version"], "edit": edit})
    assert hung.status_code == 200 and "hung instead of" in hung.json()["said"]["t"]
    bad = {"do": "say_hold", "hold": {**hold, "only": "barbs"}}
    refused = client.post(f"/api/v1/jobs/{job}/edits", json={"base": hung.json()["version"], "edit": bad})
    assert refused.status_code == 422 and "horses must not meet barbs" in refused.json()["detail"]


def test_an_override_stands_beside_the_shipped_value_and_reaches_the_snags(client, scope, job):
    def snags():
        return [s["title"]["t"] for s in client.get(f"/api/v1/jobs/{job}/plan").json()["drawing"]["snags"]]

    assert not any("Gap underneath" in s for s in snags())
    sent = client.post("/rules", data={"path": "sheep.gap.value", "value": "2 in", "reason": "ours are small and thin"})
    assert sent.status_code == 200 and "shipped:" in sent.text and "ours are small and thin" in sent.text
    assert any("Gap underneath" in s for s in snags())
    assert client.post("/rules", data={"path": "sheep.gap.value", "back": "1"}).status_code == 200
    assert not any("Gap underneath" in s for s in snags()) and workspace.overrides(scope) == ()


@pytest.mark.parametrize(
    ("typed", "words"),
    [
        ({"value": "2 in", "reason": ""}, "An override needs a reason"),
        ({"value": "2", "reason": "because it is so here"}, "unit"),
        ({"value": "soon", "reason": "because it is so here"}, "soon"),
        ({"value": "2 in", "reason": "because it is so here", "path": "unicorns.gap.value"}, "There is no value"),
        ({"value": "strong", "reason": "because it is so here", "path": "sheep.strength.value"}, "not a strength"),
        ({"value": "14 in", "reason": "because it is so here", "path": "sheep.stuck.low_m"}, "must be closer"),
        ({"back": "1", "path": "unicorns"}, "There is no value"),
    ],
)
def test_overrides_refused_with_what_was_typed_kept(client, scope, typed, words):
    answer = client.post("/rules", data={"path": "sheep.gap.value", **typed})
    assert answer.status_code == 422 and words in answer.text and typed.get("reason", "") in answer.text
    assert workspace.overrides(scope) == ()


@pytest.mark.parametrize(
    ("label", "status", "words"),
    [
        ("9-49-6", 200, "9 line wires, 49 in high"),
        ("1348-12", 200, "13 line wires"),
        ("13-48-12 fixed knot 12½/12½ 330 ft", 200, "fixed knots"),
        ("12½/14½", 200, "filler wires 14½ gauge"),
        ("48-11-2", 200, "2 in diamonds"),
        ("10-47-6", 200, "No such fabric is on file"),
        ("99-999-99", 422, "is not a roll that is made"),
        ("13-48-6 hinge joint fixed knot", 422, "names two knots"),
        ("13-48-6 4000 ft", 422, "is not sold"),
        ("", 422, "Write what is printed"),
    ],
)
def test_label_reader(client, label, status, words):
    answer = client.get("/labels", params={"label": label, "animal": "sheep"})
    assert answer.status_code == status and words in answer.text
    assert client.get("/labels", params={"label": "9-49-6", "animal": "gryphons"}).status_code == 422


def test_the_catalog_comes_back_as_it_went_out(client):
    body = client.get("/catalog.csv").content
    rows = list(csv.DictReader(io.StringIO(body.decode("utf-8-sig"))))
    assert len(rows) == len(catalog()) + len(fabrics()) == len(shipped_items())
    assert read_catalog(body) == [] and write_catalog(shipped_items()) == body


def test_own_items_come_in_are_ranked_and_forgotten(client, scope, job):
    sent = client.post(
        "/catalog",
        files={
            "file": (
                "mine.csv",
                (HEAD + OWN + "hook,our hook,fitting,,2 in,,,1 oz,,3,,,\n").replace("1 oz", "30 g").encode(),
            )
        },
    )
    assert sent.status_code == 200 and "our fabric" in sent.text
    fabric = next(i.fabric for i in workspace.own_items(scope) if i.fabric)
    assert fabric.wires == 10 and fabric.roll_m == pytest.approx(100.584)
    state = client.get(f"/api/v1/jobs/{job}/hold").json()
    (own, *_) = [c for c in state["meets"] if c["section"]["label"] == "10-47-6"]
    version = client.get(f"/api/v1/jobs/{job}/plan").json()["version"]
    hung = client.post(f"/api/v1/jobs/{job}/edits", json={"base": version, "edit": own["edit"]})
    assert hung.status_code == 200 and hung.json()["drawing"]["fabric"]["label"] == "10-47-6"
    assert "10-47-6" in client.get("/catalog.csv").text
    client.post("/catalog/forget", data={"key": "10-47-6"})
    assert [i.key for i in workspace.own_items(scope)] == ["hook"]
    assert client.get(f"/jobs/{job}").status_code == 200, "what hangs is in the job itself"


@pytest.mark.parametrize(
    ("body", "words"),
    [
        (HEAD + "a,A,fitting,,50,,,,,1,,,\n", "row 2, column length: “50” has no unit"),
        (HEAD + "a,A,fitting,,2 in,,,3,,1,,,\n", "row 2, column mass: “3” has no unit"),
        (HEAD + "a,A,fitting,,,,,3 stone,,1,,,\n", "row 2, column mass: “stone” is not a unit"),
        (HEAD + "a,A,fitting,,,,,,,1,,,\nb,B,fitting,,,,,,,1,,,\na,A,fitting,,,,,,,2,,,\n", "row 4, column key: “a” was in row 2 already"),
        (HEAD + "a,,fitting,,,,,,,1,,,\n", "row 2, column title: it is empty"),
        (HEAD + "a,A,fitting,,,,,,,cheap,,,\n", "row 2, column index: “cheap” is not a price index"),
        (HEAD + "a,A,fitting,,far,,,,,1,,,\n", "row 2, column length: “far” is not a length"),
        (HEAD + OWN.replace("7½ in", "7½"), "row 2, column wires: write the spacings"),
        (HEAD + OWN.replace("7 7½ in", "9 in"), "row 2, column wires: 9 wires"),
        (HEAD + OWN.replace("12½/14½", "thin"), "row 2, column gauges"),
        (HEAD + OWN.replace("10-47-6", "huge"), "row 2, column key"),
        ("key,title\n", "there is no column “group”"),
        (HEAD.replace("roll", "colour"), "“colour” is not a column"),
        ("", "the file is empty"),
        (HEAD + "a,A,fitting,,,,,,,1,,,,,\n", "it has 15 cells under 13 columns"),
    ],
)  # fmt: skip
def test_catalogs_refused_whole(client, scope, body, words):
    with pytest.raises(BadInput, match=words.replace("(", r"\(")):
        read_catalog(body.encode())
    answer = client.post("/catalog", files={"file": ("mine.csv", body.encode() or b" ")})
    assert answer.status_code == 422 and workspace.own_items(scope) == ()
    with pytest.raises(BadInput, match="not text"):
        read_catalog(b"\xff\xfe\x00")
