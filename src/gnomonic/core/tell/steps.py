"""The steps of the work in order, with the numbers of this job in them, and the caution where it bites."""

import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from gnomonic.core.demand.catalog import catalog
from gnomonic.core.demand.system import Step, common_caution, opening_steps
from gnomonic.core.demand.tasks import Per, Task, tasks
from gnomonic.core.finish.fittings import chosen, extra_counts, splice_counts
from gnomonic.core.ground.found import called
from gnomonic.core.haul.counts import filled_m3, fitting_counts, gate_counts, own_posts
from gnomonic.core.haul.work import settling, work_of
from gnomonic.core.job.fence import Fence
from gnomonic.core.plan.model import Plan
from gnomonic.core.say import Say, together

Values = dict[str, tuple[float, str] | str]


@dataclass(frozen=True, slots=True)
class StepDone:
    """One step of a line's work.

    ``key`` tells it from the others; ``task`` is its kind (``demand/tasks.py``), done ``quantity`` times ``per`` post, metre, run
    …; ``minutes`` of one person at least, usually and at most on easy ground; ``crew`` people at least; it comes ``after`` the
    steps of those keys, and then ``wait_days`` pass, because of ``wait``.  ``text`` and ``caution`` are the sentences made from it.
    """

    key: str
    task: Task
    quantity: float
    minutes: tuple[float, float, float]
    crew: int
    tools: tuple[str, ...]
    after: tuple[str, ...]
    wait_days: int
    wait: str
    text: Say
    caution: Say


def _count(number: float, one: str, many: str = "") -> str:
    return f"{number:.0f} {one if round(number) == 1 else many or one + 's'}"


def ranges(names: Sequence[str]) -> str:
    """Names of posts as a fencer says them: 4, 7–9 and 12.

    >>> ranges(["4", "7", "8", "9", "9a", "12"]), ranges(["3"])
    ('4, 7–9, 9a and 12', '3')
    """
    groups: list[list[str]] = []
    for n in names:
        if groups and n.isdigit() and groups[-1][-1].isdigit() and int(n) == int(groups[-1][-1]) + 1:
            groups[-1].append(n)
        else:
            groups.append([n])
    parts = [part for g in groups for part in ([f"{g[0]}–{g[-1]}"] if len(g) > 2 else map(str, g))]
    return parts[0] if len(parts) == 1 else ", ".join(parts[:-1]) + " and " + parts[-1] if parts else ""


def _held(plan: Plan) -> str:
    held = [p.name for p in plan.posts if p.slot == "held"]
    if not held:
        return ""
    return f" and on post{'' if len(held) == 1 else 's'} {ranges(held)} in dips, on humps and in bends"


def _line_posts(plan: Plan) -> str:
    """What is done with the line posts: set the 3 wood posts, drive the 9 steel ones, studs to the stock."""
    section, said = plan.section, []
    for kind in dict.fromkeys((plan.system.firm_post, plan.system.line_post)):
        count = sum(p.kind == kind for p in plan.posts)
        if not count:
            continue
        driven = section.posts[kind].fit == "drive"
        noun = _count(count, f"{section.posts[kind].material} post")
        said.append(f"{'drive' if driven else 'set'} the {noun}{', studs to the stock' * driven}")
    words = ", ".join(said) or "no post stands between"
    return words[0].upper() + words[1:]


def _fasteners(plan: Plan, slots: Sequence[str]) -> str:
    """What is driven, clipped or tied on posts of some slots, counted: 12 staples, 45 clips."""
    counts: Counter[str] = Counter()
    for post in plan.posts:
        if post.slot in slots:
            for f in post.fittings:
                if f.item in FASTENERS:
                    counts[f.item] += f.count
    return ", ".join(_count(counts[item], word) for item, word in FASTENERS.items() if counts[item]) or "none"


