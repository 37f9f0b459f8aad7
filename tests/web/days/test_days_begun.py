"""The pages of days over HTTP and a real database: begun, moved, ticked, what if."""

import re
from datetime import date, datetime, timedelta

import pytest
import vobject
from crews import MONDAY, check_plan, crew, person
from crews import job as task_of
from days_pages import JOBS, PENS, begin, page, plan, post, refusal
from fastapi.testclient import TestClient
from places import edit_page

from gnomonic.core.days.crew import Plant
from gnomonic.core.days.laying import Given
from gnomonic.core.days.placing import Placed, Spell
from gnomonic.core.days.work import tasks_of
from gnomonic.store import days, jobs
from gnomonic.web.app import create_app
from gnomonic.web.days import ifs, making
from gnomonic.web.days.board import done_on
from gnomonic.web.days.current import current


# --- begun -------------------------------------------------------------------------------------------------------------------
def test_before_it_has_a_beginning(client, scope):
    job_id = jobs.create(scope, PENS)
    whole = page(client, job_id)
    assert "When is it done?" in whole and "That crew is assumed" in whole and "Plan the days" in whole
    assert client.get(f"/api/v1/jobs/{job_id}/days").json() == {"stamp": "", "looking": "", "refused": "", "plan": None}
    for place in ("day", "days/what-if", "day-sheets"):
        assert "say when the job begins" in page(client, job_id, place)
    assert "No job has a beginning yet" in page(client, job_id, "calendar")
    assert not hasattr(vobject.readOne(client.get(f"/jobs/{job_id}/days.ics").text), "vevent")
    refused = post(client, job_id, "day-sheets")
    assert refused.status_code == 422 and "no day sheets before the job has a beginning" in refused.text
    assert client.get(f"/jobs/{job_id}/day-sheets.pdf").status_code == 404


def test_a_job_is_begun_and_its_plan_holds(client, scope, job):
    whole = page(client, job)
    assert re.search(r"Done by \w{3} \d+ \w+ half the time, by \w{3} \d+ \w+ nine times in ten", whole)
    assert "2 people" in whole and "Begins <b>Mon 2 March</b>" in whole
    rows = plan(client, job)
    it = next(
        iter(
            create_app(scope)
            .state.room.plans.of("x", jobs.load(scope, job).key, jobs.load(scope, job).document, "")
            .all()
        )
    )
    tasks = tasks_of(it.fence, it.plan)
    assert set(rows) == {t.key for t in tasks}
    check_plan(rows, tasks, crew(), Given(MONDAY, marks={"A": date(2026, 3, 7)}))
    stroked = re.findall(r'data-key="([^"]+)" class="task', whole)
    assert sorted(stroked) == sorted(rows), "every task is drawn once"


def test_what_is_drawn_is_where_it_is_planned(client, job):
    """A stroke ends as far down as its day; its row of the table says the same day."""
    rows, whole = plan(client, job), page(client, job)
    for key, row in rows.items():
        link = re.search(rf'href="[^"]*day=([\d-]+)[^"]*task={re.escape(key)}"', whole)
        assert link and date.fromisoformat(link.group(1)) == row.begins.date()


@pytest.mark.parametrize(
    ("start", "words"),
    [
        ("soon", "Begins: “soon” is not a day; write it like 2026-03-02"),
        ("2026-02-30", "Begins: “2026-02-30” is not a day"),
        ("1999-01-01", "Begins: 1 January 1999 is too far away"),
        ("2099-01-01", "is too far away; give a day within a year past or three to come"),
        ("", "is not a day"),
    ],
)
def test_a_beginning_that_is_none(client, job, start, words):
    before = client.get(f"/api/v1/jobs/{job}/days").json()
    assert words in refusal(begin(client, job, start))
    assert client.get(f"/api/v1/jobs/{job}/days").json() == before, "nothing was lost"


