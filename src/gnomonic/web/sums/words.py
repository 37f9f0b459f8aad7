"""The answer of each pocket sum in words: sentences with their values, for the fencer's units."""

import math
from collections.abc import Callable
from typing import Any

from gnomonic.core.demand.catalog import catalog
from gnomonic.core.ground.bearing import quadrant
from gnomonic.core.say import Say, Value
from gnomonic.web.sums.words_haul import HAULING
from gnomonic.web.sums.words_openings import OPENINGS
from gnomonic.web.sums.words_pull import PULLING

Answer = dict[str, Any]
Values = dict[str, Value]


def listed(name: str, values: list[float], kind: str) -> tuple[str, Values]:
    """Values one after the other: the part of a template and what goes into it."""
    made: Values = {f"{name}{k}": (float(v), kind) for k, v in enumerate(values)}
    return ", ".join(f"{{{key}}}" for key in made), made


def _plural(count: float, one: str, many: str = "") -> str:
    return f"{count:.0f} {one if round(count) == 1 else many or one + 's'}"


def setout(a: Answer, q: Answer) -> list[Say]:
    """Where posts go."""
    stations, values = listed("s", a["stations_m"], "station")
    even = a["even"]
    saved: Values = {
        "worst": (even["worst_gap_m"], "gap"),
        "fill": (even["fill_m2"], "area"),
        "cut": (even["cut_m2"], "area"),
    }
    found: Values = {
        "long": (a["longest_bay_m"], "station"),
        "worst": (a["worst_gap_m"], "gap"),
        "at": (a["worst_gap_at_m"], "station"),
        "least": (a["least_gap_m"], "gap"),
        "fill": (a["fill_m2"], "area"),
        "cut": (a["cut_m2"], "area"),
    }
    return [
        Say(f"{_plural(a['posts'], 'post')}, centres at {stations}.", values),
        Say("The longest bay is {long}. The widest gap under the wire is {worst}, at {at}; the least {least}.", found),
        Say(f"Under the wire {_earth(a)}.", found),
        Say(f"Even bays would take {_plural(even['posts'], 'post')} and leave {{worst}}: {_earth(even)}.", saved),
    ]


def _earth(a: Answer) -> str:
    """What is to be filled beyond the largest gap and dug short of the least."""
    parts = [
        f"{{{name}}} side-on is to be {did}"
        for name, did in (("fill", "filled"), ("cut", "dug"))
        if a[f"{name}_m2"] > 0.005
    ]
    return " and ".join(parts) or "nothing is to be filled or dug"


def brace(a: Answer, q: Answer) -> list[Say]:
    """What a brace carries."""
    if "strut_n" in a:
        values: Values = {
            "strut": (a["strut_n"], "force"),
            "angle": (a["angle_deg"], "angle"),
            "tie": (a["tie_n"], "force"),
            "up": (a["end_post_uplift_n"], "force"),
            "reach": (a["reach_m"], "cut"),
        }
        tie = " Its tie carries {tie}." if a["tie_n"] else ""
        return [
            Say("The strut stands at {angle} and pushes {strut}." + tie, values),
            Say("It lifts the end post by {up}, whatever the tie: a longer reach than {reach} lifts it less.", values),
        ]
    if not a["stands"]:
        return [Say(f"It does not stand: {a['because']}.")]
    rails, values = listed("r", a["rail_n"], "force")
    wires, more = listed("w", a["wire_n"], "force")
    values = {**values, **more, "up": (a["end_post_uplift_n"], "force"), "foot": (a["foot_shear_n"][0], "force")}
    each = " from the end post inwards" if len(a["rail_n"]) > 1 else ""
    sloped = bool(q.get("rise_m"))
    sizes: Values = {
        "rail": (a["rail_length_m"], "cut"),
        "wire": (a["wire_length_m"], "cut"),
        "high": (a["rail_on_inner_m"], "cut"),
    }
    more_said = [
        Say(
            "Centre to centre the rail is {rail} and the wire's diagonal {wire}; the rail meets the inner post {high} above its ground.",
            sizes,
        )
    ]
    return [
        Say(f"The rail pushes {rails}{each}; the brace wire pulls {wires}.", values),
        Say(
            "The end post is lifted by {up}: a longer rail, not a higher one, keeps it in the ground."
            if a["end_post_uplift_n"] >= 0
            else "The end post is pressed down by {down}.",
            values | {"down": (-a["end_post_uplift_n"], "force")},
        ),
        Say(
            "The wire runs from the top of the inner post to the foot of the end post. {foot} arrive as shear at that foot.",
            values,
        ),
        *(more_said if sloped else []),
    ]