FASTENERS = {
    "staple": "staple",
    "long_staple": "staple",
    "clip": "clip",
    "strand_clip": "strand clip",
    "tie": "tie",
    "plastic_tie": "plastic tie",
    "wire_tie": "wire tie",
}


def _on(plan: Plan, items: Sequence[str], slots: Sequence[str]) -> str:
    return str(sum(p.count(item) for p in plan.posts for item in items if p.slot in slots))


def _splice(plan: Plan) -> tuple[str, str]:
    """What one splice takes, and how it is made."""
    if not plan.section.layers:
        return "", ""
    counts = splice_counts(plan.section, plan.section.layers[0])
    ways = {r.item: r.way for r in plan.system.splice_fittings}
    words = ", ".join(f"{n:.0f} × {catalog()[i].title}" for i, n in counts.items() if not catalog()[i].unit)
    return words, next((ways[i] for i in counts), "")


EVERY_SLOT = ("terminal", "brace", "held", "firm", "light")
STAPLES = ("staple", "long_staple")


def _values(fence: Fence, plan: Plan) -> Values:
    """Everything a step may speak of."""
    counts = fitting_counts(plan)
    values = _ground_values(fence, plan, counts) | _post_values(plan) | _hung_values(plan) | _fastened_values(plan)
    values |= _foot_values(plan, counts) | _opening_values(plan)
    counts = counts | gate_counts(plan)
    for name, item in COUNTED.items():
        values[name] = f"{counts.get(item, 0):.0f}"
    rules = plan.system.rules
    deep = {name: (rules[f"{name}_m"].value, "gap") for name in ("trench_deep", "trench_wide") if f"{name}_m" in rules}
    return values | deep


def _ground_values(fence: Fence, plan: Plan, counts: dict[str, float]) -> Values:
    """Lengths, volumes and pulls of the line."""
    filled, section = filled_m3(plan), plan.section
    return {
        "swath": (fence.swath_m, "station"),
        "length": (plan.course.length_m, "station"),
        "bay": (fence.decisions.longest_bay_m, "station"),
        "run": (fence.decisions.longest_run_m or max(r.length_m for r in plan.runs), "station"),
        "pull": (section.pull_n, "force"),
        "strand_pull": (max((s.wire.pull_n for s in section.strands), default=0.0), "force"),
        "rock": (filled.get("crushed rock", 0.0), "volume"),
        "concrete": (filled.get("concrete", 0.0), "volume"),
        "cover": (counts.get("apron_cover", 0.0), "volume"),
        "sewing": (counts.get("sewing_wire", 0.0), "station"),
        "seam_wire": (counts.get("seam_wire", 0.0), "station"),
        "trench": (counts.get("trench", 0.0), "station"),
    }


def _post_values(plan: Plan) -> Values:
    """Posts that this line sets itself, and braces; a post that stands on another line is set there."""
    section = plan.section
    own = own_posts(plan)
    line_posts = [p for p in plan.posts if not p.fixed]
    terminals = [p for p in plan.posts if p.kind == "terminal"]
    alike = plan.system.firm_post == plan.system.line_post
    light = len(line_posts) if alike else sum(p.slot == "light" for p in plan.posts)
    thin = section.posts[plan.system.line_post].diameter_m
    fill = {"concrete": " in concrete", "soil_cement": " in dry soil-cement"}.get(section.school("setting"), "")
    return {
        "offset": ((section.posts["terminal"].diameter_m - thin) / 2, "gap"),
        "line_top": (line_posts[0].above_m if line_posts else 0.0, "cut"),
        "terminal_top": (terminals[0].above_m, "cut"),
        "terminals": str(sum(p.kind == "terminal" for p in own)),
        "posts": str(len(own)),
        "light": str(light),
        "light_posts": _count(light, "line post"),
        "line_posts": _line_posts(plan),
        "filled": fill,
        "braces": _count(len({tuple(sorted(b.end.stations_m[:2])) for b in plan.braces}), "brace"),
        "twists": "a ratchet in each brace wire"
        if section.school("twist") == "ratchet"
        else "each brace wire drawn up with a twist stick",
        "struts": str(len(plan.struts)),
        "strut_tie": "tied to its foot" if section.school("strut_tie") == "foot" else "tied to its middle",
    }


