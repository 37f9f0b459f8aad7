"""Short lines over every kind of ground, each with a barrier and with edits drawn by its number: states that no demo line is in."""

import contextlib
import dataclasses
import random
from collections.abc import Generator
from datetime import date, timedelta
from enum import Enum
from fractions import Fraction
from typing import get_args

import numpy as np
import shapely
from events import some_row
from ground import line
from places import plan
from pydantic import BaseModel
from suppliers import practice
from told import choices_told, edits_told, job_told, told
from told_days import days_told, folded, sites_told

from gnomonic.core.calc import KINDS, calc
from gnomonic.core.demand.animals import shipped
from gnomonic.core.demand.system import systems
from gnomonic.core.edits import all as all_edits
from gnomonic.core.errors import BadInput
from gnomonic.core.finish.gates import gate_kinds
from gnomonic.core.ground.found import found_kinds
from gnomonic.core.job.fence import fence_of
from gnomonic.core.log.events import Event, Kept
from gnomonic.core.plan import road
from gnomonic.core.say import Say

GROUNDS = {  # east, north, height
    "level": ((0, 0, 5), (48, 0, 5)),
    "15 %": ((0, 0, 5), (30, 0, 9.5), (62, 0, 14.3)),
    "50 % down": ((0, 0, 40), (25, 0, 27.5), (45, 0, 18)),
    "a dip": ((0, 0, 5), (14, 0, 4.6), (22, 0, 2.1), (31, 0, 4.8), (55, 0, 5)),
    "a hump": ((0, 0, 3), (16, 0, 3.4), (20, 0, 4.9), (25, 0, 3.5), (52, 0, 3)),
    "a right corner": ((0, 0, 5), (26, 0, 6), (26, 31, 5)),
    "a sharp corner uphill": ((0, 0, 5), (30, 0, 9), (8, 14, 13)),
    "a bend of 12°": ((0, 0, 2), (34, 0, 2.5), (66, 7, 4)),
    "ripples": tuple((x, 0.3 * (x % 7), 5 + 0.35 * (x % 3)) for x in range(0, 70, 5)),
    "a pen": ((0, 0, 5), (18, 0, 5.4), (18, 14, 6), (0, 14, 5.2)),
    "exactly a roll": ((0, 0, 1), (100.584, 0, 1)),
    "long and wavy": tuple((18.0 * k, 4.0 * (k % 2), 10 + (k * 37 % 11) / 5) for k in range(8)),
}
BRACES = ["h", "strut", "box", "welded", "deadman", "boards", "none", ""]
DECIDED = {
    "longest_bay_m": (2.0, 3.048, 4.8), "clearance_m": (0.0, 0.05, 0.1), "gap_max_m": (0.08, 0.15, 0.25), "gap_min_m": (-0.05, 0.0), "k_fill": (0.0, 40.0), "wood_every": (0, 1, 3),
    "corner_angle_deg": (8, 20, 60), "brace_spacing_m": (1.5, 2.4, 4.0), "brace_panels": (1, 2, 3), "roll_m": (20.0, 33.0, 50.0), "tie_off_m": (0.0, 0.9), "overlap_m": (0.1, 0.5),
    "splice_clear_m": (0.0, 0.9), "piece_min_m": (0.0, 12.0), "longest_run_m": (0.0, 15.0, 30.0), "batten_m": (0.0, 0.6, 1.0), "hold_factor": (1.0, 3.0), "shave_m": (0.3, 2.0), "wind_m_s": (0.0, 20.0, 40.0),
}  # fmt: skip
SOILS = ("unknown", "loose_sand", "sand", "gravel", "soft_clay", "loam", "clay", "stony", "peat")
SCHOOLS = {"bands": ("foot", "fewer"), "ties": ("nine", "standard", "plastic"), "line_posts": ("stout", "thin"), "ends": ("tie", "clip"), "strut_tie": ("mid", "foot")}  # fmt: skip
BOOKS = ("N 0 E 30 m +1 m\nE 30 m\nS 30.1 m\nW 29.9 m\nclose", "N 0 E 35 m +1 m\nE 20 ft -6 in\n", "N 12 E 30\nstop", "N 0 E 30 m @ gate\nN 90 E 12 m @ gate post")  # fmt: skip


