// The free body of an end, to scale: posts in their ground, rail, wire or strut, and the forces on the end post as arrows.
import { el, label } from "../static/svg.js";
import { length, quantity } from "../static/units.js";

const ARROW = [22, 52]; // pixels of the smallest and the largest force
const LABELS = 178; // pixels left of the post for its arrows and their words
const path = (d, name) => el("path", { d, class: name });

function frame(svg, [x0, x1, z0, z1]) {
  const { width, height } = svg.getBoundingClientRect();
  svg.setAttribute("viewBox", `0 0 ${width} ${height}`);
  const scale = Math.min((width - LABELS - 20) / (x1 - x0), (height - 104) / (z1 - z0));
  const left = Math.max(LABELS, (width - (x1 - x0) * scale) / 2);
  const base = (height - 78 + (z1 - z0) * scale) / 2 + 2;
  return { x: (m) => left + (m - x0) * scale, y: (m) => base - (m - z0) * scale, scale, width, height };
}

// An arrow whose head (or tail, where it pulls away from the post) lies at a point; its words beside its far end.
function arrow(f, most, [px, py], [dx, dy], newton, name, kind, away) {
  if (!(Math.abs(newton) > 1)) return [];
  const long = ARROW[0] + (ARROW[1] * Math.abs(newton)) / most;
  const [sx, sy] = [dx * Math.sign(newton), dy * Math.sign(newton)];
  const [tx, ty] = away ? [px, py] : [px - sx * long, py - sy * long];
  const [hx, hy] = away ? [px + sx * long, py + sy * long] : [px, py];
  const [nx, ny] = [-sy, sx];
  const head = `M${(hx - 9 * sx + 4.5 * nx).toFixed(1)} ${(hy - 9 * sy + 4.5 * ny).toFixed(1)}L${hx.toFixed(1)} ${hy.toFixed(1)}L${(hx - 9 * sx - 4.5 * nx).toFixed(1)} ${(hy - 9 * sy - 4.5 * ny).toFixed(1)}Z`;
  const [fx, fy] = away ? [hx, hy] : [tx, ty];
  const anchor = Math.abs(sx) > 0.5 ? (fx < px ? "end" : "start") : "middle";
  const drop = Math.abs(sx) > 0.5 ? 4 : fy > py ? 14 : -6;
  const shift = anchor === "middle" ? 0 : fx < px ? -5 : 5;
  const text = label(fx + shift, fy + drop, "", { class: `force ${kind}`, "text-anchor": anchor });
  text.append(el("tspan", {}, name), el("tspan", { x: (fx + shift).toFixed(1), dy: "1.15em", class: "much" }, quantity(Math.abs(newton), "force")));
  return [path(`M${tx.toFixed(1)} ${ty.toFixed(1)}L${hx.toFixed(1)} ${hy.toFixed(1)}`, `forceline ${kind}`), path(head, `forcehead ${kind}`), text];
}

const wall = (f, s, low, high, wide, name) => path(`M${f.x(s - wide / 2).toFixed(1)} ${f.y(high).toFixed(1)}H${f.x(s + wide / 2).toFixed(1)}V${f.y(low).toFixed(1)}H${f.x(s - wide / 2).toFixed(1)}Z`, name);

function ground(f, feet, [x0, x1]) {
  const first = feet[0];
  const last = feet[feet.length - 1];
  const points = [[x0, first[1]], ...feet, [x1, last[1]]];
  const top = points.map(([s, z], k) => `${k ? "L" : "M"}${f.x(s).toFixed(1)} ${f.y(z).toFixed(1)}`).join("");
  return [path(`${top}L${f.x(x1).toFixed(1)} ${f.height}L${f.x(x0).toFixed(1)} ${f.height}Z`, "soilfill"), path(top, "soilline")];
}

function panels(f, end, feet) {
  const parts = [];
  end.panels.forEach((p, k) => {
    const [a, b] = [feet[k], feet[k + 1]];
    parts.push(path(`M${f.x(a[0])} ${f.y(a[1] + p.out)}L${f.x(b[0])} ${f.y(b[1] + p.in)}`, "bodyrail"));
    const [from, to] = end.crossed ? [[a[0], a[1] + p.out], b] : [[b[0], b[1] + p.wire], a];
    if (end.kind !== "welded") parts.push(path(`M${f.x(from[0])} ${f.y(from[1])}L${f.x(to[0])} ${f.y(to[1])}`, "bodywire"));
    else parts.push(path(`M${f.x(from[0])} ${f.y(from[1])}L${f.x(to[0])} ${f.y(to[1])}`, "bodyrail thin"));
    const dim = label((f.x(a[0]) + f.x(b[0])) / 2, f.y((a[1] + b[1] + p.out + p.in) / 2) - 8, `${length(p.level, "station")} centres`, { class: "bodydim", "text-anchor": "middle" });
    parts.push(dim);
  });
  return parts;
}

