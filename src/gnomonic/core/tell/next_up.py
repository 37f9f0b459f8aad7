"""What to do next on a job: the first things that are not done yet, in the order of the work."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date

from gnomonic.core.ground.marking import may_dig, state_of
from gnomonic.core.job.document import Job
from gnomonic.core.plan.model import JobPlan
from gnomonic.core.say import Say, Values

MOST_NAMED = 2


@dataclass(frozen=True, slots=True)
class NextUp:
    """A thing to do, why, and the page (``go``) of the line where it is done."""

    said: Say
    why: Say
    go: str
    line: str = ""


def _lines(names: list[str]) -> tuple[str, Values]:
    """The first few by name, and how many more."""
    values: Values = {f"l{k}": name for k, name in enumerate(names[:MOST_NAMED])}
    more = len(names) - MOST_NAMED
    text = (", " if more > 0 else " and ").join(f"{{l{k}}}" for k in range(len(values)))
    return text + (f" and {more} more" if more > 0 else ""), values


def next_up(job: Job, plan: JobPlan, grave: Mapping[str, int], today: date) -> list[NextUp]:
    """What is not done yet: heights, what it must hold, gates without a leaf, lines that nearly meet, grave snags, marks; then the sheets.

    ``grave`` counts the snags of each line that stop the build.
    """
    built = [line for line in job.lines if line.id in plan.lines]
    found: list[NextUp] = []

    def ask(lines: list[str], before: str, after: str, why: str, go: str) -> None:
        if not lines:
            return
        text, values = _lines([job.line(k).name for k in lines])
        found.append(NextUp(Say(f"{before}{text}{after}", values), Say(why), go, lines[0]))

    level = [line.id for line in built if line.measured.level]
    ask(
        level,
        "Give ",
        " its heights" if len(level) == 1 else " their heights",
        "the ground was taken as level: gaps, braces and post lengths hang on it",
        "walk",
    )
    unsaid = [line.id for line in built if not line.hold.animals]
    ask(unsaid, "Say what ", " must hold or keep out", "until then nothing says whether what hangs is right", "hold")
    staked = [line.id for line in built if any(g.opening_m is not None for g in line.gates)]
    ask(
        staked,
        "Say what leaves hang in the gates of ",
        "",
        "they were staked between post centres: between real posts no such leaf fits",
        "openings",
    )
    if plan.meetings:
        count = len(plan.meetings)
        places = "the place" if count == 1 else f"the {count} places"
        found.append(
            NextUp(
                Say(f"Join or part {places} where lines nearly meet"),
                Say("a shared post is bought once and knows both pulls"),
                "lines",
                plan.meetings[0].line,
            )
        )
    stuck = [line.id for line in built if grave.get(line.id)]
    ask(stuck, "See to what stops ", "", "grave snags: it can't be built as it stands", "")
    states = {line.id: state_of(job.marking, plan.courses[line.id], today) for line in built}
    asked = [k for k, state in states.items() if state == "requested"]
    undone = [k for k, state in states.items() if not may_dig(state) and state != "requested"]
    ask(undone, "Ask for the buried services to be marked along ", "", "no hole before the marks are in", "marking")
    ask(asked, "Wait for the marks along ", "", "asked for; the marks are not in", "marking")
    if built and not found:
        found.append(
            NextUp(
                Say("Print the sheets, stake out, order"), Say("nothing on this job needs a second look"), "print-all"
            )
        )
    return found
