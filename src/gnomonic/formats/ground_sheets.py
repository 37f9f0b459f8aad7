"""Rows of the sheets for the ground: lows and humps, holes, dips."""

from gnomonic.core.job.fence import Fence
from gnomonic.core.plan.identity import tag_name
from gnomonic.core.plan.lows import filled, filler_kinds, patches
from gnomonic.core.plan.model import Plan
from gnomonic.core.say import Say
from gnomonic.core.tell.dips import dips
from gnomonic.core.tell.holes import holes
from gnomonic.core.units import System, format_quantity

Rows = list[dict[str, str]]


def low_rows(fence: Fence, plan: Plan, system: System) -> Rows:
    """Every low and hump with what is done about it."""
    rows = []
    for p in patches(plan):
        f = filled(fence, p, fence.decisions.shave_m)
        volume = f.volume_m3 if p.low else p.area_m2 * fence.decisions.shave_m
        pieces = f"{f.pieces} of " if f.pieces else f"{f.strands} strands, " if f.strands else ""
        much = (
            format_quantity(f.length_m, "station", system) if f.length_m else format_quantity(volume, "volume", system)
        )
        rows.append(
            {
                "what": "low" if p.low else "hump",
                "from": format_quantity(p.from_m, "station", system),
                "to": format_quantity(p.to_m, "station", system),
                "worst at": format_quantity(p.at_m, "station", system),
                "gap there": format_quantity(p.gap_m, "gap", system),
                "beyond": format_quantity(p.beyond_m, "gap", system),
                "how": "shave" if not p.low else Say(filler_kinds()[f.what].title).text(system) if f.what else "soil",
                "how much": pieces + much,
            }
        )
    return rows


def hole_rows(fence: Fence, plan: Plan, system: System) -> Rows:
    """Every hole with its size and what goes in."""
    return [
        {
            "post": tag_name(fence, h.post.name),
            "station": format_quantity(h.post.station_m, "station", system),
            "kind": h.post.rule.title,
            "deep": format_quantity(h.post.depth_m, "depth", system),
            "long": format_quantity(h.post.length_m, "depth", system),
            "auger": format_quantity(h.auger_m, "gap", system) if h.auger_m else "driven",
            "pilot": format_quantity(h.pilot_m, "gap", system) if h.pilot_m else "",
            "soil": h.soil + (", wet" if h.wet else ""),
            "filled with": (h.fill or ("tamped soil" if h.auger_m else ""))
            + (f", {h.takes.lifts} lifts" if h.takes and h.takes.lifts > 1 else ""),
            "goes in": format_quantity(h.takes.round_m3, "volume", system) if h.takes else "",
            "mind": "DIG BY HAND" if h.by_hand else "less deep than the frost" if h.over_frost else "",
            "reached": "",
        }
        for h in holes(fence, plan)
    ]


def dip_rows(fence: Fence, plan: Plan, system: System) -> Rows:
    """Every post the fabric hangs over, and what it takes to draw it down."""
    return [
        {
            "post": tag_name(fence, d.post.name),
            "station": format_quantity(d.post.station_m, "station", system),
            "hangs over it": format_quantity(d.hangs_m, "depth", system),
            "press at first": format_quantity(d.pressed.force_at_start_n, "force", system),
            "press at the end": format_quantity(d.pressed.force_n, "force", system),
            "lifts it cold": format_quantity(d.held.lift_n, "force", system),
            "held down by": format_quantity(d.held.grip_n, "force", system),
            "tie first": ", ".join(tag_name(fence, n) for n in d.ties),
        }
        for d in dips(plan)
    ]
