"""Published job shops with their proven optima: the same engine that plans a crew's days.

Sources: ft06 (55) in H. Fisher and G. L. Thompson, "Probabilistic learning combinations of local job-shop scheduling rules", 1963; la01 (666)
and la05 (593) in S. Lawrence, "Resource constrained project scheduling", 1984; instances and optima as general-purpose job-shop libraries
ship them (``data/job_shops.json``).
"""

import json
from itertools import pairwise
from pathlib import Path

import pytest

from gnomonic.core.calc import calc

SHOPS = json.loads((Path(__file__).parent / "data" / "job_shops.json").read_text("utf8"))


def as_days(shop):
    """Every operation a task that takes its machine, after the one before it of its job."""
    tasks = []
    for j, (durations, machines) in enumerate(zip(shop["durations"], shop["machines"], strict=True)):
        for k, (hours, machine) in enumerate(zip(durations, machines, strict=True)):
            after = [{"id": f"{j}.{k - 1}"}] if k else []
            tasks.append({"id": f"{j}.{k}", "hours": float(hours), "plant": {f"m{machine}": 1}, "after": after})
    there = {f"m{m}": 1 for m in range(1 + max(max(row) for row in shop["machines"]))}
    return {"tasks": tasks, "crew": 0, "plant": there}


@pytest.mark.parametrize(("name", "optimum"), [("ft06", 55), ("la01", 666), ("la05", 593)])
def test_a_published_job_shop_is_proven(name, optimum):
    shop = SHOPS[name]
    assert shop["optimum"] == optimum
    answer = calc("days", as_days(shop))
    assert answer["makespan_h"] == optimum
    assert answer["proven"] and answer["bound_h"] == optimum


@pytest.mark.parametrize("name", ["ft06", "la01"])
def test_its_schedule_is_one(name):
    """No machine at two operations, none before the one before it: read from the answer alone."""
    shop = SHOPS[name]
    starts = calc("days", as_days(shop))["starts_h"]
    on: dict[int, list[tuple[float, float]]] = {}
    for j, (durations, machines) in enumerate(zip(shop["durations"], shop["machines"], strict=True)):
        ready = 0.0
        for k, (hours, machine) in enumerate(zip(durations, machines, strict=True)):
            start = starts[f"{j}.{k}"]
            assert start >= ready
            ready = start + hours
            on.setdefault(machine, []).append((start, ready))
    for spans in on.values():
        spans.sort()
        assert all(a[1] <= b[0] for a, b in pairwise(spans))