def some_edit(rng, made, it):
    """An edit of any kind, at a place that is there."""
    length = made.course.length_m
    posts = [p.station_m for p in made.posts]
    at, post = round(rng.uniform(0, length), 2), rng.choice(posts)
    low, high = sorted((at, round(rng.uniform(0, length), 2)))
    flip = rng.random() < 0.5
    key = rng.choice(list(DECIDED))
    school = rng.choice(list(SCHOOLS))
    animals = rng.sample(sorted(shipped().animals), 2)
    mark = {"from_m": low, "to_m": min(high, low + 6)}
    gates = [{"do": "set_gate", "id": "g1", **rng.choice(({"lie": "land"}, {"open_deg": 170, "rise_left": 0.15}, {"side": "right", "hinge": "last"}, {"kind": rng.choice(list(gate_kinds()))}))},
             {"do": "move_gate", "id": "g1", "at_m": at}, {"do": "remove_gate", "id": "g1"}] if it.own.gates else []  # fmt: skip
    return rng.choice([
        {"do": "decide", "key": key, "value": rng.choice(DECIDED[key])},
        {"do": "decide", "key": "longest_run_m", "value": 12.0},
        {"do": "place_post", "at_m": at}, {"do": "move_post", "from_m": post, "to_m": post + 0.7}, {"do": "forbid", **mark, "reason": "ledge"},
        {"do": "say_soil", "soil": rng.choice(SOILS), "wet": flip}, {"do": "say_soil", "soil": rng.choice(SOILS), "wet": flip, "from_m": low, "to_m": low + 9},
        {"do": "say_ground", "frost_m": rng.choice((0.3, 0.9)), "method": rng.choice(("code", "ultimate"))},
        {"do": "brace_end", "kind": rng.choice(BRACES), "tie": rng.choice(("", "none", "foot", "mid")), "lay": rng.choice(("", "level", "ground")), "side": rng.choice(("", "left", "right"))},
        {"do": "brace_end", "at_m": rng.choice((0.0, length)), "ahead": flip, "kind": rng.choice(BRACES), "panels": rng.randrange(1, 4), "rail_share": 0.7, "spacing_m": 2.0},
        {"do": "ask_post", "at_m": post, "depth_m": rng.choice((0.3, 1.2)), "fill": rng.choice(("", "concrete", "gravel", "soil_cement")), "block": flip},
        {"do": "ask_post", "at_m": post, "kind": "wood"}, {"do": "end_run", "at_m": post}, {"do": "lay_rail", "rail": rng.choice(("straight", "first", "last", "trench", "raked"))},
        {"do": "choose_spacing", "spacing": rng.choice(("even", "rule"))}, {"do": "fill_low", "at_m": at, "what": rng.choice(("log", "stone", "skirt", "strand"))},
        {"do": "choose_way", "school": school, "way": rng.choice(SCHOOLS[school])},
        {"do": "say_hold", "hold": {"animals": [{"animal": a, "side": s} for a, s in zip(animals, ("left", "right"), strict=True)], "visible": flip, "years": rng.choice((0, 5, 30)), "never": ["barbs"] if flip else []}},
        {"do": "share_post", "at": rng.choice(("start", "end")), "of": "the yard fence"},
        {"do": "set_pull", "temp_c": rng.choice((-5.0, 8.0, 30.0)), "puller": rng.choice(("chain", "strap", "lever", "ropes")), "pullers": rng.choice((1, 2))},
        {"do": "pull_from", "at_m": at, "way": rng.choice(("start", "end"))}, {"do": "pull_from", "at_m": at, "way": "both", "splice_m": at},
        {"do": "say_rolls", "also_m": [25.0], "splice_worth_m": 8.0}, {"do": "say_rolls", "whole": [{"from_m": low, "to_m": high + 1}]},
        {"do": "set_climate", "climate": rng.choice(("oceanic", "continental", "subarctic", "arid", "tropical"))},
        {"do": "add_gate", "at_m": at, "leaf_m": rng.choice((0.9, 2.4, 3.6576)), "kind": rng.choice(["", *gate_kinds()]), "measured": flip, "side": rng.choice(("", "left")), "name": "gate"},
        {"do": "add_gate", "at_m": at, "use": "tractor", "name": "wide gate"}, {"do": "add_gate", "at_m": at, "opening_m": 3.2, "name": "old gate"}, *gates,
        {"do": "add_found", "kind": "water", "name": "brook", "from_m": low, "to_m": min(high, low + 3)},
        {"do": "add_found", "kind": rng.choice(list(found_kinds())), "name": "heap", "from_m": low, "to_m": min(high, low + 5), "count": rng.choice((1, 3)), "side": rng.choice(("", "left", "right"))},
        {"do": "add_found", "kind": rng.choice(list(found_kinds())), "shape": [[at, -3], [at + 1, 4]]},
        {"do": "say_crossing", "at_m": at, "how": rng.choice(("hung", "over")), "flap": rng.choice(("", "pipe", "timber", "heavy")), "cable": rng.choice(("", "c6", "c13")), "flood_m": rng.choice((0.4, 1.5))},
        {"do": "own_offcuts", "offcuts_m": [20.0, 7.5], "worn_m": [12.0]}, {"do": "hang_fact", "post": "3", "at_m": post, "text": "rock at 22 in"},
        {"do": "stand_line", "standing": "temporary"}, {"do": "swath", "swath_m": 3.0}, {"do": "write_book", "text": rng.choice(BOOKS)},
        {"do": "split_leg", "at_m": at}, {"do": "close_line", "closed": flip}, {"do": "join_points", "index": 1}, {"do": "remove_point", "index": 1},
        {"do": "add_point", "e_m": 75, "n_m": 9, "h_m": 7.0}, {"do": "split_line", "at_m": post, "name": "the rest"}, {"do": "copy_line", "name": "again", "beside_m": 4},
        {"do": "ask_marking", "ticket": "T7", "asked_on": "2026-05-20", "wait_until": rng.choice(("2026-05-23", "2026-06-20")), "reach_m": 5.0},
        {"do": "take_marks", "ticket": "T7", "state": "marked", "expires_on": rng.choice(("2026-06-20", "2026-05-30")), "marks": [{"name": "gas", "shape": [[at, -40], [at, 40]], "zone_m": 0.6}]},
    ])  # fmt: skip


