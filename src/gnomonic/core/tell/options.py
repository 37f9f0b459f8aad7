"""Other ways to build a line, as the edits that would make it so: what a quote puts side by side."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from gnomonic.core.demand.system import School
from gnomonic.core.fabric.fabrics import fabrics
from gnomonic.core.haul.rules import haul_rule
from gnomonic.core.job.fence import Fence
from gnomonic.core.plan.model import Plan
from gnomonic.core.say import Say

SEASON_NET = "season net 48"
STEP_M = 0.0762  # bays are asked for in quarters of a foot


@dataclass(frozen=True, slots=True)
class Way:
    """Another way: what it is called, the edits that make it, what speaks for and against it; ``second_hand`` posts may be used for it."""

    title: Say
    edits: tuple[dict[str, Any], ...]
    but: Say
    second_hand: bool = False


def ways(fence: Fence, plan: Plan, barriers: Sequence[tuple[str, dict[str, Any]]]) -> list[Way]:
    """Wider bays, other fill round the posts, second-hand posts closer together, and other barriers (their names and edits)."""
    found = [*_bays(fence), *_fills(fence, plan), *_season(fence, plan)]
    for name, edit in barriers:
        said = Say("another barrier: {name}", {"name": name})
        found.append(Way(said, (edit,), Say("it meets the same demands; bays, braces and gates are its own")))
    return found


def _bays(fence: Fence) -> list[Way]:
    now, line = fence.decisions.longest_bay_m, fence.id
    wide, close = (round(now * haul_rule(f"{k}_bays_share") / STEP_M) * STEP_M for k in ("wider", "closer"))
    edits = [({"do": "decide", "key": "longest_bay_m", "value": round(m, 4), "line": line},) for m in (wide, close)]
    return [
        Way(Say("bays up to {wide}", {"wide": (wide, "station")}), edits[0], Say("fewer posts; fabric gives more between them")),
        Way(
            Say("second-hand posts, bays up to {close}", {"close": (close, "station")}),
            edits[1],
            Say("old sound posts stand closer, so that each carries less; what lies there is used first"),
            second_hand=True,
        ),
    ]  # fmt: skip


def _season(fence: Fence, plan: Plan) -> list[Way]:
    """A plastic net that is bought again every season, in place of netting that lasts."""
    fabric = plan.fabric
    if fabric is None or fabric.plastic or fabric.kind not in ("hex", "cloth", "netting"):
        return []
    edit = {"do": "hang_barrier", "system": "garden", "label": SEASON_NET, "line": fence.id}
    return [Way(Say("a plastic net each season"), (edit,), Say(fabrics()[SEASON_NET].reason))]


def _fills(fence: Fence, plan: Plan) -> list[Way]:
    school: School | None = next((s for s in plan.section.system.schools if s.key == "setting"), None)
    if school is None:
        return []
    taken = plan.section.school("setting")
    return [
        Way(Say("posts in holes set in " + way.title), ({"do": "choose_way", "school": "setting", "way": way.key, "line": fence.id},), Say(way.reason))
        for way in school.ways
        if way.key != taken
    ][:1]  # fmt: skip
