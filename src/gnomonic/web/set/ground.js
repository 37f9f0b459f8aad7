// The ground lane: profile, posts to scale below and above the ground, fabric, braces, gates, what lies under the wire.
import { el, label } from "../static/svg.js";
import { length } from "../static/units.js";

// Ground vertices from station a to b, both ends interpolated.
export function groundBetween(ground, a, b) {
  const at = (s) => {
    let [low, high] = [0, ground.length - 1];
    while (high - low > 1) {
      const middle = (low + high) >> 1;
      if (ground[middle][0] <= s) low = middle;
      else high = middle;
    }
    const [p, q] = [ground[low], ground[high]];
    return { index: high, z: p[3] + ((q[3] - p[3]) * (s - p[0])) / (q[0] - p[0] || 1) };
  };
  const start = at(a);
  const points = [[a, start.z]];
  for (let k = start.index; k < ground.length && ground[k][0] < b - 1e-9; k++) if (ground[k][0] > a + 1e-9) points.push([ground[k][0], ground[k][3]]);
  points.push([b, at(b).z]);
  return points;
}

// Gap between fabric and ground along a bay: [[station, gap, ground height], …].
export function gapsOf(data, bay) {
  const points = groundBetween(data.ground, bay.from, bay.to);
  const clear = data.decisions.clearance_m;
  const [z0, z1] = [points[0][1], points[points.length - 1][1]];
  return points.map(([s, z]) => [s, clear + z0 + ((z1 - z0) * (s - bay.from)) / (bay.to - bay.from) - z, z]);
}

// Closed polygons [[s, value], …] of the parts where value lies beyond a limit.
export function beyond(points, limit, sign) {
  const areas = [];
  let open = null;
  points.forEach(([s, v], k) => {
    const over = sign * (v - limit) > 0;
    if (k) {
      const [s0, v0] = points[k - 1];
      const before = sign * (v0 - limit) > 0;
      if (over !== before) {
        const cross = s0 + ((s - s0) * (limit - v0)) / (v - v0);
        if (over) open = [[cross, limit]];
        else {
          open.push([cross, limit]);
          areas.push(open);
          open = null;
        }
      }
    }
    if (over) (open ??= [[s, limit]]).push([s, v]);
  });
  if (open) areas.push([...open, [points[points.length - 1][0], limit]]);
  return areas;
}

const MOST_EXAGGERATED = 15;

function scaleOf(strip, high) {
  const { data } = strip;
  const [from, to] = strip.window;
  const zs = groundBetween(data.ground, from, to).map((p) => p[1]);
  const top = data.decisions.clearance_m + data.fabric.top + 0.5;
  const [low, peak] = [Math.min(...zs) - 1.1, Math.max(...zs) + top];
  const across = strip.perMetre;
  const room = (high - 20) / (peak - low);
  const up = strip.exaggerate ? Math.max(across, Math.min(room, MOST_EXAGGERATED * across)) : across;
  const middle = (low + peak) / 2;
  const shift = Math.abs(up - room) > 1e-9 ? high / 2 + 6 : high - 6 - ((peak - low) / 2) * up;
  strip.exaggeration = up / across;
  return (z) => shift - (z - middle) * up;
}

export function groundLane(strip, high) {
  const { data } = strip;
  const y = scaleOf(strip, high);
  const x = (s) => strip.x(s);
  const [from, to] = strip.window;
  const seen = (a, b) => b >= from && a <= to;
  const P = (s, z) => `${x(s).toFixed(1)} ${y(z).toFixed(1)}`;
  const group = el("g", { "clip-path": "url(#clip-ground)" });
  const ground = groundBetween(data.ground, from, to);
  const surface = ground.map(([s, z]) => P(s, z)).join("L");
  const deep = `L${x(to).toFixed(1)} ${high}L${x(from).toFixed(1)} ${high}Z`;
  group.append(el("path", { class: "soil", d: `M${surface}${deep}` }), el("path", { class: "soilhatch", d: `M${surface}${deep}` }));
  for (const f of data.forbidden) {
    if (!seen(f.from, f.to)) continue;
    const box = { x: x(f.from), y: 0, width: Math.max(3, x(f.to) - x(f.from)), height: high };
    group.append(el("rect", { ...box, class: "forbidden" }, el("title", {}, `no post here: ${f.reason || "forbidden"}`)));
  }
  if (strip.only) {
    group.append(el("path", { class: "turf", d: `M${surface}` }), ...shots(strip, P, seen), ...gates(strip, P, x, y, seen));
    return [group, scaleNote(strip)];
  }
  group.append(...fabric(strip, P, seen), ...under(strip, P, seen), el("path", { class: "turf", d: `M${surface}` }));
  group.append(...posts(strip, x, y, seen), ...braces(strip, x, y, seen), ...gates(strip, P, x, y, seen), ...flags(strip, x, seen));
  return [group, ...names(strip, x, seen), scaleNote(strip)];
}

