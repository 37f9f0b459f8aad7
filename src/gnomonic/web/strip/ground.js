// The ground lane: profile with what is built on it and under it; flags of snags and names above.
import { el, label } from "../static/svg.js";
import { length } from "../static/units.js";
import { braces, crossings, fabric, gates, posts, under } from "./fence.js";
import { groundBetween } from "./profile.js";

const DEEP = 4000; // pixels of soil below what is in view: heights can be panned

// The lane's parts: what moves with the heights, and what stays.
export function groundLane(view, high, { built: whole = true } = {}) {
  const { data } = view;
  const [from, to] = view.window;
  const surface = groundBetween(data.ground, from, to).map(([s, z]) => `${view.x(s).toFixed(1)} ${view.y(z).toFixed(1)}`).join("L");
  const deep = `L${view.x(to).toFixed(1)} ${DEEP}L${view.x(from).toFixed(1)} ${DEEP}Z`;
  const soil = [el("path", { class: "soil", d: `M${surface}${deep}` }), el("path", { class: "soilhatch", d: `M${surface}${deep}` })];
  const turf = el("path", { class: "turf", d: `M${surface}` });
  const built = !whole ? [turf, ...shots(view), ...gates(view), ...crossings(view)] : [...fabric(view), ...under(view), turf, ...posts(view), ...braces(view), ...gates(view), ...crossings(view)];
  const moving = el("g", { class: "heights" }, ...soil, ...built);
  const still = [...forbidden(view, high), ...(whole ? [...flags(view), ...names(view)] : [])];
  return [el("g", { "clip-path": "url(#clip-ground)" }, moving), ...still, label(view.width - 18, 13, view.note, { class: "scalenote", "text-anchor": "end" })];
}

function forbidden(view, high) {
  return view.data.forbidden.filter((f) => view.seen(f.from, f.to)).map((f) => {
    const [a, b] = [Math.max(view.x(f.from), view.left), Math.min(view.x(f.to), view.width - view.right)];
    return el("rect", { x: a, y: 0, width: Math.max(3, b - a), height: high, class: "forbidden" }, el("title", {}, `no post here: ${f.reason || "forbidden"}`));
  });
}

// Where the ground was measured, as pegs with their numbers where there is room.
function shots(view) {
  const { ground, closed } = view.data;
  const room = view.wide / ground.filter((g) => view.seen(g[0], g[0])).length;
  const parts = [];
  ground.forEach(([s, , , z], k) => {
    if (!view.seen(s, s)) return;
    const [x, y] = [view.x(s), view.y(z)];
    parts.push(el("circle", { class: "shot", cx: x, cy: y, r: room > 12 ? 3.4 : 1.6 }));
    if (room > 26) parts.push(label(x, y - 9, String(closed && k === ground.length - 1 ? 1 : k + 1), { class: "shotname", "text-anchor": "middle" }));
  });
  return parts;
}

function flags(view) {
  return view.data.snags.filter((s) => view.seen(s.at, s.at)).map((s) => {
    const at = view.x(s.at).toFixed(1);
    return el("path", { class: s.grave ? "flag grave" : "flag", d: `M${at} 20v15M${at} 20l9 4l-9 4z` });
  });
}

function names(view) {
  const { data } = view;
  const parts = [];
  let last = -Infinity;
  const put = (at, text, name) => {
    const wide = text.length * 6.1;
    if (at - wide / 2 < Math.max(last, view.left) || at + wide / 2 > view.width - 110) return false;
    last = at + wide / 2 + 6;
    parts.push(label(at, 13, text, { class: name, "text-anchor": "middle" }));
    return true;
  };
  const [from, to] = view.window;
  const marks = data.runs.map((r, k) => ({ at: (view.x(Math.max(r.from, from)) + view.x(Math.min(r.to, to))) / 2, seen: view.seen(r.from, r.to), text: `Run ${k + 1}, ${length(r.to - r.from, "station")}`, name: "runname" }));
  for (const g of data.gates) marks.push({ at: view.x(g.at + g.opening / 2), seen: view.seen(g.at, g.at + g.opening), text: g.name, name: "gatename" });
  for (const c of data.crossings) marks.push({ at: view.x((c.at + c.to) / 2), seen: view.seen(c.at, c.to), text: c.name, name: "gatename" });
  for (const m of marks.filter((m) => m.seen).sort((a, b) => a.at - b.at)) put(m.at, m.text, m.name) || put(m.at, m.text.split(",")[0], m.name);
  return parts;
}