def corner(a: Answer, q: Answer) -> list[Say]:
    """Runs on one post."""
    one = a["worst_single"]
    values: Values = {
        "all": (a["resultant_n"], "force"),
        "foot": (a["foot_shear_n"], "force"),
        "up": (a["uplift_n"], "force"),
        "f1": (one["foot_shear_n"], "force"),
        "u1": (one["uplift_n"], "force"),
    }
    way = a["resultant_bearing_deg"]
    values["way"] = "" if way is None else quadrant(round(way) % 360)
    return [
        Say("Together they pull {all}, to {way}." if way is not None else "Their pulls cancel.", values),
        Say("{foot} push the post's foot sideways and {up} lift it.", values),
        Say(f"Run {one['run'] + 1} alone, the others not yet pulled: {{f1}} sideways, {{u1}} up.", values),
    ]


def lift(a: Answer, q: Answer) -> list[Say]:
    """What a change of slope does to a post."""
    values: Values = {"up": (abs(a["lift_n"]), "force")}
    if a["lift_n"] > 0:
        return [Say("The fabric lifts the post by {up}: the post must be held down, or it is drawn out.", values)]
    return [
        Say("The fabric presses the post down by {up}." if a["lift_n"] else "It neither lifts nor presses.", values)
    ]


def press(a: Answer, q: Answer) -> list[Say]:
    """The force that presses fabric down."""
    values: Values = {
        "f": (a["force_n"], "force"),
        "f0": (a["force_at_start_n"], "force"),
        "p0": (a["pull_n"], "force"),
        "p": (a["pull_after_n"], "force"),
    }
    outs = [o for o in a["out_after"] if o is not None]
    said = [Say("It takes {f} to press it down so far ({f0} with the pull as it was).", values)]
    values["o"] = (max(outs, default=0.0), "share")
    said.append(Say("The pull goes from {p0} to {p}" + (", and {o} of the curve is out." if outs else "."), values))
    if a["breaks"]:
        said.append(Say("That is past the strength of a wire: it breaks."))
    return said


def stringline(a: Answer, q: Answer) -> list[Say]:
    """A straight rail over a hump."""
    values: Values = {
        "a": (a["hA_m"], "cut"),
        "b": (a["hB_m"], "cut"),
        "most": (a["worst_clear_m"], "cut"),
        "at": (a["worst_clear_at_m"], "station"),
        "both": (a["raise_both_m"], "gap"),
        "left": (a["raise_a_only_m"], "gap"),
        "right": (a["raise_b_only_m"], "gap"),
        "dig": (a["trench_m"], "gap"),
    }
    said = [
        Say("Stand the first end {a} up and the last {b}: at most {most} are left under the rail, at {at}.", values)
    ]
    if a["hump_at_m"] is None:
        return [*said, Say("No ground stands over the string: both ends can stay at the least height.")]
    values["hump"] = (a["hump_at_m"], "station")
    text = "From the least height: raise both ends {both}, or the first {left}, or the last {right}, or dig {dig} at {hump}."
    return [*said, Say(text, values)]


def embed(a: Answer, q: Answer) -> list[Say]:
    """Posts in soil."""
    match q["method"]:
        case "ibc":
            cap = " (the pressure stops growing at 12 ft)" if a["pressure_capped"] else ""
            return [Say("It stands {d} deep or more." + cap, {"d": (a["depth_m"], "depth")})]
        case "lean":
            lean: Values = {"g": (a["ground_m"], "gap"), "t": (a["top_m"], "gap")}
            return [Say("It moves {g} at the ground and {t} at that height.", lean)]
        case "rock":
            return _short_hole(a)
        case _:
            return [Say("At most it holds {h}: divide that by a factor.", {"h": (a["hu_n"], "force")})]


def _short_hole(a: Answer) -> list[Say]:
    values: Values = {"h": (a["hu_n"], "force"), "n": (a["need_n"], "force"), "p": (a["hu_planned_n"], "force")}
    verdict = "It passes" if a["ok"] else "It does not pass"
    said = [Say(f"{verdict}: so deep it holds {{h}} (as planned {{p}}), and {{n}} are asked of it.", values)]
    if a["ok"]:
        return said
    ways = []
    if a["depth_needed_m"] is not None:
        ways.append("go down to {d}")
        values["d"] = (a["depth_needed_m"], "depth")
    if a["width_needed_m"] is not None:
        ways.append("make it {w} wide")
        values["w"] = (a["width_needed_m"], "cut")
    text = " or ".join(ways) if ways else "no depth and no width does it: end the run elsewhere, or anchor it"
    return [*said, Say(text[:1].upper() + text[1:] + ".", values)]


