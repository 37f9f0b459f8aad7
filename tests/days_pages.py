"""The pages of days as a test asks for them."""

import html
import json
import re
from datetime import datetime, timedelta

from gnomonic.core.days.made import Made
from gnomonic.core.days.weather import Weather
from gnomonic.demo.load import demo_jobs

JOBS = demo_jobs()
PENS = next(j for j in JOBS if "alpaca pens" in j.name)
RUN = next(j for j in JOBS if "dog run" in j.name)
MORNING = datetime(2026, 3, 2, 6, 30)


def begin(client, job_id, start="2026-03-02"):
    return client.post(f"/jobs/{job_id}/days", data={"start": start}, follow_redirects=False)


def plan(client, job_id):
    """A job's plan of days by task, as the API has it."""
    made = client.get(f"/api/v1/jobs/{job_id}/days").json()["plan"]
    return {p.key: p for p in Made.model_validate_json(json.dumps(made)).placed}


def page(client, job_id, place="days", **query):
    answer = client.get(f"/jobs/{job_id}/{place}", params=query)
    assert answer.status_code == 200, answer.text[:400]
    return html.unescape(" ".join(answer.text.split()))


def post(client, job_id, place, **data):
    return client.post(f"/jobs/{job_id}/{place}", data=data, follow_redirects=False)


def refusal(answer):
    assert answer.status_code == 422, answer.text[:300]
    said = re.search(r'id="refused">(.*?)</p>', answer.text, re.S).group(1).partition(" <a")[0]
    return html.unescape(said)


def typed_crew(client, job_id, **change):
    """What the crew form would send, changed."""
    sent = client.get(f"/jobs/{job_id}/crew").text
    form: dict[str, list[str]] = {}
    for tag in re.findall(r"<input[^>]*>", sent):
        name, value = re.search(r'name="([^"]*)"', tag), re.search(r'value="([^"]*)"', tag)
        if name and not ("checkbox" in tag and "checked" not in tag):
            form.setdefault(name.group(1), []).append(value.group(1) if value else "1")
    for name, options in re.findall(r'<select[^>]*name="([^"]*)"[^>]*>(.*?)</select>', sent, re.S):
        picked = re.search(r'value="([^"]*)" selected', options) or re.search(r'value="([^"]*)"', options)
        form[name] = [picked.group(1)]
    form |= {k: v if isinstance(v, list) else [v] for k, v in change.items()}
    return form


def save_crew(client, job_id, **change):
    return client.post(f"/jobs/{job_id}/crew", data=typed_crew(client, job_id, **change), follow_redirects=False)


def rows_of(*rows):
    return lambda first: [
        Weather(day=first + timedelta(days=k), **{"night_c": 4, "noon_c": 10, **row}).model_dump(mode="json")
        for k, row in enumerate(rows)
    ]
