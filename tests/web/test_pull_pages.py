"""The page of pulls, its API and its sheets; bad input gives a sentence and loses nothing."""

import json
import re
from itertools import pairwise

import pytest
from places import edit_page as edit
from places import few
from zigzag import zigzag

from gnomonic.demo.load import single_jobs
from gnomonic.store import jobs


@pytest.fixture
def job(scope):
    return jobs.create(scope, single_jobs()[-1])


def pulls(client, job):
    return client.get(f"/api/v1/jobs/{job}/pulls").json()


def test_every_demo_line_has_its_page_and_its_sheets(client, scope):
    for made in few(single_jobs(), 3, 4, 10, 11, -1):
        one = jobs.create(scope, made)
        page = client.get(f"/jobs/{one}/pull")
        assert page.status_code == 200 and 'id="pulls"' in page.text
        data = pulls(client, one)
        assert data["runs"] or made.lines[0].barrier.system == "fauna"
        for k, run in enumerate(data["runs"]):
            assert len(run["seasons"]["pull"]) == len(run["seasons"]["temps"]) == len(run["seasons"]["out"])
            assert sum(w["taken"] for w in run["ways"]) == 1
            for way in run["ways"]:
                if way["left"]:  # nowhere is more than half of a curve out
                    assert 0.49 < way["left"][0] <= way["left"][1] <= 1.0
            for units in ("us", "metric"):
                sheet = client.get(f"/jobs/{one}/pull-sheet?run={k}&units={units}")
                assert sheet.status_code == 200 and run["name"] in sheet.text
                words = re.sub(r"<script.*?</script>", "", sheet.text, flags=re.S)
                assert "{" not in re.sub(r"<[^>]+>", "", words)


def test_cold_tightens_and_heat_slackens_everywhere(client, job):
    for run in pulls(client, job)["runs"]:
        for node in range(len(run["seasons"]["at"])):
            column = [row[node] for row in run["seasons"]["pull"]]
            assert all(a >= b - 1e-6 for a, b in pairwise(column))
        coldest = max(o for o in run["seasons"]["out"][0] if o is not None)
        assert coldest <= 0.5 + 1e-3  # half the curve at most on the coldest night


def test_a_day_that_was_said_is_kept_and_one_that_never_was_is_refused(client, job):
    forecast = pulls(client, job)["climate"]
    assert not forecast["said"]
    warm = pulls(client, job)["runs"][0]["pull"]
    assert edit(client, job, do="set_pull", temp_c=-10.0).status_code == 200
    now = pulls(client, job)
    assert now["climate"]["said"] and now["climate"]["day"] == -10.0
    assert now["runs"][0]["pull"] > warm or forecast["day"] < -10  # on a cold day it is pulled harder
    refused = edit(client, job, do="set_pull", temp_c=-45.0)
    assert refused.status_code == 422 and "colder than the record" in refused.json()["detail"]
    assert pulls(client, job)["climate"]["day"] == -10.0
    assert edit(client, job, do="set_climate", climate="subarctic").status_code == 200
    assert edit(client, job, do="set_pull", temp_c=-45.0).status_code == 200
    # back by the sea that day never was: it says so rather than reckon with it
    back = edit(client, job, do="set_climate", climate="oceanic")
    assert back.status_code == 422 and "-45 °C is colder" in back.json()["detail"]
    assert client.get(f"/jobs/{job}/pull").status_code == 200


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"do": "set_pull", "pullers": 0}, "0 pullers can't draw it"),
        ({"do": "set_pull", "pullers": 40}, "no more than 6"),
        ({"do": "set_pull", "puller": "tractor"}, "there is no puller"),
        ({"do": "set_pull", "temp_c": "warm"}, "temp_c"),
        ({"do": "set_climate", "climate": "lunar"}, "there is no climate"),
        ({"do": "pull_from", "at_m": 10.0, "way": "both"}, "spliced somewhere"),
        ({"do": "pull_from", "at_m": 1e5, "way": "start"}, "the line ends at"),
        ({"do": "pull_from", "at_m": 10.0, "way": "sideways"}, "way"),
    ],
)
def test_what_can_not_be_said_is_refused_and_nothing_is_lost(client, job, change, says):
    before = pulls(client, job)
    refused = edit(client, job, **change)
    assert refused.status_code == 422 and says in refused.json()["detail"]
    assert pulls(client, job) == before


def test_a_sheet_of_no_run_is_refused(client, job):
    answer = client.get(f"/jobs/{job}/pull-sheet?run=99")
    assert answer.status_code == 422 and "here is no pull 100 on this line" in answer.text


def test_a_way_is_taken_undone_and_the_rolls_follow(client, scope):
    one = jobs.create(scope, zigzag())
    run = pulls(client, one)["runs"][0]
    assert not run["ok"]
    better = next(w for w in run["ways"] if w["recut"] and not w["ends"])
    said = edit(client, one, **better["edits"][-1])
    assert said.status_code == 200
    after = pulls(client, one)["runs"][0]
    taken = next(w for w in after["ways"] if w["taken"])
    assert taken["said"] and taken["keeps"] > next(w for w in run["ways"] if w["taken"])["keeps"]
    drawing = client.get(f"/api/v1/jobs/{one}/plan").json()["drawing"]
    assert any(abs((s["from"] + s["at"]) / 2 - after["splices"][0]) < 0.5 for s in drawing["splices"])
    version = client.get(f"/api/v1/jobs/{one}/plan").json()["version"]
    client.post(f"/api/v1/jobs/{one}/undo", json={"base": version})
    assert pulls(client, one)["runs"][0]["ways"] == run["ways"]


def test_a_slack_run_is_a_snag_whose_remedies_do_it(client, scope):
    one = jobs.create(scope, zigzag())
    snag = next(s for s in client.get(f"/api/v1/jobs/{one}/plan").json()["drawing"]["snags"] if s["go"] == "pull")
    assert "keeps only" in snag["title"]["t"] and snag["remedies"]
    before = next(w for w in pulls(client, one)["runs"][0]["ways"] if w["taken"])["keeps"]
    for remedy in snag["remedies"]:
        weighed = client.post(f"/api/v1/jobs/{one}/weigh", json={"edit": remedy["edit"]})
        assert weighed.status_code == 200
        assert edit(client, one, **remedy["edit"]).status_code == 200
        assert min(next(w for w in r["ways"] if w["taken"])["keeps"] for r in pulls(client, one)["runs"]) > before
        version = client.get(f"/api/v1/jobs/{one}/plan").json()["version"]
        client.post(f"/api/v1/jobs/{one}/undo", json={"base": version})


def test_the_page_s_json_is_finite(client, job):
    text = client.get(f"/api/v1/jobs/{job}/pulls").text
    json.loads(text, parse_constant=lambda name: pytest.fail(f"{name} in the answer"))
