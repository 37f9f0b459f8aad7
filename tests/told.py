"""Everything that is told of a line, a job, an edit or a pocket sum, as a person reads it: a text, a row for each thing said."""

import dataclasses
from datetime import date
from decimal import Decimal

from pydantic import BaseModel

from gnomonic.core.choose.rank import rank
from gnomonic.core.days.work import job_tasks
from gnomonic.core.demand.animals import shipped
from gnomonic.core.edits import all as all_edits
from gnomonic.core.errors import BadInput
from gnomonic.core.haul.costing import cost_of
from gnomonic.core.haul.supply import supply
from gnomonic.core.haul.takeoff import job_take_off, take_off
from gnomonic.core.haul.terms import Terms
from gnomonic.core.job.fence import fence_of
from gnomonic.core.plan import road
from gnomonic.core.plan.model import Brace, Post
from gnomonic.core.plan.stretch import RunPull, stretching
from gnomonic.core.prose import Both
from gnomonic.core.say import Say
from gnomonic.core.snags.all import snags
from gnomonic.core.tell.bends import bends
from gnomonic.core.tell.brace_sheet import brace_sheet
from gnomonic.core.tell.compare import difference
from gnomonic.core.tell.compare_braces import compare
from gnomonic.core.tell.dips import dips
from gnomonic.core.tell.holes import holes
from gnomonic.core.tell.money import charge_amount, charge_words, grouped, scope_of
from gnomonic.core.tell.needs import named, where, where_of_job
from gnomonic.core.tell.next_up import next_up
from gnomonic.core.tell.openings import crossing_facts, crossing_order, gate_facts, gate_order, way_words
from gnomonic.core.tell.options import ways
from gnomonic.core.tell.pull_facts import run_facts, wire_rows
from gnomonic.core.tell.pull_laying import laying, tie_advice, weave
from gnomonic.core.tell.pull_order import dummy_moves, run_order
from gnomonic.core.tell.pulling import verdict
from gnomonic.core.tell.pulling import way_words as pulled
from gnomonic.core.tell.steps import steps_of
from gnomonic.core.tell.tag import bay_tag, post_tag, splice_tag
from gnomonic.core.tell.tag_job import job_tag
from gnomonic.core.tell.unchanged import unchanged
from gnomonic.core.tell.walk_list import figures, walk_list

DAY = date(2026, 6, 1)


def words(it, units):
    """Anything told, in one unit system."""
    match it:
        case Say():
            return it.text(units)
        case Both():
            return it.us if units == "us" else it.metric
        case None | "" | () | []:
            return "–"
        case float():
            return f"{it:.5g}" if abs(it) > 1e-9 else "0"
        case Post():
            return it.name
        case RunPull():
            return f"run {it.number + 1}"
        case dict():
            return "{" + ", ".join(f"{k}: {words(v, units)}" for k, v in it.items()) + "}"
        case tuple() | list():
            return "; ".join(words(x, units) for x in it)
        case BaseModel() | Brace():
            return getattr(it, "title", None) or getattr(it, "key", None) or type(it).__name__
        case _ if dataclasses.is_dataclass(it):
            return " | ".join(field(f.name, getattr(it, f.name), units) for f in dataclasses.fields(it))
    return str(it)


def field(name, value, units):
    """A number with its name; a sentence speaks for itself."""
    return f"{name} {words(value, units)}" if isinstance(value, float | int) else words(value, units)


def told(it, made, units, day_c=12.0):
    """Everything told of a line, in sections."""

    known = set()

    def facts(rows):
        """Each with its working; rule, source and what others hold once a line."""
        for f in rows:
            why = words((f.why.rule, f.why.source, f.why.other, f.note), units)
            yield f"{f.name}: {words(f.value, units)} — {words(f.why.working, units)}" + (
                f" ({why})" if why not in known else ""
            )
            known.add(why)

    def tag(made):
        yield from (made.title, *facts(made.facts), *made.cautions)

    yield "snags", snags(it, made, DAY)
    yield "steps", steps_of(it, made)
    yield "posts", posts_told(made, units)
    for k in telling_posts(made):
        yield f"post {made.posts[k].name}", tag(post_tag(it, made, k))
    for k in telling_bays(made):
        yield f"bay {k + 1}", tag(bay_tag(it, made, k))
    for k in range(min(2, len(made.rolls.splices))):
        yield f"splice {k + 1}", tag(splice_tag(it, made, k))
    yield "line", tag(job_tag(it, made))
    yield "needs", [(n.count, n.unit, named(n), where(n, made), n.cuts_m, n.each) for n in take_off(it, made)]
    yield "holes", [h for h in holes(it, made) if h.post.fixed]
    yield "bends", bends(it, made)
    yield "dips", dips(made)
    for b in made.braces[:2]:
        rows = compare(it, made, b.end.stations_m[0], b.end.at_start)
        yield f"brace at {words(b.end.stations_m[0], units)}", [brace_sheet(made, b), *rows[::5]]
    for g in made.gates:
        yield f"gate {g.name}", [way_words(g), *facts(gate_facts(made, g)), *gate_order(made, g)]
    for c in made.crossings:
        yield "crossing", [*facts(crossing_facts(made, c)), *crossing_order(made, c)]
    whole = stretching(it, made, day_c)
    for run in whole.runs[:4]:
        rows = [
            verdict(run),
            *(pulled(run, o) for o in run.options),
            *facts(run_facts(made, run)),
            *wire_rows(run),
            *tie_advice(run),
            *weave(it, made, run),
        ]
        yield f"pulling run {run.number + 1}", [*rows, *run_order(it, made, whole, run)]
    yield "laying", [*laying(made), *dummy_moves(whole)]
    yield "walk", [*walk_list(made), figures(it, made)]
    yield "ways", ways(it, made, [])


