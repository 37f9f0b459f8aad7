"""Crew, plant and rates typed over HTTP, kept in a real database; refused with nothing lost."""

import html
import re
from datetime import date, time

import pytest
from crews import crew
from days_pages import page, plan, refusal, save_crew, typed_crew

from gnomonic.core.days.crew import Plant
from gnomonic.store import days
from gnomonic.web.days.current import SEARCH


# --- crew --------------------------------------------------------------------------------------------------------------------
def test_a_crew_is_said_and_every_plan_is_made_anew(client, scope, job):
    before = plan(client, job)
    answer = save_crew(client, job, p2_name="Cy Young", p2_kind="helper", p2_days=["5"], p2_begins="8:00", p2_ends="14:30", p2_skills=["wire"], p2_away="2026-03-14; 2026-07-03 to 2026-07-10 hay", off="2026-03-10 market", country="pt", m_auger="2", m_auger_hired="1", r_marks="2.5")  # fmt: skip
    assert answer.status_code == 303
    kept = days.crew(scope)
    cy = kept.people[2]
    assert (cy.id, cy.name, cy.days, cy.begins, cy.skills) == ("cy-young", "Cy Young", (5,), time(8), ("wire",))
    assert [(o.first.day, o.last.day, o.why) for o in cy.away] == [(14, 14, ""), (3, 10, "hay")]
    assert kept.country == "PT" and kept.off[0].why == "market"
    assert next(p for p in kept.plant if p.kind == "auger") == Plant(kind="auger", count=2, hired=True)
    assert kept.rates["marks"] == pytest.approx(2.5 / 3.048), "2.5 minutes for 10 ft"
    assert days.crew(scope).people[0].name == "Ann", "the others are who they were"
    assert all(s.day != date(2026, 3, 10) for r in plan(client, job).values() for s in r.spells)
    assert plan(client, job) != before
    assert client.app.state.room.queue.waiting(SEARCH, f"own {job}") == "todo"


def test_who_comes_no_more_is_gone(client, scope, job):
    assert save_crew(client, job, p1_gone="1").status_code == 303
    assert [p.name for p in days.crew(scope).people] == ["Ann"]
    whole = page(client, job)
    assert "takes 2 people at once, and there is never more than 1: say who comes and helps" in whole
    assert client.get(f"/api/v1/jobs/{job}/days").json()["refused"].startswith("“")


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"p0_begins": "half seven"}, "Ann begins: “half seven” is not a time; write it like 7:30"),
        ({"p0_begins": "25:00"}, "is not a time"),
        ({"p0_begins": "17:00"}, "Ann stops before beginning"),
        ({"p1_name": "Ann"}, "two people have the same name"),
        ({"p0_away": "next week"}, "Ann is away: “next week” can’t be read"),
        ({"p0_away": "2026-07-10 to 2026-07-03"}, "the last day off is before the first"),
        ({"p0_comes": "2026-13-01"}, "is not a day"),
        ({"off": "hay in July"}, "Nobody comes: “hay in July” can’t be read"),
        ({"zone": "Middle/Earth"}, "there is no time zone “Middle/Earth”"),
        ({"country": "XX"}, "no holidays of “XX” are on file"),
        ({"country": "DE", "region": "ZZ"}, "DE has no region “ZZ”"),
        ({"lat": "47"}, "a place has latitude and longitude"),
        ({"lat": "north", "lon": "1"}, "Latitude: “north” is not a number"),
        ({"lat": "95", "lon": "1"}, "less than or equal to 90"),
        ({"m_auger": "two"}, "How many augers: “two” is not a whole number"),
        ({"r_marks": "0"}, "greater than 0"),
        ({"rest_min": "-5"}, "Midday break: “-5” is not a whole number"),
        ({"p0_name": "A" * 61}, "60"),
    ],
)
def test_a_crew_that_can_not_be_is_refused_and_nothing_typed_is_lost(client, scope, job, change, words):
    before = days.crew(scope)
    answer = save_crew(client, job, **change)
    assert words.lower() in refusal(answer).lower()
    assert days.crew(scope) == before
    for name, value in change.items():
        assert value in html.unescape(answer.text), name


def test_what_was_ticked_and_chosen_is_kept_after_a_refusal(client, scope, job):
    """Mondays and Wednesdays, no skill any more, a hired auger, of a contractor: all as they were left, beside what is wrong."""
    change = {"p0_days": ["0", "2"], "p0_skills": [], "p0_kind": "contractor", "m_auger_hired": "1", "country": "PT"}
    answer = save_crew(client, job, p0_begins="half seven", **change)
    assert "is not a time" in refusal(answer)

    def ticked(name):
        return [
            re.search(r'value="([^"]*)"', t).group(1)
            for t in re.findall(rf'<input[^>]*name="{name}"[^>]*>', answer.text)
            if "checked" in t
        ]

    assert ticked("p0_days") == ["0", "2"] and ticked("p0_skills") == [] and ticked("m_auger_hired") == ["1"]
    assert ticked("p1_days") == ["0", "1", "2", "3", "4"] and len(ticked("p1_skills")) == 2
    chosen = re.search(r'<select[^>]*name="p0_kind"[^>]*>(.*?)</select>', answer.text, re.S).group(1)
    assert re.findall(r'value="(\w+)" selected', chosen) == ["contractor"]
    assert days.crew(scope).people[0].days == (0, 1, 2, 3, 4)
    saved = save_crew(client, job, **change)
    assert saved.status_code == 303 and "Saved" in client.get(saved.headers["location"]).text


def test_two_windows_do_not_write_over_each_other(client, scope, job):
    mine = typed_crew(client, job, p1_name="Bea")
    assert save_crew(client, job, p1_name="Bob").status_code == 303
    answer = client.post(f"/jobs/{job}/crew", data=mine, follow_redirects=False)
    assert "changed in another window; nothing of yours was saved over it" in refusal(answer)
    assert [p.name for p in days.crew(scope).people] == ["Ann", "Bob"]


def test_rates_not_asked_about_stay(client, scope, job):
    days.put_crew(scope, crew(rates={"crossings": 300.0}))
    assert save_crew(client, job, r_marks="3", units="metric").status_code == 303
    assert days.crew(scope).rates == {"crossings": 300.0, "marks": pytest.approx(0.3)}