def hung(number, ground):
    """A line on a ground with the barrier its number has: each of every system in turn, its extras too."""
    kinds = [(s, label) for s in systems().values() for label in s.labels()]
    system, label = kinds[(7 * number) % len(kinds)]
    extras = [x.key for x in system.extras][number % 3 : number % 3 + 1]
    return line(*GROUNDS[ground], edits=[{"do": "hang_barrier", "system": system.key, "label": label, "extras": extras}], closed=ground == "a pen")  # fmt: skip


def after(job, edit, memo):
    """The job after an edit, of its first line where it names none; as it was where that is refused."""
    with contextlib.suppress(BadInput):
        edited = all_edits.apply(job, all_edits.read_edit({"line": job.lines[0].id, **edit}))
        road.plan(edited, memo)
        return edited
    return job


def strewn(number, units, edits=9):
    """What is told of a line, of each edit of it, and of what it has become; the numbers of its plan last."""
    rng, memo = random.Random(number), road.PlanMemo()
    it = hung(number, list(GROUNDS)[number % len(GROUNDS)])
    yield "hung", [it.barrier, it.line.points]
    for _ in range(edits):
        edit = some_edit(rng, plan(it, memo), it)
        yield f"edit {edit['do']}", edits_told(it.job, [edit], units, memo)
        it = fence_of(after(it.job, edit, memo), it.id)
    made = plan(it, memo)
    yield from told(it, made, units)
    for field in dataclasses.fields(made):
        yield f"numbers of {field.name}", numbers(getattr(made, field.name))


