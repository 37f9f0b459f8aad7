"""One way of asking the solver: repeatable, on two workers, under a limit of work."""

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from ortools.sat.python import cp_model


PATIENCE = 40  # seconds on the clock for each of work: only a machine that stands still takes longer


def solver(work_s: float, wall_s: float | None = None) -> "cp_model.CpSolver":
    """A solver that ends by work (deterministic seconds): the answer is the same on a busy machine.

    With ``wall_s`` it ends by the clock too, where somebody waits and any answer will do.
    """
    from ortools.sat.python import cp_model

    made = cp_model.CpSolver()
    made.parameters.num_workers = 2
    made.parameters.interleave_search = True  # repeatable with more than one worker
    made.parameters.random_seed = 1
    made.parameters.max_deterministic_time = work_s
    made.parameters.max_time_in_seconds = PATIENCE * work_s if wall_s is None else wall_s
    return made