def test_no_hole_before_the_marks(client, job):
    """Nobody has asked: five days from now.  Clearing goes on meanwhile."""
    rows = plan(client, job)
    dug = [r for k, r in rows.items() if "holes" in k or "drill" in k or "drive" in k or k.endswith("_posts")]
    assert dug and min(r.begins.date() for r in dug) >= date(2026, 3, 7)
    assert "No hole before the marks are in: planned from 7 March on" in page(client, job)


def test_another_process_shows_the_same(client, scope, job):
    """Nothing is held in a process: one that is started between two requests answers as the first."""
    with TestClient(create_app(scope), base_url="http://localhost") as other:
        assert other.get(f"/api/v1/jobs/{job}/days").json() == client.get(f"/api/v1/jobs/{job}/days").json()
        key = next(k for k in plan(client, job) if "marks" in k)
        assert post(other, job, "ticks", task=key, share="100", day="2026-03-02").status_code == 303
    assert "1 of" in page(client, job) and f't-{key}" class="gone"' in page(client, job, "day", day="2026-03-02")


def test_an_edit_of_the_job_is_in_its_days(client, scope, job):
    """Bays half as long: as many tasks, more work in them; the plan made anew is of the job as it is."""

    def work():
        now = current(create_app(scope).state.room, job)
        assert now.made is not None and {p.key for p in now.made.placed} == set(now.given.tasks)
        return sum(t.minutes[1] for t in now.given.tasks.values())

    before, keys = work(), set(plan(client, job))
    edit_page(client, job, do="decide", key="longest_bay_m", value=1.5)
    assert set(plan(client, job)) == keys and work() > 1.1 * before


def test_what_was_not_done_is_planned_anew_in_the_morning(client, job, today):
    today["at"] = datetime(2026, 3, 5, 6, 0)
    assert min(r.begins for r in plan(client, job).values()) >= datetime(2026, 3, 5, 7, 30)


def test_the_page_of_one_line_and_one_task(client, job):
    key = next(k for k in plan(client, job) if k.endswith(".pull") or k.endswith(".hang"))
    whole = page(client, job, task=key)
    assert 'id="task"' in whole and "One person" in whole and "why?" in whole
    assert f"/jobs/{job}?line=A#at=" in whole, "a way to the place on the strip"
    assert "pulls" in page(client, job, line="A")
    assert client.get(f"/jobs/{job}/days?day=soon").status_code == 422
    assert client.get("/jobs/nothere/days").status_code == 404


# --- moved -------------------------------------------------------------------------------------------------------------------
def test_a_task_is_moved_and_let_go_again(client, job):
    first = plan(client, job)
    key = min((r.begins, k) for k, r in first.items())[1]
    answer = post(client, job, "days/pin", task=key, at="2026-03-05T10:00")
    assert (
        answer.status_code == 303
        and f"task={key}" in answer.headers["location"]
        and "day=2026-03-05" in answer.headers["location"]
    )
    assert plan(client, job)[key].begins == datetime(2026, 3, 5, 10, 0)
    assert "Let it begin as early as it can" in page(client, job, task=key)
    assert post(client, job, "days/pin", task=key).status_code == 303
    assert plan(client, job)[key].begins < datetime(2026, 3, 5)


@pytest.mark.parametrize(
    ("which", "at", "words"),
    [
        (
            "A.1.drill",
            "2026-03-03T08:00",
            "is work in the ground: it can’t begin on 3 March 2026, before the marks are in (7 March 2026)",
        ),
        ("A.1.inspect", "2026-02-01T08:00", "1 February 2026 is outside the plan, which begins on 2 March 2026"),
        ("A.1.inspect", "2031-02-01T08:00", "is outside the plan"),
        ("A.1.inspect", "noon", "“noon” is no day and time"),
        ("A.1.inspect", "2026-03-20T08:00+02:00", "by the clocks where the fence is, without a zone"),
    ],
)
def test_a_move_that_can_not_be(client, job, which, at, words):
    rows = plan(client, job)
    key = next(
        k
        for k in rows
        if k.split(".")[-1]
        in ((which.split(".")[-1], "drive", "end_holes") if "drill" in which else (which.split(".")[-1],))
    )
    assert words in refusal(post(client, job, "days/pin", task=key, at=at))
    assert plan(client, job) == rows