// What hangs in each bay, straight from post to post: sheets, line wires, uprights where they can be seen, strands.
function fabric(strip, P, seen) {
  const { data } = strip;
  const clear = data.decisions.clearance_m;
  const bays = data.bays.filter((b) => seen(b.from, b.to));
  const z = (k) => data.posts[k].z + clear;
  const along = (h) => bays.map((b) => `M${P(b.from, z(b.a) + h)}L${P(b.to, z(b.b) + h)}`).join("");
  const parts = [];
  for (const layer of data.fabric.layers) {
    const sheet = bays.map((b) => `M${P(b.from, z(b.a) + layer.bottom)}L${P(b.to, z(b.b) + layer.bottom)}L${P(b.to, z(b.b) + layer.top)}L${P(b.from, z(b.a) + layer.top)}Z`).join("");
    parts.push(el("path", { class: `sheet-fill ${layer.kind}`, d: sheet }), el("path", { class: "wire outer", d: along(layer.bottom) + along(layer.top) }));
    if (layer.stay * strip.perMetre > 4) parts.push(el("path", { class: "wire", d: uprights(layer, bays, z, P) }));
    const level = ["welded", "cloth"].includes(layer.kind) && layer.mesh[0] * strip.perMetre > 4 ? layer.mesh[0] : 0;
    if (level) for (let h = layer.bottom + level; h < layer.top - 1e-6; h += level) parts.push(el("path", { class: "wire", d: along(h) }));
  }
  const { wires } = data.fabric;
  parts.push(el("path", { class: "wire", d: wires.map(along).join("") }));
  for (const s of data.fabric.strands) parts.push(el("path", { class: `strand of-${s.key}`, d: along(s.at) }));
  return parts;
}

