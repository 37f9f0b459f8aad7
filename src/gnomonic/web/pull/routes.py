"""Pull: how every run of a line is stretched, on what day, from where, and what stays of it all the year."""

import json
from dataclasses import dataclass
from datetime import date
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import JSONResponse, Response

from gnomonic.core.days.weather import Weather, storm_words
from gnomonic.core.errors import Away, BadInput
from gnomonic.core.fabric.bar import Bar
from gnomonic.core.plan.identity import tag_name
from gnomonic.core.plan.stretch import Option, RunPull, Stretching, stretching, tail_m
from gnomonic.core.pull.climate import MONTHS, climate, climates
from gnomonic.core.pull.gear import MOST_PULLERS, pullers
from gnomonic.core.pull.path import Stretch
from gnomonic.core.tell.pull_facts import run_facts, wire_rows
from gnomonic.core.tell.pull_laying import laying, tie_advice, weave
from gnomonic.core.tell.pull_order import dummy_moves, run_order
from gnomonic.core.tell.pulling import dummy_of, ends_pulled, ok, verdict, way_words
from gnomonic.core.units import System
from gnomonic.web.days.skies import Skies
from gnomonic.web.draw.words import facts_json, mm, said
from gnomonic.web.parts import line_asked, line_page, planned_of, safe
from gnomonic.web.plans import Planned
from gnomonic.web.room import room

router = APIRouter()
Json = dict[str, Any]
STEP_C = 2.0  # temperatures the seasons are worked out for; between them the page goes straight


@dataclass(frozen=True, slots=True)
class Day:
    """What today is like where wire is pulled: °C of the forenoon, where that is from, and what is said of thunder."""

    working_c: float
    source: str
    thunder: str


def today(request: Request, it: Planned) -> Day:
    """Today as it is forecast; what the month usually brings where the service does not answer."""
    skies: Skies = room(request).skies
    job, of, day = it.fence.job, climate(it.fence.job.climate), date.today()
    try:
        found = skies.days(job.climate, job.name, day)[0]
    except Away as error:
        usual = Weather(day=day, night_c=of.night[day.month - 1], noon_c=of.noon[day.month - 1])
        return Day(usual.working_c, f"{error.sentence}: read the thermometer", "")
    source = (
        "forecast, made up by the practice weather service" if skies.is_practice else "forecast of the weather service"
    )
    return Day(
        min(max(found.working_c, of.coldest_c), of.hottest_c), f"{source}: read the thermometer", storm_words(found)
    )


def stretched(request: Request, it: Planned) -> Stretching:
    """A line's pulls on the day that was said, or the one that is forecast."""
    return stretching(it.fence, it.plan, today(request, it).working_c)


@router.get("/jobs/{job_id}/pull", include_in_schema=False)
def pull_page(request: Request, job_id: str) -> Response:
    """How a line is stretched."""
    stored, planned = planned_of(request, job_id)
    made = safe(json.dumps(pull_json(request, planned), ensure_ascii=False))
    return line_page(request, "pull.html", stored, planned, pulls=made)


@router.get("/api/v1/jobs/{job_id}/pulls")
def pulls(request: Request, job_id: str) -> Response:
    """A line's pulls."""
    return JSONResponse(pull_json(request, planned_of(request, job_id)[1]))


@router.get("/jobs/{job_id}/pull-sheet", include_in_schema=False)
def sheet_page(request: Request, job_id: str, run: int = 0, units: str = "us") -> Response:
    """The sheet of one run: everything in the order of doing.  Raises BadInput (``run``)."""
    _, it = planned_of(request, job_id)
    whole = stretched(request, it)
    if not 0 <= run < len(whole.runs):
        raise BadInput("run", f"there is no pull {run + 1} on this line; it has {len(whole.runs)}")
    made, system = whole.runs[run], _system(units)
    name = run_name(whole, made)
    context = {
        "job_id": job_id,
        "name": it.fence.title,
        "title": name,
        "units": system,
        "run": run,
        "line": line_asked(request),
        "verdict": verdict(made).text(system),
        "rows": [(f.name, f.value.text(system)) for f in run_facts(it.plan, made)],
        "steps": [(d.text.text(system), d.caution) for d in run_order(it.fence, it.plan, whole, made)],
        "laying": [s.text(system) for s in laying(it.plan, made.number)] if made.drawn.fabric else [],
        "advice": [s.text(system) for s in (*weave(it.fence, it.plan, made), *tie_advice(made))],
        "shown": safe(json.dumps({**run_json(it, whole, made), "climate": climate_json(whole)}, ensure_ascii=False)),
    }
    answer: Response = request.app.state.templates.TemplateResponse(request, "pullsheet.html", context)
    return answer


