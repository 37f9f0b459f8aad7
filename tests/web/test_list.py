"""The list of jobs plans nothing; what it shows is kept; prints are remembered; an edit's answer carries what changed."""

from datetime import date

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import text

from gnomonic.core.edits.all import apply, read_edit
from gnomonic.core.limits import MOST_A_PAGE as A_PAGE
from gnomonic.demo.load import holm, single_jobs
from gnomonic.store import jobs
from gnomonic.web.app import create_app
from gnomonic.web.home import sample


@pytest.fixture
def client(scope):
    with TestClient(create_app(scope, demo=True)) as made:
        yield made


def test_the_list_is_paged_searched_and_plans_nothing(client, scope):
    job = single_jobs()[0]
    ids = [jobs.create(scope, job.model_copy(update={"name": f"Field {k:02d}"})) for k in range(A_PAGE + 5)]
    first, second = client.get("/").text, client.get("/?page=2").text
    assert first.count('class="job"') == A_PAGE and second.count('class="job"') == 5
    assert f"{A_PAGE + 5} jobs: 1 to {A_PAGE}" in first and f"{A_PAGE + 1} to {A_PAGE + 5}" in second
    assert 'rel="next"' in first and 'rel="next"' not in second and 'rel="prev"' in second
    assert not client.app.state.room.plans.held and first.count("not counted yet") == A_PAGE
    made = client.get(f"/api/v1/jobs/{ids[3]}/summary").json()
    assert made["posts"] > 10 and made["length_m"] == pytest.approx(149.81, abs=0.01) and len(made["paths"]) == 1
    found = client.get("/?q=field 03").text
    assert found.count('class="job"') == 1 and f"{made['posts']} posts" in found and "data-stale" not in found
    assert client.get("/", params={"q": made["hung"].split(" ")[0]}).text.count('class="job"') == 1, (
        "what hangs is looked through where it is known"
    )
    assert "No job has" in client.get("/?q=100%25_\\").text and "No job has" in client.get("/?q=%00gold").text
    assert client.get("/?page=-3").status_code == 200 and client.get("/?page=99999999999").status_code == 200
    assert client.get(f"/?q={'x' * 81}").status_code == 422
    edit = {"do": "decide", "key": "longest_bay_m", "value": 2.5}
    base = jobs.load(scope, ids[3]).version
    assert client.post(f"/api/v1/jobs/{ids[3]}/edits", json={"base": base, "edit": edit}).status_code == 200
    assert (
        "data-stale" in client.get("/?q=field 03").text and f"{made['posts']} posts" in client.get("/?q=field 03").text
    )
    assert client.get(f"/api/v1/jobs/{ids[3]}/summary").json()["posts"] > made["posts"]
    assert "data-stale" not in client.get("/?q=field 03").text
    gone = client.post(f"/jobs/{ids[3]}/remove", data={"q": "field 0"}, follow_redirects=False)
    assert gone.headers["location"] == "/?q=field+0" and "Field 03" not in client.get("/").text


def test_signs_that_mean_something_to_a_database_are_looked_for_as_they_stand(client, scope):
    job = single_jobs()[0]
    for name in ("Bank 50 % off_set", "Bank 50 steps offset", "Back\\slash"):
        jobs.create(scope, job.model_copy(update={"name": name}))
    for words, found in (
        ("%", 1),
        ("off_set", 1),
        ("\\", 1),
        ("BANK 50", 2),
        ("bank % _", 1),
        ("b", 3),
        ("Bank slash", 0),
    ):
        assert client.get("/", params={"q": words}).text.count('class="job"') == found, words


def test_what_was_counted_on_another_day_or_by_other_rules_is_counted_anew(client, scope):
    job_id = jobs.create(scope, single_jobs()[0])
    client.get(f"/api/v1/jobs/{job_id}/summary")
    assert "data-stale" not in client.get("/").text
    with scope.engine.begin() as connection:  # marks run out overnight
        connection.execute(
            text("UPDATE jobs SET summary = replace(summary, :day, '2020-02-02')"), {"day": date.today().isoformat()}
        )
    assert "data-stale" in client.get("/").text
    client.get(f"/api/v1/jobs/{job_id}/summary")
    assert "data-stale" not in client.get("/").text
    own = {"path": "sheep.gap.value", "value": "2 in", "reason": "ours are small and thin"}
    assert client.post("/rules", data=own).status_code == 200
    assert "data-stale" in client.get("/").text and "not counted yet" not in client.get("/").text


def test_a_summary_of_an_older_version_never_covers_a_newer_one(scope):
    job_id = jobs.create(scope, single_jobs()[0])
    old = jobs.load(scope, job_id)
    new = jobs.save(
        scope, job_id, old.version, apply(single_jobs()[0], read_edit({"do": "rename", "name": "New"})), "{}"
    )
    jobs.keep_summary(scope, job_id, new.version, '{"of": "new"}')
    jobs.keep_summary(scope, job_id, old.version, '{"of": "old"}')
    assert [(r.summary, r.fresh) for r in jobs.listed(scope)] == [('{"of": "new"}', True)]
    back = jobs.step(scope, job_id, new.version, True)
    assert [r.fresh for r in jobs.listed(scope)] == [False]
    jobs.keep_summary(scope, job_id, back.version, '{"of": "undone"}')
    assert [(r.summary, r.fresh) for r in jobs.listed(scope)] == [('{"of": "undone"}', True)]


