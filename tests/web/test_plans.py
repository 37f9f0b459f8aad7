"""Plans are kept by what they were made from, and no more of them than said."""

import hashlib
import json
import threading

from gnomonic.core.edits.all import apply, read_edit
from gnomonic.core.plan.road import plan
from gnomonic.core.tell.compare import against_even
from gnomonic.demo.load import single_jobs
from gnomonic.web.plans import KEEP, WORK_KEPT, Plans


def stored(job):
    document = job.canonical_json()
    return hashlib.sha256(document.encode()).hexdigest(), document


def test_the_same_document_is_planned_once():
    plans, job = Plans(), single_jobs()[0]
    digest, document = stored(job)
    first = plans.of("a", digest, document)
    assert plans.of("b", digest, document) is first
    assert json.loads(first.line().drawing)["name"] == job.name and first.job == job


def test_no_more_plans_are_held_than_said():
    plans, job = Plans(), single_jobs()[0]
    for k in range(KEEP + 5):
        named = apply(job, read_edit({"do": "rename", "name": f"Job {k}"}))
        plans.of(f"job{k}", *stored(named))
    assert len(plans.held) == KEEP and len(plans.memos) == WORK_KEPT
    assert stored(job)[0] not in plans.held


def test_of_long_jobs_fewer_are_held_and_the_last_one_always(monkeypatch):
    plans, job = Plans(), single_jobs()[0]
    size = plans.make("job", job).size
    for most, left in ((3 * size, 3), (3 * size - 1, 2), (size - 1, 1)):
        monkeypatch.setattr("gnomonic.web.plans.MOST_HELD_POSTS", most)
        for k in range(5):
            planned = plans.of(f"job{k}", *stored(job.model_copy(update={"name": f"Job {most} {k}"})))
        assert len(plans.held) == len(plans.memos) == left
        assert list(plans.held.values())[-1] is planned and list(plans.memos)[-1] == "job4"


def test_many_threads_get_the_same_answer():
    plans, job = Plans(), single_jobs()[1]
    seen = []
    threads = [
        threading.Thread(target=lambda: seen.append(plans.of("a", *stored(job)).line().drawing)) for _ in range(6)
    ]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert len(seen) == 6 and len(set(seen)) == 1


def test_even_spacing_is_said_beside_the_plan():
    made = plan(single_jobs()[-1]).lines["A"]
    own, even = (sum(len(layout.stations_m) for layout in side) for side in (made.layout, made.even))
    said = against_even(made)
    assert f"{own - even} fewer post" in said.text("us")
    assert said.v["worst"] == (max(b.worst_gap_m for e in made.even for b in e.bays), "gap")
    assert "where none may stand and" in said.text("us") and "too long for steep ground" in said.text("us")
    free = plan(single_jobs()[1]).lines["A"]  # nothing forbidden, nothing steep: even spacing is never cheaper
    assert sum(e.cost for e in free.even) >= sum(e.cost for e in free.layout)
