"""One way of asking the solver: repeatable, on two workers, under a limit of work."""

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from ortools.sat.python import cp_model


def solver(work_s: float, wall_s: float) -> "cp_model.CpSolver":
    """A solver limited in deterministic seconds, so that the answer is the same again, and in seconds on the clock."""
    from ortools.sat.python import cp_model

    made = cp_model.CpSolver()
    made.parameters.num_workers = 2
    made.parameters.interleave_search = True  # repeatable with more than one worker
    made.parameters.random_seed = 1
    made.parameters.max_deterministic_time = work_s
    made.parameters.max_time_in_seconds = wall_s
    return made
