"""The page's own units, bearings and gaps, held to the table that Python is held to (``cases_of_both.json``)."""

import json

import pytest
from places import HOME

CASES = json.loads((HOME / "tests" / "cases_of_both.json").read_text("utf8"))
SCRIPT = """async ([base, cases]) => {
  const u = await import(base + 'static/units.js');
  const plan = await import(base + 'walk/plan.js');
  const ground = await import(base + 'set/profile.js');
  const quantity = cases.quantity.map(([v, kind, system]) => { u.setUnits(system, false); return u.quantity(v, kind); });
  const { gap } = cases;
  const data = { ground: gap.ground.map(([s, z]) => [s, 0, 0, z]), decisions: { clearance_m: gap.clear } };
  return {
    quantity,
    typed: cases.typed.map(([text, bare]) => u.parseLength(text, bare)),
    bearing: cases.bearing.map(([e, n]) => plan.bearingOf([0, 0], [e, n])),
    quadrant: cases.quadrant.map(([b]) => plan.quadrant(b)),
    gaps: ground.gapsOf(data, { from: gap.from, to: gap.to }).map(([s, g]) => [s, g]),
  };
}"""


def test_the_page_and_the_core_work_out_the_same(surface):
    base = surface.evaluate("document.querySelector('script[type=module]').src.replace(/set\\/set\\.js$/, '')")
    found = surface.evaluate(SCRIPT, [base, CASES])
    assert found["quantity"] == [r[3] for r in CASES["quantity"]]
    assert found["typed"] == pytest.approx([r[2] for r in CASES["typed"]])
    assert found["bearing"] == pytest.approx([r[2] for r in CASES["bearing"]])
    assert found["quadrant"] == [r[1] for r in CASES["quadrant"]]
    assert [g for _, g in found["gaps"]] == pytest.approx([g for _, g in CASES["gap"]["gaps"]])