def _hung_values(plan: Plan) -> Values:
    """Sides, rolls, coils, splices and seams: rolls and coils that are used on this line, wherever they were opened."""
    section, runs, splices = plan.section, len(plan.runs), len(plan.rolls.splices)
    stocks = {p.stock for p in plan.rolls.pieces}
    used = len({s for s in stocks if s.startswith("new")} or stocks)
    hung = used + sum(m.rolls for m in plan.more if m.what.startswith("layer"))
    coiled = [s for s in section.strands if s.wire.coil_m]
    return {
        "sides": "the side" if runs == 1 else f"each of the {runs} sides",
        "each_run": "the run" if runs == 1 else f"each of the {runs} runs",
        "every_run": "the run" if runs == 1 else "every run",
        "wires": str(
            section.wires - len(section.strand_heights_m("guide"))
        ),  # the guide wire is turned round, not ended
        "strands": _count(len(coiled), "wire" if not section.barbs else "strand"),
        "rolls": _count(hung, "roll"),
        "coils": _count(sum(c.joins + 1 for c in plan.coils), "coil"),
        "splices": _count(splices, "splice"),
        "splice_with": _splice(plan)[0],
        "seams": _count(section.seams * runs + splices + plan.corner_seams, "seam"),
        "layers": " + ".join(x.fabric.label for x in section.layers),
        "gates": ", ".join(g.name for g in plan.gates),
        "rail_sticks": _count(sum(n for cut in plan.sticks for _, n in cut.bought), "length"),
        "rolls_lined": _count(sum(m.rolls for m in plan.more if m.what == "fine mesh low"), "roll"),
    }


def _fastened_values(plan: Plan) -> Values:
    """Staples, clips and ties by the posts they are on."""
    return {
        "held": _held(plan),
        "staples_ends": _on(plan, STAPLES, ("terminal",)),
        "staples_held": _on(plan, STAPLES, ("brace", "held")),
        "staples_all": _on(plan, STAPLES, EVERY_SLOT),
        "line_fasteners": _fasteners(plan, ("firm", "light")),
        "all_fasteners": _fasteners(plan, EVERY_SLOT),
        "post_ties": _fasteners(plan, EVERY_SLOT),
    }


def _foot_values(plan: Plan, counts: dict[str, float]) -> Values:
    """Pegs and rings; what an apron and a lining take is told at their own steps."""
    extras = plan.section.extras
    apron_pegs, apron_rings, lining_rings = (
        sum(extra_counts(e, m).get(item, 0) for m in plan.slope_m for e in extras if getattr(e, what))
        for item, what in (("peg", "apron"), ("net_ring", "apron"), ("net_ring", "lining"))
    )
    return {
        "pegs": f"{counts.get('peg', 0) - apron_pegs:.0f}",
        "apron_pegs": str(apron_pegs),
        "rings": f"{counts.get('hog_ring', 0) + counts.get('net_ring', 0) - apron_rings - lining_rings:.0f}",
        "apron_rings": str(apron_rings),
        "lining_rings": str(lining_rings),
    }


def _opening_values(plan: Plan) -> Values:
    """Gates by what is done with them, and crossings."""
    leafed = [g for g in plan.gates if g.kind.leaves]
    clears = {f"clear_{g.id}": (g.clear_m, "cut") for g in leafed}
    return {
        "stacked_gates": ", ".join(g.name for g in plan.gates if g.kind.stacked > 1),
        "leaf_gates": ", ".join(g.name for g in leafed),
        "waters": " and ".join(dict.fromkeys(c.name for c in plan.crossings))
        + (f" at {len(plan.crossings)} places" if len(plan.crossings) > 1 else ""),
        "ropes": ", ".join(dict.fromkeys(c.built.cable.title for c in plan.crossings)),
        "clips": str(sum(2 * c.built.cable.clips for c in plan.crossings)),
        "ties": str(sum(c.built.ties for c in plan.crossings)),
        **clears,
    }


