"""Fasteners counted post by post.  Source: the rules in ``data/woven.toml`` (common practice)."""

from dataclasses import dataclass

from gnomonic.core.demand.system import Fabric, PostKind, WovenSystem


@dataclass(frozen=True, slots=True)
class Fasteners:
    """What fastens the fabric to one post."""

    staples: int = 0
    clips: int = 0
    tie_offs: int = 0


def fasteners(system: WovenSystem, fabric: Fabric, kind: PostKind, role: str, run_ends: int) -> Fasteners:
    """Fasteners of one post; ``run_ends`` is how many runs are tied off to it.

    Terminals: every line wire of every run tied off and stapled.  Brace posts, and wood at dips, humps and bends: every wire.  Wood line
    posts: the bottom two, the top two and every other wire between.  Driven steel: the rule's number of clips.
    """
    if kind == "terminal":
        return Fasteners(staples=fabric.wires * run_ends, tie_offs=fabric.wires * run_ends)
    if kind == "steel":
        return Fasteners(clips=int(system.rule("clips_per_steel")))
    if kind == "brace" or role != "line":
        return Fasteners(staples=fabric.wires)
    ends = int(system.rule("staples_bottom") + system.rule("staples_top"))
    between = max(0, fabric.wires - ends)
    return Fasteners(staples=min(ends, fabric.wires) + between // 2)
