"""What hangs, for the drawings: posts, layers with their mesh, strands."""

from typing import Any

from gnomonic.core.demand.section import Section
from gnomonic.core.fabric.fabrics import Fabric
from gnomonic.core.plan.posts import sized
from gnomonic.web.draw.words import mm, said


def section_json(hung: Section, clearance_m: float) -> dict[str, Any]:
    """What hangs, for the drawings: line wires, layers with their mesh, strands, posts.

    Heights above the bottom edge, which hangs ``clearance_m`` above the ground.
    """
    posts = {}
    for kind in ("terminal", hung.system.line_post):
        rule = hung.posts[kind]
        depth, length, _ = sized(rule, clearance_m + hung.top_m, 0.0)
        posts["terminal" if kind == "terminal" else "line"] = {
            "title": rule.title,
            "material": rule.material,
            "above": mm(length - depth),
            "depth": mm(depth),
            "wide": mm(rule.diameter_m),
            "hole": mm(rule.hole_m),
        }
    return {
        "system": hung.system.key,
        "title": hung.system.title,
        "word": hung.system.word,
        "label": hung.named,
        "extras": [said(e.title) for e in hung.extras],
        "clear": mm(clearance_m),
        "wires": [mm(h) for h in hung.fabric_wires_m],
        "top": mm(hung.top_m),
        "stay": mm(hung.fabric.stay_m) if hung.fabric else 0,
        "layers": [
            fabric_json(x.fabric) | {"bottom": mm(x.bottom_m), "top": mm(x.top_m), "lip": mm(x.lip_m)}
            for x in hung.layers
        ],
        "strands": [{"key": s.key, "word": s.wire.word, "at": mm(s.at_m)} for s in hung.strands],
        "aprons": [{"label": a.label, "out": mm(a.height_m)} for a in hung.aprons],
        "posts": posts,
    }


def fabric_json(fabric: Fabric) -> dict[str, Any]:
    """A fabric for the drawings."""
    return {
        "label": fabric.label,
        "kind": fabric.kind,
        "mesh": [round(m, 5) for m in fabric.mesh_m],
        "stay": mm(fabric.stay_m),
        "wires": [mm(h) for h in fabric.wire_heights_m],
        "knot": fabric.knot,
        "high": mm(fabric.height_m),
    }
