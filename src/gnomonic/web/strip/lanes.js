// The lanes under the ground: the gap under the wire, the posts by kind, the rolls and their splices.
import { el, label } from "../static/svg.js";
import { length } from "../static/units.js";
import { beyond, gapsOf } from "./profile.js";

export function underLane(view, high) {
  const { data } = view;
  const seen = (a, b) => view.seen(a, b);
  const { gap_max_m: most, gap_min_m: least } = data.decisions;
  const worst = Math.max(most * 1.35, ...data.bays.filter((b) => seen(b.from, b.to)).map((b) => b.worst));
  const floor = Math.min(0, least, ...data.bays.filter((b) => seen(b.from, b.to)).map((b) => b.least));
  const y = (gap) => 6 + ((gap - floor) / (worst - floor)) * (high - 12);
  const x = (s) => view.x(s).toFixed(1);
  const group = el("g", { "clip-path": "url(#clip-under)" });
  let line = "";
  let out = "";
  let band = "";
  for (const bay of data.bays) {
    if (!seen(bay.from, bay.to)) continue;
    const gaps = gapsOf(data, bay);
    line += `M${gaps.map(([s, g]) => `${x(s)} ${y(g).toFixed(1)}`).join("L")}`;
    band += `M${x(bay.from)} ${y(least).toFixed(1)}H${x(bay.to)}V${y(most).toFixed(1)}H${x(bay.from)}Z`;
    for (const area of [...beyond(gaps, most, 1), ...beyond(gaps, least, -1)]) out += `M${area.map(([s, g]) => `${x(s)} ${y(g).toFixed(1)}`).join("L")}Z`;
  }
  group.append(el("path", { class: "band", d: band }), el("path", { class: "out", d: out }), el("path", { class: "gap", d: line }));
  const apart = y(most) - y(least) > 13;
  const limits = (apart ? [most, least] : [most]).map((g) => label(view.left - 6, y(g) + 4, length(g, "gap"), { class: "axis", "text-anchor": "end" }));
  return [group, ...(view.width >= 600 ? limits : [])];
}

// Work done: the posts that are written down as in, those that stopped short lower and in another colour; a band where one after the other is.
export function doneLane(view, high) {
  const { data } = view;
  const group = el("g", { "clip-path": "url(#clip-done)" });
  const x = (p) => view.x(p.s).toFixed(1);
  const done = (kind) => data.posts.filter((p) => "in" in p && Boolean(p.short) === kind && view.seen(p.s - 1, p.s + 1));
  let band = "";
  data.posts.forEach((p, k) => {
    const next = data.posts[k + 1];
    if (next && "in" in p && "in" in next && view.seen(p.s, next.s)) band += `M${x(p)} 8H${x(next)}V14H${x(p)}Z`;
  });
  const ticks = (posts, to) => posts.map((p) => `M${x(p)} 5V${to}`).join("");
  group.append(el("path", { class: "doneband", d: band }), el("path", { class: "donein", d: ticks(done(false), high - 5) }), el("path", { class: "doneshort", d: ticks(done(true), high / 2 + 3) }));
  return [group];
}

const SHAPES = {
  terminal: (x, y, r) => `M${x - r} ${y - r}h${2 * r}v${2 * r}h${-2 * r}Z`,
  brace: (x, y, r) => `M${x} ${y - r}l${r} ${r}l${-r} ${r}l${-r} ${-r}Z`,
  wood: (x, y, r) => `M${x - r} ${y}a${r} ${r} 0 1 0 ${2 * r} 0a${r} ${r} 0 1 0 ${-2 * r} 0Z`,
  pipe: (x, y, r) => `M${x - r} ${y}a${r} ${r} 0 1 0 ${2 * r} 0a${r} ${r} 0 1 0 ${-2 * r} 0ZM${x - r / 2} ${y}a${r / 2} ${r / 2} 0 1 1 ${r} 0a${r / 2} ${r / 2} 0 1 1 ${-r} 0Z`,
  timber: (x, y, r) => `M${x - r} ${y - r}h${2 * r}v${2 * r}h${-2 * r}Z`,
  concrete: (x, y, r) => `M${x - r} ${y + r}L${x} ${y - r}L${x + r} ${y + r}Z`,
  steel: (x, y, r) => `M${x - r} ${y - r}h${2 * r}v2.2h${-(r - 1.1)}v${2 * r - 2.2}h-2.2v${-(2 * r - 2.2)}h${-(r - 1.1)}Z`,
};

