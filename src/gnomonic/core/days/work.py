"""Tasks of a job from its plan: every step of every line, side by side of it, with what it takes, where it is and what comes before."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from fractions import Fraction

from gnomonic.core.days.book import Kind, kinds
from gnomonic.core.days.task import DayTask, Links
from gnomonic.core.demand.tasks import tasks as step_tasks
from gnomonic.core.haul.counts import own_posts
from gnomonic.core.haul.money import shared_out
from gnomonic.core.job.fence import Fence
from gnomonic.core.plan.lows import patches
from gnomonic.core.plan.model import JobPlan, Plan, Post
from gnomonic.core.say import Say
from gnomonic.core.setout.runs import Run
from gnomonic.core.tell.steps import StepDone, steps_of

NEAR_M = 0.05
FIRST = ("marks", "gate_frames", "measure_gates")  # steps that nothing has to come before
ALONG = ("strand_m", "roll")  # counted by length on a side: a roll may be hung on several
EVERYTHING = ("*",)  # all the work on a side


def pulling() -> set[str]:
    """Steps that load the posts of a side; where a line has none, its strands are drawn tight as they are run out."""
    return {k.step for k in kinds().values() if k.loads and step_tasks()[k.step].per not in ("gate", "crossing")}


def job_tasks(job: JobPlan, fences: Mapping[str, Fence]) -> list[DayTask]:
    """The tasks of all lines; what pulls on a post that another line sets waits for that one too."""
    by_line = {k: tasks_of(fences[k], plan) for k, plan in job.lines.items()}
    letters = {fences[k].name: k for k in job.lines}
    made = []
    for line, plan in job.lines.items():
        borrowed = [p for p in plan.posts if p.shared in letters]
        for task in by_line[line]:
            more: list[tuple[str, int]] = []
            if task.loads:
                for post in borrowed:
                    if task.from_m - NEAR_M <= post.station_m <= task.to_m + NEAR_M or _closes(plan, task, post):
                        other = letters[post.shared]
                        more += _set_by(job.lines[other], by_line[other], post)
            made.append(replace(task, after=(*task.after, *more)) if more else task)
    return made


def _closes(plan: Plan, task: DayTask, post: Post) -> bool:
    return plan.course.closed and post.station_m < NEAR_M and task.to_m > plan.course.length_m - NEAR_M


def _set_by(plan: Plan, there: Sequence[DayTask], post: Post) -> list[tuple[str, int]]:
    """The tasks of a line that set a post which another line stands on, with how long it settles."""
    own = min(plan.posts, key=lambda p: (p.east_m - post.east_m) ** 2 + (p.north_m - post.north_m) ** 2)
    found = []
    for task in there:
        if not (task.from_m - NEAR_M <= own.station_m <= task.to_m + NEAR_M or _closes(plan, task, own)):
            continue
        for load in (t for t in there if t.loads and t.side == task.side):
            found += [(key, days) for key, days in load.after if key == task.key and task.of.step in ("ends", "posts")]
    return list(dict.fromkeys(found))


def tasks_of(fence: Fence, plan: Plan) -> list[DayTask]:
    """The tasks of one line in the order of the work."""
    return _Line(fence, plan).made()


class _Line:
    """A line while its tasks are made: ``exits`` are the tasks after which a step is done, by side, gate or crossing."""

    def __init__(self, fence: Fence, plan: Plan) -> None:
        self.fence, self.plan, self.line = fence, plan, fence.id
        self.tasks: list[DayTask] = []
        self.exits: dict[tuple[str, int | str], tuple[str, ...]] = {}
        self.steps = steps_of(fence, plan)
        self.key_of = {id(t): k for k, t in step_tasks().items()}
        self.lows = [p for p in patches(plan) if p.low]
        self.pulled = any(self._kind_of(s) in pulling() for s in self.steps)
        self.waits = {self._kind_of(s): (s.wait_days, s.wait) for s in self.steps}

    def _kind_of(self, step: StepDone) -> str:
        return self.key_of[id(step.task)]

    def made(self) -> list[DayTask]:
        """All of them."""
        for step in self.steps:
            self._step(step)
        for key, kind in kinds().items():
            if not kind.step:
                self._own(key, kind)
        seen = {t.key for t in self.tasks}
        return [
            replace(t, after=tuple((k, d) for k, d in dict(_longest(t.after)).items() if k in seen)) for t in self.tasks
        ]

    def _step(self, step: StepDone) -> None:
        """The tasks of a step, on each side that has any of it."""
        of = self._kind_of(step)
        parts = self._parts(of)
        for side, share, quantity, span in self._shares(step.task.per, step.quantity):
            before = self._before(step, side)
            last: tuple[str, ...] = ()
            for n, (key, kind, part) in enumerate(parts):
                end = "" if step.key == of else step.key.removeprefix(of)
                name = f"{self.line}.{side_name(side)}.{key}{end}"
                minutes = tuple(m * share * part for m in step.minutes)
                after = tuple((k, 0) for k in last) or before
                loads = kind.loads or (of == "strands" and not self.pulled)
                if loads:
                    after += self._settled(side)
                self.tasks.append(
                    DayTask(
                        name, self.line, side if isinstance(side, int) else None, key, quantity, "m" if step.task.per in ALONG else step.task.per,
                        (minutes[0], minutes[1], minutes[2]), max(1, kind.crew or step.crew), after, *span, step.tools,
                        step.text, step.caution if n == 0 else Say(""), step.wait if n == len(parts) - 1 else "", loads, self._poured(of),
                    )
                )  # fmt: skip
                last = (name,)
            self.exits[step.key, side] = last or tuple(k for k, _ in before)

    def _parts(self, of: str) -> list[tuple[str, Kind, float]]:
        """The kinds of work a step is made of, with their shares of its minutes."""
        plan, found = self.plan, []
        dug, driven = self._fits(of)
        for key, kind in kinds().items():
            if (
                kind.step != of
                or (kind.humps and not self._humps())
                or (kind.braced and not (plan.braces or plan.struts))
            ):
                continue
            weight = kind.share * (dug if kind.dug else driven if kind.driven else 1.0)
            if weight > 0:
                found.append((key, kind, weight))
        total = sum(w for _, _, w in found)
        return [(key, kind, w / total) for key, kind, w in found]

    def _fits(self, of: str) -> tuple[float, float]:
        """How much of a step's minutes goes into posts that stand in holes, and into driven ones."""
        rates = self.plan.system.labour
        posts = [p for p in own_posts(self.plan) if of == "posts" or p.fixed == (of == "ends")]
        minutes = {True: 0.0, False: 0.0}
        for p in posts:
            minutes[p.rule.fit == "drive"] += (
                rates.terminal_min if p.fixed else rates.light_min if p.slot == "light" else rates.firm_min
            )
        total = sum(minutes.values())
        return (minutes[False] / total, minutes[True] / total) if total else (1.0, 0.0)

    def _poured(self, of: str) -> bool:
        """Whether posts that a step sets stand in concrete."""
        return any(p.fill == "concrete" and (of == "posts" or p.fixed == (of == "ends")) for p in own_posts(self.plan))

    def _humps(self) -> bool:
        return any(p.slot == "held" for p in self.plan.posts)

    def _shares(self, per: str, quantity: float) -> Iterable[tuple[int | str, float, float, tuple[float, float]]]:
        """Where a step is done: side, gate or crossing, its share of the minutes, how much of it, from where to where."""
        plan, runs = self.plan, self.plan.runs
        if per == "gate":
            for gate in plan.gates:
                yield gate.id, 1 / len(plan.gates), 1, (gate.at_m, gate.end_m)
            return
        if per == "crossing":
            for k, over in enumerate(plan.crossings):
                yield f"water{k + 1}", 1 / len(plan.crossings), 1, (over.at_m, over.to_m)
            return
        counts = self._counts(per)
        total = sum(counts)
        if not total:
            counts, total = [r.length_m for r in runs], sum(r.length_m for r in runs)
        for run, count in zip(runs, counts, strict=True):
            if count > 0 and quantity > 0:
                much = run.length_m if per == "roll" else quantity * count / total
                yield run.index, count / total, much, (run.start.station_m, run.end.station_m)

    def _counts(self, per: str) -> list[float]:
        plan = self.plan
        if per == "post":
            return [float(sum(not p.fixed and _on(r, p.station_m) for p in plan.posts)) for r in plan.runs]
        if per in ("run", "run_end"):
            return [1.0] * len(plan.runs)
        if per == "splice":
            own = [sum(s.run == r.index for s in plan.rolls.splices) for r in plan.runs]
            more = shared_out(sum(m.splices for m in plan.more), [Fraction(r.length_m) for r in plan.runs])
            return [float(a + b) for a, b in zip(own, more, strict=True)]
        return [r.length_m for r in plan.runs]

    def _before(self, step: StepDone, side: int | str) -> Links:
        """What comes before a step on a side: what its data say, else the step before it."""
        found = tuple((k, 0) for name in step.after for k in self._exits(name, side))
        at = self.steps.index(step)
        if found or self._kind_of(step) in FIRST:
            return found
        return next(
            (tuple((k, 0) for k in keys) for s in self.steps[:at][::-1] if (keys := self._exits(s.key, side))), ()
        )

    def _exits(self, name: str, side: int | str) -> list[str]:
        """The tasks after which a step is done as far as a side, a gate or a crossing has to do with it."""
        rows = {where: keys for (step, where), keys in self.exits.items() if step == name}
        if side in rows:
            return list(rows[side])
        near = [keys for where, keys in rows.items() if self._touch(where, side)]
        return [k for keys in near for k in keys]

    def _touch(self, a: int | str, b: int | str) -> bool:
        """Whether two places meet: a side and a gate or crossing at its end."""
        if isinstance(a, int) and isinstance(b, int):
            return a == b
        spans = [self._span(x) for x in (a, b)]
        (a0, a1), (b0, b1) = spans
        closes = (
            self.plan.course.closed
            and {round(v, 2) for v in (a0, b0)} & {0.0}
            and {round(v, 2) for v in (a1, b1)} & {round(self.plan.course.length_m, 2)}
        )
        return (a0 <= b1 + NEAR_M and b0 <= a1 + NEAR_M) or bool(closes)

    def _span(self, where: int | str) -> tuple[float, float]:
        if isinstance(where, int):
            run = self.plan.runs[where]
            return run.start.station_m, run.end.station_m
        for gate in self.plan.gates:
            if gate.id == where:
                return gate.at_m, gate.end_m
        if isinstance(where, str) and where.startswith("water"):
            over = self.plan.crossings[int(where[5:]) - 1]
            return over.at_m, over.to_m
        return 0.0, self.plan.course.length_m

    def _settled(self, side: int | str) -> Links:
        """The steps that set the posts a side is pulled on, with how long those settle."""
        found: list[tuple[str, int]] = []
        for step in self.steps:
            days, _ = self.waits[self._kind_of(step)]
            if self._kind_of(step) in ("ends", "posts"):
                found += [(k, days) for k in self._exits(step.key, side)]
        return tuple(found)

    def _own(self, key: str, kind: Kind) -> None:
        """Work that no step of a system speaks of: re-tightening, lows, inspection."""
        plan = self.plan
        if kind.braced and not plan.braces:
            return
        for run in plan.runs:
            quantity = {"run_end": 2.0, "m": run.length_m, "low": float(sum(_on(run, p.from_m) for p in self.lows))}[
                kind.per
            ]
            if not quantity:
                continue
            near = list(self._settled(run.index)) if kind.waits else []
            for task in self.tasks if not kind.waits else ():
                named = kind.after == EVERYTHING or task.kind in kind.after or task.of.step in kind.after
                beside = task.side is None and self._touch(self._place(task), run.index)
                if named and (task.side == run.index or beside):
                    near.append((task.key, 0))
            if kind.waits and not near:
                continue
            name, usual = f"{self.line}.{run.index + 1}.{key}", kind.minutes * quantity
            minutes = (usual * kind.least, usual, usual * kind.most)
            task = DayTask(
                name,
                self.line,
                run.index,
                key,
                quantity,
                kind.per,
                minutes,
                kind.crew,
                tuple(near),
                run.start.station_m,
                run.end.station_m,
            )
            at = next(
                (k for k, t in enumerate(self.tasks) if kind.before and t.side == run.index and t.loads),
                len(self.tasks),
            )
            self.tasks = [*self.tasks[:at], task, *(
                replace(t, after=(*t.after, (name, 0))) if kind.before and t.side == run.index and t.loads else t for t in self.tasks[at:]
            )]  # fmt: skip

    def _place(self, task: DayTask) -> str:
        return task.key.split(".")[1]


def side_name(side: int | str) -> str:
    """A side as keys name it, counted from 1; a gate or a crossing by its own id."""
    return str(side + 1) if isinstance(side, int) else side


def _on(run: Run, station_m: float) -> bool:
    return run.start.station_m - NEAR_M <= station_m < run.end.station_m - NEAR_M


def _longest(links: Links) -> list[tuple[str, int]]:
    """Each of what comes before once, with the longest of its waits."""
    most: dict[str, int] = {}
    for key, days in links:
        most[key] = max(days, most.get(key, 0))
    return list(most.items())