def test_a_task_whose_marks_ran_out_is_begun_later_and_that_is_said(client, job, today):
    """Asked for on the 10th, when marks were to be in on the 7th.  Nobody asked for them: on the 9th they are five days off, on Saturday the
    14th, and what is dug can't begin before Monday the 16th."""
    key = next(k for k in plan(client, job) if k.split(".")[-1] in ("drill", "drive", "end_holes"))
    assert post(client, job, "days/pin", task=key, at="2026-03-10T08:00").status_code == 303
    assert plan(client, job)[key].begins == datetime(2026, 3, 10, 8, 0)
    today["at"] = datetime(2026, 3, 9, 6, 30)
    assert plan(client, job)[key].begins.date() == date(2026, 3, 16)
    assert (
        "was to begin on Tue 10 March; what comes before it, marks, people and plant let it begin on Mon 16 March"
        in page(client, job)
    )


def test_a_task_that_is_not_there(client, job):
    assert post(client, job, "days/pin", task="Z.9.knit", at="2026-03-05T10:00").status_code == 404
    assert post(client, job, "ticks", task="Z.9.knit").status_code == 404
    assert 'id="task"' not in page(client, job, task="Z.9.knit")


# --- done --------------------------------------------------------------------------------------------------------------------
def test_a_tick_moves_the_plan_and_counts_once(client, scope, job):
    rows = plan(client, job)
    key = min((r.begins, k) for k, r in rows.items())[1]
    for _ in range(3):
        answer = post(
            client, job, "ticks", task=key, share="100", hours="1.5", by=["ann"], id="tap-1", day="2026-03-02"
        )
        assert answer.status_code == 303 and answer.headers["location"].endswith(f"#t-{key}")
    (kept,) = days.day_ticks(scope, job)
    assert (kept.share, kept.hours, kept.by) == (1.0, 1.5, ("Ann",))
    assert "1 of" in page(client, job)
    sheet = page(client, job, "day", day="2026-03-02")
    assert "not done after all" in sheet
    post(client, job, "ticks", task=key, share="0", id="tap-2")
    assert "not done after all" not in page(client, job, "day", day=str(plan(client, job)[key].begins.date()))


def test_when_all_of_it_is_done(client, job, today):
    """Everything ticked: said so, nothing left to do, on no page a fault."""
    rows = plan(client, job)
    for n, key in enumerate(rows):
        post(client, job, "ticks", task=key, share="100", id=f"tap-{n}")
    whole = page(client, job)
    assert "All of it is done." in whole and "0 min of one person left" in whole
    assert "does not end within the calendar" not in whole
    for place in ("day", "days/what-if", "calendar", "crew", "day-sheets"):
        page(client, job, place)
    today["at"] += timedelta(days=3)
    assert "All of it is done." in page(client, job)


def test_part_of_a_task_leaves_the_rest(client, job, today):
    rows = plan(client, job)
    key = max(rows, key=lambda k: (rows[k].ends - rows[k].begins, k))
    whole = sum(s.ends - s.begins for s in rows[key].spells) * rows[key].hands
    post(client, job, "ticks", task=key, share="part", share_part="75", id="tap-1")
    after = plan(client, job)[key]
    left = sum(s.ends - s.begins for s in after.spells) * after.hands
    assert left == pytest.approx(whole / 4, abs=30)


@pytest.mark.parametrize(
    ("typed", "words"),
    [
        ({"share_part": "half"}, "How much of it: “half” is not a number; write 100 for all of it"),
        ({"share_part": "120"}, "How much of it: 120 is not between 0 and 100 %"),
        ({"share_part": "nan"}, "is not between"),
        ({"share_part": "50", "hours": "lots"}, "Hours of all who were at it: “lots” is not a number"),
        ({"share_part": "50", "hours": "0"}, "Hours of all who were at it: 0 is not between"),
        ({"share_part": "50", "hours": "1e9"}, "is not between 0 and 1000"),
    ],
)
def test_a_tick_that_can_not_be(client, scope, job, typed, words):
    rows = plan(client, job)
    key = min((r.begins, k) for k, r in rows.items())[1]
    answer = post(client, job, "ticks", task=key, share="part", day=str(rows[key].begins.date()), **typed)
    assert words in refusal(answer)
    assert not days.day_ticks(scope, job)
    assert f'value="{typed["share_part"]}"' in answer.text, "what was typed is still there"