export function postsLane(view, high) {
  const { data } = view;
  const seen = (a, b) => view.seen(a, b);
  const group = el("g", { "clip-path": "url(#clip-posts)" });
  for (const f of data.forbidden) {
    if (seen(f.from, f.to)) group.append(el("rect", { class: "forbidden", x: view.x(f.from), y: 0, width: Math.max(3, view.x(f.to) - view.x(f.from)), height: high }));
  }
  const dense = data.length / data.posts.length * view.perMetre < 9;
  const paths = Object.fromEntries(Object.keys(SHAPES).map((kind) => [kind, ""]));
  let forced = "";
  let weak = ""; // a ring round what does not stay put
  for (const p of data.posts) {
    if (!seen(p.s - 1, p.s + 1)) continue;
    const x = Number(view.x(p.s).toFixed(1));
    const kind = SHAPES[p.kind] ? p.kind : "wood"; // a kind this page does not know yet is drawn as a plain post
    const r = p.kind === "terminal" ? 6 : p.kind === "steel" ? (dense ? 2.6 : 4) : dense ? 3.4 : 5;
    paths[kind] += dense && kind === "steel" ? `M${x - 0.7} ${high / 2 - 5}h1.4v10h-1.4Z` : SHAPES[kind](x, high / 2 - 2, r);
    if (p.weak) weak += `M${x - r - 4} ${high / 2 - 2}a${r + 4} ${r + 4} 0 1 0 ${2 * r + 8} 0a${r + 4} ${r + 4} 0 1 0 ${-2 * r - 8} 0Z`;
    if (p.forced) forced += `M${x - 5} ${high - 5}h10`;
  }
  for (const kind of Object.keys(SHAPES).reverse()) group.append(el("path", { class: `mark ${kind} of-${data.materials[kind]}`, d: paths[kind], "fill-rule": kind === "pipe" ? "evenodd" : "nonzero" }));
  group.append(el("path", { class: "forcedmark", d: forced }), el("path", { class: "weakmark", d: weak }));
  return [group];
}

export const stockName = (stock) => (stock.startsWith("new") ? `Roll ${Number(stock.slice(3)) + 1}` : `Offcut ${Number(stock.slice(6)) + 1}`);

export function fabricLane(view, high) {
  const { data } = view;
  const seen = (a, b) => view.seen(a, b);
  const group = el("g", { "clip-path": "url(#clip-fabric)" });
  data.pieces.forEach((p, k) => {
    if (!seen(p.from, p.to)) return;
    const [a, b] = [view.x(p.from), view.x(p.to)];
    group.append(el("rect", { class: p.stock.startsWith("new") ? `piece tone${Number(p.stock.slice(3)) % 3}` : "piece offcut", x: a, y: 8, width: Math.max(1, b - a), height: high - 18 }));
    const [left, right] = [Math.max(a, view.left), Math.min(b, view.width - 14)];
    const lines = [p.opened && `opened on ${p.opened}`, p.rest && `rest to ${p.rest}`].filter(Boolean);
    const rest = lines.length ? [`${stockName(p.stock)}, ${length(p.length, "station")}, ${lines.join(", ")}`, `${stockName(p.stock)}, ${lines.join(", ")}`] : [];
    for (const text of [...rest, `${stockName(p.stock)}, ${length(p.length, "station")}`, stockName(p.stock), stockName(p.stock).split(" ")[1]]) {
      if (text.length * 6.6 + 22 < right - left) {
        group.append(label((left + right) / 2, high / 2 + 3, text, { class: "piecename", "text-anchor": "middle" }));
        break;
      }
    }
  });
  for (const s of data.splices) {
    if (!seen(s.from, s.at)) continue;
    const [a, b] = [view.x(s.from), view.x(s.at)];
    const pad = Math.max(0, 4 - (b - a) / 2);
    group.append(el("path", { class: "splice", d: `M${a - pad} 4L${b + pad} ${high - 6}M${a - pad} ${high - 6}L${b + pad} 4` }));
  }
  return [group];
}
