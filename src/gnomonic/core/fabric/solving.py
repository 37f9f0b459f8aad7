"""One way of asking the solver: repeatable, on two workers, under a limit of work."""

import sys
from importlib import import_module
from types import ModuleType
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from ortools.sat.python import cp_model as cp_model  # noqa: PLC0414  others take it from here


SOLVER = "ortools.sat.python.cp_model"
PATIENCE = 40  # seconds on the clock for each of work: only a machine that stands still takes longer
LEAST_S = 20.0  # on the clock in any case: 0.01 s of work took 0.1 s here, and over 0.4 s where others worked too


class _NoTables(ModuleType):
    """Stands in for pandas while the solver loads: the solver only names its types, and pandas takes 40 MB."""

    def __getattr__(self, name: str) -> Any:
        """An empty type of that name.  Raises AttributeError where it is no type's name."""
        if not name[:1].isupper():
            raise AttributeError(name)
        return type(name, (), {})


def __getattr__(name: str) -> Any:
    """``cp_model``, loaded when it is first asked for, without pandas where that is not loaded."""
    if name != "cp_model":
        raise AttributeError(name)
    if "pandas" in sys.modules:
        return import_module(SOLVER)
    sys.modules["pandas"] = _NoTables("pandas")
    try:
        return import_module(SOLVER)
    finally:
        sys.modules.pop("pandas", None)  # another thread may have been as quick


def solver(work_s: float, wall_s: float | None = None) -> "cp_model.CpSolver":
    """A solver that ends by work (deterministic seconds): the answer is the same on a busy machine.

    With ``wall_s`` it ends by the clock too, where somebody waits and any answer will do.
    """
    from gnomonic.core.fabric.solving import cp_model

    made = cp_model.CpSolver()
    made.parameters.num_workers = 2
    made.parameters.interleave_search = True  # repeatable with more than one worker
    made.parameters.random_seed = 1
    made.parameters.max_deterministic_time = work_s
    made.parameters.max_time_in_seconds = max(LEAST_S, PATIENCE * work_s) if wall_s is None else wall_s
    return made
