// A gate to scale: from the front, on its ground, with what a tape would measure; from above, with the ground its tip swings over.
import { el, label } from "../static/svg.js";
import { length, quantity } from "../static/units.js";

const path = (d, name) => el("path", { d, class: name });
const pts = (f, points) => points.map(([s, z], k) => `${k ? "L" : "M"}${f.x(s).toFixed(1)} ${f.y(z).toFixed(1)}`).join("");

function frame(svg, [x0, x1, z0, z1], [left, right, top, foot]) {
  const { width, height } = svg.getBoundingClientRect();
  svg.setAttribute("viewBox", `0 0 ${width} ${height}`);
  const scale = Math.min((width - left - right) / (x1 - x0), (height - top - foot) / (z1 - z0));
  const shift = left + (width - left - right - (x1 - x0) * scale) / 2;
  const base = height - foot - (height - top - foot - (z1 - z0) * scale) / 2;
  return { x: (m) => shift + (m - x0) * scale, y: (m) => base - (m - z0) * scale, scale, width, height };
}

const heightAt = (ground, s) => {
  const k = Math.max(1, ground.findIndex(([at]) => at >= s));
  const [[a, za], [b, zb]] = [ground[k - 1], ground[k] ?? ground[ground.length - 1]];
  return b === a ? za : za + ((zb - za) * (s - a)) / (b - a);
};

// A measure between two places on one height, its words over it, or beside it where there is no room.
function across(f, a, b, y, text, name = "leafdim", under = false) {
  const [xa, xb] = [f.x(a), f.x(b)];
  return [path(`M${xa.toFixed(1)} ${y - 4}v8M${xb.toFixed(1)} ${y - 4}v8M${xa.toFixed(1)} ${y}H${xb.toFixed(1)}`, "dimline"), label((xa + xb) / 2, under ? y + 14 : y - 5, text, { class: name, "text-anchor": "middle" })];
}

// Bars of a leaf's frame: uprights at both ends, rails between, rising as it is hung.
function leafPath(f, from, to, low, slope, high, panes) {
  const z = (s, up) => low + slope * Math.abs(s - from) + up;
  let d = "";
  for (let k = 0; k <= 5 * panes; k++) d += `M${f.x(from).toFixed(1)} ${f.y(z(from, (high * k) / (5 * panes))).toFixed(1)}L${f.x(to).toFixed(1)} ${f.y(z(to, (high * k) / (5 * panes))).toFixed(1)}`;
  for (const s of [from, to, from + (to - from) / 2]) d += `M${f.x(s).toFixed(1)} ${f.y(z(s, 0)).toFixed(1)}V${f.y(z(s, high)).toFixed(1)}`;
  return d;
}

function wallOf(f, p, ground) {
  const z = heightAt(ground, p.at);
  return path(`M${f.x(p.at - p.wide / 2).toFixed(1)} ${f.y(z + p.above).toFixed(1)}H${f.x(p.at + p.wide / 2).toFixed(1)}V${f.y(z - p.depth).toFixed(1)}H${f.x(p.at - p.wide / 2).toFixed(1)}Z`, "bodypost");
}

// Where each leaf's hinge pin stands and which way the closed leaf runs.
function hinged(g) {
  const [a, b] = g.posts;
  const first = { pin: a.at + a.wide / 2 + g.hingeGap, way: 1, post: a };
  const last = { pin: b.at - b.wide / 2 - g.hingeGap, way: -1, post: b };
  if (!g.leaves) return [];
  return g.leaves === 2 ? [first, last] : [g.turn.hinge === "first" ? first : last];
}

