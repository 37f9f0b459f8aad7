"""The rooms of a process, one a workspace, made when somebody first comes in."""

import contextlib
import threading
from collections import OrderedDict
from dataclasses import replace
from functools import partial

from fastapi.templating import Jinja2Templates

from gnomonic.store import walks, workspace
from gnomonic.store.queue import Queue
from gnomonic.store.scope import DatabaseAway, Scope
from gnomonic.web.days.skies import Skies
from gnomonic.web.haul.asking import Suppliers
from gnomonic.web.log.known import known
from gnomonic.web.plans import Plans
from gnomonic.web.room import Room
from gnomonic.web.walk.marking import Desk
from gnomonic.web.walk.recorder import Hub

MOST_ROOMS = 24


class House:
    """Rooms by workspace; those not come into for longest are let go, but for one that records a walk."""

    def __init__(self, scope: Scope, templates: Jinja2Templates) -> None:
        self.scope, self.templates, self.lock = scope, templates, threading.Lock()
        self.desk, self.suppliers, self.skies, self.queue = Desk(), Suppliers(), Skies(), Queue(scope.engine)
        self.rooms: OrderedDict[str, Room] = OrderedDict()

    def room(self, of: str, actor: str = "") -> Room:
        """The room of a workspace, as one who comes in there works in it."""
        with self.lock:
            found = self.rooms.get(of) or self._made(of)
            self.rooms[of] = found
            self.rooms.move_to_end(of)
            gone = [k for k, r in self.rooms.items() if not r.hub.live and k != of][
                : max(0, len(self.rooms) - MOST_ROOMS)
            ]
            left = [self.rooms.pop(k) for k in gone]
        for each in left:
            each.hub.close()
        return replace(found, scope=replace(found.scope, actor=actor)) if actor else found

    def _made(self, of: str) -> Room:
        scope = replace(self.scope, workspace=of)
        plans = Plans(
            read_overrides=partial(workspace.overrides, scope),
            read_known=lambda job_id: known(scope, job_id)[1].built,
        )
        return Room(scope, plans, Hub(scope), self.desk, self.suppliers, self.skies, self.queue, self.templates)

    def take_up(self) -> None:
        """Go on with what was being recorded in any workspace when the process before this one ended."""
        self.room(self.scope.workspace).hub.notice()
        with contextlib.suppress(DatabaseAway):  # then whoever comes in sees to it
            for of in walks.recording_in(self.scope.engine):
                self.room(of).hub.notice()

    def close(self) -> None:
        """Close what was opened."""
        for each in self.rooms.values():
            each.hub.close()
        for shared in (self.desk, self.suppliers, self.skies, self.queue):
            shared.close()
