"""What the log says is done of a crew's tasks: counted post by post on a straight line whose posts are counted by hand."""

from datetime import UTC, datetime, timedelta

import pytest
from places import fence

from gnomonic.core.days.logged import logged, with_log
from gnomonic.core.days.progress import Done
from gnomonic.core.days.work import job_tasks
from gnomonic.core.job.parts import MeasuredLine, Point, Source
from gnomonic.core.log.events import Event, Kept
from gnomonic.core.log.facts import facts
from gnomonic.core.plan import road

NOON = datetime(2026, 6, 1, 12, tzinfo=UTC)


@pytest.fixture
def made():
    """Sixty metres, level: the plan and its tasks."""
    line = MeasuredLine(
        points=tuple(Point(e_m=e, n_m=0.0, h_m=5.0) for e in (0.0, 60.0)), source=Source(kind="legs", points_read=2)
    )
    it = fence("Test line", line)
    plan = road.plan(it.job)
    return plan, {t.key: t for t in job_tasks(plan, {"A": it})}


def event(n, kind, post, **values):
    return Kept(
        Event(
            id=f"00000000-0000-4000-8000-{n:012d}",
            device="a",
            seq=n,
            clock=NOON + timedelta(minutes=n),
            line="A",
            post=post,
            at_m=1.0,
            kind=kind,
            **values,
        )
    )


def done(made, *rows):
    plan, tasks = made
    return logged(tasks.values(), plan, facts(rows))


def test_posts_that_are_in_are_counted_by_how_they_stand(made):
    plan, tasks = made
    posts = plan.lines["A"].posts
    dug = [p.name for p in posts if not p.fixed and p.rule.fit != "drive"]
    driven = [p.name for p in posts if not p.fixed and p.rule.fit == "drive"]
    ends = [p.name for p in posts if p.fixed]
    assert len(ends) == 4 and len(dug) + len(driven) >= 5  # two terminals with their brace posts
    found = done(made, *(event(n, "depth", name, reached_m=0.7) for n, name in enumerate([*driven[:2], ends[0]])))
    by = {tasks[key].kind: share for key, (share, _) in found.items()}
    assert by["drive"] == pytest.approx(2 / len(driven)) and by["end_posts"] == by["end_holes"] == 0.25
    assert "set" not in by and "pull" not in by
    whole = done(made, *(event(n, "depth", p.name, reached_m=0.7) for n, p in enumerate(posts)))
    assert {tasks[k].kind for k, (share, _) in whole.items() if share == 1.0} >= {"drive", "end_posts", "end_holes"}


def test_a_brace_measured_and_a_run_pulled_count_and_a_hole_given_up_does_not(made):
    plan, tasks = made
    posts = plan.lines["A"].posts
    start, last = posts[0].name, posts[-1].name
    found = done(made, event(1, "clear", start, clear_m=2.0, ahead=True), event(2, "pulled", start, left_top=0.5))
    by = {tasks[key].kind: (share, at) for key, (share, at) in found.items()}
    assert by["braces"][0] == 0.5 and by["pull"] == (1.0, NOON + timedelta(minutes=2))
    found = done(made, event(1, "depth", last, reached_m=0.7), event(2, "redug", last, along_m=0.3))
    assert not found


def test_the_first_corner_of_a_closed_line_is_the_last_side_s_too():
    """A square of 24 m: each side's ends are its two corners with their brace posts.  The post at the seam ends side 4 as it begins side 1."""
    corners = [(0.0, 0.0), (24.0, 0.0), (24.0, 24.0), (0.0, 24.0)]
    points = tuple(Point(e_m=e, n_m=n, h_m=5.0) for e, n in corners)
    it = fence("Square", MeasuredLine(points=points, closed=True, source=Source(kind="legs", points_read=4)))
    plan = road.plan(it.job)
    tasks = {t.key: t for t in job_tasks(plan, {"A": it})}
    seam = plan.lines["A"].posts[0]
    found = done((plan, tasks), event(1, "depth", seam.name, reached_m=0.9))
    sides = {(tasks[key].kind, tasks[key].side): share for key, (share, _) in found.items()}
    of = {s for kind, s in sides if kind == "end_posts"}
    assert seam.station_m == 0.0 and of == {0, 3}, sides


def test_of_a_tick_and_the_log_whichever_says_more_holds():
    early, late = datetime(2026, 6, 1, 8), datetime(2026, 6, 1, 17)
    ticked = Done({"a": 0.5, "b": 1.0}, {"a": early, "b": early})
    both = with_log(ticked, {"a": (0.75, late), "b": (0.25, late), "c": (1.0, late)})
    assert both.share == {"a": 0.75, "b": 1.0, "c": 1.0} and both.at == {"a": late, "b": early, "c": late}