export function front(svg, g) {
  if (g.posts.length < 2) return svg.replaceChildren();
  const [a, b] = g.posts;
  const room = Math.max(a.above, b.above);
  const [x0, x1] = [Math.max(g.ground[0][0], g.at - 1.1), Math.min(g.ground[g.ground.length - 1][0], g.end + 1.1)];
  const inside = g.ground.filter(([s]) => s >= x0 && s <= x1).map(([, z]) => z);
  const low = Math.min(...inside) - Math.max(0.45, Math.min(Math.max(a.depth, b.depth) + 0.1, (x1 - x0) * 0.22));
  const f = frame(svg, [x0, x1, low, Math.max(...inside) + room], [14, 14, 56, 34]);
  const soil = [[x0, heightAt(g.ground, x0)], ...g.ground.filter(([s]) => s > x0 && s < x1), [x1, heightAt(g.ground, x1)]];
  const parts = [path(`${pts(f, soil)}L${f.x(x1).toFixed(1)} ${f.height}L${f.x(x0).toFixed(1)} ${f.height}Z`, "soilfill"), wallOf(f, a, g.ground), wallOf(f, b, g.ground), path(pts(f, soil), "soilline")];
  const [za, zb] = [heightAt(g.ground, a.at), heightAt(g.ground, b.at)];
  const top = f.y(Math.max(za + a.above, zb + b.above)) - 26;
  parts.push(...across(f, a.at + a.wide / 2, b.at - b.wide / 2, top, `${length(g.clear, "cut")} clear, level`));
  parts.push(...across(f, a.at, b.at, f.height - 18, `${length(g.end - g.at, "cut")} between centres`, "leafdim", true));
  if (g.draw === "rails") {
    for (let k = 1; k <= g.rails; k++) parts.push(path(`M${f.x(a.at).toFixed(1)} ${f.y(za + 0.3 * k).toFixed(1)}L${f.x(b.at).toFixed(1)} ${f.y(zb + 0.3 * k).toFixed(1)}`, "bodyrail thin"));
  } else if (g.draw === "gap") {
    for (const [p, z, way] of [[a, za, 1], [b, zb, -1]]) parts.push(path(`M${f.x(p.at + (way * p.wide) / 2).toFixed(1)} ${f.y(z + 0.5).toFixed(1)}V${f.y(z + 1.1).toFixed(1)}`, "bodyrail thin"));
  }
  hinged(g).forEach((h, k) => {
    const s = g.turn.leaves[k];
    const base = heightAt(g.ground, h.pin);
    const end = h.pin + h.way * g.leaf;
    parts.push(path(leafPath(f, h.pin, end, base + s.bottom, s.slope, g.high, g.stacked), "leafbars"));
    if (g.stacked > 1) parts.push(path(`M${f.x(h.pin).toFixed(1)} ${f.y(base + s.bottom + g.high / 2).toFixed(1)}L${f.x(end).toFixed(1)} ${f.y(base + s.bottom + s.slope * g.leaf + g.high / 2).toFixed(1)}`, "leafjoint"));
    const face = h.post.at + (h.way * h.post.wide) / 2;
    const own = heightAt(g.ground, h.post.at);
    g.pins.forEach((z, n) => {
      const y = f.y(own + z);
      const up = n === 0 ? -7 : 7;
      parts.push(path(`M${f.x(face).toFixed(1)} ${y.toFixed(1)}H${f.x(h.pin).toFixed(1)}v${up}`, "hingepin"));
      parts.push(label(f.x(h.post.at) - h.way * (h.post.wide * f.scale * 0.5 + 6), y + 4, length(z, "cut"), { class: "leafdim", "text-anchor": h.way > 0 ? "end" : "start" }));
    });
    const at = h.pin + h.way * s.gapAt;
    const under = base + s.bottom + s.slope * s.gapAt;
    const soilAt = heightAt(g.ground, at);
    const wrong = !g.turn.ok;
    const x = f.x(at) + (s.gapAt > g.leaf / 2 ? -h.way : h.way) * 7;
    parts.push(path(`M${x.toFixed(1)} ${f.y(under).toFixed(1)}V${f.y(soilAt).toFixed(1)}`, `gapmark${wrong ? " wrong" : ""}`));
    parts.push(label(x, f.y(soilAt) + 15, quantity(under - soilAt, "gap"), { class: `leafdim under${wrong ? " bad" : ""}`, "text-anchor": "middle" }));
  });
  parts.push(label(14, 16, "From the front, to scale", { class: "leafname" }));
  svg.replaceChildren(...parts);
}

