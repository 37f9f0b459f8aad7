"""One way of asking the solver: repeatable, on two workers, under a limit of work."""

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from ortools.sat.python import cp_model


PATIENCE = 40  # times as long on the clock: no machine at work ends a search so, only one that stands still


def solver(work_s: float, wall_s: float | None = None) -> "cp_model.CpSolver":
    """A solver limited in deterministic seconds, so that the answer is the same again on a machine that does much besides; ``wall_s`` where
    somebody waits for it and any answer will do."""
    from ortools.sat.python import cp_model

    made = cp_model.CpSolver()
    made.parameters.num_workers = 2
    made.parameters.interleave_search = True  # repeatable with more than one worker
    made.parameters.random_seed = 1
    made.parameters.max_deterministic_time = work_s
    made.parameters.max_time_in_seconds = PATIENCE * work_s if wall_s is None else wall_s
    return made
