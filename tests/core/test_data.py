"""Trade facts are data: each with its reason, its source, the date it was looked at; and the documents are complete."""

import json
import re
import tomllib

import pytest
from places import HOME

from gnomonic.cli import parser
from gnomonic.core.calc import KINDS
from gnomonic.core.demand.catalog import catalog
from gnomonic.core.demand.section import section
from gnomonic.core.demand.system import systems
from gnomonic.core.edits.all import Edit
from gnomonic.core.fabric.fabrics import fabrics
from gnomonic.core.fabric.label import read_label
from gnomonic.core.finish.cable import cables
from gnomonic.core.finish.crossing import flaps
from gnomonic.core.finish.gates import gate_kinds
from gnomonic.core.job.decided import decision_rules
from gnomonic.core.job.parts import Decisions
from gnomonic.core.sourced import inherit
from gnomonic.core.units import INCH_M

FILES = sorted((HOME / "src" / "gnomonic" / "core").glob("*/data/**/*.toml"))


def rows(tree):
    """Every table in a data file that carries a value of the trade."""
    if isinstance(tree, dict):
        if "source" in tree:
            yield tree
        for part in tree.values():
            yield from rows(part)
    elif isinstance(tree, list):
        for part in tree:
            yield from rows(part)


@pytest.mark.parametrize("file", FILES, ids=[f.name for f in FILES])
def test_every_value_has_a_source_and_a_date(file):
    tree = tomllib.loads(file.read_text("utf8"))
    source, checked = tree.pop("source", ""), tree.pop("checked", None)
    found = list(rows(inherit(tree, source, checked) if checked else tree))
    assert len(found) >= 2
    for row in found:
        assert row["source"] in ("common practice", "from memory") or row["source"].endswith(", from memory")
        assert row["checked"].year >= 2026 and len(row["reason"]) > 9


def test_decisions_are_all_there_and_start_within_their_range():
    rules = decision_rules()
    assert set(rules) == set(Decisions.model_fields)
    for key, rule in rules.items():
        assert rule.least <= rule.value <= rule.most, key
        assert key.endswith("_m") == (rule.kind in ("station", "gap", "cut", "depth")), key
    Decisions.model_validate({})


def test_fabrics_are_as_high_as_their_labels_say_and_closer_at_the_bottom():
    for fabric in [f for f in fabrics().values() if f.spacing_in]:
        label = read_label(fabric.label)
        assert fabric.wires == label.line_wires and fabric.stay_m == pytest.approx(label.stay_in * INCH_M)
        assert fabric.height_m / INCH_M == pytest.approx(label.height_in, abs=1.0), fabric.label
        assert list(fabric.spacing_in) == sorted(fabric.spacing_in)
        assert fabric.wire_heights_m[0] == 0 and fabric.wire_heights_m[-1] == pytest.approx(fabric.height_m)
        assert 1500 < fabric.pull_n < 80_000


def test_posts_are_sold_long_enough_for_everything_a_system_hangs():
    for of in systems().values():
        clearance = of.starts()["clearance_m"]
        for label in of.labels():
            hung = section(of.key, label)
            high = (clearance if hung.clearance_m is None else hung.clearance_m) + hung.top_m
            for rule in of.posts.values():
                stock = rule.stock_for(high + rule.over_m)
                assert stock >= high + rule.over_m + rule.depth_m - 1e-6, (of.key, label, rule.title)
                assert list(rule.stock_m) == sorted(rule.stock_m)


def test_every_item_a_rule_names_is_in_the_catalog():
    for of in systems().values():
        for rule in (
            *of.fittings,
            *of.bay_fittings,
            *of.run_fittings,
            *of.splice_fittings,
            *of.sticks,
        ):
            assert rule.item in catalog(), (of.key, rule.item)
        assert of.gate in gate_kinds() and (of.gate_post or of.key == "fauna")
        for key in of.start:
            assert key in decision_rules(), (of.key, key)
    parts = [h.item for kind in gate_kinds().values() for h in kind.hardware]
    assert {*parts, *(c.item for c in cables().values()), *(f.item for f in flaps().values())} <= set(catalog())


def test_every_command_and_sum_and_edit_is_in_the_documents():
    readme, sums = (HOME / "README.md").read_text(), (HOME / "docs" / "calc.md").read_text()
    commands = parser()._subparsers._group_actions[0].choices
    for command in commands:
        assert re.search(rf"\b{command}\b", readme), command
    for kind, (model, _) in KINDS.items():
        assert f"**{kind}**" in sums
        for name in model.model_fields if kind not in ("brace", "embed", "pull") else ():
            assert f"`{name}`" in sums, (kind, name)
    edits = (HOME / "docs" / "job-format.md").read_text()
    for kind in re.findall(r"Literal\['(\w+)'\]", str(Edit)) or ["decide"]:
        assert f"`{kind}`" in edits, kind


def test_the_readme_shows_every_picture():
    readme = (HOME / "README.md").read_text()
    for picture in (HOME / "docs" / "screenshots").glob("*.png"):
        assert f"docs/screenshots/{picture.name}" in readme, picture.name


def test_documents_point_at_files_that_are_there():
    for document in [HOME / "README.md", *(HOME / "docs").glob("*.md")]:
        for target in re.findall(r"\]\(([^)#]+)\)", document.read_text()):
            assert (document.parent / target).exists(), (document.name, target)


def test_the_methods_worked_examples_are_the_programs():
    """The figures printed in docs/method.md are computed again."""
    from gnomonic.core.calc import calc

    method = (HOME / "docs" / "method.md").read_text()
    brace = calc("brace", {"type": "h", "pull_n": 4000, "pull_height_m": 0.9, "rail_height_m": 1.05, "spacing_m": 2.4})
    assert (
        f"C = {brace['rail_n'][0]:.1f}, T = {brace['wire_n'][0]:.1f}, uplift {brace['end_post_uplift_n']:.0f} N"
        in method
    )
    rolls = calc("rolls", {"roll_m": 100.0, "runs_m": [60.0, 70.0, 40.0, 30.0], "overlap_m": 0.3, "piece_min_m": 0.0})
    assert (rolls["new_rolls"], rolls["splices"], rolls["greedy"]) == (2, 0, {"new_rolls": 3, "splices": 2})
    assert "two rolls without a splice; roll after roll in order takes three with two" in method
    schema = json.loads((HOME / "docs" / "job.schema.json").read_text())
    assert schema["properties"]["format"]["const"] == "gnomonic-job/2"