export function above(svg, g) {
  if (g.posts.length < 2) return svg.replaceChildren();
  const opened = (g.say.open * Math.PI) / 180;
  const side = g.turn.side === "left" ? 1 : -1; // the page's up is the line's left
  const leaves = hinged(g);
  const reach = leaves.length ? g.leaf : 1;
  const back = opened > Math.PI / 2 ? -g.leaf * Math.cos(opened) : 0;
  const [x0, x1] = [g.at - 1 - back, g.end + 1 + back];
  const f = frame(svg, [x0, x1, side > 0 ? -0.6 : -reach - 0.3, side > 0 ? reach + 0.3 : 0.6], [26, 26, 30, 24]);
  const parts = [path(`M${f.x(x0)} ${f.y(0)}H${f.x(g.posts[0].at)}M${f.x(g.posts[1].at)} ${f.y(0)}H${f.x(x1)}`, "planfence")];
  for (const p of g.posts) parts.push(el("circle", { cx: f.x(p.at), cy: f.y(0), r: Math.max(3.5, (p.wide / 2) * f.scale), class: "planpost" }));
  leaves.forEach((h, k) => {
    const s = g.turn.leaves[k];
    const tip = (deg, far = g.leaf) => [h.pin + h.way * far * Math.cos((deg * Math.PI) / 180), side * far * Math.sin((deg * Math.PI) / 180)];
    const arc = s.angles.map((deg) => tip(deg));
    parts.push(path(`${pts(f, [[h.pin, 0], ...arc])}Z`, "sweepfill"));
    // the ground under the tip, above or below the leaf's bottom less what must be clear: an outline in or out of the arc
    const most = Math.max(0.05, ...s.tips.map(Math.abs));
    parts.push(path(pts(f, s.angles.map((deg, n) => tip(deg, g.leaf * (1 - 0.16 * (s.tips[n] / most))))), "tipground"));
    parts.push(path(pts(f, arc), "sweeparc"), path(`M${f.x(h.pin).toFixed(1)} ${f.y(0).toFixed(1)}L${arc[0].map((v, n) => (n ? f.y(v) : f.x(v)).toFixed(1)).join(" ")}`, "leafshut"));
    const open = arc[arc.length - 1];
    parts.push(path(`M${f.x(h.pin).toFixed(1)} ${f.y(0).toFixed(1)}L${f.x(open[0]).toFixed(1)} ${f.y(open[1]).toFixed(1)}`, "leafopen"));
    if (s.highest > 0.005) {
      const [px, py] = tip(s.deg, s.along);
      parts.push(el("circle", { cx: f.x(px).toFixed(1), cy: f.y(py).toFixed(1), r: 5, class: "highspot" }));
      parts.push(label(f.x(px) - 8, f.y(py) - side * 10 + 4, `rises ${quantity(s.highest, "gap")}`, { class: "leafdim", "text-anchor": "end" }));
    }
    if (g.say.open === 90 && k === 0 && Math.abs(s.tips[s.tips.length - 1]) > 0.01) parts.push(label(f.x(open[0]) + h.way * 8, f.y(open[1]) + (side > 0 ? 10 : -4), `ground ${quantity(Math.abs(s.tips[s.tips.length - 1]), "gap")} ${s.tips[s.tips.length - 1] > 0 ? "higher" : "lower"}`, { class: "leafdim", "text-anchor": h.way > 0 ? "start" : "end" }));
  });
  if (leaves.length && g.turn.leaves.some((s) => s.tips.some((z) => Math.abs(z) > 0.01))) parts.push(label(14, f.height - 8, "Brown: ground at its tip, inward if higher", { class: "leafname" }));
  parts.push(label(14, 16, leaves.length ? `From above, opening to the ${g.turn.side} of the line` : "From above", { class: "leafname" }));
  svg.replaceChildren(...parts);
}