def logs_strewn(number, units):
    """What 60 events of any kind come to, on some posts of a line as it was hung."""
    rng = random.Random(number)
    it = hung(number, list(GROUNDS)[number % len(GROUNDS)])
    made = plan(it)
    posts = [made.posts[0], made.posts[-1], *rng.sample(made.posts[1:-1], min(4, len(made.posts) - 2))]
    rows = [some_row(rng, n, 60, [(it.id, p.name, p.station_m) for p in posts]) for n in range(60)]
    kept = [Kept(Event.model_validate(row["event"]), timedelta(seconds=row["offset_s"])) for row in rows]
    yield from folded(it, kept, posts, units)


def jobs_strewn(number, units):
    """Two lines that meet at a post, each with the barrier its number has, edited as lines; what is told of each edit and of all together."""
    rng, memo = random.Random(number), road.PlanMemo()
    it = hung(number, list(GROUNDS)[number % len(GROUNDS)])
    made = plan(it, memo)
    at = rng.choice(made.posts[1:-1] or made.posts).station_m
    (e, n), h = made.course.place(at), float(made.course.profile.at(np.array([at]))[0])
    points = [{"e_m": e - x, "n_m": n - y, "h_m": h + z} for x, y, z in ((0, 0, 0), (3, 24, 1.5), (-9, 41, 0.5))]
    other = hung(number + 5, "level").barrier.model_dump(mode="json")
    given = {
        "name": "side",
        "measured": {"points": points, "source": {"kind": "legs", "points_read": 3}},
        "barrier": other,
    }
    job = it.job
    edits = [
        {"do": "add_line", "given": given},
        {"do": "join_line", "line": "B", "end": "start", "on": "A", "at_m": at},
    ]
    for _ in range(4):
        edits.append(line_edit(rng, at))
    for edit in edits:
        yield f"edit {edit['do']}", edits_told(job, [edit], units, memo)
        job = after(job, edit, memo)
    yield from job_told(job, road.plan(job, memo), practice, units)


def line_edit(rng, at):
    """An edit of whole lines, or of what only lines that meet have."""
    line, end = rng.choice("AB"), rng.choice(("start", "end"))
    return rng.choice([
        {"do": "split_line", "line": line, "at_m": rng.choice((at, 12.0)), "name": "the rest"}, {"do": "copy_line", "line": line, "name": "again", "beside_m": rng.choice((6.0, -4.0))},
        {"do": "part_line", "line": "B", "end": end}, {"do": "remove_line", "line": line, "lose": rng.random() < 0.7}, {"do": "stand_line", "line": line, "standing": rng.choice(("temporary", "there"))},
        {"do": "join_line", "line": "B", "end": end, "on": "A", "at_m": at, "bring": rng.random() < 0.5}, {"do": "join_line", "line": "B", "end": "end", "on": "A", "e_m": 1.0, "n_m": 0.5},
        {"do": "close_line", "line": line, "closed": True, "lose": True}, {"do": "move_point", "line": line, "index": 0, "e_m": -4.0, "n_m": 1.0, "h_m": 6.0},
        {"do": "ask_post", "line": "B", "at_m": 0.0, "depth_m": 1.4, "fill": "concrete"}, {"do": "say_soil", "line": "B", "soil": rng.choice(SOILS)},
        {"do": "add_found", "line": "A", "kind": "water", "name": "brook", "from_m": max(0.0, at - 8), "to_m": max(1.0, at - 5)}, {"do": "end_run", "line": "A", "at_m": at},
        {"do": "add_gate", "line": line, "at_m": at + 0.05, "leaf_m": 3.6, "measured": True, "name": "gate"}, {"do": "brace_end", "line": line, "kind": rng.choice(BRACES)},
    ])  # fmt: skip


