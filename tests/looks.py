"""How a page looks, asked in the browser: what axe finds wrong, how wide it is."""

from places import HOME

AXE = (HOME / "tests" / "browser" / "vendor" / "axe.min.js").read_text("utf8")
FAULTS = """(rules) => axe.run({ resultTypes: ['violations'], ...rules }).then((r) => r.violations.map((v) =>
  v.id + ': ' + v.nodes.map((n) => n.html.slice(0, 110) + ' ' + (n.any[0]?.message ?? '').slice(0, 120)).slice(0, 4).join(' | ')))"""
COLOURS = {
    "runOnly": ["color-contrast", "color-contrast-enhanced", "link-in-text-block"],
    "rules": {"color-contrast-enhanced": {"enabled": True}},
}
WIDE = "document.documentElement.scrollWidth"
TWO_FRAMES = "new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)))"


def faults(page, rules=None):
    """What is wrong on the page that is open, by axe's rules."""
    page.evaluate(AXE)
    return page.evaluate(FAULTS, rules or {})
