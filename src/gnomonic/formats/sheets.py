"""Sheets to take out: the stake-out and the take-off as rows and as CSV, the line and posts as GeoJSON and GPX."""

from collections.abc import Sequence
from typing import Any

import numpy as np

from gnomonic.core.demand.kinds import kind_of_post
from gnomonic.core.haul.counts import filled_round
from gnomonic.core.haul.takeoff import UNIT_KINDS, take_off
from gnomonic.core.job.fence import Fence
from gnomonic.core.plan.model import Plan, Post, hand_dug, taped_from
from gnomonic.core.tell.needs import named, where
from gnomonic.core.units import System, format_quantity
from gnomonic.formats.cells import write_rows
from gnomonic.formats.export import must_have_degrees
from gnomonic.formats.frame import to_world
from gnomonic.formats.geojson import write_geojson
from gnomonic.formats.gpx import write_gpx


def _turn(post: Post) -> str:
    """The turn to set at a corner."""
    return (
        f", turn {abs(post.turn_deg):.0f}° {'left' if post.turn_deg < 0 else 'right'}" if post.role == "corner" else ""
    )


def stake_out(plan: Plan, system: System, letter: str = "") -> list[dict[str, str]]:
    """Rows of the stake-out sheet: every post with its station, tape from its side's terminal, kind, depth and mark.

    ``letter`` of the line, where the job has several.
    """
    rows = []
    by_hand = hand_dug(plan)
    for post in plan.posts:
        run = taped_from(plan, post)
        rows.append(
            {
                "post": letter + post.name,
                "run": str(run.index + 1),
                "station": format_quantity(post.station_m, "station", system),
                "tape": format_quantity(post.station_m - run.start.station_m, "station", system),
                "kind": f"{post.role} " * (post.role not in ("line", "brace")) + post.kind,
                "depth": format_quantity(post.depth_m, "depth", system),
                "length": format_quantity(post.length_m, "depth", system),
                "mark": (f"stands already: {post.shared}" if post.shared else kind_of_post(post.kind).mark)
                + _turn(post)
                + (f", {fill}" if (fill := filled_round(plan, post)[0]) else "")
                + (", DIG BY HAND" if post.index in by_hand else ""),
            }
        )
    return rows


def brace_rows(plan: Plan, system: System, letter: str = "") -> list[dict[str, str]]:
    """Rows of the braces, each called by the post it stands at: where, cut lengths a panel, the forces they were sized for."""
    rows = []
    names = {round(p.station_m, 4): letter + p.name for p in plan.posts}
    if plan.course.closed:
        names[round(plan.course.length_m, 4)] = letter + plan.posts[0].name
    for brace in plan.braces:
        terminal, inner = brace.end.stations_m[0], brace.end.stations_m[-1]
        uplift, shear = brace.statics.end_post_uplift_n, brace.statics.foot_shear_n
        rows.append(
            {
                "post": names.get(round(terminal, 4), ""),
                "run": str(brace.end.run + 1),
                "terminal": format_quantity(terminal, "station", system),
                "brace post": format_quantity(inner, "station", system),
                "panels": str(brace.end.panels),
                "rail height": format_quantity(brace.rail_height_m, "cut", system),
                "rail between faces, about": ", ".join(format_quantity(m, "cut", system) for m in brace.rail_cut_m),
                "brace wire": ", ".join(format_quantity(m, "station", system) for m in brace.wire_m),
                "its wire runs": "this post's top to the brace post's foot"
                if brace.end.crossed
                else "brace post's top to this foot",
                "pull": format_quantity(brace.pull_n, "force", system),
                "uplift": format_quantity(uplift, "force", system) if uplift is not None else brace.statics.because,
                "at its foot": format_quantity(shear[0], "force", system) if shear else "",
                "rail lies": brace.lay,
            }
        )
    return rows


def take_off_rows(fence: Fence, plan: Plan, system: System) -> list[dict[str, str]]:
    """Rows of the take-off."""
    return [
        {
            "item": named(need).text(system),
            "count": format_quantity(need.count, UNIT_KINDS[need.unit], system),
            "where": where(need, plan).text(system),
        }
        for need in take_off(fence, plan)
    ]


def as_csv(rows: Sequence[dict[str, str]]) -> bytes:
    """Rows as CSV with a header; cells that a spreadsheet would run as a formula are made harmless."""
    return write_rows(list(rows[0]) if rows else ["empty"], rows)


def _places(fence: Fence, east: Sequence[float], north: Sequence[float], form: str) -> list[tuple[float, float]]:
    """Longitudes and latitudes.  Raises BadInput (``line``) for a line that has none."""
    must_have_degrees(fence, form)
    lon, lat = to_world(fence.frame, np.array(east), np.array(north))
    return [(round(a, 9), round(b, 9)) for a, b in zip(lon.tolist(), lat.tolist(), strict=True)]


def plan_geojson(fence: Fence, plan: Plan) -> bytes:
    """The measured line and every post, in longitude and latitude.  Raises BadInput for a line that has none."""
    line = plan.course
    course = _places(fence, line.east_m.tolist(), line.north_m.tolist(), "GeoJSON")
    posts = _places(fence, [p.east_m for p in plan.posts], [p.north_m for p in plan.posts], "GeoJSON")
    features: list[tuple[Sequence[float], dict[str, Any]]] = [
        (
            (*place, round(post.ground_m, 3)),
            {
                "post": post.name,
                "station_m": round(post.station_m, 3),
                "kind": post.kind,
                "role": post.role,
                "depth_m": round(post.depth_m, 3),
            },
        )
        for place, post in zip(posts, plan.posts, strict=True)
    ]
    heights = line.profile.heights_m.tolist()
    coordinates = [(*place, round(z, 3)) for place, z in zip(course, heights, strict=True)]
    return write_geojson(fence.name, coordinates, features)


def plan_gpx(fence: Fence, plan: Plan) -> bytes:
    """Posts as waypoints.  Raises BadInput for a line without longitude and latitude."""
    places = _places(fence, [p.east_m for p in plan.posts], [p.north_m for p in plan.posts], "GPX")
    return write_gpx(
        fence.name,
        [
            (lon, lat, post.ground_m, post.name, f"{post.kind} {post.role}, {post.station_m:.2f} m along")
            for (lon, lat), post in zip(places, plan.posts, strict=True)
        ],
    )
