"""The sum ``days``: brute force on small cases, an independent checker of every answer, hand cases, refusals."""

import itertools

import pytest
from hypothesis import given
from hypothesis import strategies as st
from places import examples

from gnomonic.core.calc import calc
from gnomonic.core.errors import BadInput

STEP = 0.25
few = examples(60, 12)


def ask(tasks, crew=2, plant=None):
    """The sum of tasks written short: id, hours, crew, and what else."""
    return {"tasks": tasks, "crew": crew, "plant": plant or {}}


def task(name, hours, crew=0, after=(), plant=None, earliest=0.0):
    """One task; what comes before it as (id, wait)."""
    made = {"id": name, "hours": hours, "crew": crew, "earliest_h": earliest}
    made["after"] = [{"id": i, "wait_hours": w} for i, w in after]
    made["plant"] = plant or {}
    return made


def check(question, answer):
    """All that has to hold of an answer, worked out from the question without the engine: nothing before its hour, waits kept, nobody and
    nothing twice at once, pushed left, a critical chain that is one."""
    tasks = {t["id"]: t for t in question["tasks"]}
    starts = answer["starts_h"]
    ends = {name: starts[name] + t["hours"] for name, t in tasks.items()}
    assert set(starts) == set(tasks)
    assert answer["makespan_h"] == max(ends.values())
    there = {"crew": question["crew"], **question["plant"]}

    def uses(t):
        return {"crew": t.get("crew", 0), **t.get("plant", {})}

    def feasible(name, start, others):
        t = tasks[name]
        if start < t.get("earliest_h", 0) or any(
            start < ends[p["id"]] + p.get("wait_hours", 0) for p in t.get("after", [])
        ):
            return False
        points = {start} | {starts[o] for o in others if start < starts[o] < start + t["hours"]}
        for at in points:
            for what, much in uses(t).items():
                taken = sum(uses(tasks[o]).get(what, 0) for o in others if starts[o] <= at < ends[o])
                if much and taken + much > there[what]:
                    return False
        return True

    for name in tasks:
        others = [o for o in tasks if o != name]
        assert feasible(name, starts[name], others), name
        earlier = [k * STEP for k in range(int(starts[name] / STEP))]
        assert not any(feasible(name, at, others) for at in earlier), f"{name} could begin earlier"
    chain = answer["critical"]
    assert ends[chain[-1]] == answer["makespan_h"]
    assert starts[chain[0]] in (0, tasks[chain[0]].get("earliest_h", 0))
    for before, after in itertools.pairwise(chain):
        waits = [p.get("wait_hours", 0) for p in tasks[after].get("after", []) if p["id"] == before]
        linked = any(ends[before] + wait == starts[after] for wait in waits)
        both = {w for w, n in uses(tasks[before]).items() if n} & {w for w, n in uses(tasks[after]).items() if n}
        assert linked or (ends[before] == starts[after] and both), (before, after)
    assert answer["bound_h"] <= answer["makespan_h"]
    assert answer["proven"] == (answer["bound_h"] == answer["makespan_h"])


def brute(question):
    """The earliest end over every order of the tasks, each placed as early as what is placed already allows (one of those is best)."""
    tasks = {t["id"]: t for t in question["tasks"]}
    there = {"crew": question["crew"], **question["plant"]}
    best = None
    for order in itertools.permutations(tasks):
        ends: dict[str, float] = {}
        starts: dict[str, float] = {}
        for name in order:
            t = tasks[name]
            if any(p["id"] not in ends for p in t["after"]):
                break
            at = max([t["earliest_h"], *(ends[p["id"]] + p["wait_hours"] for p in t["after"])])
            while True:
                clash = False
                for what, much in {"crew": t["crew"], **t["plant"]}.items():
                    if not much:
                        continue
                    moments = {at} | {s for s in starts.values() if at < s < at + t["hours"]}
                    for moment in moments:
                        taken = 0
                        for o, began in starts.items():
                            if began <= moment < ends[o]:
                                taken += tasks[o]["crew"] if what == "crew" else tasks[o]["plant"].get(what, 0)
                        clash = clash or taken + much > there[what]
                if not clash:
                    break
                at += STEP
            starts[name], ends[name] = at, at + t["hours"]
        else:
            last = max(ends.values())
            best = last if best is None else min(best, last)
    return best


