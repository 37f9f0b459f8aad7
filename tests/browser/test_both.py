"""The page's own units, bearings and gaps, held to the table that Python is held to (``cases_of_both.json``)."""

import json

import pytest
from places import HOME

CASES = json.loads((HOME / "tests" / "cases_of_both.json").read_text("utf8"))
SCRIPT = """async ([base, cases]) => {
  const u = await import(base + 'static/units.js');
  const plan = await import(base + 'walk/plan.js');
  const ground = await import(base + 'strip/profile.js');
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


DRAWN = """async (base) => {
  const [{ View }, fence, { groundLane }, { postsLane }, { dimensions }] = await Promise.all(['strip/view.js', 'strip/fence.js', 'strip/ground.js', 'strip/lanes.js', 'strip/dims.js'].map((m) => import(base + m)));
  const data = JSON.parse(document.getElementById('drawing').textContent);
  const count = (nodes, sign) => Object.fromEntries(nodes.map((n) => [n.getAttribute('class').split(' ')[1], (n.getAttribute('d').match(new RegExp(sign, 'g')) ?? []).length]));
  const view = new View(data, { width: 900, left: 100, window: [0, data.length] }).stand(400);
  const before = JSON.stringify([data, view.window, view.middle, view.up]);
  const ground = groundLane(view, 400);
  const drawn = {
    posts: count(fence.posts(view), 'Z'),
    marks: count([...postsLane(view, 34)[0].querySelectorAll('.mark')], 'Z'),
    flags: ground.filter((n) => n.getAttribute('class')?.startsWith('flag')).length,
    gates: fence.gates(view).length,
    rails: (fence.braces(view)[0].getAttribute('d').match(/M/g) ?? []).length,
    sheet: (fence.fabric(view)[0].getAttribute('d').match(/Z/g) ?? []).length,
  };
  const half = new View(data, { width: 900, left: 100, window: [0, data.length / 2] }).stand(400);
  drawn.half = (fence.fabric(half)[0].getAttribute('d').match(/Z/g) ?? []).length;
  drawn.inGate = dimensions(half, 400, data.gates[0].at + 0.5).map((n) => n.textContent).join('');
  drawn.pure = before === JSON.stringify([data, view.window, view.middle, view.up]);
  return [data, drawn];
}"""


def test_what_is_drawn_is_what_was_counted_and_drawing_changes_nothing(surface):
    base = surface.evaluate("document.querySelector('script[type=module]').src.replace(/set\\/set\\.js$/, '')")
    data, drawn = surface.evaluate(DRAWN, base)
    kinds = [p["kind"] for p in data["posts"]]
    again = data["posts"][0]["kind"]  # the closed line's first post stands at both ends of its strip
    assert drawn["posts"] == {k: kinds.count(k) + (k == again and data["closed"]) for k in set(kinds)}
    assert sum(drawn["marks"].values()) >= len(kinds)
    assert drawn["flags"] == len(data["snags"]) and drawn["gates"] == len(data["gates"])
    assert drawn["rails"] == sum(len(b["at"]) - 1 for b in data["braces"]) + len(data["struts"])
    assert drawn["sheet"] == len(data["bays"]) and drawn["half"] == sum(
        b["from"] <= data["length"] / 2 for b in data["bays"]
    )
    assert "between post centres" in drawn["inGate"] and data["gates"][0]["name"] in drawn["inGate"]
    assert drawn["pure"]