def backfill(a: Answer, q: Answer) -> list[Say]:
    """What holes take."""
    values: Values = {
        "v": (a["round_m3"], "volume"),
        "all": (a["all"]["round_m3"], "volume"),
        "dug": (a["all"]["hole_m3"], "volume"),
    }
    lifts = f", in {a['lifts']} lifts" if a["lifts"] > 1 else ""
    said = [Say(f"{{v}} round a post{lifts}; {{all}} in all, of {{dug}} dug.", values)]
    mixes = a["all"]
    if mixes["bags"]:
        said.append(
            Say(
                f"{_plural(mixes['bags'], 'bag')} of mix and {mixes['water_kg']:.0f} litres of water, kept apart till it is poured."
            )
        )
    if mixes["cement_kg"]:
        said.append(Say(f"{mixes['cement_kg']:.0f} kg of cement, mixed dry with the soil."))
    return said


def rolls(a: Answer, q: Answer) -> list[Say]:
    """Fewest rolls, or the cheapest of several lengths."""
    if "bought" in a:
        return _mixed(a)
    values: Values = {"left": (a["longest_offcut_m"], "station")}
    proof = "no fewer can do" if a["proven"]["new_rolls"] else f"at least {a['bound']['new_rolls']} are needed"
    said = [
        Say(
            f"{_plural(a['new_rolls'], 'new roll')} ({proof}), {_plural(a['splices'], 'splice')}; the longest offcut kept is {{left}}.",
            values,
        )
    ]
    return [*said, *_laid(a)]


def _mixed(a: Answer) -> list[Say]:
    bought = [(k["count"], k["length_m"]) for k in a["bought"] if k["count"]]
    names, values = listed("b", [m for _, m in bought], "station")
    rolls = " and ".join(f"{n} of {part}" for part, (n, _) in zip(names.split(", "), bought, strict=True)) or "none"
    proof = "nothing cheaper can do" if a["proven"]["cost"] else "the cheapest found"
    return [Say(f"Buy {rolls}: {a['cost']:,.2f} with {_plural(a['splices'], 'splice')} ({proof}).", values), *_laid(a)]


def _laid(a: Answer) -> list[Say]:
    said = []
    for k, pieces in enumerate(a["layout"]):
        names, lengths = listed("p", [p["length_m"] for p in pieces], "station")
        stock = [_stock(p["stock"]) for p in pieces]
        parts = ", ".join(f"{part} from {name}" for part, name in zip(names.split(", "), stock, strict=True))
        said.append(Say(f"Run {k + 1}: {parts}.", lengths))
    return said


def _stock(name: str) -> str:
    return f"roll {int(name[3:]) + 1}" if name.startswith("new") else f"offcut {int(name[6:]) + 1}"


def label(a: Answer, q: Answer) -> list[Say]:
    """What a label says."""
    return [Say("{words}.", {"words": a["words"][:1].upper() + a["words"][1:]})]


def gauge(a: Answer, q: Answer) -> list[Say]:
    """How thick a gauge is."""
    inches, mm, square = f"{a['inch']:.4g} in", f"{a['m'] * 1000:.3g} mm", f"{a['area_m2'] * 1e6:.3g} mm²"
    strain: Values = {"mm": mm, "in": inches, "area": square}
    return [Say("The wire is {in} thick, {mm}; its section is {area}.", strain)]


def traverse(a: Answer, q: Answer) -> list[Say]:
    """Does it close."""
    values: Values = {
        "round": (a["perimeter_m"], "station"),
        "miss": (a["misclosure_m"], "cut"),
        "expected": (a["expected_m"], "cut"),
        "area": (a["area_m2"] or 0.0, "land"),
    }
    ratio = "it closes exactly" if a["ratio"] is None else f"1 in {a['ratio']:.0f}"
    said = [
        Say(f"Round {{round}} the line misses its start by {{miss}}, {ratio}; measuring explains {{expected}}.", values)
    ]
    if a["area_m2"]:
        said.append(Say("It encloses {area}.", values))
    for s in a["suspects"][:2]:
        change: Values = {"c": (abs(s["change"]), "station" if s["unit"] == "m" else "angle")}
        said.append(Say(f"Leg {s['leg'] + 1} alone would explain it: its {s['what']} out by {{c}}.", change))
    return said


def levels(a: Answer, q: Answer) -> list[Say]:
    """Heights from a staff."""
    heights, values = listed("h", a["rl_m"], "cut")
    agree = "agrees" if a["check"]["agree"] else "does not agree: book or staff was misread"
    return [Say(f"Heights: {heights}.", values), Say(f"The page {agree}.")]


