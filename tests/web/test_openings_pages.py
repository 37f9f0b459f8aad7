"""The pages of gates and crossings, their API and their sheets; bad input gives a sentence and loses nothing."""

import pytest
from places import edit_page as edit

from gnomonic.demo.load import single_jobs
from gnomonic.store import jobs

FT = 0.3048


@pytest.fixture
def job(scope):
    return jobs.create(scope, single_jobs()[-1])


def openings(client, job):
    return client.get(f"/api/v1/jobs/{job}/openings").json()


def test_every_demo_line_has_its_page_and_its_sheets(client, scope):
    for made in single_jobs():
        one = jobs.create(scope, made)
        page = client.get(f"/jobs/{one}/openings")
        assert page.status_code == 200 and 'id="openings"' in page.text
        data = openings(client, one)
        assert data["guides"]["sides"] and data["staked"] == 0
        for gate in data["gates"]:
            for units in ("us", "metric"):
                sheet = client.get(f"/jobs/{one}/gate", params={"id": gate["id"], "units": units})
                assert sheet.status_code == 200 and "Clear between faces" in sheet.text, gate["name"]
        for over in data["crossings"]:
            sheet = client.get(f"/jobs/{one}/crossing", params={"at": over["middle"], "units": "metric"})
            assert sheet.status_code == 200 and "saddle on the live side" in sheet.text


def test_a_gate_is_slid_and_found_a_better_place(client, job):
    found = client.get(f"/api/v1/jobs/{job}/siting", params={"gate": "g2", "low": 400, "high": 460}).json()
    assert len(found["at"]) == len(found["gap"]) == len(found["out"]) and found["places"][0]["here"]
    there = client.get(f"/api/v1/jobs/{job}/swing", params={"gate": "g2", "at": 420.0}).json()
    assert there["at"] == 420.0 and there["clear"] == pytest.approx(12.25 * FT)
    assert openings(client, job)["gates"][1]["at"] == 432.0  # only looked at
    for path, params, says in (
        ("siting", {"gate": "g9", "low": 0, "high": 50}, "no gate g9"),
        ("siting", {"gate": "g2", "low": 0, "high": 2}, "longer than the gate"),
        ("swing", {"gate": "g2", "at": 5000}, "hangs between 0 and"),
        ("swing", {"gate": "g2", "at": "nan"}, "should be a finite number"),
    ):
        bad = client.get(f"/api/v1/jobs/{job}/{path}", params=params)
        assert bad.status_code == 422 and says in bad.text, (path, params, bad.text)


def test_the_opening_follows_the_leaf_as_it_was_measured(client, job):
    """191½ in measured where 16 ft was bought: 194½ in clear."""
    version = client.get(f"/api/v1/jobs/{job}/plan").json()["version"]
    form = {"id": "g1", "units": "us", "base": version, "leaf": "191 1/2"}
    kept = client.post(f"/jobs/{job}/gate", data=form)
    assert kept.status_code == 200 and "16 ft 2½ in, level" in kept.text and "It was measured." in kept.text
    assert openings(client, job)["gates"][0]["measured"]
    for leaf, says in (
        ("wide", "is not a length"),
        ("", "a length is missing"),
        ("400 ft", "is no gate"),
        ("1 in", "is no gate"),
    ):
        version = client.get(f"/api/v1/jobs/{job}/plan").json()["version"]
        bad = client.post(f"/jobs/{job}/gate", data={**form, "base": version, "leaf": leaf})
        assert bad.status_code == 422 and says in bad.text and "Clear between faces" in bad.text, leaf
    stale = client.post(f"/jobs/{job}/gate", data={**form, "base": 1})
    assert stale.status_code == 409
    assert openings(client, job)["gates"][0]["leaf"] == pytest.approx(191.5 * 0.0254)
    assert client.get(f"/jobs/{job}/gate", params={"id": "g9"}).status_code == 422
    assert client.get(f"/jobs/{job}/crossing", params={"at": 5.0}).status_code == 422


def test_a_job_of_before_is_asked_once_and_mended_by_one_edit(client, scope):
    made = single_jobs()[-1]
    (line,) = made.lines
    old = tuple(
        g.model_copy(update={"leaf_m": None, "opening_m": w, "measured": False})
        for g, w in zip(line.gates, (4.953, 3.7338), strict=True)
    )
    job = jobs.create(scope, made.model_copy(update={"lines": (line.model_copy(update={"gates": old}),)}))
    assert openings(client, job)["staked"] == 2
    assert "Say what leaves hang" in client.get(f"/api/v1/jobs/{job}/lines").text
    done = edit(client, job, do="mend_gates", how="widen")
    assert done.status_code == 200 and "gates hang otherwise" in done.json()["said"]["t"]
    now = openings(client, job)
    assert now["staked"] == 0 and [g["leaf"] for g in now["gates"]] == pytest.approx([16 * FT, 12 * FT])
    again = edit(client, job, do="mend_gates", how="widen").json()["said"]["t"]
    assert again.startswith("the plan is the same")


def test_a_crossing_is_said_and_a_flood_over_its_posts_refused(client, job):
    over = openings(client, job)["crossings"][0]
    bad = edit(client, job, do="say_crossing", at_m=over["middle"], flood_m="9 ft", bare="ft")
    assert (
        bad.status_code == 422 and "stands over the posts" in bad.json()["detail"] and bad.json()["field"] == "flood_m"
    )
    good = edit(client, job, do="say_crossing", at_m=over["middle"], flood_m="3 ft", bare="ft")
    assert good.status_code == 200 and "pushed" in good.json()["said"]["t"]
    wider = openings(client, job)["crossings"][0]
    assert wider["said"] and wider["to"] - wider["at"] > over["to"] - over["at"]
    carried = edit(client, job, do="say_crossing", at_m=wider["middle"], how="over")
    assert carried.status_code == 200 and [w["why"] for w in openings(client, job)["waters"]] == ["over"]
    back = edit(client, job, do="say_crossing", at_m=wider["middle"], forget=True)
    assert back.status_code == 200 and len(openings(client, job)["crossings"]) == 2


def test_gates_that_do_not_fit_are_refused_and_the_job_stays(client, job):
    before = openings(client, job)["gates"]
    for change, says in (
        ({"do": "add_gate", "at_m": 714.0, "leaf_m": "12 ft", "name": "late"}, "beyond the line's end"),
        ({"do": "add_gate", "at_m": 23.3, "leaf_m": "12 ft", "name": "next"}, "would hang on one post"),
        ({"do": "add_gate", "at_m": 100.0, "leaf_m": "60 ft", "bare": "ft", "name": "huge"}, "is no gate"),
        ({"do": "add_gate", "at_m": 100.0, "name": "none"}, "wants the length of its leaf"),
        ({"do": "set_gate", "id": "g1", "open_deg": 400}, "open_deg"),
        ({"do": "set_gate", "id": "g1", "kind": "portcullis"}, "no gate called"),
    ):
        bad = edit(client, job, **change)
        assert bad.status_code == 422 and says in bad.text, (change, bad.text)
    assert openings(client, job)["gates"] == before