def test_what_changed_since_the_last_print_is_told_item_by_item(client, scope):
    job_id = jobs.create(scope, single_jobs()[-1])
    needs = f"/api/v1/jobs/{job_id}/needs"
    assert client.get(needs).json()["since"] is None
    version = jobs.load(scope, job_id).version
    assert client.post(f"/api/v1/jobs/{job_id}/printed", json={"version": version + 999}).status_code == 404
    assert client.post(f"/api/v1/jobs/{job_id}/printed", json={"version": version}).status_code == 204
    with scope.engine.begin() as connection:  # the version is old, the print is of today
        connection.execute(text("UPDATE versions SET made_at = '2020-02-02'"))
    today = date.today().isoformat()
    assert client.get(needs).json()["since"] == {"day": today, "was": {}, "gone": []}
    before = {row["alike"]: row["count"] for row in client.get(needs).json()["rows"]}
    gate = {"do": "add_gate", "at_m": 213.36, "opening_m": 3.7338, "name": "hay gate"}
    assert client.post(f"/api/v1/jobs/{job_id}/edits", json={"base": version, "edit": gate}).status_code == 200
    now = client.get(needs).json()
    changed = {now["rows"][int(k)]["alike"]: was for k, was in now["since"]["was"].items()}
    after = {row["alike"]: row["count"] for row in now["rows"]}
    assert changed == {k: before.get(k, 0) for k in after if abs(after[k] - before.get(k, 0)) > 5e-4}
    assert any(k.startswith("gate_leaf") for k in changed)
    assert now["rows"][0]["group"] == "Posts" and {r["group"] for r in now["rows"]} >= {"Gates", "Fittings", "Braces"}
    with TestClient(create_app(scope)) as again:
        assert again.get(needs).json()["since"] == now["since"], "after a start of the server too"
    client.post(f"/api/v1/jobs/{job_id}/undo", json={"base": jobs.load(scope, job_id).version})
    assert client.get(needs).json()["since"]["was"] == {}


def test_an_answer_to_an_edit_carries_the_parts_that_changed(client, scope):
    job_id = jobs.create(scope, holm())
    whole = client.get(f"/api/v1/jobs/{job_id}/plan?line=B").json()

    def edit(base, change, seen):
        answer = client.post(f"/api/v1/jobs/{job_id}/edits?line=B&seen={seen}", json={"base": base, "edit": change})
        assert answer.status_code == 200, answer.text
        return answer.json()

    renamed = edit(whole["version"], {"do": "rename_line", "name": "middle fence"}, whole["seen"])
    assert (
        {"line", "lines"} <= set(renamed["parts"]) <= {"line", "lines", "fabric"}
        and set(renamed["drawing"]) >= {"name", "title"}
        and "posts" not in renamed["drawing"]
    )
    nearer = edit(renamed["version"], {"do": "decide", "key": "longest_bay_m", "value": 2.6}, renamed["seen"])
    assert {"posts", "decided"} <= set(nearer["parts"]) and not {"ground", "found", "line", "lines"} & set(
        nearer["parts"]
    )
    page = {**whole["drawing"], **renamed["drawing"], **nearer["drawing"]}
    fresh = client.get(f"/api/v1/jobs/{job_id}/plan?line=B").json()
    assert page == fresh["drawing"] and nearer["seen"] == fresh["seen"]
    undone = client.post(
        f"/api/v1/jobs/{job_id}/undo?line=B&seen={nearer['seen']}", json={"base": nearer["version"]}
    ).json()
    assert {**page, **undone["drawing"]} == client.get(f"/api/v1/jobs/{job_id}/plan?line=B").json()["drawing"]
    other_line = client.get(f"/api/v1/jobs/{job_id}/plan?line=A").json()["seen"]  # of this version, but of another line
    for seen in ("", "stale", whole["seen"], other_line):  # a page that has drawn something else gets everything
        other = edit(undone["version"], {"do": "decide", "key": "longest_bay_m", "value": 2.7}, seen)
        assert "parts" not in other and set(other["drawing"]) == set(page) and len(other["lines"]) == 9
        undone = client.post(f"/api/v1/jobs/{job_id}/undo?line=B", json={"base": other["version"]}).json()


def test_the_jobs_page_says_what_to_do_next_and_the_worst_of_all_lines(client, scope):
    job_id = jobs.create(scope, holm())
    state = client.get(f"/api/v1/jobs/{job_id}/lines").json()
    assert [n["go"] for n in state["next"]] == ["hold", "", "marking"]
    assert (
        state["snags"][0]["grave"] and sum(s["title"]["t"].startswith("Buried services") for s in state["snags"]) == 1
    )
    graves = [s["grave"] for s in state["snags"]]
    assert graves == sorted(graves, reverse=True)
    assert {"water", "service", "wire"} <= {t["kind"] for t in state["things"]}
    assert len(state["figures"]["A"]["gates"]) == 2 and state["figures"]["A"]["area"] > 30_000
    assert "data-stale" not in client.get("/").text, "opening the job counted it"


def test_the_sample_is_tried_and_thrown_away(client, scope):
    assert "Try a sample line" in client.get("/").text
    went = client.post("/sample", follow_redirects=False).headers["location"]
    lines = client.get(f"{went}/lines").text
    assert "throw it away" in lines and sample.is_sample(sample.job()) and not sample.is_sample(single_jobs()[0])
    drawn = client.get(f"/api/v1{went}/plan").json()["drawing"]
    assert drawn["runs"] and len(drawn["snags"]) >= 2, "there is something to see on it"
    client.post(f"{went}/remove")
    assert jobs.count(scope) == 0 and "Try a sample line" in client.get("/").text


def test_patterns_are_shown_in_the_demo_only(client, scope):
    assert "Patterns" in client.get("/patterns").text
    with TestClient(create_app(scope)) as plain:
        assert plain.get("/patterns").status_code == 404
    assert jobs.count(scope) == 0, "nothing was saved for it"
