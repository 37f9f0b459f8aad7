"""What a job's days are planned from: its tasks, the crew, what is asked, what was done, the weather, what other jobs have."""

import hashlib
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, datetime, time
from zoneinfo import ZoneInfo

from gnomonic import __version__
from gnomonic.core.days.crew import Crew
from gnomonic.core.days.laying import Given, marks_day
from gnomonic.core.days.logged import logged, with_log
from gnomonic.core.days.made import Asked
from gnomonic.core.days.progress import Done, Rate, Tick, done, rates, usual_minutes
from gnomonic.core.days.sharing import busy_of
from gnomonic.core.days.task import DayTask
from gnomonic.core.days.weather import Weather
from gnomonic.core.days.work import job_tasks
from gnomonic.core.errors import Away
from gnomonic.core.ground.marking import state_of
from gnomonic.core.job.fence import fence_of
from gnomonic.core.kept import KeptBy
from gnomonic.store import days
from gnomonic.store.days import DayPlan
from gnomonic.store.jobs import Stored
from gnomonic.store.scope import Scope
from gnomonic.web.days.skies import Skies
from gnomonic.web.log.known import known
from gnomonic.web.plans import PlannedJob

_tasks: KeptBy[dict[str, DayTask]] = KeptBy(32)


def local_now(crew: Crew) -> datetime:
    """What the clocks say where the crew is."""
    return datetime.now(ZoneInfo(crew.zone)).replace(tzinfo=None)


@dataclass(frozen=True, slots=True)
class Inputs:
    """Everything a plan of days is made from, and a ``stamp`` of it."""

    stored: Stored
    job: PlannedJob
    tasks: dict[str, DayTask]
    crew: Crew
    said: bool
    plan: DayPlan | None
    others: list[DayPlan]
    ticks: list[Tick]
    done: Done
    rates: dict[str, Rate]
    weather: list[Weather]
    away: str
    now: datetime
    marks: dict[str, date | None]
    stamp: str

    @property
    def asked(self) -> Asked:
        """What is asked, or a start today where nothing is."""
        return self.plan.asked if self.plan else Asked(start=self.now.date())

    @property
    def marks_from(self) -> date | None:
        """The day from which may be dug on every line."""
        return max((d for d in self.marks.values() if d), default=None)

    def given(self) -> Given:
        """What the plan starts from."""
        today = datetime.combine(self.now.date(), time())
        busy = [b for other in self.others if other.made for b in busy_of(other.made.placed)]
        factor = {kind: rate.share for kind, rate in self.rates.items()}
        marks = {line: day for line, day in self.marks.items() if day}
        return Given(
            self.asked.start, marks, today, self.done.share, self.done.at, factor, self.asked.pins, self.weather, busy,
        )  # fmt: skip


def whole_crew(scope: Scope, job: PlannedJob) -> tuple[Crew, bool]:
    """The workspace's crew and whether it was said; where its place was not, that of the job's ground."""
    said = days.crew(scope)
    crew = said or Crew()
    frame = job.job.frame
    if crew.lat_deg is None and frame.lat0_deg is not None and frame.lon0_deg is not None and crew.zone != "UTC":
        crew = crew.model_copy(update={"lat_deg": frame.lat0_deg, "lon_deg": frame.lon0_deg})
    return crew, said is not None


def inputs(scope: Scope, skies: Skies, stored: Stored, job: PlannedJob, at: datetime | None = None) -> Inputs:
    """Gather them, now or as ``at`` another moment."""
    crew, said = whole_crew(scope, job)
    now = at or local_now(crew)
    rows = days.day_plans(scope, stored.job_id, since=now.date())
    plan = next((r for r in rows if r.job_id == stored.job_id), None)
    others = rows[: rows.index(plan)] if plan else rows
    fences = {k: fence_of(job.job, k) for k in job.plan.lines}
    tasks = _tasks.of(job.plan, "", lambda: {t.key: t for t in job_tasks(job.plan, fences)})
    ticks = days.day_ticks(scope, stored.job_id)
    learned = rates(crew, usual_minutes(tasks.values(), crew), days.telling_ticks(scope))
    weather, away = forecast(skies, job, crew, now.date())
    log = _log(scope, stored, job, tasks, crew)
    marks = {
        k: marks_day(
            state_of(job.job.marking, plan_.course, now.date()),
            job.job.marking.wait_until if job.job.marking else None,
            now.date(),
        )
        for k, plan_ in job.plan.lines.items()
    }
    stamp = _stamp(stored, crew, plan, others, ticks, log, learned, weather, now, marks)
    return Inputs(
        stored,
        job,
        tasks,
        crew,
        said,
        plan,
        others,
        ticks,
        with_log(done(ticks), log),
        learned,
        weather,
        away,
        now,
        marks,
        stamp,
    )


def _log(
    scope: Scope, stored: Stored, job: PlannedJob, tasks: Mapping[str, DayTask], crew: Crew
) -> dict[str, tuple[float, datetime]]:
    """What the log says is done, by the clock where the crew is."""
    zone = ZoneInfo(crew.zone)
    made = logged(tasks.values(), job.plan, known(scope, stored.job_id)[1])
    return {key: (share, at.astimezone(zone).replace(tzinfo=None)) for key, (share, at) in made.items()}


def forecast(skies: Skies, job: PlannedJob, crew: Crew, today: date) -> tuple[list[Weather], str]:
    """The days that are forecast, or none and why."""
    at = (crew.lat_deg, crew.lon_deg) if crew.lat_deg is not None and crew.lon_deg is not None else None
    try:
        return skies.days(job.job.climate, job.job.name, today, at), ""
    except Away as error:
        return [], error.sentence


def _stamp(
    stored: Stored, crew: Crew, plan: DayPlan | None, others: list[DayPlan], ticks: list[Tick], log: Mapping[str, tuple[float, datetime]], learned: Mapping[str, Rate],
    weather: list[Weather], now: datetime, marks: Mapping[str, date | None],
) -> str:  # fmt: skip
    parts = [
        __version__, stored.key, stored.names, crew.model_dump_json(), plan.asked.model_dump_json() if plan else "", *(o.job_id + o.mark for o in others),
        *(t.id for t in ticks), str(sorted(log.items())), str(sorted((k, r.share) for k, r in learned.items())), *(w.model_dump_json() for w in weather), str(now.date()), str(sorted(marks.items())),
    ]  # fmt: skip
    return hashlib.sha256("\n".join(parts).encode()).hexdigest()[:16]