@st.composite
def questions(draw, most=5):
    count = draw(st.integers(1, most))
    quarter = st.integers(1, 8).map(lambda k: k * STEP)
    waits = st.sampled_from([0.0, 0.0, 0.5, 1.75])
    tasks = []
    for k in range(count):
        before = draw(st.lists(st.integers(0, k - 1), unique=True, max_size=2)) if k else []
        after = [(f"t{b}", draw(waits)) for b in before]
        plant = draw(st.sampled_from([{}, {}, {"auger": 1}, {"auger": 1, "loader": 1}]))
        tasks.append(
            task(f"t{k}", draw(quarter), draw(st.integers(0, 2)), after, plant, draw(st.sampled_from([0.0, 0.0, 1.25])))
        )
    return ask(tasks, draw(st.integers(2, 3)), {"auger": 1, "loader": draw(st.integers(1, 2))})


@few
@given(questions())
def test_every_answer_holds_and_none_is_better(question):
    answer = calc("days", question)
    check(question, answer)
    assert answer["makespan_h"] == brute(question)
    assert answer["proven"]


@few
@given(questions(most=14))
def test_longer_answers_hold(question):
    check(question, calc("days", question))


@few
@given(questions(), st.randoms(use_true_random=False))
def test_the_order_of_the_question_does_not_matter_for_the_end(question, chance):
    shuffled = list(question["tasks"])
    chance.shuffle(shuffled)
    assert calc("days", {**question, "tasks": shuffled})["makespan_h"] == calc("days", question)["makespan_h"]


@few
@given(questions())
def test_one_more_person_never_ends_it_later(question):
    more = {**question, "crew": question["crew"] + 1}
    assert calc("days", more)["makespan_h"] <= calc("days", question)["makespan_h"]


def test_by_hand_one_drills_while_another_sets():
    """One auger and two people on two sides: drill A 0–3, then set A (2 h, one person) while B is drilled 3–6, set B 6–8: 8 h, where one
    after the other would be 10."""
    sides = [
        task("drill A", 3, 1, plant={"auger": 1}),
        task("set A", 2, 1, [("drill A", 0)]),
        task("drill B", 3, 1, plant={"auger": 1}),
        task("set B", 2, 1, [("drill B", 0)]),
    ]
    answer = calc("days", ask(sides, 2, {"auger": 1}))
    assert answer["makespan_h"] == 8
    assert answer["proven"]
    assert len(answer["critical"]) == 3
    alone = calc("days", ask(sides, 1, {"auger": 1}))
    assert alone["makespan_h"] == 10


def test_by_hand_a_wait_is_nobodys_work():
    """Concrete waits 24 h while the gate is hung: 2 + 24 + 3 = 29, the gate within the wait."""
    answer = calc("days", ask([task("pour", 2, 2), task("pull", 3, 2, [("pour", 24)]), task("gate", 5, 2)], 2))
    assert answer["makespan_h"] == 29
    assert answer["starts_h"]["gate"] == 2
    assert answer["critical"] == ["pour", "pull"]
    assert answer["links"] == ["hour", "after"]


def test_by_hand_an_earliest_hour_begins_the_chain():
    answer = calc(
        "days", ask([task("marks in", 1, 1, earliest=10), task("drill", 2, 1, [("marks in", 0)]), task("mow", 4, 1)], 1)
    )
    assert answer["makespan_h"] == 13
    assert answer["critical"] == ["marks in", "drill"]
    assert answer["starts_h"] == {"mow": 0, "marks in": 10, "drill": 11}


def test_two_things_at_once_take_both():
    """Two augers, three drillers: two at once, the third after the first that ends."""
    rows = [task(f"d{k}", h, 1, plant={"auger": 1}) for k, h in enumerate((2, 3, 4))]
    assert calc("days", ask(rows, 3, {"auger": 2}))["makespan_h"] == 5


def test_nothing_to_share_is_the_longest_chain():
    rows = [task("a", 1.25), task("b", 2.5, after=[("a", 0.75)]), task("c", 4)]
    assert calc("days", ask(rows, 0))["makespan_h"] == 4.5


