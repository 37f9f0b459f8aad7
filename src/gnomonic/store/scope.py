"""Whose rows are meant: every call of the store says so."""

from dataclasses import dataclass

from sqlalchemy import Engine

OWN = "own"  # the workspace of a server that has no accounts


@dataclass(frozen=True, slots=True)
class Scope:
    """A database, the workspace whose rows are read and written there, and who does it (empty where nobody signed in)."""

    engine: Engine
    workspace: str = OWN
    actor: str = ""
