"""A plugin of pytest: one module of the core is loaded with a change in it, named in the environment, before anything else is.

What a process has worked out when tests are collected (a table, a fabric's rows) a changed function can't undo; so what no test found
in a fork is tried once more from the beginning.
"""

import json
import os
import sys
from collections.abc import Sequence
from importlib.abc import MetaPathFinder
from importlib.machinery import ModuleSpec, PathFinder, SourceFileLoader
from pathlib import Path
from types import CodeType, ModuleType

CHANGE = "GNOMONIC_CHANGE"


class _Changed(SourceFileLoader):
    """Loads a module from its source with some bytes replaced."""

    def get_code(self, fullname: str) -> CodeType:
        """The code of the changed source."""
        change = json.loads(os.environ[CHANGE])
        source, (start, end) = Path(self.path).read_bytes(), change["span"]
        return compile(source[:start] + f"({change['after']})".encode() + source[end:], self.path, "exec")


class _Finder(MetaPathFinder):
    def find_spec(
        self, fullname: str, path: Sequence[str] | None, target: ModuleType | None = None
    ) -> ModuleSpec | None:
        """The module that is changed; others are found as ever."""
        if fullname != json.loads(os.environ[CHANGE])["module"]:
            return None
        spec = PathFinder.find_spec(fullname, path, target)
        if spec is not None and spec.origin:
            spec.loader = _Changed(fullname, spec.origin)
        return spec


if CHANGE in os.environ:
    sys.meta_path.insert(0, _Finder())