export function freeBody(svg, end, high) {
  const braced = end.panels?.length;
  let [s, z] = [0, 0];
  const feet = [[0, 0]];
  for (const p of end.panels ?? []) feet.push([(s += p.level), (z += p.rise)]);
  if (end.kind === "strut") feet.push([end.reach, end.rise], [end.trench[1], end.rise]);
  if (!braced && end.kind !== "strut") feet.push([2.4, 0]);
  const zs = feet.map((p) => p[1]);
  const far = feet[feet.length - 1][0];
  const out = end.kind === "deadman" ? -end.reach - 0.4 : -0.2;
  const [x0, x1] = [out, far + 0.5];
  const f = frame(svg, [x0, x1, Math.min(...zs) - end.depth, Math.max(...zs) + end.above + 0.1]);
  const most = Math.max(end.pull, ...(end.rails ?? []), ...(end.wires ?? []), ...end.shear.map(Math.abs), ...end.uplift.map(Math.abs), end.strut ?? 0, end.wireN ?? 0, 1);
  const parts = [...ground(f, feet, [x0 - 400 / f.scale, x1 + 400 / f.scale])];
  const posts = braced ? feet : [feet[0]];
  for (const [k, [at, foot]] of posts.entries()) parts.push(wall(f, at, foot - end.depth, foot + end.above, Math.max(k ? 0.15 : end.wide, 5 / f.scale), "bodypost"));
  const clear = Math.max(0.02, end.above - high);
  parts.push(path(`M${f.x(0)} ${f.y(end.above - clear)}L${f.x(far)} ${f.y(zs[zs.length - 1] + end.above - clear)}`, "bodyfence"));
  const P = (m, h) => [f.x(m), f.y(h)];
  const A = (...rest) => parts.push(...arrow(f, most, ...rest));
  if (braced) {
    parts.push(...panels(f, end, feet));
    const p = end.panels[0];
    if (end.rails.length && end.rails[0] > 1) A(P(0, p.out), [-1, 0], end.rails[0], "rail pushes back", "push", true);
    if (end.wires.length && !end.crossed) {
      const long = Math.hypot(p.level, p.rise + p.wire);
      A(P(0, 0), [p.level / long, -(p.rise + p.wire) / long], end.wires[0], "wire pulls", "hold", true);
    }
  }
  if (end.kind === "strut") {
    const long = Math.hypot(end.reach, end.high - end.rise);
    const foot = end.trench[1];
    parts.push(path(`M${f.x(0)} ${f.y(end.high)}L${f.x(end.reach)} ${f.y(end.rise)}L${f.x(foot)} ${f.y(end.rise - end.trench[2])}`, "bodyrail"));
    if (end.tie !== "none") parts.push(path(end.tie === "mid" ? `M${f.x(0)} ${f.y(0)}L${f.x(end.reach / 2)} ${f.y((end.high + end.rise) / 2)}` : `M${f.x(0)} ${f.y(0)}L${f.x(end.reach)} ${f.y(end.rise)}`, "bodywire"));
    A(P(0, end.high), [-end.reach / long, -(end.high - end.rise) / long], end.strut, "strut pushes", "push", true);
  }
  if (end.kind === "deadman") {
    parts.push(path(`M${f.x(0)} ${f.y(end.head)}L${f.x(-end.reach)} ${f.y(-0.7)}`, "bodywire"), el("circle", { cx: f.x(-end.reach), cy: f.y(-0.8), r: 7, class: "bodypost" }));
    A(P(0, end.head), [-0.9, 0.43], end.wireN, "wire to the log", "hold", true);
  }
  A(P(0, end.pullAt), [1, 0], end.pull, "fabric pulls", "pull", true);
  if (end.shear.length) A([f.x(0) + 3, f.y(0) + Math.min(40, (end.depth * f.scale) / 3)], [-1, 0], end.shear[0], "soil pushes back", "soil", true);
  if (end.uplift.length) A([f.x(0), f.y(-end.depth)], [0, 1], end.uplift[0], end.uplift[0] > 0 ? "soil holds down" : "soil carries", "soil", end.uplift[0] > 0);
  svg.replaceChildren(...parts);
  apart(parts.filter((p) => p.classList.contains("force")));
}

// Words of two arrows that lie on each other: the lower ones go below.
function apart(words) {
  const placed = [];
  for (const word of words.sort((a, b) => a.getAttribute("y") - b.getAttribute("y"))) {
    for (const over of placed) {
      const [a, b] = [over.getBBox(), word.getBBox()];
      const beside = a.x + a.width < b.x || b.x + b.width < a.x;
      const down = a.y + a.height - b.y;
      if (!beside && down > 0 && b.y + b.height > a.y) word.setAttribute("y", Number(word.getAttribute("y")) + down);
    }
    placed.push(word);
  }
}
