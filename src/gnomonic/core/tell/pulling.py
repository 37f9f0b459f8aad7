"""What is said of a pull wherever it is spoken of: from where, what it keeps, the dummy brace it is drawn from."""

from gnomonic.core.plan.model import Plan
from gnomonic.core.plan.stretch import Option, RunPull
from gnomonic.core.pull.dummy import Dummy, dummy
from gnomonic.core.pull.ways import Part, both_ways, one_way
from gnomonic.core.say import Say, Values


def ended(part: Part, run: RunPull, values: Values, key: str) -> str:
    """From where a part is pulled: a template, its stations put into ``values``."""
    low, high = run.station(part.from_m), run.station(part.to_m)
    if part.way == "both" and part.splice_m is not None:
        values[f"{key}s"] = (run.station(part.splice_m), "station")
        return f"both ways to a splice at {{{key}s}}"
    values[f"{key}p"] = (low if part.way == "start" else high, "station")
    return f"from its {'start' if part.way == 'start' else 'end'} at {{{key}p}}"


def way_words(run: RunPull, option: Option) -> Say:
    """A way to pull a run."""
    values: Values = {}
    parts = option.way.parts
    if len(parts) == 1:
        return Say(ended(parts[0], run, values, "w"), values)
    spliced = [p.splice_m is not None for p in parts]
    how = "both ways to a splice in it" if all(spliced) else "its best way" if any(spliced) else "from its better end"
    ends = []
    for k, at in enumerate(option.way.ends_m):
        values[f"e{k}"] = (run.station(at), "station")
        ends.append(f"{{e{k}}}")
    return Say(f"ended on a braced post at {' and '.join(ends)}, each part {how}", values)


def verdict(run: RunPull) -> Say:
    """What a run keeps, in a few words."""
    if run.drawn.aim.pull_n <= 0:
        return Say("drawn by hand, no more than takes the folds out")
    values: Values = {"keeps": (run.option.keeps, "share"), "pull": (run.drawn.aim.pull_n, "force")}
    each = " a strand" if not run.drawn.fabric else ""
    if not run.carries:
        return Say(f"the pullers don't carry {{pull}}{each}", values)
    return Say(f"{{pull}}{each}; {'' if run.option.enough else 'only '}{{keeps}} of it stays where it is least", values)


def ok(run: RunPull) -> bool:
    """Whether a run can be pulled so, and keeps enough everywhere."""
    if run.drawn.aim.pull_n <= 0:
        return True
    return run.carries and run.option.enough and not run.drawn.aim.slack


def dummy_of(plan: Plan, run: RunPull, at_start: bool) -> Dummy | None:
    """The dummy brace one end of a run is pulled from; none where nothing is pulled hard."""
    if not run.drawn.fabric or run.drawn.aim.pull_n <= 0:
        return None
    end = run.posts[0 if at_start else -1]
    at = run.from_m if at_start else run.to_m
    held = next((b for b in plan.braces if abs(b.end.stations_m[0] - at) < 1e-3), None)
    rail = held.rail_height_m if held else 0.0
    foot = plan.limits.clearance_m + run.drawn.foot_m
    wide = plan.posts[end].rule.diameter_m
    return dummy(
        run.drawn.aim.pull_n,
        foot + run.drawn.at_m,
        rail,
        foot + run.drawn.high_m,
        (wide, plan.section.posts["brace"].diameter_m if "brace" in plan.section.posts else wide),
    )


def ends_pulled(run: RunPull) -> tuple[bool, ...]:
    """Ends of the run a bar is drawn from beyond its terminal: true its start, false its end; none for a splice in the middle."""
    found = []
    for p in run.option.way.parts:
        if p.way == "start" and p.from_m <= 0:
            found.append(True)
        if p.way == "end" and p.to_m >= run.path.length_m - 1e-6:
            found.append(False)
    return tuple(found)


def left_at_end(run: RunPull, tie_m: float) -> tuple[float, float]:
    """Share of the pull left at the end that is let go with so much lost there, and how far in anything slides."""
    part, g, d = run.option.way.parts[0], run.gives, run.drawn
    path = run.path.part(part.from_m, part.to_m)
    if part.splice_m is not None:
        again = both_ways(path, d.bar, d.aim.pull_n, part.splice_m - part.from_m, tie_m)
    else:
        start = part.way == "start"
        again = one_way(path, d.bar, d.aim.pull_n, start, tie_m + (g.start_m if start else g.end_m))
    return again.end_n / d.aim.pull_n, again.affected_m
