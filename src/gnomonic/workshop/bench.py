"""Speed, as ratios in one run."""

import math
import statistics
import time
import tracemalloc
from pathlib import Path
from typing import Any

import numpy as np

from gnomonic.core.choose.rank import rank
from gnomonic.core.choose.siting import best_places, hung_at, sites
from gnomonic.core.demand.animals import shipped
from gnomonic.core.edits.all import apply, read_edit
from gnomonic.core.fabric.bar import Bar
from gnomonic.core.fabric.lay import Rules, RunNeed
from gnomonic.core.fabric.rolls import plan_rolls
from gnomonic.core.fabric.wire import Crimped
from gnomonic.core.job.document import Job
from gnomonic.core.job.fence import checked, fence_of
from gnomonic.core.plan import stretch
from gnomonic.core.plan.road import PlanMemo, plan
from gnomonic.core.pull.path import Bend, pulled, take_up_m
from gnomonic.core.pull.path import Path as Path_
from gnomonic.core.pull.ways import Gives, Search
from gnomonic.core.setout.least_cost import Limits, solve
from gnomonic.core.tell.compare_braces import compare
from gnomonic.demo.load import single_jobs
from gnomonic.web.haul.worth import Worth
from gnomonic.web.parts import told
from gnomonic.web.plans import Plans
from gnomonic.workshop.bench_days import days
from gnomonic.workshop.bench_field import in_field
from gnomonic.workshop.bench_haul import haul
from gnomonic.workshop.bench_pages import pages
from gnomonic.workshop.crowd import report
from gnomonic.workshop.measures import MANY, many_lines, median_s, row
from gnomonic.workshop.plain import elastica_strain, plain_set_out, plain_splices, plain_take_up_m

LIMITS = Limits(4.0, 0.06, 0.0, 0.10, 4.0, 8.0)


def rough_ground(length_m: float, step_m: float = 0.25) -> tuple[np.ndarray[Any, Any], np.ndarray[Any, Any]]:
    """Invented rough ground: hills, swales, tussocks and a little noise."""
    random = np.random.default_rng(3)
    x = np.arange(0, length_m + step_m / 2, step_m)
    z = np.zeros_like(x)
    for wave, high in ((120, 3.0), (37, 0.8), (11, 0.25), (4, 0.05), (1.3, 0.02)):
        z += high * np.sin(2 * np.pi * x / wave + random.uniform(0, 6))
    return x, z + random.normal(0, 0.006, len(x))


def _set_out() -> None:
    x, z = rough_ground(1000)
    allowed = np.ones(len(x), dtype=np.bool_)
    first = solve(x, z, allowed, LIMITS)
    fast = median_s(lambda: solve(x, z, allowed, LIMITS), 15)
    start = time.perf_counter()
    reference = plain_set_out(x.tolist(), z.tolist(), allowed.tolist(), 4.0, 0.06, 0.0, 0.10)
    plain = time.perf_counter() - start
    assert abs(reference[0] - first.cost_to_go[0]) < 1e-5 and abs(reference[1] - first.squares_to_go[0]) < 1e-5
    row("set-out, 1 km at 0.25 m: plain Python / this", f"{plain / fast:.0f}×", "≥ 60×")
    x10, z10 = rough_ground(10_000)
    all10 = np.ones(len(x10), dtype=np.bool_)
    ten = median_s(lambda: solve(x10, z10, all10, LIMITS), 7)
    row("set-out, 10 km / 1 km", f"{ten / fast:.1f}×", "≤ 12×")
    x80, z80 = rough_ground(80_000)
    eighty = median_s(lambda: solve(x80, z80, np.ones(len(x80), dtype=np.bool_), LIMITS), 3)
    row("set-out, 80 km / 10 km", f"{eighty / ten:.1f}×", "≤ 9.6×")
    peaks = []
    for a, b, c in ((x, z, allowed), (x10, z10, all10)):
        tracemalloc.start()
        solve(a, b, c, LIMITS)
        peaks.append(tracemalloc.get_traced_memory()[1])
        tracemalloc.stop()
    row("peak memory, 10 km / 1 km", f"{peaks[1] / peaks[0]:.1f}×", "about 10×")
    edited = all10.copy()
    edited[20_000:20_012] = False
    before = solve(x10, z10, all10, LIMITS)
    after = solve(x10, z10, edited, LIMITS, before)
    assert np.array_equal(after.cost_to_go, solve(x10, z10, edited, LIMITS).cost_to_go)
    row(
        "nodes solved again after one forbidden stretch in 10 km", f"{after.work} of {len(x10)}", "only what can change"
    )
    again = median_s(lambda: solve(x10, z10, edited, LIMITS, before), 7)
    row("  whole solve / solve after that edit", f"{ten / again:.0f}×", "—")


def _hold() -> None:
    """Barriers ranked for a line."""
    fence = fence_of(single_jobs()[-1])
    made = plan(fence.job).lines[fence.id]
    first = median_s(lambda: rank(fence, made, shipped()), 1)
    row("every barrier ranked, its typical run planned", f"{first * 1000:.0f} ms", "once a process")
    later = median_s(lambda: rank(fence, made, shipped()), 7)
    row("  and again", f"{later * 1000:.0f} ms", "< 100 ms")