function uprights(layer, bays, z, P) {
  let d = "";
  const high = layer.top - layer.bottom;
  const racked = ["link", "hex", "netting"].includes(layer.kind);
  const step = racked ? layer.stay * Math.SQRT2 : layer.stay;
  for (const b of bays) {
    const base = (s) => z(b.a) + layer.bottom + ((z(b.b) - z(b.a)) * (s - b.from)) / (b.to - b.from);
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

function under(strip, P, seen) {
  const { data } = strip;
  const { gap_max_m: most, gap_min_m: least } = data.decisions;
  const parts = [];
  for (const bay of data.bays) {
    if (!seen(bay.from, bay.to) || (bay.fill < 1e-4 && bay.cut < 1e-4)) continue;
    const gaps = gapsOf(data, bay);
    const groundAt = new Map(gaps.map(([s, , z]) => [s, z]));
    const soil = (s) => groundAt.get(s) ?? groundBetween(data.ground, s, s + 1e-6)[0][1];
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

// Where the ground was measured, as pegs with their numbers where there is room.
function shots(strip, P, seen) {
  const { ground, closed } = strip.data;
  const room = (strip.window[1] - strip.window[0]) * strip.perMetre / ground.filter((g) => seen(g[0], g[0])).length;
  const parts = [];
  ground.forEach(([s, , , z], k) => {
    if (!seen(s, s)) return;
    const [x, y] = P(s, z).split(" ").map(Number);
    parts.push(el("circle", { class: "shot", cx: x, cy: y, r: room > 12 ? 3.4 : 1.6 }));
    if (room > 26) parts.push(label(x, y - 9, String(closed && k === ground.length - 1 ? 1 : k + 1), { class: "shotname", "text-anchor": "middle" }));
  });
  return parts;
}

function posts(strip, x, y, seen) {
  const { data } = strip;
  return ["steel", "pipe", "wood", "timber", "concrete", "brace", "terminal"].map((kind) => {
    const d = [];
    for (const p of data.posts) {
      if (p.kind !== kind) continue;
      const wide = Math.max(p.wide * strip.perMetre, p.fixed ? 3.2 : ["steel", "pipe"].includes(kind) ? 1.1 : 2);
      for (const s of data.closed && p.s === 0 ? [0, data.length] : [p.s]) {
        if (!seen(s - 1, s + 1)) continue;
        const [top, foot] = [y(p.z + p.above), y(p.z - p.depth)];
        d.push(`M${(x(s) - wide / 2).toFixed(1)} ${top.toFixed(1)}h${wide.toFixed(1)}V${foot.toFixed(1)}h${(-wide).toFixed(1)}Z`);
      }
    }
    return el("path", { class: `post ${kind} of-${data.materials[kind]}`, d: d.join("") });
  });
}

function braces(strip, x, y, seen) {
  const { data } = strip;
  const z = (s) => groundBetween(data.ground, Math.min(s, data.length - 1e-6), data.length)[0][1];
  let rails = "";
  let wires = "";
  for (const b of data.braces) {
    for (let k = 0; k + 1 < b.at.length; k++) {
      const [outer, inner] = [b.at[k], b.at[k + 1]];
      if (!seen(Math.min(outer, inner), Math.max(outer, inner))) continue;
      rails += `M${x(outer).toFixed(1)} ${y(z(outer) + b.rail).toFixed(1)}L${x(inner).toFixed(1)} ${y(z(inner) + b.rail).toFixed(1)}`;
      wires += `M${x(inner).toFixed(1)} ${y(z(inner) + b.rail).toFixed(1)}L${x(outer).toFixed(1)} ${y(z(outer)).toFixed(1)}`;
    }
  }
  for (const { at, reach, high, way } of data.struts) {
    if (!seen(at - reach, at + reach)) continue;
    const foot = at + way * reach;
    rails += `M${x(at).toFixed(1)} ${y(z(at) + high).toFixed(1)}L${x(foot).toFixed(1)} ${y(z(Math.max(0, foot))).toFixed(1)}`;
    wires += `M${x(at).toFixed(1)} ${y(z(at)).toFixed(1)}L${((x(at) + x(foot)) / 2).toFixed(1)} ${((y(z(at) + high) + y(z(Math.max(0, foot)))) / 2).toFixed(1)}`;
  }
  return [el("path", { class: "rail", d: rails }), el("path", { class: "bracewire", d: wires })];
}

function gates(strip, P, x, y, seen) {
  const { data } = strip;
  return data.gates.filter((g) => seen(g.at, g.at + g.opening)).map((g) => {
    const [a, b] = [g.at, g.at + g.opening];
    const z = Math.max(...groundBetween(data.ground, a, b).map((p) => p[1])) + 0.1;
    const frame = `M${P(a, z)}L${P(b, z)}L${P(b, z + 1.2)}L${P(a, z + 1.2)}ZL${P(b, z + 1.2)}`;
    return el("g", { class: "gate" }, el("path", { d: frame }), el("title", {}, `${g.name}, ${length(g.opening, "station")} wide`));
  });
}

function flags(strip, x, seen) {
  return strip.data.snags.filter((s) => seen(s.at, s.at)).map((s) => {
    const at = x(s.at).toFixed(1);
    return el("path", { class: s.grave ? "flag grave" : "flag", d: `M${at} 20v15M${at} 20l9 4l-9 4z` });
  });
}

function names(strip, x, seen) {
  const parts = [];
  let last = -Infinity;
  const put = (at, text, name) => {
    const wide = text.length * 6.1;
    if (at - wide / 2 < Math.max(last, strip.left) || at + wide / 2 > strip.width - 96) return false;
    last = at + wide / 2 + 6;
    parts.push(label(at, 13, text, { class: name, "text-anchor": "middle" }));
    return true;
  };
  const { data } = strip;
  const marks = data.runs.map((r, k) => ({ at: (x(Math.max(r.from, strip.window[0])) + x(Math.min(r.to, strip.window[1]))) / 2, seen: seen(r.from, r.to), text: `Run ${k + 1}, ${length(r.to - r.from, "station")}`, name: "runname" }));
  for (const g of data.gates) marks.push({ at: x(g.at + g.opening / 2), seen: seen(g.at, g.at + g.opening), text: g.name, name: "gatename" });
  for (const m of marks.filter((m) => m.seen).sort((a, b) => a.at - b.at)) put(m.at, m.text, m.name) || put(m.at, m.text.split(",")[0], m.name);
  return parts;
}

function scaleNote(strip) {
  const times = strip.exaggeration;
  const text = times > 1.05 ? `heights ×${times.toFixed(times < 9.95 ? 1 : 0)}` : "heights to scale";
  strip.exaggerationText = text;
  return label(strip.width - 18, 13, text, { class: "scalenote", "text-anchor": "end" });
}
