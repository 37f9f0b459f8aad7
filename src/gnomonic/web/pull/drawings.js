// Drawings of a pull: the end it is drawn from with its dummy brace, bar and chains, to scale; and the year.
import { el, label } from "../static/svg.js";
import { length, quantity } from "../static/units.js";
import { nodesAt } from "../strip/tension.js";

function sized(svg) {
  const box = svg.getBoundingClientRect();
  svg.setAttribute("viewBox", `0 0 ${box.width} ${box.height}`);
  svg.replaceChildren();
  return box;
}

// The terminal with its rail, the loose post beyond it, the member between, the bar and the chains on it.
export function barView(svg, run) {
  const { width, height } = sized(svg);
  const d = run.dummy?.[0];
  svg.style.display = d ? "" : "none";
  if (!d) return;
  const wide = 4.6; // metres of ground that are shown
  const tall = d.long + 1.0;
  const scale = Math.min(width / wide, (height - 26) / tall);
  const foot = height - 12 - 0.85 * scale;
  const mid = Math.min(width / 2 - 0.5 * scale, width - 150 - d.off * scale); // room for what is written to the right
  const x = (m) => mid + m * scale; // the terminal stands at 0, the run goes to the left
  const y = (m) => foot - m * scale;
  const box = (at, w, low, high, name) => el("rect", { class: name, x: x(at - w / 2), y: y(high), width: w * scale, height: (high - low) * scale });
  const parts = [el("rect", { class: "soilfill", x: 0, y: foot, width, height: height - foot }), el("path", { class: "soilline", d: `M0 ${foot}H${width}` })];
  parts.push(box(0, d.post.wide, -Math.min(d.post.depth, 0.8), d.post.above, "bodypost"), box(d.off, d.post.wide * 0.85, -0.6, d.at + 0.15, "bodypost loose"));
  if (d.rail) parts.push(el("path", { class: "bodyrail", d: `M${x(-d.post.wide / 2)} ${y(d.rail)}H${x(-2.3)}` }));
  parts.push(el("path", { class: "bodyrail", d: `M${x(d.post.wide / 2)} ${y(d.at)}H${x(d.off - (d.post.wide * 0.85) / 2)}` }));
  const top = run.foot + run.high;
  const bar = 0.45; // drawn past the terminal, towards the loose post
  for (const h of [run.foot, ...[0.2, 0.4, 0.6, 0.8].map((k) => run.foot + k * run.high), top]) parts.push(el("path", { class: "bodyfence", d: `M${x(-2.3)} ${y(h)}H${x(bar)}` }));
  parts.push(el("path", { class: "pullbarline", d: `M${x(bar)} ${y(run.foot - 0.04)}V${y(top + 0.04)}` }));
  run.hooks.forEach((h) => {
    const at = run.foot + h.at;
    const over = h.load > run.can * 1.0001;
    parts.push(el("path", { class: over ? "forceline pull" : "chainline", d: `M${x(bar)} ${y(at)}H${x(d.off - d.post.wide / 2)}` }));
    parts.push(label(x(d.off + 0.16), y(at) + 4, `${quantity(h.load, "force")}${over ? `, over ${quantity(run.can, "force")}` : ""}`, { class: over ? "force much" : "force" }));
  });
  const dim = (a, b, at, text) => [el("path", { class: "dimline", d: `M${x(a)} ${at}H${x(b)}M${x(a)} ${at - 4}v8M${x(b)} ${at - 4}v8` }), label((x(a) + x(b)) / 2, at + 14, text, { class: "bodydim", "text-anchor": "middle" })];
  parts.push(...dim(0, d.off, foot + 8, length(d.off, "station")));
  parts.push(label(x(d.off + 0.16), y(d.at) + 4, `carries ${quantity(d.force, "force")}`, { class: "force" }));
  parts.push(label(x(d.off + 0.16), y(d.at) - 11, `pinned ${length(d.at, "station")} up`, { class: "force" }));
  const rail = `permanent rail, ${d.rail ? length(d.rail, "station") : ""} up`;
  const from = Math.max(6, x(-2.25));
  if (d.rail && rail.length * 6.3 < x(-d.post.wide) - from) parts.push(label(from, y(d.rail) + 18, rail, { class: "bodydim" }));
  parts.push(label(x(0), y(Math.max(d.post.above, top)) - 8, `post ${d.post.name}`, { class: "bodydim", "text-anchor": "middle" }), label(x(d.off), height - 2, "loose", { class: "bodydim", "text-anchor": "middle" }));
  svg.append(...parts);
}

