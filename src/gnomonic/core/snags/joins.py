"""Snags between lines: ends that nearly meet another line, lines that cross, lines that stand longer than they should."""

from collections.abc import Sequence
from datetime import date

from gnomonic.core.ground.joined import Meeting
from gnomonic.core.job.fence import Fence
from gnomonic.core.say import Say, Values
from gnomonic.core.snags.snag import Remedy, Snag


def join_snags(fence: Fence, meetings: Sequence[Meeting], today: date) -> list[Snag]:
    """Every snag of a line with the other lines of its job."""
    found = [_nearly(fence, m) for m in meetings if m.end and m.line == fence.id]
    found += [_crosses(fence, m) for m in meetings if not m.end and fence.id in (m.line, m.on)]
    until = fence.own.until
    if until is not None and today > until:
        said = Say("{name} was to stand until {day}", {"name": fence.name, "day": until.isoformat()})
        found.append(Snag("overdue", False, 1.0, 0.0, said, Say("take it down, or say how long it stands")))
    return found


def _nearly(fence: Fence, met: Meeting) -> Snag:
    on = fence.job.line(met.on).name
    values: Values = {"end": met.end, "on": on, "off": (met.off_m, "gap"), "at": (met.at_m, "station")}
    edit = {"do": "join_line", "line": fence.id, "end": met.end, "on": met.on, "at_m": round(met.at_m, 4)}
    on_it = met.off_m < 0.005
    return Snag(
        "nearly-meets",
        False,
        6.0,
        met.here_m,
        Say("Its {end} lies on {on}, and is not joined to it" if on_it else "Its {end} lies {off} from {on}", values),
        Say("each has a post of its own there: bought twice, and stock get stuck between two posts that close"),
        (Remedy(Say("join it to {on} at {at}", values), edit),),
    )


def _crosses(fence: Fence, met: Meeting) -> Snag:
    own = met.line == fence.id
    here, other = (met.here_m, met.on) if own else (met.at_m, met.line)
    values: Values = {"on": fence.job.line(other).name, "at": (here, "station"), "name": fence.name}
    edit = {
        "do": "split_line",
        "line": fence.id,
        "at_m": round(here, 4),
        "name": f"{fence.name[:100]} beyond {values['on']}",
    }
    return Snag(
        "crosses",
        False,
        6.0,
        here,
        Say("It crosses {on} at {at}", values),
        Say("nothing is planned where they meet: one of them ends there on a post of the other, on both sides"),
        (Remedy(Say("split {name} there", values), edit),),
    )