def _stand() -> None:
    """Ways to brace one end side by side; the paddock planned with every option of posts and braces on, against without."""
    fence = fence_of(single_jobs()[-1])
    made = plan(fence.job).lines[fence.id]
    every = median_s(lambda: compare(fence, made, 0.0, True), 7)
    row("45 ways to brace one end", f"{every * 1000:.0f} ms", "< 50 ms")
    job = fence.job
    for edit in (
        {"do": "say_soil", "soil": "clay", "wet": True, "from_m": 50.0, "to_m": 150.0},
        {"do": "brace_end", "kind": "h", "panels": 2},
        {"do": "ask_post", "at_m": 0.0, "depth_m": 1.2, "fill": "concrete"},
        {"do": "end_run", "at_m": 250.0},
        {"do": "fill_low", "at_m": 68.8, "what": "stone"},
    ):
        job = apply(job, read_edit(edit))
    plain, all_on = median_s(lambda: plan(fence.job), 9), median_s(lambda: plan(job), 9)
    row("  plan() of the paddock, every option on / none", f"{all_on / plain:.2f}×", "≤ 2×")


def _openings() -> None:
    """A gate slid along 200 m, its best places planned; the swing at one place; the paddock with its water crossed against it carried over."""
    fence = fence_of(single_jobs()[-1])
    memo = PlanMemo()
    made = plan(fence.job, memo).lines[fence.id]
    gate = made.gates[-1]
    mid = gate.at_m - 100.0

    def search() -> None:
        best_places(fence, made, gate, sites(fence, made, gate, mid, mid + 200.0), memo.lines[fence.id])

    row("a gate slid along 200 m, the best places planned", f"{median_s(search, 7) * 1000:.0f} ms", "< 200 ms")
    row(
        "  its swing at one place",
        f"{median_s(lambda: hung_at(fence, made, gate, gate.at_m + 1.0), 15) * 1000:.1f} ms",
        "≤ 100 ms with its drawing",
    )
    job = fence.job
    for water in made.waters:
        job = apply(job, read_edit({"do": "say_crossing", "at_m": water.at_m, "how": "over"}))
    for gate_of in fence.gates:
        job = apply(job, read_edit({"do": "remove_gate", "id": gate_of.id}))
    bare, full = median_s(lambda: plan(job), 15), median_s(lambda: plan(fence.job), 15)
    row("  plan() of the paddock / without its gates and crossings (four runs fewer)", f"{full / bare:.2f}×", "≤ 1.6×")


RUNS, OFFCUTS, ROLL_M, LAP_M, LEAST_M = 40, 10, 100.584, 0.3048, 6.096
PLAIN_S = 60.0
NINE = Bar(((Crimped(0.0025146, 0.004, 0.1524), 2), (Crimped(0.0019304, 0.004, 0.1524), 7)))


def _pull() -> None:
    """Runs searched, the closed forms against slow ones, rolls of many runs against a plain model."""
    bends = tuple(Bend(20 + 22 * k, math.radians(a), 0.3, 90.0) for k, a in enumerate((40, 30, 25, 35, 20)))
    windows = tuple((3 * k + 0.5, 3 * k + 2.5) for k in range(1, 49))
    search = Search(Path_(150.0, bends, 0.7), NINE, 2500.0, Gives(0.025, 0.005, 0.01, 0.01, 0.01), windows)
    row("a run with five bends, every way searched", f"{median_s(search.ways, 5) * 1000:.0f} ms", "< 300 ms")
    lines = [fence_of(job) for job in single_jobs()][:14]
    plans = [plan(f.job).lines[f.id] for f in lines]

    def all_runs() -> None:
        stretch._searched.cache_clear()
        for fence, made in zip(lines, plans, strict=True):
            stretch.stretching(fence, made, 15.0)

    row(f"  all runs of {len(lines)} lines", f"{median_s(all_runs, 3) * 1000:.0f} ms", "< 2 s")
    drawn = pulled(Path_(100.0, (), 9.0), 2800.0)
    fast = median_s(lambda: take_up_m(NINE, drawn), 200)
    slow = median_s(lambda: plain_take_up_m(NINE, 2800.0, 1900.0, 100.0), 1)
    off = abs(take_up_m(NINE, drawn) / plain_take_up_m(NINE, 2800.0, 1900.0, 100.0) - 1)
    row("  take-up under drag, added up / in closed form", f"{slow / fast:.0f}×", "≥ 100×")
    row("    how far apart they are", f"{off * 100:.5f} %", "≤ 0.1 %")
    wire = NINE.wires[0][0]
    slow = median_s(lambda: elastica_strain(wire, wire.half_n), 3)
    fast = median_s(lambda: wire.strain(wire.half_n), 200)
    gaps = [abs(wire.strain(r * wire.half_n) / elastica_strain(wire, r * wire.half_n) - 1) for r in (0.5, 1.0)]
    row("  strain of a curved wire, elastica / closed form", f"{slow / fast:.0f}×", "≥ 100×")
    row("    how far apart, half and all of Tc", " ".join(f"{g * 100:.2f} %" for g in gaps), "≤ 0.1 %")
    random = np.random.default_rng(5)
    needs = [round(float(v), 2) for v in random.uniform(15, 140, RUNS)]
    offcuts = [round(float(v), 2) for v in random.uniform(10, 70, OFFCUTS)]
    start = time.perf_counter()
    made = plan_rolls([RunNeed(n) for n in needs], ROLL_M, offcuts, Rules(LAP_M, LEAST_M))
    taken = time.perf_counter() - start
    proof = "proven" if made.proven["new_rolls"] else f"bound {made.bound['new_rolls']}"
    row(
        f"{RUNS} runs, {OFFCUTS} offcuts: new rolls, {proof}",
        f"{made.new_rolls}, {taken:.1f} s",
        "proven in 2 s, all in 5 s",
    )
    plain, bound = plain_splices(needs, [*offcuts, *[ROLL_M] * made.new_rolls], LAP_M, LEAST_M, PLAIN_S)
    row(
        "  splices / of the plain model in 60 s / by hand",
        f"{made.splices} / {plain} / {made.greedy['splices']}",
        f"no more than either; bound {bound:.0f}",
    )


