"""What a request works with: the rows of the workspace it is asked in, by whom, and what this process keeps of that workspace."""

from collections import OrderedDict
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any

from fastapi import Request
from fastapi.templating import Jinja2Templates

from gnomonic.store.queue import Queue
from gnomonic.store.scope import Scope

if TYPE_CHECKING:  # they work in rooms themselves
    from gnomonic.web.days.skies import Skies
    from gnomonic.web.haul.asking import Suppliers
    from gnomonic.web.plans import Plans
    from gnomonic.web.walk.marking import Desk
    from gnomonic.web.walk.recorder import Hub


@dataclass(frozen=True, slots=True)
class Room:
    """A workspace in one process: its rows (``scope``), its plans, its walks, what was worked out lately; and what all workspaces share."""

    scope: Scope
    plans: "Plans"
    hub: "Hub"
    desk: "Desk"
    suppliers: "Suppliers"
    skies: "Skies"
    queue: Queue
    templates: Jinja2Templates
    brought: OrderedDict[Any, Any] = field(default_factory=OrderedDict)
    options: OrderedDict[Any, Any] = field(default_factory=OrderedDict)
    ifs: OrderedDict[Any, Any] = field(default_factory=OrderedDict)


def not_away(request: Request) -> None:
    """Raise DatabaseAway where the door already found it so: nobody waits for it a second time."""
    if (away := getattr(request.state, "away", None)) is not None:
        raise away


def room(request: Request) -> Room:
    """The room of who asks.  Raises DatabaseAway where it could not be seen who that is."""
    not_away(request)
    found: Room = request.state.room
    return found
