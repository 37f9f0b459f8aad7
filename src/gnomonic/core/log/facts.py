"""What events come to: posts as built, which the plan answers to, and everything else that stands.

The later event on one thing stands, the earlier is named beside it; a void takes one back.  Any order of arrival, and anything
twice, gives the same.  Source: docs/method.md §11 and §19.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, fields
from typing import Any

from gnomonic.core.log.events import PLAN_KINDS, Event, Kept
from gnomonic.core.log.kinds import kinds


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


OF_BUILT = {f.name for f in fields(Built)}
Known = Mapping[str, tuple[Built, ...]]  # by line letter


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
    kind = kinds()[event.kind]
    own = (event.id,) if kind.beside else ()
    return (
        event.line,
        event.post,
        event.kind,
        event.thing or "",
        *(str(getattr(event, k)) for k in kind.told_by),
        *own,
    )


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
    """What they come to.  What an event ends (``kinds()``) does not stand any more; it is not what was said of the same before."""
    stand: dict[tuple[str, ...], Kept] = {}
    of_post: dict[tuple[str, ...], set[tuple[str, ...]]] = {}
    earlier: dict[str, tuple[str, ...]] = {}
    for k in in_order(kept):
        key = subject(k.event)
        beside = of_post.setdefault(key[:2], set())
        if old := stand.pop(key, None):
            earlier[k.event.id] = (*earlier.pop(old.event.id, ()), old.event.id)
        if ends := kinds()[k.event.kind].ends:
            for other in [o for o in beside if o[2] in ends]:
                beside.discard(other)
                earlier.pop(stand.pop(other).event.id, None)
        stand[key] = k
        beside.add(key)
    rows = tuple(stand.values())
    return Facts(_built([k.event for k in rows if k.event.kind in PLAN_KINDS], earlier), rows, earlier)


def fold(kept: Iterable[Kept]) -> Known:
    """What is known of every post as built, by line, in order of the stations."""
    return facts(kept).built


def _built(events: Iterable[Event], earlier: Mapping[str, tuple[str, ...]]) -> dict[str, tuple[Built, ...]]:
    """Posts as the events that stand have them, in the order they happened."""
    posts: dict[tuple[str, str], list[Event]] = {}
    for e in events:
        posts.setdefault((e.line, e.post), []).append(e)
    lines: dict[str, list[Built]] = {}
    for (line, post), rows in posts.items():
        lines.setdefault(line, []).append(_of_post(post, rows, earlier))
    return {line: tuple(sorted(rows, key=lambda b: (b.at_m, b.post))) for line, rows in lines.items()}


def _of_post(post: str, rows: Sequence[Event], earlier: Mapping[str, tuple[str, ...]]) -> Built:
    known: dict[str, Any] = {"at_m": rows[0].at_m}
    for e in rows:
        kind = kinds()[e.kind]
        known |= {name: getattr(e, value) for value, name in kind.sets.items()} | (
            {kind.marks: True} if kind.marks else {}
        )
        if "along_m" in kind.sets:
            known["at_m"] = e.at_m
        if e.e_m is not None and e.n_m is not None:
            known["place_m"] = (e.e_m, e.n_m)
    clear = tuple(Clear(bool(e.ahead), e.clear_m or 0.0, e.outer_m, e.inner_m) for e in rows if e.kind == "clear")
    before = tuple(old for e in rows for old in earlier.get(e.id, ()))
    said = {k: v for k, v in known.items() if v is not None and k in OF_BUILT}
    return Built(post, clear=clear, said=tuple(e.id for e in rows), earlier=before, **said)