def test_rates_are_learned_from_ticks_and_the_end_moves(client, scope, job):
    """Three tasks of a kind in twice the usual: from the third on that counts, is shown where rates are, and said as a drift."""
    state = create_app(scope).state.room
    tasks = current(state, job).given.tasks
    kind = next(t.kind for t in tasks.values() if sum(o.kind == t.kind for o in tasks.values()) >= 4)
    mine = [t for t in tasks.values() if t.kind == kind][:3]
    for n, task in enumerate(mine):
        twice = f"{task.minutes[1] * 2 / 60:.4f}"
        post(client, job, "ticks", task=task.key, share="part", share_part="100", hours=twice, id=f"tap-{n}")
        assert ("median of 3" in page(client, job)) == (n == 2)
    assert re.search(r"[\d.]+ of 3</td>", page(client, job, "crew"))
    assert "The whole ends" in page(client, job)


def test_two_jobs_whose_tasks_are_called_alike_are_both_learned_from(client, scope, job):
    """The same pens twice: two tasks of one and one of the other, which has the key of one of those, took twice the usual."""
    other = jobs.create(scope, PENS)
    begin(client, other)
    tasks = list(current(create_app(scope).state.room, job).given.tasks.values())
    kind = next(t.kind for t in tasks if sum(o.kind == t.kind for o in tasks) >= 2)
    first, second = [t for t in tasks if t.kind == kind][:2]
    for n, (where, task) in enumerate(((job, first), (job, second), (other, first))):
        twice = f"{task.minutes[1] * 2 / 60:.4f}"
        post(client, where, "ticks", task=task.key, share="part", share_part="100", hours=twice, id=f"tap-{n}")
    assert "median of 3" in page(client, job) and "median of 3" in page(client, other)


def test_work_by_hand_that_took_as_long_as_by_hand_is_at_the_usual_pace(client, scope, job):
    """Without an auger and a driver: three tasks, each ticked with the hours they were planned for, are no drift, and planned no longer."""
    days.put_crew(scope, crew(plant=("pullers",)))
    given = current(create_app(scope).state.room, job).given
    by_hand = [t for t in given.tasks.values() if t.of.by_hand > 1 and t.of.plant and t.kind == "end_holes"]
    assert len(by_hand) >= 3
    for n, task in enumerate(by_hand[:3]):
        hours = f"{task.minutes[1] * 2.5 / 60:.4f}"
        post(client, job, "ticks", task=task.key, share="part", share_part="100", hours=hours, id=f"tap-{n}")
    assert current(create_app(scope).state.room, job).given.rates["end_holes"].share == pytest.approx(1.0, abs=0.001)
    assert "median of 3" not in page(client, job)


# --- a day -----------------------------------------------------------------------------------------------------------------
def test_what_is_done_on_a_day_is_its_share_of_what_is_left():
    """Eighty posts, a quarter of them done: sixty are left, planned for 3 h on Monday and 1 h on Tuesday: 45 and 15.  Done, all eighty were."""
    spells = tuple(Spell(MONDAY + timedelta(days=k), 450, 450 + m, ("ann",)) for k, m in enumerate((180, 60)))
    row = Placed("A.1.drive", datetime(2026, 3, 2, 7, 30), datetime(2026, 3, 3, 8, 30), 1, spells, "", ("driver",))
    task = task_of("drive", 4, quantity=80.0)
    assert [done_on(task, row, MONDAY + timedelta(days=k), 0.25) for k in range(3)] == [45, 15, 0]
    assert [done_on(task, row, MONDAY + timedelta(days=k), 1.0) for k in range(2)] == [60, 20]


