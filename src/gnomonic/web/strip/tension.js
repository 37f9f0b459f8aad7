// The tension lane: what is left of the pull along every run at one temperature, over what it was while it was drawn.
import { el, label } from "../static/svg.js";
import { quantity } from "../static/units.js";

const HALF = 0.5;
const TOP = 16;

// Where a temperature lies among those that were worked out: the row below it, and how far on towards the next.
function between(temps, t) {
  let k = temps.findIndex((v) => v >= t);
  if (k < 0) k = temps.length - 1;
  if (k === 0) return [0, 0];
  return [k - 1, (t - temps[k - 1]) / (temps[k] - temps[k - 1])];
}

const lerp = (rows, [k, part], n) => {
  const [a, b] = [rows[k][n], rows[Math.min(k + 1, rows.length - 1)][n]];
  return a === null || b === null ? null : a + (b - a) * part;
};

// A run's nodes at a temperature: [station, pull, share of the curve that is out].
export function nodesAt(run, t) {
  const { temps, at, pull, out } = run.seasons;
  const place = between(temps, t);
  return at.map((s, n) => [s, lerp(pull, place, n), lerp(out, place, n)]);
}

export function tensionLane(view, high) {
  const { runs, t, chosen } = view.data.tension;
  const most = Math.max(1, ...runs.flatMap((r) => [...r.seasons.pull.flat(), ...r.drawn.flat().map((d) => d[1])]));
  const y = (n) => high - 6 - (n / most) * (high - 6 - TOP);
  const x = (s) => view.x(s).toFixed(1);
  const group = el("g", { "clip-path": "url(#clip-tension)" });
  for (const run of runs) {
    if (!view.seen(run.from, run.to)) continue;
    if (run.hand) {
      const [a, b] = [Math.max(view.x(run.from), view.left), Math.min(view.x(run.to), view.width - 14)];
      if (b - a > 100) group.append(label((a + b) / 2, high / 2, "drawn by hand", { class: "pullname", "text-anchor": "middle" }));
      continue;
    }
    const nodes = nodesAt(run, t);
    for (let k = 0; k + 1 < nodes.length; k += 2) {
      const [[a, p, o], [b, q, r]] = [nodes[k], nodes[k + 1]];
      const worst = Math.max(o ?? 0, r ?? 0);
      const state = Math.max(p, q) <= 0 ? "slack" : worst > HALF + 0.005 ? "over" : "kept";
      group.append(el("path", { class: `pullfill ${state}`, d: `M${x(a)} ${y(0)}V${y(p).toFixed(1)}L${x(b)} ${y(q).toFixed(1)}V${y(0)}Z` }));
    }
    group.append(el("path", { class: "pullnow", d: `M${nodes.map(([s, n]) => `${x(s)} ${y(n).toFixed(1)}`).join("L")}` }));
    for (const part of run.drawn) group.append(el("path", { class: "pulldrawn", d: `M${part.map(([s, n]) => `${x(s)} ${y(n).toFixed(1)}`).join("L")}` }));
    for (const s of run.splices) group.append(el("path", { class: "splice", d: `M${view.x(s) - 5} ${TOP}l10 12M${view.x(s) - 5} ${TOP + 12}l10 -12` }));
    for (const e of run.ends) {
      const way = e.start ? -1 : 1;
      group.append(el("path", { class: "pullarrow", d: `M${view.x(e.at) - way * 26} ${TOP + 5}h${way * 20}m${-way * 7} -5l${way * 8} 5l${-way * 8} 5` }));
    }
    for (const b of run.bends) group.append(el("path", { class: "pullbend", d: `M${x(b.at)} ${high - 6}v-9` }));
    group.append(...words(view, run, nodes, run === runs[chosen]));
  }
  const axis = view.width >= 600 && runs.some((r) => !r.hand) ? [label(view.left - 6, TOP + 14, quantity(most, "force"), { class: "axis", "text-anchor": "end" }), label(view.left - 6, high - 4, "0", { class: "axis", "text-anchor": "end" })] : [];
  return [group, ...axis];
}

function words(view, run, nodes, chosen) {
  const [a, b] = [Math.max(view.x(run.from), view.left), Math.min(view.x(run.to), view.width - 14)];
  const low = nodes.reduce((best, n) => (n[1] < best[1] ? n : best));
  const out = Math.max(...nodes.map((n) => n[2] ?? -1));
  const force = `${quantity(low[1], "force")} least`;
  const share = out < 0 ? "" : `, ${quantity(out, "share")} of the curve out`;
  for (const text of [`${run.name}: ${force}${share}`, `${force}${share}`, force, quantity(low[1], "force")]) {
    if (text.length * 6.7 + 8 < b - a) return [label((a + b) / 2, 11, text, { class: chosen ? "pullname picked" : "pullname", "text-anchor": "middle" })];
  }
  return [];
}
