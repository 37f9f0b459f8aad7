"""What events come to: posts as built, which the plan answers to, and everything else that stands.

The later event on one thing stands, the earlier is named beside it; a void takes one back.  Any order of arrival, and anything
twice, gives the same.  Source: docs/method.md §11 and §19.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace

from gnomonic.core.log.events import PLAN_KINDS, Event, Kept


@dataclass(frozen=True, slots=True)
class Clear:
    """A brace as measured: clear distance between faces and the posts' thickness, where that was."""

    ahead: bool
    clear_m: float
    outer_m: float | None
    inner_m: float | None


@dataclass(frozen=True, slots=True)
class Built:
    """What is known of one post as built; ``said`` the events that stand, ``earlier`` those that another stands over."""

    post: str
    at_m: float
    reached_m: float | None = None
    met: str = ""
    proud_m: float | None = None
    along_m: float = 0.0
    across_m: float = 0.0
    pilot_m: float | None = None
    pilot_met: str = ""
    accepted: bool = False
    cut: bool = False
    clear: tuple[Clear, ...] = ()
    place_m: tuple[float, float] | None = None
    said: tuple[str, ...] = ()
    earlier: tuple[str, ...] = ()

    @property
    def stands_m(self) -> float:
        """The station it stands at."""
        return self.at_m + self.along_m


Known = Mapping[str, tuple[Built, ...]]  # by line letter
MANY = frozenset(
    {"found", "photo", "note", "repair", "hazard", "miss", "thunder", "brief", "dig_anyway", "round"}
)  # each stands beside the others


GIVEN_UP = frozenset(
    {"depth", "proud", "pilot", "accept", "cut"}
)  # of a hole: no facts of its post any more once it was dug elsewhere


@dataclass(frozen=True, slots=True)
class Facts:
    """All that is known: posts as ``built`` by line, the events that ``stand`` in the order they happened, and which ``earlier`` ones each
    stands over (ids)."""

    built: Known
    stand: tuple[Kept, ...]
    earlier: Mapping[str, tuple[str, ...]]

    def of(self, *kinds: str) -> list[Kept]:
        """What stands of some kinds."""
        return [k for k in self.stand if k.event.kind in kinds]


def subject(event: Event) -> tuple[str, ...]:
    """What an event is of: of two with the same subject the later stands."""
    own = (event.id,) if event.kind in MANY else ()
    side = (str(event.ahead),) if event.kind == "clear" else ()
    return (event.line, event.post, event.kind, event.thing or "", *side, *own)


def in_order(kept: Iterable[Kept]) -> list[Kept]:
    """Events once each, as they happened, without those taken back."""
    once: dict[str, Kept] = {}
    for k in kept:
        there = once.setdefault(k.event.id, k)
        if there is not k and there != k:  # one id, two events: the same of them whoever came first
            once[k.event.id] = min(there, k, key=lambda o: (o.order, o.by, o.event.model_dump_json()))
    rows = sorted(once.values(), key=lambda k: (*k.order, k.event.id))
    gone = {k.event.of for k in rows if k.event.kind == "void"}
    return [k for k in rows if k.event.kind != "void" and k.event.id not in gone]


def facts(kept: Iterable[Kept]) -> Facts:
    """What they come to."""
    stand: dict[tuple[str, ...], Kept] = {}
    earlier: dict[str, tuple[str, ...]] = {}
    rows = in_order(kept)
    for k in rows:
        key = subject(k.event)
        over = [key, *([(*key[:2], kind, "") for kind in sorted(GIVEN_UP)] if k.event.kind == "redug" else [])]
        for old in [stand.pop(o) for o in over if o in stand]:
            earlier[k.event.id] = (*earlier.get(k.event.id, ()), *earlier.pop(old.event.id, ()), old.event.id)
        stand[key] = k
    return Facts(_built(k.event for k in rows if k.event.kind in PLAN_KINDS), tuple(stand.values()), earlier)


def fold(kept: Iterable[Kept]) -> dict[str, tuple[Built, ...]]:
    """What is known of every post as built, by line, in order of the stations."""
    return _built(k.event for k in in_order(kept) if k.event.kind in PLAN_KINDS)


@dataclass(slots=True)
class _Of:
    """A post while its events are folded: what is known, and the event that says each thing."""

    built: Built
    by: dict[str, str] = field(default_factory=dict)
    over: list[str] = field(default_factory=list)

    def take(self, key: str, event: Event) -> None:
        if key in self.by:
            self.over.append(self.by[key])
        self.by[key] = event.id


def _built(events: Iterable[Event]) -> dict[str, tuple[Built, ...]]:
    found: dict[tuple[str, str], _Of] = {}
    for e in events:
        of = found.setdefault((e.line, e.post), _Of(Built(e.post, e.at_m)))
        b = of.built
        match e.kind:
            case "depth":
                b = replace(b, reached_m=e.reached_m, met=e.met or "", accepted=False, cut=False)
            case "proud":
                b = replace(b, proud_m=e.proud_m, accepted=False, cut=False)
            case "moved":
                b = replace(b, at_m=e.at_m, along_m=e.along_m or 0.0, across_m=e.across_m or 0.0)
            case "redug":  # the hole was given up: what was reached in it is no fact of the post any more
                b = Built(b.post, e.at_m, along_m=e.along_m or 0.0, clear=b.clear)
            case "pilot":
                b = replace(b, pilot_m=e.reached_m, pilot_met=e.met or "")
            case "clear":
                own = Clear(bool(e.ahead), e.clear_m or 0.0, e.outer_m, e.inner_m)
                b = replace(b, clear=(*(c for c in b.clear if c.ahead != own.ahead), own))
            case "accept":
                b = replace(b, accepted=True)
            case "cut":
                b = replace(b, cut=True)
        if e.e_m is not None and e.n_m is not None:
            b = replace(b, place_m=(e.e_m, e.n_m))
        of.built = b
        of.take(f"{e.kind}{e.ahead if e.kind == 'clear' else ''}", e)
    lines: dict[str, list[Built]] = {}
    for (line, _), of in found.items():
        lines.setdefault(line, []).append(replace(of.built, said=tuple(of.by.values()), earlier=tuple(of.over)))
    return {line: tuple(sorted(rows, key=lambda b: (b.at_m, b.post))) for line, rows in lines.items()}
