// What line posts are set to: guide wires, the string's offset, the line of heads; and what wind does to them.
import { el, html, label } from "../static/svg.js";
import { length, quantity, round, say, tapeDivisions } from "../static/units.js";

const num = (value, kind) => html("td", { class: "num" }, quantity(value, kind));

function table(caption, heads, rows, empty) {
  if (!rows.length) return html("p", { class: "quiet" }, empty);
  return html("div", { class: "tablebox" }, html("table", { class: "plain-table" }, html("caption", {}, caption), html("thead", {}, html("tr", {}, ...heads.map(([t, c]) => html("th", { scope: "col", class: c ?? "" }, t)))), html("tbody", {}, ...rows)));
}

// One side from end to end: its ground, the wire over it, the poles that hold it, the line posts' places; its heights drawn larger, and said so.
function sideView(svg, side, ground) {
  const { width, height } = svg.getBoundingClientRect();
  if (!width) return;
  svg.setAttribute("viewBox", `0 0 ${width} ${height}`);
  const zAt = (s) => {
    const k = Math.max(1, ground.findIndex(([a]) => a >= s));
    const [[a, za], [b, zb]] = [ground[k - 1], ground[k] ?? ground[k - 1]];
    return b === a ? za : za + ((zb - za) * (s - a)) / (b - a);
  };
  const inside = ground.filter(([s]) => s > side.from && s < side.to);
  const soil = [[side.from, zAt(side.from)], ...inside, [side.to, zAt(side.to)]];
  const wire = side.held.map(([s, up]) => [s, zAt(s) + up]);
  const zs = [...soil, ...wire].map((p) => p[1]);
  const [z0, z1] = [Math.min(...zs) - 0.2, Math.max(...zs) + 0.25];
  const [left, foot, top] = [30, height - 46, 34];
  const perX = (width - 2 * left) / (side.to - side.from);
  const perY = Math.min((foot - top) / (z1 - z0), perX * 40);
  const x = (s) => left + (s - side.from) * perX;
  const y = (z) => foot - (z - z0) * perY;
  const line = (points) => points.map(([s, z], k) => `${k ? "L" : "M"}${x(s).toFixed(1)} ${y(z).toFixed(1)}`).join("");
  const parts = [el("path", { class: "soilfill", d: `${line(soil)}L${x(side.to).toFixed(1)} ${height}L${x(side.from).toFixed(1)} ${height}Z` }), el("path", { class: "soilline", d: line(soil) })];
  parts.push(el("path", { class: "guidepost", d: side.over.map(([s]) => `M${x(s).toFixed(1)} ${y(zAt(s)).toFixed(1)}v-12`).join("") }));
  parts.push(el("path", { class: "guidepole", d: side.held.map(([s, up]) => `M${x(s).toFixed(1)} ${y(zAt(s)).toFixed(1)}V${y(zAt(s) + up).toFixed(1)}`).join("") }), el("path", { class: "guideline", d: line(wire) }));
  let last = -Infinity;
  for (const [s, up] of side.held.slice(1, -1)) {
    if (x(s) - last < 104) continue;
    last = x(s);
    parts.push(label(x(s), y(zAt(s) + up) - 7, `pole, ${length(s, "station")}`, { class: "leafdim", "text-anchor": "middle" }));
  }
  const low = side.over.reduce((m, o) => (!m || o[1] < m[1] ? o : m), null);
  if (low && low[1] < side.held[0][1] - 0.02) parts.push(label(left, height - 24, `Lowest over a post: ${quantity(low[1], "gap")}, at ${length(low[0], "station")}`, { class: "leafname" }));
  const [major] = tapeDivisions((side.to - side.from) / (width - 2 * left), 90);
  for (let s = Math.ceil(side.from / major) * major; s <= side.to; s += major) parts.push(label(x(s), 14, round(s), { class: "sitelabel", "text-anchor": "middle" }), el("path", { class: "sitetick", d: `M${x(s).toFixed(1)} 18v5` }));
  parts.push(label(left, height - 8, `Heights × ${Math.max(1, Math.round(perY / perX))}; short strokes are line posts`, { class: "leafname" }));
  svg.replaceChildren(...parts);
}