def posts_told(made, units):
    for p in made.posts:
        at = words(
            (
                Say("{a}", {"a": (p.station_m, "station")}),
                Say("{d} deep, {l} long", {"d": (p.depth_m, "depth"), "l": (p.length_m, "depth")}),
            ),
            units,
        )
        yield f"{p.name} {p.kind} {p.role} at {at}, {p.fill or 'no fill'}: {words(p.because, units)}"


def telling_posts(made):
    """One of each kind and role, and of those that hold each for its own reason."""
    seen, found = set(), []
    reasons = {h.post: h.why for h in made.holds}
    for k, p in enumerate(made.posts):
        key = (p.kind, p.role, reasons.get(k))
        if key not in seen:
            seen.add(key)
            found.append(k)
    return found


def telling_bays(made):
    lengths = [b.to_m - b.from_m for b in made.bays]
    return sorted({lengths.index(max(lengths)), lengths.index(min(lengths))})


def text_of(sections, units):
    rows = []
    for title, said in sections:
        rows += [f"# {title}", *(words(row, units) for row in said), ""]
    return "\n".join(rows)


def edits_told(job, edits, units="us", memo=None):
    """What each edit is said to have changed, in the chain they come in; of one that is refused, why."""
    memo = memo or road.PlanMemo()
    was = road.plan(job, memo)
    for edit in edits:
        yield "> " + ", ".join(f"{k} {v}" for k, v in edit.items() if k != "given")
        given = edit if "line" in edit else {"line": job.lines[0].id, **edit}
        try:
            after = all_edits.apply(job, all_edits.read_edit(given))
            now = road.plan(after, memo)
        except BadInput as bad:
            yield f"refused: {bad.said.text(units) if bad.said else bad.sentence}"
            continue
        touched = [k for k in {**was.lines, **now.lines} if was.lines.get(k) is not now.lines.get(k)]
        sides = [[(fence_of(j, k), p.lines[k]) for k in touched if k in p.lines] for j, p in ((job, was), (after, now))]
        own = next((k for k in (given["line"], *now.lines) if k in now.lines and k in was.lines), "")
        yield difference(*sides) or unchanged(fence_of(job, own), fence_of(after, own), now.lines[own], given)
        job, was = after, now


def job_told(job, made, sellers, units="us"):
    """What is told of all lines together: what is next, what is bought and from whom, what it costs, the tasks of its days."""
    sides = [(fence_of(job, k), p) for k, p in made.lines.items()]
    snags_by_line = {f.id: sum(s.grave for s in snags(f, p, DAY, meetings=made.meetings)) for f, p in sides}
    yield "next", next_up(job, made, snags_by_line, DAY)
    needs = job_take_off(sides)
    yield "needs", [(n.count, n.need.unit, named(n.need), where_of_job(n, made.lines[n.needs[0][0]])) for n in needs]
    found = supply(needs, [], sellers(needs))
    cost = cost_of(made.lines, found, [], Terms(hour=4200, plant_hour=5500, fuel_hour=900, margin=Decimal("0.2")))
    for group, charges in grouped(cost):
        yield f"cost of {group}", [(charge_words(c), charge_amount(c, units), c.cents, c.lines) for c in charges]
    tasks = job_tasks(made, {f.id: f for f, _ in sides})
    yield "tasks", [(t.key, t.amount, t.minutes, t.crew, t.after, t.text, t.caution, t.wait) for t in tasks]
    yield "scope", [scope_of(f, p) for f, p in sides]
    for f, p in sides:
        told_of = snags(f, p, DAY, meetings=made.meetings)
        yield f"snags of {f.id}", [(s.code, s.grave, s.title, s.consequence, s.remedies) for s in told_of]
        shared = [k for k, post in enumerate(p.posts) if post.shared or post.joined]
        for k in shared:
            yield f"post {f.id}{p.posts[k].name}", [(t.name, t.value, t.why.working) for t in post_tag(f, p, k).facts]


def choices_told(it, made):
    """Every barrier that was weighed for a line, with what it comes to and what it misses."""
    ranked = rank(it, made, shipped())
    for c in (*ranked.meets, *ranked.near):
        yield (c.section.system.title, c.edit, c.parts, c.work_parts, c.years, c.life_years, c.notes, c.mends, c.misses)
