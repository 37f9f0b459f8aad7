"""How a row of the bench is measured and printed, and the job of many lines it is measured on."""

import statistics
import time
from collections.abc import Callable
from typing import Any

from gnomonic.core.edits.all import apply, read_edit
from gnomonic.core.edits.lines import next_letter
from gnomonic.core.job.document import Job
from gnomonic.core.job.fence import Fence, fence_of, one_line
from gnomonic.demo.load import single_jobs

MANY = 40
APART_M = 600.0


def median_s(run: Callable[[], Any], times: int) -> float:
    """Median seconds of some runs."""
    taken = []
    for _ in range(times):
        start = time.perf_counter()
        run()
        taken.append(time.perf_counter() - start)
    return statistics.median(taken)


def row(name: str, value: str, wanted: str) -> None:
    """One line of the report."""
    print(f"{name:58}{value:>16}   wanted {wanted}")


def many_lines() -> Job:
    """One job of forty lines, the demo's but the paddock over and over, side by side."""
    fences = [fence_of(job) for job in single_jobs()[:-1]]
    job = one_line("line 1", fences[0].line, job_name="Forty lines")
    for k in range(MANY):
        fence = fences[k % len(fences)]
        letter = job.lines[-1].id if k == 0 else next_letter(job)
        given = {**fence.own.model_dump(mode="json", exclude={"id"}), "name": f"line {k + 1}"}
        if k:
            place = {"e_m": APART_M * (k % 8), "n_m": APART_M * (k // 8)}
            job = apply(job, read_edit({"do": "add_line", "given": given, **place}))
        else:
            job = apply(job, read_edit({"do": "hang_barrier", "line": letter, **barrier_of(fence)}))
    return job


def barrier_of(fence: Fence) -> dict[str, Any]:
    """What hangs on a line, as an edit hangs it."""
    b = fence.barrier
    return {"system": b.system, "label": b.label, "extras": b.extras, "side": b.side}
