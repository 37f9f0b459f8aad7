"""``days``: who does what when, on one clock."""

import math
from typing import Annotated, Any

import numpy as np
from pydantic import Field

from gnomonic.core.calc.parts import Answer, Input, why
from gnomonic.core.days.problem import Activity, After, Mode, Problem, critical, in_order, most_slots
from gnomonic.core.days.solve import solve
from gnomonic.core.errors import BadInput

STEP_H = 0.25
MOST_TASKS, MOST_PLANT, MOST_STEPS = 400, 24, 400_000
WORK_S, WALL_S = 5.0, 10.0
Name = Annotated[str, Field(min_length=1, max_length=60)]
Hours = Annotated[float, Field(allow_inf_nan=False, gt=0, le=5000)]
Wait = Annotated[float, Field(allow_inf_nan=False, ge=0, le=20_000)]
Units = Annotated[int, Field(ge=0, le=10_000)]


class AfterInput(Input):
    """A task that comes first, and how long it is waited after."""

    id: Name
    wait_hours: Wait = 0.0


class TaskInput(Input):
    """A task: done in one go by ``crew`` people with ``plant``."""

    id: Name
    hours: Hours
    crew: Units = 0
    plant: dict[Name, Units] = Field(default_factory=dict)
    after: Annotated[list[AfterInput], Field(max_length=MOST_TASKS)] = Field(default_factory=list)
    earliest_h: Wait = 0.0


class DaysInput(Input):
    """``days``."""

    tasks: Annotated[list[TaskInput], Field(min_length=1, max_length=MOST_TASKS)]
    crew: Units
    plant: Annotated[dict[Name, Units], Field(max_length=MOST_PLANT)] = Field(default_factory=dict)


def _steps(path: str, hours: float) -> int:
    if hours % STEP_H:
        raise BadInput(path, f"{path} is {hours:g}; hours go in steps of a quarter (0.25)")
    return round(hours / STEP_H)


def _check(q: DaysInput) -> None:
    """Raises BadInput for an id that is not known or stands twice, a circle, or more than there is."""
    ids = [t.id for t in q.tasks]
    for k, t in enumerate(q.tasks):
        if t.id in ids[:k]:
            raise BadInput(f"tasks[{k}].id", f"tasks[{k}].id: “{t.id}” stands twice; each task has an id of its own")
        for j, p in enumerate(t.after):
            if p.id not in ids:
                raise BadInput(f"tasks[{k}].after[{j}].id", f"tasks[{k}].after[{j}].id: there is no task “{p.id}”")
        if t.crew > q.crew:
            raise BadInput(
                f"tasks[{k}].crew", f"tasks[{k}].crew: “{t.id}” takes {t.crew} people and there are {q.crew}"
            )
        for name, units in t.plant.items():
            there = q.plant.get(name, 0)
            if units > there:
                path = f"tasks[{k}].plant.{name}"
                raise BadInput(
                    path, f"{path}: “{t.id}” takes {units} and there {'is' if there == 1 else 'are'} {there}"
                )
    try:
        in_order([(t.id, [p.id for p in t.after]) for t in q.tasks])
    except BadInput as error:
        raise BadInput("tasks", f"tasks: {error.sentence}") from None


def calc_days(q: DaysInput) -> Answer:
    """The earliest end with a schedule pushed left, what is proven of it, and the chain that makes it so long."""
    _check(q)
    plant = list(q.plant)
    spans = [
        (
            _steps(f"tasks[{k}].hours", t.hours),
            _steps(f"tasks[{k}].earliest_h", t.earliest_h),
            [_steps(f"tasks[{k}].after[{j}].wait_hours", p.wait_hours) for j, p in enumerate(t.after)],
        )
        for k, t in enumerate(q.tasks)
    ]
    slot = math.gcd(*(v for hours, earliest, waits in spans for v in (hours, earliest, *waits)))
    acts = tuple(
        Activity(
            t.id,
            (Mode(hours // slot, ((0, t.crew), *((1 + plant.index(n), u) for n, u in t.plant.items() if u))),),
            tuple(After(p.id, wait // slot) for p, wait in zip(t.after, waits, strict=True)),
            earliest // slot,
        )
        for t, (hours, earliest, waits) in zip(q.tasks, spans, strict=True)
    )
    steps = most_slots(acts)
    if steps > MOST_STEPS:
        raise BadInput(
            "tasks", f"tasks: hours, waits and earliest hours make {steps} steps; at most {MOST_STEPS} can be searched"
        )
    there = np.array([q.crew, *q.plant.values()], np.int64)
    problem = Problem(acts, np.repeat(there[:, None], steps, axis=1))
    solved = solve(problem, WORK_S, WALL_S)
    made, hour = solved.schedule, slot * STEP_H
    chain = critical(problem, made)
    sure = "no schedule ends sooner" if solved.proven else f"no schedule ends before {solved.bound * hour:g} h"
    answer: dict[str, Any] = {
        "makespan_h": made.makespan * hour,
        "starts_h": {t.id: start * hour for t, start in zip(q.tasks, made.starts, strict=True)},
        "proven": solved.proven,
        "bound_h": solved.bound * hour,
        "critical": [link.key for link in chain],
        "links": [link.by for link in chain],
        "why": [
            why(
                "the last task ends as early as can be; then each begins as early as all others allow",
                f"{len(acts)} tasks end at {made.makespan * hour:g} h: {sure}",
                "every order placed where they are few, else constraint programming (Laborie 2003, from memory); docs/method.md §18",
            )
        ],
    }
    return answer
