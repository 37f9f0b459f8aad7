"""Every sentence of every demo line, read in both unit systems: no inch is left in metric, no metre in feet and inches."""

import re
from datetime import date

import pytest
from places import demo_fences, plan

from gnomonic.core.choose.rank import rank
from gnomonic.core.demand.animals import shipped
from gnomonic.core.demand.catalog import catalog
from gnomonic.core.demand.demand import demand_of
from gnomonic.core.demand.system import systems
from gnomonic.core.fabric.fabrics import fabrics, wires
from gnomonic.core.prose import in_both
from gnomonic.core.say import Say
from gnomonic.core.snags.all import snags
from gnomonic.core.tell.tag import bay_tag, post_tag, splice_tag
from gnomonic.core.tell.tag_job import job_tag
from gnomonic.core.tell.walk_list import walk_list
from gnomonic.core.units import format_quantity
from gnomonic.formats.sheets import brace_rows, stake_out, take_off_rows
from gnomonic.web.draw.lanes import drawing
from gnomonic.web.draw.words import said, tag_json
from gnomonic.web.hold.routes import candidate_json, demands_json, verdict_json, words_json
from gnomonic.web.plans import decision_words

STRANGE = {
    "metric": re.compile(r"\d[½¼¾⅛⅜⅝⅞]? ?(?:in|ft|lb|sq ft|cu ft)\b"),
    "us": re.compile(r"\d ?(?:mm|cm|m|kN|N)\b"),
}
POSTS = {p.title for s in systems().values() for p in s.posts.values()}
NAMES = sorted(
    POSTS
    | {label for s in systems().values() for label in s.labels()}
    | {i.title for i in catalog().values()}
    | {w.title for w in wires().values()}
    | set(fabrics()),
    key=len,
)[::-1]  # what is printed on goods stays as it is
NAME = re.compile("|".join(re.escape(name) for name in NAMES), re.IGNORECASE)
SIZES = re.compile(r"\d ?× ?\d+ in|\d in (?:all|dips|100)")  # a mesh's or a board's size is its name
JOBS = demo_fences()


def read(sentence, system):
    """As the page prints it."""

    def put(match):
        value = sentence["v"].get(match.group(1), match.group(0))
        if isinstance(value, dict):
            return value[system]
        return value if isinstance(value, str) else format_quantity(*value, system)

    return re.sub(r"\{(~?\w+)\}", put, sentence["t"])


def sentences(tree):
    """Every sentence of a tree of plain data, and every text that is said as it stands."""
    if isinstance(tree, dict) and set(tree) == {"t", "v"}:
        yield tree
    elif isinstance(tree, dict):
        for part in tree.values():
            yield from sentences(part)
    elif isinstance(tree, list | tuple):
        for part in tree:
            yield from sentences(part)
    elif isinstance(tree, str):
        yield {"t": tree, "v": {}}


def strange(text, system):
    if not STRANGE[system].search(text):
        return None
    text = SIZES.sub("", NAME.sub("", text))
    return STRANGE[system].search(text)


@pytest.mark.parametrize("job", JOBS, ids=[j.name.rpartition("· ")[2] for j in JOBS])
def test_every_sentence_of_a_line_in_both_systems(job):
    made = plan(job)
    demand = demand_of(job.hold)
    ranking = rank(job, made, shipped())
    roles = {(p.kind, p.role, p.because): p.index for p in made.posts}.values()
    tags = [job_tag(job, made), *(post_tag(job, made, k) for k in roles), bay_tag(job, made, 0)]
    tags += [splice_tag(job, made, k) for k in range(min(1, len(made.rolls.splices)))]
    found = snags(job, made, date(2026, 11, 26))
    drawn = drawing(job, made, found)
    drawn.pop("source")  # what a file said of itself
    tree = [
        drawn,
        [tag_json(t) for t in tags],
        decision_words(),
        words_json(shipped()),
        demands_json(demand),
        [candidate_json(c, demand) for c in (*ranking.meets, *ranking.near)],
        [verdict_json(v) for c in ranking.meets for v in c.verdicts],
        [said(r.where) for r in walk_list(made)],
        [said(r.caution) for r in walk_list(made)],
    ]
    for system in ("us", "metric"):
        for sentence in sentences(tree):
            text = read(sentence, system)
            assert not strange(text, system), (system, text)
        for rows in (stake_out(made, system), brace_rows(made, system), take_off_rows(job, made, system)):
            for row in rows:
                for cell in row.values():
                    assert not strange(cell, system), (system, cell)


@pytest.mark.parametrize(
    ("text", "metric", "us"),
    [
        ("2 to 3 in, a boot toe", "50 to 75 mm, a boot toe", "2 to 3 in, a boot toe"),
        ("a 16 ft leaf in 16 ft 3 in", "a 4.88 m leaf in 4.95 m", "a 16 ft leaf in 16 ft 3 in"),
        ("165, 200 and 660 ft are sold", "50.3, 61 and 201.2 m are sold", "165, 200 and 660 ft are sold"),
        ("600 mm out, 1.2 m up", "600 mm out, 1.2 m up", "1 ft 11½ in out, 3 ft 11 in up"),
        ("about 250 lb each", "about 1.1 kN each", "about 250 lb each"),
        ("5 in all, 1 in 100, 2 × 4 in mesh, 9-49-6", "5 in all, 1 in 100, 2 × 4 in mesh, 9-49-6", None),
        ("{n}: 18 in", "the 4 in gap: 455 mm", "the 4 in gap: 18 in"),
    ],
)
def test_lengths_in_prose(text, metric, us):
    sentence = Say(text, {"n": "the 4 in gap"})
    assert sentence.text("metric") == metric and sentence.text("us") == (us or text)
    assert in_both(text)[0].count("{~") == len(in_both(text)[1])
