"""The steps of the work in order, with the numbers of this job in them, and the caution where it bites."""

from dataclasses import dataclass

from gnomonic.core.haul.takeoff import filled_m3, fitting_counts
from gnomonic.core.job import Job
from gnomonic.core.planned import Plan
from gnomonic.core.say import Say

Values = dict[str, tuple[float, str] | str]


@dataclass(frozen=True, slots=True)
class StepDone:
    """One step, said of this job."""

    text: Say
    caution: str


def _count(number: float, one: str, many: str = "") -> str:
    return f"{number:.0f} {one if round(number) == 1 else many or one + 's'}"


def ranges(numbers: list[int]) -> str:
    """Numbers as a fencer says them: 4, 7–9 and 12.

    >>> ranges([4, 7, 8, 9, 12]), ranges([3])
    ('4, 7–9 and 12', '3')
    """
    groups: list[list[int]] = []
    for n in numbers:
        if groups and n == groups[-1][-1] + 1:
            groups[-1].append(n)
        else:
            groups.append([n])
    parts = [str(g[0]) if len(g) == 1 else f"{g[0]}–{g[-1]}" if len(g) > 2 else f"{g[0]} and {g[1]}" for g in groups]
    return parts[0] if len(parts) == 1 else ", ".join(parts[:-1]) + " and " + parts[-1] if parts else ""


def _held(plan: Plan) -> str:
    held = [p.index + 1 for p in plan.posts if p.slot == "held"]
    if not held:
        return "the posts at dips and humps, of which this line has none"
    return f"post{'' if len(held) == 1 else 's'} {ranges(held)} in dips, on humps and in bends"


def _values(job: Job, plan: Plan) -> Values:
    """Everything a step may speak of."""
    kinds = [p.slot for p in plan.posts]
    counts = fitting_counts(plan)
    rolls, layers = plan.rolls.rolls.new_rolls + sum(m.rolls for m in plan.more), plan.section.layers
    strand = max((s.wire.pull_n for s in plan.section.strands), default=0.0)
    line_posts = [p for p in plan.posts if not p.fixed]
    terminals = [p for p in plan.posts if p.kind == "terminal"]
    coils = sum(c.coils for c in plan.coils)
    thin = plan.section.posts[plan.system.line_post].diameter_m
    filled = filled_m3(plan)
    gates = ", ".join(g.name for g in plan.gates) or "the gates (none on this line)"
    sticks = sum(n for cut in plan.sticks for _, n in cut.bought)
    values: Values = {
        "swath": (job.swath_m, "station"),
        "length": (plan.course.length_m, "station"),
        "bay": (job.decisions.longest_bay_m, "station"),
        "run": (job.decisions.longest_run_m or max(r.length_m for r in plan.runs), "station"),
        "pull": (plan.section.pull_n, "force"),
        "strand_pull": (strand, "force"),
        "rock": (filled.get("crushed rock", 0.0), "volume"),
        "concrete": (filled.get("concrete", 0.0), "volume"),
        "sewing": (counts.get("sewing_wire", 0.0), "station"),
        "seam_wire": (counts.get("seam_wire", 0.0), "station"),
        "trench": (counts.get("trench", 0.0), "station"),
        "offset": ((plan.section.posts["terminal"].diameter_m - thin) / 2, "cut"),
        "line_top": (line_posts[0].above_m if line_posts else 0.0, "cut"),
        "terminal_top": (terminals[0].above_m, "cut"),
        "terminals": str(kinds.count("terminal")),
        "posts": str(len(plan.posts)),
        "firm": str(kinds.count("firm") + kinds.count("held")),
        "light": str(len(line_posts) if plan.system.firm_post == plan.system.line_post else kinds.count("light")),
        "braces": str(len(plan.braces)),
        "struts": str(len(plan.struts)),
        "runs": str(len(plan.runs)),
        "wires": str(plan.section.wires),
        "strands": str(len([s for s in plan.section.strands if s.wire.coil_m])),
        "rolls": _count(rolls, "roll"),
        "coils": _count(coils, "coil"),
        "splices": _count(len(plan.rolls.splices), "splice"),
        "layers": " + ".join(x.fabric.label for x in layers),
        "held": _held(plan),
        "gates": gates,
        "rail_sticks": _count(sticks, "length", "lengths"),
    }
    for name, item in (
        ("staples", "staple"),
        ("clips", "clip"),
        ("battens", "batten"),
        ("tensioners", "tensioner"),
        ("pegs", "peg"),
        ("ties", "tie"),
        ("screws", "board_screw"),
        ("guide_clips", "guide_clip"),
        ("brackets", "lip_bracket"),
        ("sleeves", "wire_sleeve"),
        ("tie_wires", "tie_wire"),
    ):
        values[name] = f"{counts.get(item, 0):.0f}"
    rules = plan.system.rules
    values |= {
        name: (rules[f"{name}_m"].value, "cut") for name in ("trench_deep", "trench_wide") if f"{name}_m" in rules
    }
    values["staples"] = f"{counts.get('staple', 0) + counts.get('long_staple', 0):.0f}"
    values["clips"] = f"{counts.get('clip', 0) + counts.get('strand_clip', 0):.0f}"
    values["rings"] = f"{counts.get('hog_ring', 0) + counts.get('net_ring', 0):.0f}"
    return values


def steps_of(job: Job, plan: Plan) -> list[StepDone]:
    """The system's steps for this job."""
    values = _values(job, plan)
    return [StepDone(Say(s.text, values), s.caution) for s in plan.system.steps]