def days_strewn(number):
    """What is told of the days of a line, of the barriers that were weighed for what it must hold, and of the sites of a gate in it."""
    it = hung(number, list(GROUNDS)[number % len(GROUNDS)])
    animals = random.Random(number).sample(sorted(shipped().animals), 2)
    hold = {"animals": [{"animal": a, "side": "left"} for a in animals], "years": 10}
    for edit in (
        {"do": "say_hold", "hold": hold},
        {"do": "add_gate", "at_m": 9.0, "leaf_m": 2.4, "measured": True, "name": "gate"},
    ):
        it = fence_of(after(it.job, edit, road.PlanMemo()), it.id)
    made = plan(it)
    yield from days_told(it, made)
    yield from sites_told(it, made)
    yield "choices", choices_told(it, made)


def numbers(it, digits=5):
    """Every number and word of a plan, or of what a function comes to, however deep."""
    match it:
        case None | bool() | int() | str() | date() | Fraction() | Enum():
            yield str(it)
        case float():
            yield f"{it:.{digits}g}" if abs(it) > 1e-9 else "0"
        case Say():
            yield it.text("us")
        case dict():
            for key, value in it.items():
                yield str(key)
                yield from numbers(value, digits)
        case set() | frozenset():
            yield from sorted("\n".join(numbers(value, digits)) for value in it)
        case tuple() | list() | map() | filter() | zip() | Generator():
            for value in it:
                yield from numbers(value, digits)
        case shapely.Geometry():
            yield from numbers(shapely.get_coordinates(it), digits)
        case np.ndarray() | np.generic():
            yield from numbers(it.tolist(), digits)
        case BaseModel():
            yield from numbers({name: getattr(it, name) for name in type(it).model_fields}, digits)
        case _ if dataclasses.is_dataclass(it) and not isinstance(it, type):
            for field in dataclasses.fields(it):
                yield from numbers(getattr(it, field.name), digits)
        case _ if hasattr(it, "__dict__") and not callable(it):
            yield from numbers(dict(sorted(vars(it).items())), digits)
        case _:
            yield type(it).__name__


def varied(given, said):
    """A sum's givens, one thing changed: left out, there twice, of another size or sign, or another word ``said`` at its place."""
    match given:
        case dict():
            for key, value in given.items():
                yield {k: v for k, v in given.items() if k != key}
                yield from ({**given, key: other} for other in varied(value, said.get(key, {})))
                yield from ({**given, key: word} for word in said.get(key, {}).get("", ()) if word != value)
        case list():
            yield from ([*given, *given[-1:]], given[:-1])
            for k, value in enumerate(given[:6]):
                yield from ([*given[:k], other, *given[k + 1 :]] for other in varied(value, said))
        case bool():
            yield not given
        case int() | float():
            yield from (given / 2, given * 1.7, -given, 0)


def said_at(givens):
    """The words at each place of some sums' givens."""
    found = {}
    for given in givens:
        for key, value in given.items() if isinstance(given, dict) else ():
            below = value if isinstance(value, list) else [value]
            here = found.setdefault(key, {})
            here.setdefault("", []).extend(
                v for v in below if isinstance(v, str) and isinstance(value, str) and v not in here.get("", [])
            )
            for k, v in said_at([v for v in below if isinstance(v, dict)]).items():
                here[k] = {**here.get(k, {}), **v}
    return found


def left_out(kind, given):
    """A sum's givens with one thing more of those that may be left out."""
    model = KINDS[kind][0]
    ways = [
        way
        for field in model.model_fields.values()
        for way in get_args(field.annotation)
        if hasattr(way, "model_fields")
    ]
    for key in {
        k: 0
        for way in (model, *ways)
        for k, field in way.model_fields.items()
        if not field.is_required() and k not in given
    }:
        yield from ({**given, key: value} for value in (0.3, 2.5, 40, True, ""))


def sums_strewn(kind, givens):
    """What comes of every sum that is one thing away from one of these."""
    said = said_at(givens)
    for given in givens:
        for other in (given, *varied(given, said), *left_out(kind, given)):
            try:
                yield other, calc(kind, other)
            except BadInput as bad:
                yield other, bad.said.text("us") if bad.said else bad.sentence
