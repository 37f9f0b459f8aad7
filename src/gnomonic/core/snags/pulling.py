"""Snags of stretching: runs whose far side stays slack however they are pulled as they stand."""

from gnomonic.core.job.fence import Fence
from gnomonic.core.plan.model import Plan
from gnomonic.core.plan.stretch import RunPull, bent_runs
from gnomonic.core.say import Say, Values
from gnomonic.core.snags.snag import Remedy, Snag

MOST_REMEDIES = 3
WEIGHT = 40.0


def pull_snags(fence: Fence, plan: Plan) -> list[Snag]:
    """Runs drawn round bends that keep too little of the pull somewhere."""
    return [_slack(fence, run) for run in bent_runs(fence, plan) if not run.option.enough]


def _slack(fence: Fence, run: RunPull) -> Snag:
    least = min(run.option.way.after, key=lambda s: min(s.start_n, s.end_n))
    at = run.station(least.from_m if least.start_n <= least.end_n else least.to_m)
    values: Values = {
        "n": f"{run.number + 1}", "keeps": (run.option.keeps, "share"), "at": (at, "station"), "pull": (run.drawn.aim.pull_n, "force"),
        "least": (run.option.way.least_n, "force"), "bends": f"{len(run.path.bends)} bend{'s' * (len(run.path.bends) != 1)}",
    }  # fmt: skip
    said = fence.pulled_from(run.from_m, run.to_m)
    ways: list[Remedy] = []
    for option in sorted(run.options, key=lambda o: (o.ends, -o.keeps)):
        if option.keeps < run.option.keeps + 0.1 or option.ends > 1:
            continue
        kept: Values = {"keeps": (option.keeps, "share")}
        if option.ends:
            kept["e"] = (run.station(option.way.ends_m[0]), "station")
            edit = {"do": "end_run", "at_m": run.station(option.way.ends_m[0])}
            ways.append(Remedy(Say("end the run at {e}, on a braced post", kept), edit))
        elif option.way.splices_m:
            splice = run.station(option.way.splices_m[0])
            kept["s"] = (splice, "station")
            edit = {
                "do": "pull_from",
                "at_m": said.at_m if said else (run.from_m + run.to_m) / 2,
                "way": "both",
                "splice_m": splice,
            }
            ways.append(Remedy(Say("pull it both ways to a splice at {s}: {keeps} stay", kept), edit))
    return Snag(
        "slack-behind",
        False,
        WEIGHT * (1 - run.option.keeps),
        at,
        Say("Run {n} keeps only {keeps} of its pull at {at}", values),
        Say("drawn round {bends} {pull} become {least} there: it hangs slack while the near side is tight, and posts in the bends are pulled aside", values),
        tuple({w.label.t + str(w.edit): w for w in ways}.values())[:MOST_REMEDIES],
        "pull",
    )  # fmt: skip