COUNTED = {
    "tie_offs": "tie_off",
    "end_clips": "tie_off_clip",
    "battens": "batten",
    "batten_clips": "batten_clip",
    "tensioners": "tensioner",
    "ties": "tie",
    "screws": "board_screw",
    "guide_clips": "guide_clip",
    "guide_wraps": "guide_wrap",
    "brackets": "lip_bracket",
    "sleeves": "wire_sleeve",
    "tie_wires": "tie_wire",
    "tension_bands": "tension_band",
    "brace_bands": "brace_band",
    "gate_screws": "gate_screw",
    "ribbons": "ribbon",
}


def _steep(plan: Plan) -> bool:
    limit = plan.system.rule("steep_run_grade")
    return any(abs(b.ground.grade) > limit for b in plan.bays)


def _has(plan: Plan, when: str) -> bool:
    """Whether the job has what a step is for."""
    counts = fitting_counts(plan)
    guide = bool(plan.section.strand_heights_m("guide"))
    holds = {
        "": True,
        "splices": bool(plan.rolls.splices),
        "gates": bool(plan.gates),
        "stacked": any(g.kind.stacked > 1 for g in plan.gates),
        "leaves": any(g.kind.leaves for g in plan.gates),
        "crossed": bool(plan.crossings),
        "between": any(not p.fixed and p.slot in ("firm", "light") for p in plan.posts),
        "guide": guide,
        "no_guide": not guide,
        "rolled": bool(plan.section.layers),
        "machines": not _steep(plan),
        "battens": counts.get("batten", 0) > 0,
        "ribbons": counts.get("ribbon", 0) > 0,
        "sewn": counts.get("sewing_wire", 0) + counts.get("seam_wire", 0) > 0,
        "bare_foot": not plan.section.extras,
    }
    return holds[when]


def _hazards(plan: Plan, which: str) -> list[Say]:
    """Posts of the ends, of the line or all that stand in a stretch of scrap or old wire."""
    found = []
    for thing in plan.things:
        inside = [
            p.name
            for p in plan.posts
            if which in ("all", "ends" if p.fixed else "line")
            and any(a - AT_M <= p.station_m <= b + AT_M for a, b in thing.stretches)
        ]
        if thing.kind.group == "hazard" and inside and thing.found.kind in ("scrap", "wire"):
            words = f"Post{'' if len(inside) == 1 else 's'} {ranges(inside)}: {{what}}, probe and clear it first."
            found.append(Say(words, {"what": called(thing.found)}))
    return found


BORERS = ("auger", "posthole", "pilot auger")
AT_M = 0.5  # a post so near a thing stands in it


def _caution(plan: Plan, step: Step) -> Say:
    """What a step is to be done with care for."""
    parts = [Say(step.caution)] if step.caution else []
    if step.steep and _steep(plan):
        parts.append(Say(step.steep))
    if step.bores and any(tool.startswith(BORERS) for tool in plan.system.tools):
        parts.append(Say(common_caution("auger")))
    if step.sets:
        if plan.section.school("setting") == "concrete":
            parts.append(Say(common_caution("cement")))
        parts += _hazards(plan, step.sets)
    return together("", parts, "", " ")