def test_a_cap_is_due_on_the_one_day_on_which_its_post_is_driven(client, scope, job):
    """So many posts before that the last to be driven is the five hundredth: due on the last day of driving.  One short of it: on the first."""
    drive = [
        t
        for t in current(create_app(scope).state.room, job).given.tasks.values()
        if "driver" in t.of.plant and t.unit == "post"
    ]
    total = sum(t.quantity for t in drive)
    assert total == int(total) > 10
    for before, which in ((500 - int(total), -1), (499, 0)):
        days.put_crew(scope, crew(plant=("auger", Plant(kind="driver", posts_done=before), "pullers")))
        rows = plan(client, job)
        driven = sorted({s.day for t in drive for s in rows[t.key].spells})
        due = [
            d
            for d in sorted({s.day for r in rows.values() for s in r.spells})
            if "driver cap after 500 posts" in page(client, job, "day", day=str(d))
        ]
        assert due == [driven[which]]


# --- what if -----------------------------------------------------------------------------------------------------------------
def rows_of(table):
    """The rows of what if, and by change how many days sooner or later."""
    rows = re.findall(
        r'<tr class="[^"]*"><th scope="row">(.*?)</th><td>(.*?)</td><td class="num">(.*?)</td><td>(.*?)</td></tr>',
        table,
        re.S,
    )
    return rows, {what: re.sub(r"<[^>]+>", "", cell).strip() for what, _, cell, _ in rows}


def ifs_of(client, job_id):
    """What was found, not the first look."""
    return rows_of(client.get(f"/jobs/{job_id}/days/what-if").text.rpartition("<tbody>")[2])


def test_what_no_task_takes_changes_nothing(client, scope, monkeypatch):
    """Nine lines, a plan that nobody looked at further: no task takes a trencher, so that with one it ends when it
    ends; that a better order was found while looking is not its doing."""
    monkeypatch.setattr(making, "QUICK_S", 0.0)
    monkeypatch.setattr(ifs, "BASE_S", 0.0)
    days.put_crew(scope, crew(person("Ann", range(6)), person("Ben"), person("Cy", [5], skills=["wire"])))
    holm = jobs.create(scope, JOBS[-1])
    begin(client, holm)
    tasks = current(create_app(scope).state.room, holm).given.tasks
    assert "trencher" not in {p for t in tasks.values() for p in t.of.plant}
    said = ifs_of(client, holm)[1]
    assert said["With a trencher"] == "0"
    assert not [what for what, cell in said.items() if what.startswith("One more") and "later" in cell]
    assert not [
        what
        for what, cell in said.items()
        if what in ("Without Ben", "Without Cy") and cell not in ("", "0") and "later" not in cell
    ]
    assert said["One more person, who comes and knows what Ann does"].endswith(("day", "days"))


def test_a_first_look_never_says_the_wrong_way_either(client, job):
    """It has every change that can be judged at once, and is gone the next time: what was found is kept."""
    _, look, found = client.get(f"/jobs/{job}/days/what-if").text.split("<tbody>")
    (rows, said), (all_rows, _) = rows_of(look), rows_of(found)
    assert rows[0][0] == "As it is" and {r[0] for r in rows} == {r[0] for r in all_rows}
    for what, cell in said.items():
        if what.startswith(("One more", "Everybody works")):
            assert "later" not in cell, what
        if what.startswith("Begun a week"):
            assert "later" in cell or cell in ("0", ""), what
    assert client.get(f"/jobs/{job}/days/what-if").text.count("<tbody>") == 1


def test_what_if_never_says_the_wrong_way(client, job):
    rows, said = ifs_of(client, job)
    assert rows[0][0] == "As it is"
    for what, cell in said.items():
        if what.startswith(("One more", "Everybody works")):
            assert "later" not in cell, what
        if what.startswith(("Without Ben", "Begun a week")):
            assert "later" in cell or cell in ("0", ""), what
    refused = next(why for what, ends, _, why in rows if what == "Without Ben")
    assert "takes 2 people at once" in refused
    assert any(why == "Nothing: something else holds the end" for _, _, _, why in rows)
