// What line posts are set to: guide wires, the string's offset, the line of heads; and what wind does to them.
import { html } from "../static/svg.js";
import { length, quantity, say } from "../static/units.js";

const num = (value, kind) => html("td", { class: "num" }, quantity(value, kind));

function table(caption, heads, rows, empty) {
  if (!rows.length) return html("p", { class: "quiet" }, empty);
  return html("div", { class: "tablebox" }, html("table", { class: "plain-table" }, html("caption", {}, caption), html("thead", {}, html("tr", {}, ...heads.map(([t, c]) => html("th", { scope: "col", class: c ?? "" }, t)))), html("tbody", {}, ...rows)));
}

export function guidesPanel(panel, g) {
  const rows = g.sides.map((s, k) => html("tr", {}, html("th", { scope: "row" }, `side ${k + 1}`), html("td", { class: "num" }, `${length(s.from, "station")} to ${length(s.to, "station")}`), num(s.long, "station"), html("td", { class: "num" }, String(s.posts)), html("td", {}, s.sights.length ? `poles at ${s.sights.map(([at]) => length(at, "station")).join(", ")}, the wire ${length(g.high, "cut")} up each` : "straight from end to end"), num(s.least, "gap"), num(s.most, "gap")));
  const offsets = g.offsets.map((o) => html("tr", {}, html("th", { scope: "row" }, say(o.title)), num(o.wide, "cut"), num(o.terminal, "cut"), html("td", { class: "num" }, g.railed ? length(Math.max(0, o.off), "gap") : "0 in"), html("td", {}, g.railed ? "off a string along the terminals’ faces, so that all share one centreline and the rail runs through it" : "faces in one line: what hangs lies against all of them; touch the string, never lean on it")));
  const parts = [
    html("p", {}, `One wire or string for each side, drawn before its line posts and never one round them all: crews can then set one side while the next is drilled. Hand-tight, ${length(g.high, "cut")} over the ground at both ends; where that drags on a hump or stands out of reach over a dip a sighting pole holds it.`),
    table("Guide wires", [["Side"], ["Between", "num"], ["Wire", "num"], ["Line posts", "num"], ["Held"], ["Least over ground", "num"], ["Most", "num"]], rows, "The line has no side long enough for a wire."),
    table("Line posts against the string", [["Kind"], ["Across", "num"], ["Terminals across", "num"], ["Off the string", "num"], ["So that"]], offsets, "No post stands between the terminals."),
    html("h2", {}, "The line of heads"),
    html("p", {}, `${g.holed ? "These posts are holed before they are set: their holes must line up" : "For posts that are holed before they are set, and for a top that is seen from far"}: heads within ${quantity(g.tolerance, "gap")} of a string from post to post where it is broken (marked). A post within ${quantity(g.give, "gap")} of the string is set deeper or less deep by that much; where the ground asks for more the string is broken there.`),
  ];
  for (const run of g.heads) {
    const moved = run.posts.filter((p) => p.node || Math.abs(p.off) > 0.003);
    parts.push(table(`Run ${run.run}: ${run.posts.filter((p) => p.node).length - 1} strings over ${run.posts.length} posts`, [["Post"], ["Station", "num"], ["Head over ground", "num"], ["Set"], ["Deep", "num"]], moved.map((p) => html("tr", p.node ? { class: "now" } : {}, html("th", { scope: "row" }, p.name), num(p.at, "station"), num(p.head, "cut"), html("td", {}, p.node ? "holds the string" : `${quantity(Math.abs(p.off), "gap")} ${p.off > 0 ? "less deep" : "deeper"}`), num(p.depth, "depth"))), "Every head lies on one string."));
  }
  panel.replaceChildren(...parts);
}

const CASES = { bare: "bare", ice: "iced, at six tenths of the gust", litter: "fine mesh caught three tenths full" };

export function windPanel(panel, w, job) {
  const speed = html("input", { class: "form-control", type: "number", min: "0", max: "80", step: "1", value: String(w.speed) });
  const form = html("form", { class: "soilform", "aria-label": "Gust" }, html("label", {}, "Gust it must stand, m/s (0: not asked)", speed), html("button", { class: "btn btn-quiet" }, "Take it"), html("span", { class: "quiet" }, `${quantity(w.speed, "speed")}: a winter storm inland; the local code’s map says more for coasts and ridges.`));
  form.addEventListener("submit", (event) => {
    event.preventDefault();
    job.edit({ do: "decide", key: "wind_m_s", value: Number(speed.value) });
  });
  const faces = w.faces.map((f) => html("tr", {}, html("th", { scope: "row" }, CASES[f.case]), num(f.speed, "speed"), num(f.share, "share"), num(f.push, "load"), num(f.at, "cut")));
  const rows = w.rows.map((r) => html("tr", {}, html("th", { scope: "row" }, r.name), num(r.at, "station"), html("td", {}, say(r.kind)), html("td", {}, r.soil), num(r.depth, "depth"), html("td", {}, say(r.words)), html("td", { class: `num${r.ok ? "" : " wrong"}` }, quantity(r.share, "share"))));
  panel.replaceChildren(
    form,
    table("What wind meets", [["Case"], ["Gust", "num"], ["Of its face covered", "num"], ["Push a length", "num"], ["At", "num"]], faces, "Nothing hangs here that wind meets."),
    table(`Line posts of every kind and soil, the widest bays of each, the worst case of each; ${w.factor} times the gust is asked of the soil`, [["Post"], ["Station", "num"], ["Kind"], ["Soil"], ["Deep", "num"], ["What is asked of it"], ["Of what it has", "num"]], rows, w.speed ? "No line post stands between the braces." : "No gust is asked for: type one."),
    html("p", { class: "quiet" }, "Not reckoned: the bending of steel, pipe and concrete posts, ends and corners of the fence and gaps between buildings, where gusts are stronger, leaves of gates, snow that lies against it."),
  );
}