def test_many_tasks_are_bounded_honestly():
    """Sixty tasks of one to seven quarters for three people, most of them free of each other: no schedule can be shorter than the work over
    the people, and the answer says how near it is."""
    rows = []
    for k in range(60):
        after = [(f"t{k - 20}", 0.5)] if k >= 20 else []
        rows.append(task(f"t{k}", (1 + k % 7) * STEP, 1 + k % 2, after))
    question = ask(rows, 3)
    answer = calc("days", question)
    check(question, answer)
    work = sum(t["hours"] * t["crew"] for t in rows) / 3
    assert work <= answer["bound_h"] <= answer["makespan_h"] <= 1.03 * answer["bound_h"]


@pytest.mark.parametrize(
    ("change", "field", "words"),
    [
        (
            {"tasks": [task("a", 1, 1, [("b", 0)]), task("b", 1, 1, [("c", 0)]), task("c", 1, 1, [("a", 0)])]},
            "tasks",
            "in a circle, so none can begin",
        ),
        ({"tasks": [task("a", 1, 1, [("a", 0)])]}, "tasks", "“a” → “a”"),
        ({"tasks": [task("a", 1), task("a", 2)]}, "tasks[1].id", "“a” stands twice"),
        ({"tasks": [task("a", 1, after=[("z", 0)])]}, "tasks[0].after[0].id", "there is no task “z”"),
        ({"tasks": [task("a", 1, 3)]}, "tasks[0].crew", "“a” takes 3 people and there are 2"),
        (
            {"tasks": [task("a", 1, plant={"auger": 2})], "plant": {"auger": 1}},
            "tasks[0].plant.auger",
            "takes 2 and there is 1",
        ),
        ({"tasks": [task("a", 1, plant={"crane": 1})]}, "tasks[0].plant.crane", "takes 1 and there are 0"),
        ({"tasks": [task("a", 1.1)]}, "tasks[0].hours", "in steps of a quarter"),
        ({"tasks": [task("a", 1, earliest=0.3)]}, "tasks[0].earliest_h", "in steps of a quarter"),
        (
            {"tasks": [task("a", 1), task("b", 1, after=[("a", 0.1)])]},
            "tasks[1].after[0].wait_hours",
            "in steps of a quarter",
        ),
        ({"tasks": [task("a", 0)]}, "tasks[0].hours", "greater than 0"),
        ({"tasks": [task("a", -1)]}, "tasks[0].hours", "greater than 0"),
        ({"tasks": []}, "tasks", "at least 1"),
        ({"tasks": [{**task("a", 1), "day": 3}]}, "tasks[0].day", "day"),
        ({"crew": -1}, "crew", "greater than or equal to 0"),
        ({"crew": 1.5}, "crew", "integer"),
    ],
)
def test_what_is_refused(change, field, words):
    good = ask([task("a", 1, 1)])
    assert calc("days", good)["makespan_h"] == 1
    with pytest.raises(BadInput) as refused:
        calc("days", {**good, **change})
    assert refused.value.field == field
    assert words in refused.value.sentence


def test_a_circle_is_named_in_its_own_order():
    rows = [
        task("set", 1, after=[("drill", 0)]),
        task("drill", 1, after=[("mark", 0)]),
        task("mark", 1, after=[("set", 0)]),
    ]
    with pytest.raises(BadInput) as refused:
        calc("days", ask(rows))
    said = refused.value.sentence
    circle = [name.strip(" “”") for name in said.partition("begin: ")[2].split("→")]
    assert circle[0] == circle[-1]
    after = {"set": "drill", "drill": "mark", "mark": "set"}
    assert all(after[b] == a for a, b in itertools.pairwise(circle)), "each waits for the one before it"


def test_what_is_too_long_is_refused_and_what_is_not_is_answered():
    with pytest.raises(BadInput, match="steps"):
        calc("days", ask([task("short", 0.25, 1), *(task(f"t{k}", 4999.25, 1) for k in range(60))], 1))
    answer = calc("days", ask([task(f"t{k}", 4000, 1) for k in range(60)], 1))
    assert answer["proven"]
    assert answer["makespan_h"] == 240_000


def test_defaults_are_none_of_it():
    assert calc("days", {"tasks": [{"id": "a", "hours": 0.25}], "crew": 0})["starts_h"] == {"a": 0}
