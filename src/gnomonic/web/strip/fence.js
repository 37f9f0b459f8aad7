// What is built, drawn to scale on the ground: fabric, posts, braces, gates, and what lies under the wire.
import { el } from "../static/svg.js";
import { length } from "../static/units.js";
import { beyond, edgeEnds, gapsOf, groundAt } from "./profile.js";

const FINEST = 4; // pixels between wires that are still drawn one by one

const at = (view) => (s, z) => `${view.x(s).toFixed(1)} ${view.y(z).toFixed(1)}`;

// What hangs in each bay, straight from post to post: sheets, line wires, uprights where they can be seen, strands.
export function fabric(view) {
  const { data } = view;
  const P = at(view);
  const bays = data.bays.filter((b) => view.seen(b.from, b.to)).map((b) => ({ ...b, z: edgeEnds(data, b) }));
  const along = (h) => bays.map((b) => `M${P(b.from, b.z[0] + h)}L${P(b.to, b.z[1] + h)}`).join("");
  const parts = [];
  for (const layer of data.fabric.layers) {
    const sheet = bays.map((b) => `M${P(b.from, b.z[0] + layer.bottom)}L${P(b.to, b.z[1] + layer.bottom)}L${P(b.to, b.z[1] + layer.top)}L${P(b.from, b.z[0] + layer.top)}Z`).join("");
    parts.push(el("path", { class: `sheet-fill ${layer.kind}`, d: sheet }), el("path", { class: "wire outer", d: along(layer.bottom) + along(layer.top) }));
    if (layer.stay * view.perMetre > FINEST) parts.push(el("path", { class: "wire", d: uprights(layer, bays, P) }));
    const level = ["welded", "cloth"].includes(layer.kind) && layer.mesh[0] * view.perMetre > FINEST ? layer.mesh[0] : 0;
    if (level) for (let h = layer.bottom + level; h < layer.top - 1e-6; h += level) parts.push(el("path", { class: "wire", d: along(h) }));
  }
  const { wires } = data.fabric;
  if (wires.length > 1 && (wires[wires.length - 1] - wires[0]) * view.up > 3 * wires.length) parts.push(el("path", { class: "wire", d: wires.map(along).join("") }));
  for (const s of data.fabric.strands) parts.push(el("path", { class: `strand of-${s.key}`, d: along(s.at) }));
  return parts;
}

function uprights(layer, bays, P) {
  let d = "";
  const high = layer.top - layer.bottom;
  const racked = ["link", "hex", "netting"].includes(layer.kind);
  const step = racked ? layer.stay * Math.SQRT2 : layer.stay;
  for (const b of bays) {
    const base = (s) => b.z[0] + layer.bottom + ((b.z[1] - b.z[0]) * (s - b.from)) / (b.to - b.from);
    const from = racked ? -Math.ceil(high / step) : 1;
    for (let k = from; k <= Math.floor((b.to - b.from) / step); k++) {
      const s = b.from + k * step;
      if (!racked) d += `M${P(s, base(s))}L${P(s, base(s) + high)}`;
      else {
        const [low, up] = [Math.max(s, b.from), Math.min(s + high, b.to)];
        if (up <= low) continue;
        d += `M${P(low, base(low) + (low - s))}L${P(up, base(up) + (up - s))}M${P(low, base(low) + high - (low - s))}L${P(up, base(up) + high - (up - s))}`;
      }
    }
  }
  return d;
}

export function under(view) {
  const { data } = view;
  const P = at(view);
  const { gap_max_m: most, gap_min_m: least } = data.decisions;
  const parts = [];
  for (const bay of data.bays) {
    if (!view.seen(bay.from, bay.to) || (bay.fill < 1e-4 && bay.cut < 1e-4)) continue;
    const gaps = gapsOf(data, bay);
    const known = new Map(gaps.map(([s, , z]) => [s, z]));
    const soil = (s) => known.get(s) ?? groundAt(data.ground, s);
    for (const [limit, sign, name] of [[most, 1, "fill"], [least, -1, "cut"]]) {
      for (const area of beyond(gaps, limit, sign)) {
        const edge = area.map(([s, gap]) => P(s, soil(s) + gap));
        const floor = area.map(([s]) => P(s, soil(s))).reverse();
        parts.push(el("path", { class: name, d: `M${edge.join("L")}L${floor.join("L")}Z` }));
      }
    }
  }
  return parts;
}

const THIN = { steel: 1.1, pipe: 1.1 };