// The end of the fabric, where it is cut and tied: stays are cut away from the tail, line wires never.
export function cutView(svg, run) {
  const { width, height } = sized(svg);
  const drawn = run.rows.length > 2 && run.tail > 0;
  svg.style.display = drawn ? "" : "none";
  if (!drawn) return;
  const stay = run.stay || 0.15;
  const wide = run.tail + 3.4 * stay;
  const [left, top] = [14, 26];
  const scale = (width - 2 * left) / wide;
  const up = (height - top - 34) / run.high;
  const y = (h) => height - 34 - h * up;
  const x = (m) => width - left - m * scale; // from the cut end, to the right
  const upright = (from, to, name) => {
    let d = "";
    for (let m = from; m > 0 && m < to; m += stay) d += `M${x(m).toFixed(1)} ${y(0)}V${y(run.high)}`;
    return el("path", { class: name, d });
  };
  const parts = run.rows.map((h) => el("path", { class: "cutwire", d: `M${left} ${y(h)}H${x(0)}` }));
  const first = run.tail % stay; // a stay at the post, the others from there
  parts.push(upright(run.tail + stay / 2, wide, "cutstay"), upright(first + stay / 2 - (first > stay / 2 ? stay / 2 : 0), run.tail, "cutgone"));
  parts.push(el("path", { class: "cutpost", d: `M${x(run.tail)} ${y(run.high) - 8}V${y(0) + 8}` }));
  parts.push(label(x(run.tail / 2), 16, "cut these stays away", { class: "force", "text-anchor": "middle" }), label((left + x(run.tail)) / 2, 16, "these stay", { class: "force", "text-anchor": "middle" }));
  parts.push(label(width - left, height - 6, `${length(run.tail, "station")} to tie with; a line wire is never cut`, { class: "bodydim", "text-anchor": "end" }), label(x(run.tail), height - 20, "post", { class: "bodydim", "text-anchor": "middle" }));
  svg.append(...parts);
}

// The least pull of a run through the year: the band from each month's coldest night to its hottest day, usual days within.
export function yearView(svg, run, climate, warm) {
  const { width, height } = sized(svg);
  svg.style.display = run.hand ? "none" : "";
  if (run.hand || !width) return;
  const least = (t) => Math.min(...nodesAt(run, t).map((n) => n[1]));
  const rows = climate.months.map((name, k) => ({ name, cold: least(climate.cold[k]), hot: least(climate.hot[k]), night: least(climate.night[k]), noon: least(climate.noon[k]) }));
  const most = Math.max(...rows.map((r) => r.cold), 1) * 1.08;
  const [left, foot, top] = [64, height - 22, 10];
  const step = (width - left - 8) / 12;
  const y = (n) => foot - (n / most) * (foot - top);
  const parts = [];
  for (const share of [0, 0.25, 0.5, 0.75, 1]) {
    const n = share * most;
    parts.push(el("path", { class: "yearline", d: `M${left} ${y(n)}H${width - 8}` }), label(left - 6, y(n) + 4, quantity(n, "force"), { class: "axis", "text-anchor": "end" }));
  }
  rows.forEach((r, k) => {
    const at = left + k * step;
    parts.push(el("rect", { class: r.hot <= 0 ? "yearband slack" : "yearband", x: at + 2, width: step - 4, y: y(r.cold), height: Math.max(1, y(r.hot) - y(r.cold)) }));
    parts.push(el("rect", { class: "yearusual", x: at + 2, width: step - 4, y: y(r.night), height: Math.max(2, y(r.noon) - y(r.night)) }));
    parts.push(label(at + step / 2, height - 6, r.name, { class: "axis", "text-anchor": "middle" }));
  });
  const now = least(warm);
  parts.push(el("path", { class: "yearnow", d: `M${left} ${y(now)}H${width - 8}` }));
  svg.append(...parts);
}
