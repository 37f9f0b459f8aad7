// A small drawing of a pocket sum, to scale, with its lengths; fields that only one kind of brace has; the units chosen.
import { el, label } from "../static/svg.js";
import { length, setUnits } from "../static/units.js";

const at = (id) => document.getElementById(id);
const path = (d, name) => el("path", { d, class: name });

function ground(svg, d, [width, height]) {
  const xs = d.ground.map((p) => p[0]);
  const zs = d.ground.map((p) => p[1]);
  const [x0, x1, z0, z1] = [xs[0], xs[xs.length - 1], Math.min(...zs), Math.max(...zs) + d.high];
  const [across, up] = [(width - 40) / (x1 - x0), (height - 40) / (z1 - z0 || 1)];
  const x = (s) => 20 + (s - x0) * across;
  const y = (z) => height - 24 - (z - z0) * up;
  const z = (s) => {
    const k = Math.max(1, xs.findIndex((v) => v >= s - 1e-9));
    return zs[k - 1] + ((zs[k] - zs[k - 1]) * (s - xs[k - 1])) / (xs[k] - xs[k - 1]);
  };
  const line = (points) => points.map(([a, b], k) => `${k ? "L" : "M"}${x(a).toFixed(1)} ${y(b).toFixed(1)}`).join("");
  const feet = d.posts.map((s) => [s, z(s)]);
  return [
    path(`${line(d.ground)}L${x(x1)} ${height}L${x(x0)} ${height}Z`, "sumsoil"),
    path(line(d.ground), "sumground"),
    ...feet.map(([s, h]) => path(`M${x(s)} ${y(h)}V${y(h + d.high)}`, "sumpost")),
    path(line(feet.map(([s, h]) => [s, h + d.clear])), "sumwire"),
    label(20, 14, `heights ×${(up / across).toFixed(up / across < 10 ? 1 : 0)}`, { class: "dim" }),
    label(20, height - 6, length(x0, "station"), { class: "dim" }),
    label(width - 20, height - 6, length(x1, "station"), { class: "dim", "text-anchor": "end" }),
  ];
}

function brace(svg, d, [width, height]) {
  const long = d.reach ?? d.panels * d.apart;
  const tall = Math.max(d.rail ?? d.strut, d.pull) * 1.18;
  const scale = Math.min((width - 130) / long, (height - 56) / tall);
  const [left, base] = [60, height - 34];
  const x = (m) => left + m * scale;
  const y = (m) => base - m * scale;
  const parts = [path(`M10 ${base}H${width - 10}`, "sumground"), path(`M${x(0)} ${base + 12}V${y(tall)}`, "sumpost stout")];
  if (d.reach) {
    parts.push(path(`M${x(0)} ${y(d.strut)}L${x(d.reach)} ${base}`, "sumrail"));
    if (d.tie !== "none") parts.push(path(d.tie === "mid" ? `M${x(0)} ${base}L${x(d.reach / 2)} ${y(d.strut / 2)}` : `M${x(0)} ${base - 3}H${x(d.reach)}`, "sumwire"));
    parts.push(label(x(0) - 8, y(d.strut) + 4, length(d.strut, "cut"), { class: "dim", "text-anchor": "end" }));
  } else {
    for (let k = 1; k <= d.panels; k++) {
      parts.push(path(`M${x(k * d.apart)} ${base + 12}V${y(tall)}`, "sumpost stout"), path(`M${x((k - 1) * d.apart)} ${y(d.rail)}H${x(k * d.apart)}`, "sumrail"), path(`M${x((k - 1) * d.apart)} ${base}L${x(k * d.apart)} ${y(d.rail)}`, "sumwire"));
    }
    parts.push(label(x(0) - 8, y(d.rail) + 4, length(d.rail, "cut"), { class: "dim", "text-anchor": "end" }));
  }
  parts.push(path(`M${x(0)} ${y(d.pull)}h46m0 0l-8 -4m8 4l-8 4`, "sumpull"), label(x(0) + 50, y(d.pull) - 4, "pull", { class: "dim" }), label((x(0) + x(d.reach ?? d.apart)) / 2, base + 24, length(d.reach ?? d.apart, "cut"), { class: "dim", "text-anchor": "middle" }));
  return parts;
}

function plan(svg, points, [width, height], closed) {
  const [es, ns] = [points.map((p) => p[0]), points.map((p) => p[1])];
  const [e0, n0] = [Math.min(...es), Math.min(...ns)];
  const scale = Math.min((width - 120) / (Math.max(...es) - e0 || 1), (height - 60) / (Math.max(...ns) - n0 || 1));
  const place = ([e, n]) => [60 + (e - e0) * scale, height - 30 - (n - n0) * scale];
  const ring = closed ? [...points, points[0]] : points;
  const d = ring.map((p, k) => `${k ? "L" : "M"}${place(p).map((v) => v.toFixed(1)).join(" ")}`).join("");
  const middle = place([(Math.min(...es) + Math.max(...es)) / 2, (Math.min(...ns) + Math.max(...ns)) / 2]);
  const sides = ring.slice(1).map((p, k) => {
    const [a, b] = [place(ring[k]), place(p)];
    const [x, y] = [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2];
    // Beside a side that runs up the page, above or below one that runs across, outside the figure.
    const upright = Math.abs(b[1] - a[1]) > Math.abs(b[0] - a[0]);
    const right = x > middle[0];
    const at = upright ? [x + (right ? 8 : -8), y + 4] : [x, y + (closed && y > middle[1] ? 16 : -7)];
    const anchor = upright ? (right ? "start" : "end") : "middle";
    return label(...at, length(Math.hypot(p[0] - ring[k][0], p[1] - ring[k][1]), "station"), { class: "dim", "text-anchor": anchor });
  });
  const diagonals = closed ? [path(`M${place(points[0]).join(" ")}L${place(points[2]).join(" ")}M${place(points[1]).join(" ")}L${place(points[3]).join(" ")}`, "sumwire"), ...points.map((p, k) => label(place(p)[0] + (k === 1 || k === 2 ? 6 : -6), place(p)[1] + (k > 1 ? -4 : 14), "ABCD"[k], { class: "dim", "text-anchor": k === 1 || k === 2 ? "start" : "end" }))] : [];
  return [path(d, "sumrail"), ...diagonals, ...sides];
}

const source = document.getElementById("sum-drawing");
setUnits(source.dataset.units, false);
const data = JSON.parse(source.textContent);
const svg = at("sumfigure");
if (data && svg) {
  const { width, height } = svg.getBoundingClientRect();
  svg.setAttribute("viewBox", `0 0 ${width} ${height}`);
  const size = [width, height];
  svg.replaceChildren(...(data.ground ? ground(svg, data, size) : data.pegs ? plan(svg, data.pegs, size, true) : data.line ? plan(svg, data.line, size, false) : brace(svg, data, size)));
}

function fit() {
  for (const row of document.querySelectorAll("[data-only]")) {
    const [key, values] = row.dataset.only.split("=");
    const chosen = document.querySelector(`[name="f.${key}"]`)?.value;
    row.hidden = !values.split("|").includes(chosen);
  }
}
for (const select of document.querySelectorAll("select")) select.addEventListener("change", fit);
fit();
document.body.dataset.ready = "yes";