// A path a kind of post; a kind that is new to the page is drawn like any.
export function posts(view) {
  const { data } = view;
  const d = new Map();
  for (const p of data.posts) {
    const wide = Math.max(p.wide * view.perMetre, p.fixed ? 3.2 : (THIN[p.kind] ?? 2));
    for (const s of data.closed && p.s === 0 ? [0, data.length] : [p.s]) {
      if (!view.seen(s - 1, s + 1)) continue;
      const [top, foot] = [view.y(p.z + p.above), view.y(p.z - p.depth)];
      d.set(p.kind, `${d.get(p.kind) ?? ""}M${(view.x(s) - wide / 2).toFixed(1)} ${top.toFixed(1)}h${wide.toFixed(1)}V${foot.toFixed(1)}h${(-wide).toFixed(1)}Z`);
    }
  }
  return [...d].map(([kind, path]) => el("path", { class: `post ${kind} of-${data.materials[kind]}`, d: path }));
}

export function braces(view) {
  const { data } = view;
  const x = (s) => view.x(s).toFixed(1);
  const z = (s) => groundAt(data.ground, Math.min(Math.max(s, 0), data.length));
  const y = (h) => view.y(h).toFixed(1);
  let rails = "";
  let wires = "";
  for (const b of data.braces) {
    for (let k = 0; k + 1 < b.at.length; k++) {
      const [outer, inner] = [b.at[k], b.at[k + 1]];
      if (!view.seen(Math.min(outer, inner), Math.max(outer, inner))) continue;
      const [out, into] = [z(outer) + b.high[k], z(inner) + b.high[k + 1]];
      rails += `M${x(outer)} ${y(out)}L${x(inner)} ${y(into)}`;
      wires += b.crossed ? `M${x(outer)} ${y(out)}L${x(inner)} ${y(z(inner))}` : `M${x(inner)} ${y(into)}L${x(outer)} ${y(z(outer))}`;
    }
  }
  for (const { at: post, reach, high, way } of data.struts) {
    if (!view.seen(post - reach, post + reach)) continue;
    const foot = post + way * reach;
    rails += `M${x(post)} ${y(z(post) + high)}L${x(foot)} ${y(z(foot))}`;
    wires += `M${x(post)} ${y(z(post))}L${((view.x(post) + view.x(foot)) / 2).toFixed(1)} ${((view.y(z(post) + high) + view.y(z(foot))) / 2).toFixed(1)}`;
  }
  return [el("path", { class: "rail", d: rails }), el("path", { class: "bracewire", d: wires })];
}

export function gates(view) {
  const { data } = view;
  const P = at(view);
  return data.gates.filter((g) => view.seen(g.at, g.at + g.opening)).map((g) => {
    const [a, b] = [g.at + g.first / 2, g.at + g.opening - g.last / 2];
    const hung = g.leaves === 2 ? [[a, 1], [b, -1]] : [g.hinge === "last" ? [b, -1] : [a, 1]];
    const d = hung.slice(0, g.leaves).map(([pin, way], k) => {
      const [bottom, slope] = g.hung[k];
      const z = groundAt(data.ground, pin) + bottom;
      const [end, up] = [pin + way * g.leaf, z + slope * g.leaf];
      return `M${P(pin, z)}L${P(end, up)}L${P(end, up + g.high)}L${P(pin, z + g.high)}ZL${P(end, up + g.high)}`;
    });
    return el("g", { class: "gate" }, el("path", { d: d.join("") }), el("title", {}, `${g.name}, ${length(g.clear, "cut")} clear`));
  });
}

// Water that is crossed: the rope from head to head, what hangs from it.
export function crossings(view) {
  const { data } = view;
  const P = at(view);
  return data.crossings.filter((c) => view.seen(c.at, c.to)).map((c) => {
    const span = c.to - c.at;
    const [za, zb] = [groundAt(data.ground, c.at) + c.head, groundAt(data.ground, c.to) + c.head];
    const rope = (t) => za + (zb - za) * t - 4 * c.sag * t * (1 - t);
    const points = Array.from({ length: 25 }, (_, k) => P(c.at + (span * k) / 24, rope(k / 24)));
    const step = Math.max(c.pitch, 3 / view.perMetre);
    let hung = "";
    for (let s = c.at + step; s < c.to - step / 2; s += step) {
      const foot = groundAt(data.ground, s) + c.under;
      if (rope((s - c.at) / span) > foot) hung += `M${P(s, rope((s - c.at) / span))}L${P(s, foot)}`;
    }
    return el("g", { class: "crossing" }, el("path", { class: "flap", d: hung }), el("path", { class: "rope", d: `M${points.join("L")}` }), el("title", {}, `${c.name} crossed by a rope, ${length(span, "station")} between post centres`));
  });
}