def _many() -> None:
    """An edit of one line of forty against the same edit of that line alone: planned, told and drawn."""
    job = many_lines()
    made = plan(job)
    bays = sum(len(p.bays) for p in made.lines.values())
    barriers = len({p.system.key for p in made.lines.values()})
    cold = median_s(lambda: plan(job), 3)
    row(f"one job of {MANY} lines, {barriers} barriers, {bays} bays: planned cold", f"{cold * 1000:.0f} ms", "< 600 ms")
    ratios, times = [], []
    for own in job.lines[:13]:
        alone = checked(job, lines=(own,), joins=(), found=())
        one, all_of_them = (edit_s(each, own.id, own.decisions.gap_max_m) for each in (alone, job))
        ratios.append(all_of_them / one)
        times.append(all_of_them)
    row(
        "  an edit of one line there / the same edit in a job of one line, median",
        f"{statistics.median(ratios):.2f}×",
        "≤ 1.3×",
    )
    row("  that edit, planned, told and drawn", f"{statistics.median(times) * 1000:.0f} ms", "—")


def edit_s(job: Job, line: str, gap_m: float) -> float:
    """Seconds from an edit to what the page is sent, in a server that has the job's plan."""
    plans = Plans()
    was = plans.make("j", job)
    assert was.line(line).drawing
    taken = []
    for k in range(6):
        edit = {"do": "decide", "line": line, "key": "gap_max_m", "value": gap_m + 0.01 * (k % 2 + 1)}
        start = time.perf_counter()
        now = plans.make("j", apply(was.job, read_edit(edit)))
        told(was, now, edit, Worth("", ()))
        assert now.line(line).drawing
        taken.append(time.perf_counter() - start)
        was = now
    return statistics.median(taken[1:])


def _plan() -> None:
    job = single_jobs()[-1]
    plan(job)
    whole = median_s(lambda: plan(job), 15)
    row("plan() of the demo paddock, median", f"{whole * 1000:.0f} ms", "< 60 ms")
    memo = PlanMemo()
    plan(job, memo)
    edited = apply(job, read_edit({"do": "place_post", "at_m": 260.0}))

    def edit() -> None:
        plan(job, memo)
        plan(edited, memo)

    row("  whole plan / plan after placing one post", f"{whole / (median_s(edit, 9) / 2):.1f}×", "> 1×")


def _measured_files() -> None:
    from xml.parsers.expat import ParserCreate

    from gnomonic.core.ground.simplify import simplify
    from gnomonic.formats.bring_in import bring_in, preview_json
    from gnomonic.formats.gpx import write_track

    k = np.arange(200_000)
    lon, lat = -30 + k * 1e-7, 47 + 1e-5 * np.sin(k / 4000)
    data = write_track("long", list(zip(lon.tolist(), lat.tolist(), (5 + np.sin(k / 9000)).tolist(), strict=True)))
    whole = median_s(lambda: preview_json(bring_in("long.gpx", data)), 3)
    bare = median_s(lambda: ParserCreate().Parse(data, True), 3)
    row("200,000-point track to its preview", f"{whole:.2f} s", "< 2 s")
    row("  to preview / only passing over its XML", f"{whole / bare:.1f}×", "—")
    table = np.column_stack([k * 0.01, 3 * np.sin(k / 900), np.sin(k / 4000)])
    ten = median_s(lambda: simplify(table, 0.05), 3) / median_s(lambda: simplify(table[:20_000], 0.05), 3)
    row("simplifying 200,000 / 20,000 points", f"{ten:.0f}×", "well under 100×")


def bench(home: Path) -> int:
    """Measure everything."""
    _set_out()
    _plan()
    _hold()
    _stand()
    _openings()
    _pull()
    _many()
    _measured_files()
    haul()
    days()
    in_field(home)
    pages(home)
    report(home, row)
    return 0
