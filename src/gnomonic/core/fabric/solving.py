"""One way of asking the solver: repeatable, on two workers, under a limit of work."""

import sys
from types import ModuleType
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from ortools.sat.python import cp_model


PATIENCE = 40  # seconds on the clock for each of work: only a machine that stands still takes longer


class _NoTables(ModuleType):
    """Stands in for pandas while the solver is loaded: it only names its types there, and 40 MB come with it."""

    def __getattr__(self, name: str) -> Any:
        """A type of that name that nothing is of; nothing where it is no name of a type."""
        if not name[:1].isupper():
            raise AttributeError(name)
        return type(name, (), {})


def without_tables() -> None:
    """Load the solver without pandas, where neither is loaded yet; its import follows this call."""
    if "ortools.sat.python.cp_model" in sys.modules or "pandas" in sys.modules:
        return
    sys.modules["pandas"] = _NoTables("pandas")
    try:
        import ortools.sat.python.cp_model  # noqa: F401
    finally:
        del sys.modules["pandas"]


def solver(work_s: float, wall_s: float | None = None) -> "cp_model.CpSolver":
    """A solver that ends by work (deterministic seconds): the answer is the same on a busy machine.

    With ``wall_s`` it ends by the clock too, where somebody waits and any answer will do.
    """
    without_tables()
    from ortools.sat.python import cp_model

    made = cp_model.CpSolver()
    made.parameters.num_workers = 2
    made.parameters.interleave_search = True  # repeatable with more than one worker
    made.parameters.random_seed = 1
    made.parameters.max_deterministic_time = work_s
    made.parameters.max_time_in_seconds = PATIENCE * work_s if wall_s is None else wall_s
    return made
