"""What is known of a job from the field, folded once for each state of its events."""

import threading
from collections import OrderedDict

from gnomonic.core.log.events import Kept
from gnomonic.core.log.facts import Facts, facts
from gnomonic.store import events, field
from gnomonic.store.scope import Scope

KEEP = 16
_held: OrderedDict[tuple[int, str, str, int], tuple[list[Kept], Facts]] = OrderedDict()
_lock = threading.Lock()


def known(scope: Scope, job_id: str) -> tuple[list[Kept], Facts]:
    """Every event of a job that is taken in, and what they come to."""
    key = (id(scope.engine), scope.workspace, job_id, field.last_arrival(scope, job_id))
    with _lock:
        if key in _held:
            _held.move_to_end(key)
            return _held[key]
    kept = events.of_job(scope, job_id)
    made = kept, facts(kept)
    with _lock:
        _held[key] = made
        while len(_held) > KEEP:
            _held.popitem(last=False)
    return made
