"""The days on the phone: what it is given is what the day sheet of the same day says, in both systems of units."""

import html
import re
from datetime import date, timedelta

from crews import crew, person

from gnomonic.store import days


def rows_of(page):
    """What a day sheet lists: when, what and how much."""
    found = re.findall(r'<span class="at">(.*?)</span><span class="whatrow"><b>(.*?)</b> <span>(.*?)</span>', page)
    return [tuple(html.unescape(part) for part in row) for row in found]


def test_what_the_phone_is_given_is_what_the_day_sheets_say(client, scope, job):
    bare = client.get(f"/api/v1/jobs/{job}/field/days").json()
    assert not bare["planned"] and bare["us"] == bare["metric"] == []
    days.put_crew(scope, crew(person("Ann"), person("Ben")))
    begins = date.today() + timedelta(days=1)
    assert client.post(f"/jobs/{job}/days", data={"start": begins.isoformat()}).status_code == 200
    given = client.get(f"/api/v1/jobs/{job}/field/days").json()
    assert given["planned"] and given["practice"] and 0 < len(given["us"]) <= 10
    for system in ("us", "metric"):
        for sheet in given[system]:
            page = client.get(f"/jobs/{job}/day?day={sheet['day']}&units={system}").text
            said = [(r["at"], r["what"][0].upper() + r["what"][1:]) for r in sheet["rows"]]
            assert said and [r[:2] for r in rows_of(page)] == said
            assert all(r["amount"] in full[2] for r, full in zip(sheet["rows"], rows_of(page), strict=True))
            assert all(html.escape(c) in page or c in html.unescape(page) for c in sheet["cautions"])
            assert {w for r in sheet["rows"] for w in r["who"]} <= {"Ann", "Ben"}
    everything = repr(given)
    assert " ft" in repr(given["us"]) and " ft" not in repr(given["metric"]) and "$" not in everything
    assert client.get("/api/v1/jobs/nosuchjob/field/days").status_code == 404