def square(a: Answer, q: Answer) -> list[Say]:
    """A right-angled plot."""
    said = [Say("Both diagonals tape {d}.", {"d": (a["diagonal_m"], "cut")})]
    fits = {unit: rows[-1] for unit, rows in a["multiples"].items() if rows}
    if fits:
        parts: Values = {}
        words = []
        for unit, row in fits.items():
            words.append(" ".join(map(str, row)) + f" {'feet' if unit == 'ft' else 'metres'}")
        said.append(Say("Square the corners by a triangle of {t}.", {**parts, "t": " or ".join(words)}))
    for peg in a.get("corners_out", []):
        said.append(Say(f"Peg {peg['corner']} is out by {{out}}.", {"out": (peg["out_m"], "cut")}))
    if a.get("square") is True:
        said.append(Say("Taped so, the plot is square."))
    return said


def demand(a: Answer, q: Answer) -> list[Say]:
    """What animals demand."""
    said = []
    for key, words in (("height_m", "At least {v} high, for {by}."), ("gap_m", "At most {v} under it, for {by}.")):
        if a[key]:
            said.append(Say(words, {"v": (a[key]["value"], "cut"), "by": a[key]["by"]}))
    for band in a["openings"]:
        values: Values = {"most": (band["most_m"], "gap"), "upto": (band["to_m"], "cut"), "by": band["by"]}
        said.append(Say("Openings of at most {most} up to {upto}, for {by}.", values))
    return said


def layers(a: Answer, q: Answer) -> list[Say]:
    """A stack of widths."""
    if "layers" not in a:
        return []
    said = []
    for row in a["layers"]:
        values: Values = {
            "n": row["name"],
            "a": (row["bottom_m"], "cut"),
            "b": (row["top_m"], "cut"),
            "lap": (row["lap_m"], "gap"),
        }
        lap = f", lapped {{lap}} over the one below ({row['lap_holes']} holes)" if row["lap_m"] else ""
        said.append(Say("{n} from {a} to {b}" + lap + ".", values))
    total: Values = {"h": (a["height_m"], "cut"), "seam": (a["seam_m"], "station")}
    rolls = f"; {_plural(a['rolls'], 'roll')} in all, {{seam}} of seam to sew" if a["rolls"] else ""
    return [*said, Say("It reaches {h}" + rolls + ".", total)]


def chainlink(a: Answer, q: Answer) -> list[Say]:
    """A chain-link line."""
    tops: Values = {
        "t": (a["terminal_top_m"], "cut"),
        "l": (a["line_top_m"], "cut"),
        "off": (a["string_offset_m"], "gap"),
    }
    fabric: Values = {"m": (a["fabric_m"], "station")}
    fittings = ", ".join(f"{n:.0f} × {catalog()[k].title}" for k, n in a["fittings"].items())
    rails = " and ".join(f"{r['count']} of {{r{k}}}" for k, r in enumerate(a["rails"]))
    return [
        Say(
            f"{a['terminals']} terminal posts, tops {{t}} up; {a['line_posts']} line posts, tops {{l}} up, {{off}} off the string.",
            tops,
        ),
        Say(f"{a['diamonds']} diamonds, {{m}} of fabric, {_plural(a['rolls'], 'roll')}.", fabric),
        Say(f"Top rail: {rails}.", {f"r{k}": (r["stock_m"], "depth") for k, r in enumerate(a["rails"])}),
        Say("Fittings: {f}.", {"f": fittings}),
    ]


WORDS: dict[str, Callable[[Answer, Answer], list[Say]]] = {
    "setout": setout,
    "brace": brace,
    "corner": corner,
    "lift": lift,
    "press": press,
    "stringline": stringline,
    "embed": embed,
    "backfill": backfill,
    "rolls": rolls,
    "label": label,
    "gauge": gauge,
    "traverse": traverse,
    "levels": levels,
    "square": square,
    "demand": demand,
    "layers": layers,
    "chainlink": chainlink,
    **HAULING,
    **OPENINGS,
    **PULLING,
}


def drawing(kind: str, a: Answer, q: Answer) -> dict[str, Any] | None:
    """Lines, dots and words of a small drawing in its own units (x right, y up), where one helps."""
    if kind == "setout":
        ground = [list(p) for p in q["profile"]]
        return {"ground": ground, "posts": a["stations_m"], "high": 1.2, "clear": q["clearance_m"]}
    if kind == "brace" and a.get("stands"):
        return {
            "panels": len(a["rail_n"]),
            "apart": q["spacing_m"],
            "rail": q["rail_height_m"],
            "pull": q["pull_height_m"],
        }
    if kind == "brace" and "strut_n" in a:
        return {
            "reach": a["reach_m"],
            "strut": q["strut_height_m"],
            "pull": q["pull_height_m"],
            "tie": q.get("tie", "none"),
        }
    if kind == "square":
        return {"pegs": a["pegs"]}
    if kind == "traverse" and len(a["points"]) > 2 and max(map(math.dist, a["points"], a["points"][1:])) > 0:
        return {"line": a["points"]}
    return None
