"""Events of any kind, with values drawn from anywhere within the bounds of the table of kinds."""

from datetime import UTC, datetime, timedelta

from gnomonic.core.log.kinds import kinds, values

# few posts, so that most events are about something said before
FEW = [(line, str(post), 1.0) for line in "AB" for post in range(1, 5)]


def some_value(rng, name):
    """A value of an event, anywhere within its bounds."""
    value = values()[name]
    if bounds := value.number or value.whole:
        low = bounds.least if bounds.above is None else bounds.above + 0.001
        some = rng.uniform(low, min(bounds.most, low + 3))
        return round(some) if value.whole else round(some, 3)
    if value.yes_no:
        return rng.random() < 0.5
    return (
        rng.choice(value.words)
        if value.words
        else {"photo": "a" * 64, "way": "strand", "strokes": "M1 2"}.get(name, rng.choice("ab"))
    )


def some_row(rng, n, count, posts=FEW):
    """An event of any kind, as a phone keeps it, about one of some posts (line, name, station)."""
    key = rng.choice(list(kinds()))
    kind = kinds()[key]
    device = rng.choice("abc")
    said = {*kind.needs, *(v for v in (*kind.may, *kind.one_of[:1]) if rng.random() < 0.5), *kind.one_of[:1]} - {"of"}
    event = {
        "id": f"00000000-0000-4000-8000-{n:012d}",
        "device": device,
        "seq": n,
        "kind": key,
        **{v: some_value(rng, v) for v in sorted(said)},
    }
    event["clock"] = (datetime(2026, 6, 1, tzinfo=UTC) + timedelta(minutes=rng.randrange(300))).isoformat()
    if kind.of != "job" or rng.random() < 0.3:
        event |= dict(zip(("line", "post", "at_m"), rng.choice(posts), strict=True))
    if key == "void":
        event["of"] = f"00000000-0000-4000-8000-{rng.randrange(count):012d}"
    return {"event": event, "offset_s": {"a": 0, "b": -3600, "c": 90}[device]}