def _system(units: str) -> System:
    return "metric" if units == "metric" else "us"


def run_name(whole: Stretching, run: RunPull) -> str:
    """What a pull is called: its run, and what is drawn where several things are."""
    several = sum(r.number == run.number for r in whole.runs) > 1 or not run.drawn.fabric
    count = f"{run.drawn.count} × " if run.drawn.count > 1 else ""
    return f"Run {run.number + 1}" + (f", {count}{run.drawn.title}" if several else "")


def pull_json(request: Request, it: Planned) -> Json:
    """Everything the page shows, in SI."""
    day = today(request, it)
    whole = stretching(it.fence, it.plan, day.working_c)
    ask = it.fence.own.pull
    return {
        "runs": [run_json(it, whole, r) for r in whole.runs],
        "climate": {**climate_json(whole), "source": day.source, "thunder": day.thunder},
        "climates": [{"key": k, "title": c.title, "reason": said(c.reason)} for k, c in climates().items()],
        "pullers": [{"key": k, "title": said(p.title), "can": p.can_n, "reason": said(p.reason)} for k, p in pullers().items()],
        "ask": {"puller": ask.puller, "pullers": ask.pullers, "temp": ask.temp_c},
        "most": MOST_PULLERS,
        "moves": [{"name": run_name(whole, m.run), "at": mm(m.at_m), "carried": mm(m.carried_m)} for m in dummy_moves(whole)],
    }  # fmt: skip


def climate_json(whole: Stretching) -> Json:
    """The year, the day, and whether somebody said it."""
    c = whole.climate
    return {
        "title": c.title, "months": list(MONTHS), "cold": list(c.cold), "hot": list(c.hot), "night": list(c.night), "noon": list(c.noon),
        "day": whole.day_c, "said": whole.said, "coldest": c.coldest_c, "hottest": c.hottest_c,
    }  # fmt: skip


def run_json(it: Planned, whole: Stretching, run: RunPull) -> Json:
    """A run's pull as it is drawn and told."""
    goal = run.drawn.aim
    return {
        "name": run_name(whole, run),
        "from": mm(run.from_m),
        "to": mm(run.to_m),
        "what": run.drawn.title,
        "count": run.drawn.count,
        "fabric": run.drawn.fabric,
        "known": run.drawn.known,
        "hand": goal.pull_n <= 0,
        "pull": goal.pull_n,
        "ok": ok(run),
        "carries": run.carries or goal.pull_n <= 0,
        "verdict": said(verdict(run)),
        "relax": run.drawn.relaxed_share,
        "bends": [
            {"at": mm(run.station(b.at_m)), "deg": round(b.rad * 57.29578, 1)} for b in run.path.bends
        ],
        "seasons": seasons_json(run.drawn.bar, run, whole),
        "drawn": [_nodes(run, p.stretches) for p in run.option.way.parts],
        "ends": [
            {"start": start, "at": mm(run.from_m if start else run.to_m)} for start in ends_pulled(run)
        ],
        "splices": [mm(run.station(s)) for s in run.option.way.splices_m],
        "ways": [_way(it, run, k, o) for k, o in enumerate(run.options)],
        "about": said_about(it, run),
        "dummy": [_dummy(it, run, start) for start in ends_pulled(run) if run.drawn.fabric and run.drawn.known],
        "hooks": [{"at": h.at_m, "load": h.load_n} for h in run.hooks],
        "can": run.kind.can_n,
        "high": run.drawn.high_m,
        "tail": tail_m(it.plan, run.number) if run.drawn.fabric else 0.0,
        "stay": run.drawn.stay_m,
        "rows": list(it.plan.section.layers[0].fabric.wire_heights_m) if run.drawn.fabric else [],
        "foot": it.plan.limits.clearance_m + run.drawn.foot_m,
        "wires": [
            {"d": r.wire.d_m, "count": r.count, "today": r.today_n, "cold": r.cold_n, "hot": r.hot_n, "out": [r.out_today, r.out_cold, r.out_hot]}
            for r in wire_rows(run)
        ],
        "supports": [
            {"name": tag_name(it.fence, it.plan.posts[s.post].name), "at": it.plan.posts[s.post].station_m, "travel": s.travel_m, "moves": s.moves} for s in run.supports
        ],
        "facts": facts_json(run_facts(it.plan, run)),
        "order": [{"text": said(d.text), "caution": said(d.caution) if d.caution else ""} for d in run_order(it.fence, it.plan, whole, run)],
        "advice": [said(s) for s in (*weave(it.fence, it.plan, run), *tie_advice(run))],
        "laying": [said(s) for s in laying(it.plan, run.number)] if run.drawn.fabric else [],
        "tools": sorted({*run.drawn.tie.tools, *run.drawn.joint.tools} if run.option.way.splices_m else run.drawn.tie.tools),
    }  # fmt: skip