export function guidesPanel(panel, g, ground) {
  const view = el("svg", { class: "guideview", role: "img", "aria-label": "The side that is chosen, its guide wire over its ground" });
  const choose = (k, row) => {
    for (const other of row?.closest("tbody").rows ?? []) other.classList.toggle("now", other === row);
    sideView(view, g.sides[k], ground);
  };
  const rows = g.sides.map((s, k) => html("tr", k ? {} : { class: "now" }, html("th", { scope: "row" }, html("button", { class: "asks", onclick: ({ target }) => choose(k, target.closest("tr")) }, `side ${k + 1}`)), html("td", { class: "num" }, `${length(s.from, "station")} to ${length(s.to, "station")}`), num(s.long, "station"), html("td", { class: "num" }, String(s.posts)), html("td", {}, s.sights.length ? `poles at ${s.sights.map(([at]) => length(at, "station")).join(", ")}, the wire ${length(g.high, "cut")} up each` : "straight from end to end"), num(s.least, "gap"), num(s.most, "gap")));
  const offsets = g.offsets.map((o) => html("tr", {}, html("th", { scope: "row" }, say(o.title)), num(o.wide, "cut"), num(o.terminal, "cut"), html("td", { class: "num" }, g.railed ? length(Math.max(0, o.off), "gap") : quantity(0, "gap")), html("td", {}, g.railed ? "off a string along the terminals’ faces, so that all share one centreline and the rail runs through it" : "faces in one line: what hangs lies against all of them; touch the string, never lean on it")));
  const parts = [
    html("p", {}, `One wire or string for each side, drawn before its line posts and never one round them all: crews can then set one side while the next is drilled. Hand-tight, ${length(g.high, "cut")} over the ground at both ends; where that drags on a hump or stands out of reach over a dip a sighting pole holds it.`),
    view,
    table("Guide wires; press a side to see it drawn", [["Side"], ["Between", "num"], ["Wire", "num"], ["Line posts", "num"], ["Held"], ["Least over ground", "num"], ["Most", "num"]], rows, "The line has no side long enough for a wire."),
    table("Line posts against the string", [["Kind"], ["Across", "num"], ["Terminals across", "num"], ["Off the string", "num"], ["So that"]], offsets, "No post stands between the terminals."),
    html("h2", {}, "The line of heads"),
    html("p", {}, `${g.holed ? "These posts are holed before they are set: their holes must line up" : "For posts that are holed before they are set, and for a top that is seen from far"}: heads within ${quantity(g.tolerance, "gap")} of a string from post to post where it is broken (marked). A post within ${quantity(g.give, "gap")} of the string is set deeper or less deep by that much; where the ground asks for more the string is broken there.`),
  ];
  for (const run of g.heads) {
    const moved = run.posts.filter((p) => p.node || Math.abs(p.off) > 0.003);
    parts.push(table(`Run ${run.run}: ${run.posts.filter((p) => p.node).length - 1} strings over ${run.posts.length} posts`, [["Post"], ["Station", "num"], ["Head over ground", "num"], ["Set"], ["Deep", "num"]], moved.map((p) => html("tr", p.node ? { class: "now" } : {}, html("th", { scope: "row" }, p.name), num(p.at, "station"), num(p.head, "cut"), html("td", {}, p.node ? "holds the string" : `${quantity(Math.abs(p.off), "gap")} ${p.off > 0 ? "less deep" : "deeper"}`), num(p.depth, "depth"))), "Every head lies on one string."));
  }
  panel.replaceChildren(...parts);
  if (g.sides.length) choose(0);
}

const CASES = { bare: "bare", ice: "iced, at six tenths of the gust", litter: "fine mesh caught three tenths full" };

