"""Speed of planning days: fourteen lines, a search, a move, seasons, published job shops."""

import json
from dataclasses import replace
from datetime import date, timedelta
from pathlib import Path

from gnomonic.core.calc import calc
from gnomonic.core.days import kernel
from gnomonic.core.days.bound import bound
from gnomonic.core.days.carrying import carried_on
from gnomonic.core.days.crew import Crew, Person
from gnomonic.core.days.laying import Given, lay
from gnomonic.core.days.placing import placed
from gnomonic.core.days.simulate import SEASONS, simulate
from gnomonic.core.days.solve import judged, quick, solve
from gnomonic.core.days.task import DayTask
from gnomonic.core.days.work import tasks_of
from gnomonic.core.job.fence import fence_of
from gnomonic.core.limits import SEARCH_S
from gnomonic.core.plan.road import plan
from gnomonic.core.pull.climate import climate
from gnomonic.demo.load import single_jobs
from gnomonic.workshop.measures import median_s, row

LINES = 14
SHOPS = Path(__file__).parents[3] / "tests" / "validation" / "data" / "job_shops.json"


def fourteen() -> list[DayTask]:
    """The tasks of fourteen demo lines as of one job."""
    found: list[DayTask] = []
    for n, job in enumerate(single_jobs()[:LINES]):
        fence, letter = fence_of(job), chr(ord("A") + n)
        for t in tasks_of(fence, plan(job).lines[fence.id]):
            after = tuple((letter + key[1:], days) for key, days in t.after)
            found.append(replace(t, line=letter, key=letter + t.key[1:], after=after))
    return found


def days() -> None:
    """Every figure."""
    kernel.warm()
    tasks = fourteen()
    crew = Crew(
        people=(
            Person(id="a", name="A", skills=("machines", "wire")),
            Person(id="b", name="B", skills=("wire",)),
            Person(id="c", name="C", days=(5,)),
        ),
    )
    given = Given(date(2026, 3, 2))
    laid = lay(tasks, crew, given)
    row(
        f"days: {LINES} lines, {len(tasks)} tasks laid over a calendar",
        f"{median_s(lambda: lay(tasks, crew, given), 5):.2f} s",
        "",
    )
    first = quick(laid.problem, 0.0, laid.worth)
    row("  first schedule", f"{median_s(lambda: quick(laid.problem, 0.0, laid.worth), 5):.2f} s", "≤ 1 s")
    good = quick(laid.problem, 1.0 - median_s(lambda: lay(tasks, crew, given), 3), laid.worth)
    low = bound(laid.problem)
    row(
        "  over its bound, the first and after a second",
        f"{first.makespan / low - 1:.1%}, {good.makespan / low - 1:.1%}",
        "good",
    )
    solved = solve(laid.problem, SEARCH_S * 0.8, SEARCH_S, good, laid.worth)
    row(
        "  after the search",
        f"{solved.fair / solved.bound - 1:.1%}{', proven' if solved.proven else ''}",
        "≤ 3 % or proven",
    )
    was = placed(laid, good)
    pins = {was[40].key: was[40].begins + timedelta(days=1)}

    def moved() -> None:
        again = lay(tasks, crew, replace(given, pins=pins))
        order = carried_on(again, was, pins)
        assert order is not None
        placed(again, judged(again.problem, order).schedule)

    row(
        "  one task not before a day later, all the others laid and placed again",
        f"{median_s(moved, 5):.2f} s",
        "≤ 1 s",
    )
    row("  who does what of it, hour by hour", f"{median_s(lambda: placed(laid, good), 3):.2f} s", "")
    row(
        f"  {SEASONS} seasons, and half as many for the reasons",
        f"{median_s(lambda: simulate(laid, good, climate('oceanic'), (), 1), 3):.2f} s",
        "≤ 1 s",
    )
    shops = json.loads(SHOPS.read_text("utf8")) if SHOPS.exists() else {}
    for name, optimum in (("ft06", 55), ("la01", 666), ("la05", 593)):
        if name in shops:
            asked = as_days(shops[name])
            answer = calc("days", asked)
            assert answer["makespan_h"] == optimum and answer["proven"]
            row(f"  {name}, {optimum} proven", f"{median_s(lambda a=asked: calc('days', a), 1):.1f} s", "proven")  # type: ignore[misc]


def as_days(shop: dict[str, list[list[int]]]) -> dict[str, object]:
    """A job shop as a question to the sum: every operation a task that takes its machine, after the one before it."""
    tasks = [
        {
            "id": f"{j}.{k}",
            "hours": float(hours),
            "plant": {f"m{machine}": 1},
            "after": [{"id": f"{j}.{k - 1}"}] if k else [],
        }
        for j, (durations, machines) in enumerate(zip(shop["durations"], shop["machines"], strict=True))
        for k, (hours, machine) in enumerate(zip(durations, machines, strict=True))
    ]
    return {"tasks": tasks, "crew": 0, "plant": {f"m{m}": 1 for m in range(1 + max(max(r) for r in shop["machines"]))}}