def _nodes(run: RunPull, stretches: tuple[Stretch, ...]) -> list[list[float]]:
    rows = []
    for s in stretches:
        rows += [[mm(run.station(s.from_m)), round(s.start_n, 1)], [mm(run.station(s.to_m)), round(s.end_n, 1)]]
    return rows


def seasons_json(bar: Bar, run: RunPull, whole: Stretching) -> Json:
    """What is left along the run once tied, at temperatures from the coldest to the hottest: a row of pulls and a row of the
    greatest share of the curve out at each."""
    nodes = _nodes(run, run.option.way.after)
    temps: list[float] = []
    now = whole.climate.coldest_c
    while now < whole.climate.hottest_c - 1e-9:
        temps.append(now)
        now += STEP_C
    temps = sorted({*temps, whole.climate.hottest_c, whole.day_c})
    pulls, outs = [], []
    kept: dict[tuple[float, float], float] = {}
    for t in temps:
        row = []
        for _, n in nodes:
            if (n, t) not in kept:
                kept[n, t] = bar.warmer_n(n, t - whole.day_c) if run.drawn.known else n
            row.append(kept[n, t])
        pulls.append([round(n, 1) for n in row])
        shares = [max((o for o in bar.out(n) if o is not None), default=None) for n in row]
        outs.append([None if o is None else round(o, 4) for o in shares])
    return {"temps": temps, "at": [at for at, _ in nodes], "pull": pulls, "out": outs}


def said_about(it: Planned, run: RunPull) -> float:
    """The station a run is spoken of by: where something was said of it already, else its middle."""
    said_of = it.fence.pulled_from(run.from_m, run.to_m)
    return said_of.at_m if said_of else (run.from_m + run.to_m) / 2


def _way(it: Planned, run: RunPull, k: int, option: Option) -> Json:
    edits: list[Json] = [{"do": "end_run", "at_m": run.station(at)} for at in option.way.ends_m]
    for part in option.way.parts:
        middle = (run.station(part.from_m) + run.station(part.to_m)) / 2 if option.ends else said_about(it, run)
        spliced = {} if part.splice_m is None else {"splice_m": run.station(part.splice_m)}
        edits.append({"do": "pull_from", "at_m": middle, "way": part.way, **spliced})
    return {
        "words": said(way_words(run, option)),
        "keeps": option.keeps,
        "least": option.way.least_n,
        "most": option.way.greatest_n,
        "left": _curve_left(run, option),
        "enough": option.enough,
        "minutes": option.minutes,
        "splices": option.splices,
        "ends": option.ends,
        "taken": k == run.chosen,
        "said": option.said,
        "recut": option.recut,
        "edits": edits,
    }


def _curve_left(run: RunPull, option: Option) -> list[float] | None:
    """Least and greatest share of the curve that is left anywhere along the run once it is tied; none of a straight wire."""
    outs = [[o for o in run.drawn.bar.out(n) if o is not None] for n in (option.way.greatest_n, option.way.least_n)]
    if not all(outs) or not run.drawn.known:
        return None
    return [round(1 - max(outs[0]), 4), round(1 - min(outs[1]), 4)]


def _dummy(it: Planned, run: RunPull, start: bool) -> Json | None:
    made = dummy_of(it.plan, run, start)
    if made is None:
        return None
    post = it.plan.posts[run.posts[0 if start else -1]]
    brace = next(
        (b for b in it.plan.braces if abs(b.end.stations_m[0] - (run.from_m if start else run.to_m)) < 1e-3), None
    )
    return {
        "start": start, "off": made.off_m, "at": made.member_at_m, "cut": made.member_cut_m, "force": made.member_n, "foot": made.foot_n, "long": made.post_m,
        "post": {"wide": post.rule.diameter_m, "above": post.above_m, "depth": post.depth_m, "name": tag_name(it.fence, post.name)},
        "rail": brace.rail_height_m if brace else None,
    }  # fmt: skip