// The worst line post to scale: the wind on it, what it stands in.
function windView(svg, w) {
  const { width, height } = svg.getBoundingClientRect();
  const r = w.rows[0];
  if (!width || !r) return;
  svg.setAttribute("viewBox", `0 0 ${width} ${height}`);
  const scale = (height - 60) / (Math.max(r.above, w.top) + r.depth + 0.2);
  const base = 24 + Math.max(r.above, w.top) * scale;
  const mid = width * 0.5;
  const y = (m) => base - m * scale;
  const parts = [el("path", { class: "soilfill", d: `M0 ${base}H${width}V${height}H0Z` }), el("path", { class: "soilline", d: `M0 ${base}H${width}` })];
  const half = Math.max(3, (r.wide * scale) / 2);
  parts.push(el("path", { class: "bodypost", d: `M${mid - half} ${y(r.above)}H${mid + half}V${y(-r.depth)}H${mid - half}Z` }));
  parts.push(el("path", { class: "windface", d: `M${mid - half - 4} ${y(w.top)}V${y(Math.max(0, w.foot))}` }));
  for (let k = 0; k < 7; k++) {
    const at = Math.max(0, w.foot) + ((w.top - Math.max(0, w.foot)) * (k + 0.5)) / 7;
    parts.push(el("path", { class: "windarrow", d: `M${mid - half - 70} ${y(at)}H${mid - half - 12}l-7 -4m7 4l-7 4` }));
  }
  const at = y(r.high);
  parts.push(el("path", { class: `forceline ${r.ok ? "hold" : "pull"}`, d: `M${mid + half + 70} ${at}H${mid + half + 14}` }), el("path", { class: `forcehead ${r.ok ? "hold" : "pull"}`, d: `M${mid + half + 4} ${at}l12 -6v12Z` }));
  const words = label(mid + half + 76, at - 8, "", { class: "force" });
  words.append(el("tspan", {}, `holds ${quantity(r.has, "force")}`), el("tspan", { x: mid + half + 76, dy: "1.2em", class: "much" }, `${quantity(r.need, "force")} asked`));
  parts.push(words, label(mid - half - 76, at + 4, `${quantity(r.push, "force")}`, { class: "force much", "text-anchor": "end" }));
  parts.push(label(mid + half + 8, y(-r.depth) - 4, `${length(r.depth, "depth")} in ${r.soil}`, { class: "leafdim under" }), label(12, 16, `${r.name}, to scale: the worst of them, pushed ${length(r.high, "cut")} up`, { class: "leafname" }));
  svg.replaceChildren(...parts);
}

export function windPanel(panel, w, job) {
  const speed = html("input", { class: "form-control", type: "number", min: "0", max: "80", step: "1", value: String(w.speed) });
  const form = html("form", { class: "soilform", "aria-label": "Gust", edits: () => job.edit({ do: "decide", key: "wind_m_s", value: Number(speed.value) }) }, html("label", {}, "Gust it must stand, m/s (0: not asked)", speed), html("button", { class: "btn btn-quiet" }, "Take it"), html("span", { class: "quiet" }, `${quantity(w.speed, "speed")}: a winter storm inland; the local code’s map says more for coasts and ridges.`));
  const faces = w.faces.map((f) => html("tr", {}, html("th", { scope: "row" }, CASES[f.case]), num(f.speed, "speed"), num(f.share, "share"), num(f.push, "load"), num(f.at, "cut")));
  const rows = w.rows.map((r) => html("tr", {}, html("th", { scope: "row" }, r.name), num(r.at, "station"), html("td", {}, say(r.kind)), html("td", {}, r.soil), num(r.depth, "depth"), html("td", {}, say(r.words)), html("td", { class: `num${r.ok ? "" : " wrong"}` }, quantity(r.share, "share"))));
  const view = el("svg", { class: "windview", role: "img", "aria-label": "The worst line post, the wind on it and what it holds" });
  panel.replaceChildren(
    form,
    ...(w.rows.length ? [html("div", { class: "windpair" }, view, table("What wind meets", [["Case"], ["Gust", "num"], ["Of its face covered", "num"], ["Push a length", "num"], ["At", "num"]], faces, "Nothing hangs here that wind meets."))] : []),
    table(`Line posts of every kind and soil, the widest bays of each, the worst case of each; ${w.factor} times the gust is asked of the soil`, [["Post"], ["Station", "num"], ["Kind"], ["Soil"], ["Deep", "num"], ["What is asked of it"], ["Of what it has", "num"]], rows, w.speed ? "No line post stands between the braces." : "No gust is asked for: type one."),
    html("p", { class: "quiet" }, "Not reckoned: the bending of steel, pipe and concrete posts, ends and corners of the fence and gaps between buildings, where gusts are stronger, leaves of gates, snow that lies against it."),
  );
  windView(view, w);
}