def steps_of(fence: Fence, plan: Plan) -> list[StepDone]:
    """The system's steps for this line, those of its extras before the last."""
    values, section = _values(fence, plan), plan.section
    done = [s for s in plan.system.steps if chosen(section, s.school) and _has(plan, s.when)]
    extra = [Step(text=e.step) for e in section.extras if e.step]
    last = len(done) - (1 if len(done) > 1 else 0)
    done = _with_openings(plan, [*done[:last], *extra], done[last:])
    how = _splice(plan)[1]
    kinds = [s.task for s in done]
    keys = [kind if kinds.count(kind) == 1 else f"{kind}_{kinds[: k + 1].count(kind)}" for k, kind in enumerate(kinds)]
    found = []
    for k, (key, step) in enumerate(zip(keys, done, strict=True)):
        task = tasks()[step.task]
        first = [
            other for other, kind in zip(keys[:k], kinds[:k], strict=True) if kind in task.after or kind == step.task
        ]
        usual = _minutes(plan, task, kinds)
        found.append(
            StepDone(
                key,
                task,
                _quantity(plan, task.per),
                (usual * task.least, usual, usual * task.most),
                task.crew,
                task.tools or plan.system.tools,
                tuple(first),
                *settling(plan, task),
                Say(_terminals_said(step.text, plan).replace("{splice_how}", how), values),
                _caution(plan, step),
            )
        )
    return found


def _with_openings(plan: Plan, done: list[Step], last: list[Step]) -> list[Step]:
    """The steps with those of gates and crossings: leaves are joined and measured before any end is set, water is crossed near the end."""
    wanted = [s for s in opening_steps() if _has(plan, s.when)]
    first = next((k for k, s in enumerate(done) if s.task in ("ends", "posts")), 0)
    early, late = [s for s in wanted if s.task != "crossings"], [s for s in wanted if s.task == "crossings"]
    clears = ", ".join(f"{g.name} {{clear_{g.id}}}" for g in plan.gates if g.kind.leaves)
    lead = "Have buried services marked. Meanwhile: " if first == 0 else ""  # that is said before anything else is
    early = [s.model_copy(update={"text": s.text.replace("{clears}", clears)}) for s in early]
    early[:1] = [s.model_copy(update={"text": lead + s.text}) for s in early[:1]]
    return [*done[:first], *early, *done[first:], *late, *last]


TERMINALS = re.compile(r"(?:the )?\{terminals\} (terminal post|strainer|end and corner post|corner post)s")


def _terminals_said(text: str, plan: Plan) -> str:
    """A step's text where a line brings one terminal itself, or none: the others stand on other lines."""
    own = sum(p.kind == "terminal" for p in own_posts(plan))
    if own > 1:
        return text
    return TERMINALS.sub(r"the one \1" if own else r"no \1s (they stand already)", text)


def _quantity(plan: Plan, per: Per) -> float:
    """How often a step is done on this line."""
    rolls = plan.rolls
    counts: dict[Per, float] = {
        "m": sum(r.length_m for r in plan.runs),
        "post": sum(not p.fixed for p in plan.posts),
        "run": len(plan.runs),
        "run_end": 2 * len(plan.runs),
        "roll": len({p.stock for p in rolls.pieces}) + sum(m.rolls for m in plan.more),
        "splice": len(rolls.splices) + sum(m.splices for m in plan.more),
        "strand_m": sum(c.total_m for c in plan.coils),
        "gate": len(plan.gates),
        "crossing": len(plan.crossings),
    }
    return float(counts[per])


def _minutes(plan: Plan, task: Task, kinds: Sequence[str]) -> float:
    """One person's minutes for a step on easy ground; steps of one kind and the hanging steps share what their kind takes."""
    work = work_of(plan)
    own = kinds.count(next(k for k, t in tasks().items() if t is task))
    match task.of:
        case "ends":
            return work.ends / own
        case "line":
            return work.line / own
        case "posts":
            return (work.ends + work.line) / own
        case "extras":
            return work.extras / own
        case "hanging":
            shares = sum(tasks()[k].share for k in kinds if tasks()[k].of == "hanging")
            return work.hanging * task.share / shares
        case _:
            return task.minutes * _quantity(plan, task.per) / own
