"""Sentences and tags as the page reads them: templates with values, which it prints in its own units."""

from collections.abc import Sequence
from typing import Any

from gnomonic.core.demand.catalog import catalog
from gnomonic.core.errors import BadInput
from gnomonic.core.prose import Both
from gnomonic.core.say import Say, Value, Why
from gnomonic.core.tell.facts import Fact
from gnomonic.core.tell.tag import Tag


def said(sentence: Say | str) -> dict[str, Any]:
    """A sentence for the page, which puts the values in its own units."""
    template, values = (Say(sentence) if isinstance(sentence, str) else sentence).spoken()
    return {"t": template, "v": {k: _value(v) for k, v in values.items()}}


def refusal(error: BadInput) -> Say:
    """What a refusal says, with its values where it has any."""
    return Say(error.said.t, error.said.v) if error.said else Say("{it}", {"it": error.sentence})


def _value(value: Value) -> Any:
    if isinstance(value, Both):
        return {"us": value.us, "metric": value.metric}
    return value if isinstance(value, str) else [round(value[0], 5), value[1]]


def _other(reason: Why) -> dict[str, Any] | None:
    """The other school's answer, when there is one."""
    other = reason.other
    return said(other if isinstance(other, Say) else Say(other)) if other else None


def facts_json(facts: Sequence[Fact]) -> list[dict[str, Any]]:
    """Facts with what stands behind each, for the page."""
    return [
        {
            "name": f.name,
            "value": said(f.value),
            "note": said(f.note) if f.note else "",
            "why": {
                "rule": said(f.why.rule),
                "working": said(f.why.working),
                "source": said(f.why.source),
                "other": _other(f.why),
            },
        }
        for f in facts
    ]


def tag_json(tag: Tag) -> dict[str, Any]:
    """A tag for the page."""
    fittings = [
        {
            "item": f.item,
            "title": catalog()[f.item].title,
            "count": f.count,
            "heights": [mm(h) for h in f.heights_m],
            "way": said(f.way),
            "order": f.order,
            "tied": f.tied,
        }
        for f in tag.fittings
    ]
    return {
        "title": tag.title,
        "station_m": tag.station_m,
        "facts": facts_json(tag.facts),
        "cautions": [said(c) for c in tag.cautions],
        "fittings": fittings,
    }


def mm(value: float) -> float:
    """A length to a tenth of a millimetre."""
    return round(value, 4)
