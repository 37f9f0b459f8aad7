// A fabric to scale: its wires at their heights with the spacing between them, uprights, a knot enlarged; or two wires' gauges.
import { el, label } from "../static/svg.js";
import { length } from "../static/units.js";
import { meshLines } from "./section.js";

const data = JSON.parse(document.getElementById("label-data").textContent);
const half = (g) => String(g).replace(".5", "½");
const path = (d, name) => el("path", { d, class: name });

function fabric(svg, f) {
  const { width, height } = svg.getBoundingClientRect();
  svg.setAttribute("viewBox", `0 0 ${width} ${height}`);
  const scale = Math.min((height - 44) / f.high, 900);
  const [left, right, base] = [80, width - 186, height - 30];
  const wide = (right - left) / scale;
  const y = (h) => base - h * scale;
  const parts = [el("clipPath", { id: "roll" }, el("rect", { x: left, y: y(f.high) - 2, width: right - left, height: f.high * scale + 4 }))];
  const lines = meshLines(f, wide, scale);
  const d = lines.map(([a, b, c, e]) => `M${(left + a * scale).toFixed(1)} ${y(b).toFixed(1)}L${(left + c * scale).toFixed(1)} ${y(e).toFixed(1)}`).join("");
  parts.push(el("path", { class: "mesh", d, "clip-path": "url(#roll)" }));
  const edges = [f.wires[0], f.wires[f.wires.length - 1]];
  for (const h of edges) parts.push(path(`M${left} ${y(h)}H${right}`, "meshedge"));
  const mid = (k) => (f.wires[k] + f.wires[k + 1]) / 2;
  let last = Infinity;
  if (f.kind === "woven") for (let k = 0; k + 1 < f.wires.length; k++) if (last - y(mid(k)) > 12.5) parts.push(label(left - 8, (last = y(mid(k))) + 4, length(f.wires[k + 1] - f.wires[k], "gap"), { class: "dim", "text-anchor": "end" }));
  parts.push(path(`M${right + 10} ${y(0)}V${y(f.high)}M${right + 6} ${y(0)}h8M${right + 6} ${y(f.high)}h8`, "dimline"), label(right + 18, y(f.high / 2) + 4, length(f.high, "cut"), { class: "dim" }));
  const apart = f.kind === "woven" ? f.stay : f.stay * Math.SQRT2;
  const x = left + (f.kind === "woven" ? f.stay / 2 : 0) * scale;
  parts.push(path(`M${x} ${base + 8}h${apart * scale}M${x} ${base + 4}v8M${x + apart * scale} ${base + 4}v8`, "dimline"), label(x + apart * scale + 8, base + 12, `${length(apart, "gap")} ${f.kind === "woven" ? "stay to stay" : "diamond"}; gauges ${half(f.outer_gauge)} / ${half(f.filler_gauge)}`, { class: "dim" }));
  if (f.kind === "woven") parts.push(...knot(f, right + 76, height - 152));
  svg.replaceChildren(...parts);
}

// The knot enlarged, with both wires as thick as they are to each other.
function knot(f, x, y) {
  const w = (f.filler / 0.003) * 7;
  const stay = { hinge: `M48 6V38M48 54V88M38 38q10 -9 20 0M38 54q10 9 20 0`, square: `M48 6V88M34 34h28v26h-28z`, fixed: `M48 6V88M34 36q14 -12 28 0v20q-14 12 -28 0z`, s: `M48 6V36q12 4 0 11q-12 7 0 12V88` }[f.knot || "hinge"];
  const words = { hinge: "hinge joint", square: "square lock", fixed: "fixed knot", s: "S-knot" }[f.knot || "hinge"];
  const group = el("g", { transform: `translate(${x} ${y})` }, el("rect", { width: 96, height: 112, class: "knotbox" }), el("path", { d: "M0 46H96", class: "knotwire", "stroke-width": w }), el("path", { d: stay, class: "knotstay", "stroke-width": w * 0.8 }), label(48, 106, words, { class: "dim", "text-anchor": "middle" }));
  return [group];
}

function gauges(svg) {
  const { width, height } = svg.getBoundingClientRect();
  svg.setAttribute("viewBox", `0 0 ${width} ${height}`);
  const { outer, filler, outerGauge, fillerGauge } = svg.dataset;
  const scale = Math.min(width / 3, height / 2) / Number(outer) / 1.4;
  const parts = [["top and bottom", outer, outerGauge], ["filler", filler, fillerGauge]].flatMap(([name, m, g], k) => {
    const cx = width * (k ? 0.7 : 0.3);
    const mm = (Number(m) * 1000).toFixed(2);
    return [el("circle", { cx, cy: height / 2 - 16, r: (Number(m) * scale) / 2, class: "wireend" }), label(cx, height - 34, `${name}: ${half(g)} gauge`, { class: "dim", "text-anchor": "middle" }), label(cx, height - 16, `${(Number(m) / 0.0254).toFixed(4)} in, ${mm} mm`, { class: "dim", "text-anchor": "middle" })];
  });
  svg.replaceChildren(...parts);
}

if (data) fabric(document.getElementById("drawn"), data);
else if (document.getElementById("gauges")) gauges(document.getElementById("gauges"));
document.body.dataset.ready = "yes";
