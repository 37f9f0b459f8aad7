"""The answers of the sums of stretching in words."""

from collections.abc import Callable
from typing import Any

from gnomonic.core.pull.gear import joints, ties
from gnomonic.core.say import Say, Values

Answer = dict[str, Any]


def _share(outs: list[float | None]) -> float:
    return max((o for o in outs if o is not None), default=0.0)


def _way(change: float) -> str:
    return "colder" if change < 0 else "warmer"


def _profile(a: Answer) -> list[Say]:
    values: Values = {"pull": (a["pull_n"], "force"), "up": (a["take_up_m"], "cut"), "least": (a["least_n"], "force")}
    said = [Say("Pulled to {pull}: {least} is left where it is least, {up} are taken up.", values)]
    for s in a["segments"]:
        row: Values = {"a": (s["from_m"], "station"), "b": (s["to_m"], "station"), "p": (s["start_n"], "force"), "q": (s["end_n"], "force"), "o": (_share(s["out_start"]), "share")}  # fmt: skip
        text = "{a} to {b}: {p} falling to {q}"
        if any(o is not None for o in s["out_start"]):
            text += ", {o} of the curve out at most"
        for k, season in enumerate(s["seasons"]):
            row |= {f"t{k}": (abs(season["dtheta_c"]), "warmth"), f"e{k}": (season["end_n"], "force")}
            text += f"; {{t{k}}} {_way(season['dtheta_c'])} {{e{k}}} at its end"
        said.append(Say(text + ".", row))
    return said


def _best(a: Answer) -> list[Say]:
    low, high = a["best_at_m"]
    values: Values = {
        "a": (a["end_a_least_n"], "force"), "b": (a["end_b_least_n"], "force"), "best": (a["best_least_n"], "force"),
        "low": (low, "station"), "high": (high, "station"),
    }  # fmt: skip
    where = "from {low}" if high - low < 0.01 else "from anywhere between {low} and {high}"
    said = [
        Say("From the start {a} is left where it is least, from the end {b}.", values),
        Say(f"Both ways {where} leaves {{best}}: nothing let go yet.", values),
    ]
    for t in a["terminate"]:
        said.append(Say("Ended on a post at {at} leaves {n}.", {"at": (t["terminate_at_m"], "station"), "n": (t["least_n"], "force")}))  # fmt: skip
    return said


def _temperature(a: Answer) -> list[Say]:
    said = []
    for r in a["rows"]:
        values: Values = {
            "t": (abs(r["dtheta_c"]), "warmth"),
            "n": (r["pull_n"], "force"),
            "o": (_share(r["out"]), "share"),
        }
        curved = any(o is not None for o in r["out"])
        told = "it hangs slack" if r["slack"] else "{n}" + (", {o} of the curve out" if curved else "")
        said.append(Say(f"{{t}} {_way(r['dtheta_c'])}: {told}.", values))
    return said


def _slip(a: Answer) -> list[Say]:
    said = [Say("{up} are taken up in all.", {"up": (a["take_up_m"], "cut")})]
    for r in a["rows"]:
        values: Values = {"s": (r["slip_m"], "gap"), "n": (r["pull_n"], "force"), "l": (r["loss_share"], "share")}
        said.append(Say("{s} given back leaves {n}: {l} lost.", values))
    return said


def _release(a: Answer) -> list[Say]:
    said = []
    for r in a["rows"]:
        values: Values = {"s": (r["slip_m"], "gap"), "n": (r["end_n"], "force"), "far": (r["affected_m"], "station"), "least": (r["least_n"], "force"), "most": (r["greatest_n"], "force"), "at": (r["greatest_at_m"], "station"), "slack": (r["slack_m"], "gap")}  # fmt: skip
        loose = " and {slack} hang loose" if r["slack_m"] > 0 else ""
        said.append(Say(f"{{s}} given back: {{n}} at the end{loose}; it slid as far as {{far}}. Least {{least}}, most {{most}} at {{at}}.", values))  # fmt: skip
    return said


def _deflection(a: Answer) -> list[Say]:
    values: Values = {"simple": (a["tension_simple_n"], "force"), "exact": (a["tension_exact_n"], "force")}
    return [
        Say("It stands at {exact} ({simple} by the rule for small pushes), with what the push itself adds.", values)
    ]


def _fit(a: Answer) -> list[Say]:
    worst = max((abs(r) for r in a["residuals_n"]), default=0.0)
    values: Values = {"t": (a["t0_n"], "force"), "worst": (worst, "force")}
    return [Say(f"Friction μ is {a['mu']:.2f}, the pull at the puller {{t}}; no reading is further off than {{worst}}.", values)]  # fmt: skip


TASKS = {
    "profile": _profile, "best_point": _best, "temperature": _temperature, "slip": _slip, "release": _release,
    "deflection": _deflection, "fit_mu": _fit,
}  # fmt: skip


def pull(a: Answer, q: Answer) -> list[Say]:
    """Stretching, by its task."""
    return TASKS[q["task"]](a)


def tieoff(a: Answer, q: Answer) -> list[Say]:
    """An end or a splice."""
    values: Values = {"tail": (a["tail_m"], "cut"), "slip": (a["slip_m"], "gap")}
    title = (ties() if q["what"] == "end" else joints())[q["method"]].title
    enough = {None: "", True: " What there is is enough.", False: " What there is is too short."}[a["tail_enough"]]
    fits = "" if a["fits"] else " It is not made for wire of that thickness: use another way."
    return [
        Say(f"{title[:1].upper()}{title[1:]}: {a['count']} wires, about {a['minutes']:.0f} minutes; {{tail}} of tail on each.{enough}{fits}", values),
        Say(f"It gives {{slip}} back as it is let go, {a['order']}.", values),
        *[Say(step) for step in a["steps"]],
    ]  # fmt: skip


def dummy(a: Answer, q: Answer) -> list[Say]:
    """A dummy brace."""
    values: Values = {
        "off": (a["off_m"], "cut"), "at": (a["member_at_m"], "cut"), "cut": (a["member_cut_m"], "cut"), "n": (a["member_n"], "force"),
        "foot": (a["foot_n"], "force"), "long": (a["loose_post_m"], "station"), "m": (a["brace_sees_nm"], "moment"),
    }  # fmt: skip
    return [
        Say("A loose post of {long}, {off} beyond the end post; a cross member cut {cut}, pinned {at} up.", values),
        Say("The member carries {n} into the brace, the loose post’s foot pushes {foot}; the brace sees {m}, what the fence will give it.", values),
        Say("Nobody between the posts; never from a vehicle."),
    ]  # fmt: skip


PULLING: dict[str, Callable[[Answer, Answer], list[Say]]] = {"pull": pull, "tieoff": tieoff, "dummy": dummy}
