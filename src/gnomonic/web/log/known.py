"""What is known of a job from the field, folded once for each state of its events."""

from gnomonic.core.kept import KeptBy
from gnomonic.core.log.events import Kept
from gnomonic.core.log.facts import Facts, facts
from gnomonic.store import events, field
from gnomonic.store.scope import Scope

_folded: KeptBy[tuple[list[Kept], Facts]] = KeptBy(16)


def known(scope: Scope, job_id: str) -> tuple[list[Kept], Facts]:
    """Every event of a job that is taken in, and what they come to."""

    def fold() -> tuple[list[Kept], Facts]:
        kept = events.of_job(scope, job_id)
        return kept, facts(kept)

    return _folded.of(scope.engine, (scope.workspace, job_id, field.last_arrival(scope, job_id)), fold)
