"""A typical run of a barrier, planned and counted like any line, and what of it goes with its length, its ends and its braces."""

from dataclasses import dataclass
from functools import lru_cache
from typing import Any, NamedTuple

from gnomonic.core.demand.section import Section, section
from gnomonic.core.edits.all import apply, read_edit
from gnomonic.core.fabric.fabrics import Fabric
from gnomonic.core.haul.counts import filled_round
from gnomonic.core.haul.takeoff import Need, take_off
from gnomonic.core.haul.work import work_of
from gnomonic.core.job.fence import fence_of, one_line
from gnomonic.core.job.parts import MeasuredLine, Point, Source
from gnomonic.core.plan.model import Plan, Post
from gnomonic.core.plan.road import plan

BAYS = 20
HANGS, STRANDS, BETWEEN, LINE_POSTS = "what hangs", "strands, rails and boards", "between posts", "line posts"
PART_OF = {"strand": STRANDS, "strand_joint": STRANDS, "stick": STRANDS}
OF_BRACES = {"brace_rail", "brace_pin", "brace_wire", "brace_staple", "twist", "strut", "strut_wire"}


class Hung(NamedTuple):
    """What is hung, as an edit says it; ``own`` is a fabric of the workspace's own, as JSON."""

    system: str
    label: str
    extras: tuple[str, ...] = ()
    strands_m: tuple[float, ...] = ()
    own: str = ""

    @property
    def section(self) -> Section:
        """Its section, made once."""
        return _section(self)


@lru_cache(maxsize=2048)
def _section(hung: Hung) -> Section:
    own = Fabric.model_validate_json(hung.own) if hung.own else None
    return section(hung.system, hung.label, hung.extras, {}, hung.strands_m, own)


@dataclass(frozen=True, slots=True)
class Typical:
    """Price indices by what they go with: ``along`` a metre of line by part, a terminal ``post``, what a run brings to it

    (``run_end``), a braced end (``brace``); and minutes: ``work_along`` a metre by part, ``work_end`` a braced end.
    """

    along: dict[str, float]
    post: float
    run_end: float
    brace: float
    work_along: dict[str, float]
    work_end: float


@lru_cache(maxsize=1024)
def typical(hung: Hung, steep: bool) -> Typical:
    """A straight run of about twenty of the barrier's longest bays, on a slope that shortens them where it is ``steep``."""
    made, needs, length = planned(hung, steep)
    along = dict.fromkeys((HANGS, STRANDS, BETWEEN, LINE_POSTS), 0.0)
    end = run_end = brace = 0.0
    for need in needs:
        worth = need.each * (need.metres or need.count)
        if need.on_rolls or need.use in PART_OF:
            along[PART_OF.get(need.use, HANGS)] += worth
        elif need.use in OF_BRACES:
            brace += worth
        else:
            on = _on_posts(need, made)
            end, run_end, brace = end + on["end"], run_end + on["run_end"], brace + on["brace"]
            along[LINE_POSTS] += on["line"]
            along[BETWEEN] += worth - sum(on.values())
    work = work_of(made)
    return Typical(
        {name: value / length for name, value in along.items()},
        end / 2,
        run_end / 2,
        brace / 2,
        {LINE_POSTS: work.line / length, "hanging": work.hanging / length, "extras": work.extras / length},
        work.ends / 2,
    )


def planned(hung: Hung, steep: bool) -> tuple[Plan, list[Need], float]:
    """The typical run's plan, what it needs, and its length in plan."""
    system, starts = hung.section.system, hung.section.system.starts()
    worst = min(system.steep_bays, key=lambda s: s.share) if steep and system.steep_bays else None
    bay = starts["longest_bay_m"] * (worst.share if worst else 1.0)
    every = int(starts["wood_every"]) if system.firm_post != system.line_post else 1
    braced = 2 * starts["brace_spacing_m"] if system.brace == "h" else 0.0
    most = (starts["longest_run_m"] or 1e6) - braced
    bays = every * max(1, min(round(BAYS / every), int(most / (bay * every))))
    length = braced + bays * bay
    rise = length * (worst.grade + 0.02) if worst else 0.0
    ends = (Point(e_m=0.0, n_m=0.0, h_m=0.0), Point(e_m=length, n_m=0.0, h_m=rise))
    job = one_line("typical", MeasuredLine(points=ends, source=Source(kind="legs", points_read=2)))
    edit: dict[str, Any] = {
        "do": "hang_barrier",
        "system": hung.system,
        "label": hung.label,
        "extras": list(hung.extras),
    }
    if hung.strands_m:
        edit["strands_m"] = list(hung.strands_m)
    if hung.own:
        edit["own"] = Fabric.model_validate_json(hung.own).model_dump(mode="json")
    job = apply(job, read_edit(edit))
    made = plan(job).lines["A"]
    return made, take_off(fence_of(job), made), length


def _kind(post: Post) -> str:
    return {"terminal": "end", "brace": "brace"}.get(post.kind, "line")


def _on_posts(need: Need, made: Plan) -> dict[str, float]:
    """What a need's worth is on terminal posts, on their runs' ends, on brace posts, on line posts."""
    found = {"end": 0.0, "run_end": 0.0, "brace": 0.0, "line": 0.0}
    wanted = set(need.posts)
    for post in made.posts:
        if post.name not in wanted:
            continue
        kind = _kind(post)
        if need.use == "post":
            found[kind] += need.each
        elif need.use == "fill":
            found[kind] += need.each * filled_round(made, post)[1]
        elif need.use == "fitting":
            for fitting in post.fittings:
                if fitting.item == need.of:
                    found["run_end" if fitting.per_end and kind == "end" else kind] += need.each * fitting.count
    return found
