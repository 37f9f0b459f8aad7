// Draws the preview of a measured line: plan and profile.
import { length, printQuantities } from "../static/units.js";
import { el, fit, label } from "../static/svg.js";

const { line: rows, others } = JSON.parse(document.getElementById("line").textContent);

function plan(svg) {
  const frame = fit(svg, [...rows.map((r) => [r[1], r[2]]), ...others.flat()], 24);
  const points = rows.map((r) => frame(r[1], r[2]).map((v) => v.toFixed(1)).join(",")).join(" ");
  svg.replaceChildren(
    ...others.map((places) => el("polyline", { class: "other", points: places.map((p) => frame(...p).map((v) => v.toFixed(1)).join(",")).join(" ") })),
    el("polyline", { points, class: "measured" }),
    ...[0, rows.length - 1].map((k) => {
      const [x, y] = frame(rows[k][1], rows[k][2]);
      return el("circle", { cx: x, cy: y, r: k ? 4 : 6, class: k ? "last" : "first" });
    }),
  );
}

function ground(svg) {
  const box = svg.getBoundingClientRect();
  const low = Math.min(...rows.map((r) => r[3]));
  const high = Math.max(...rows.map((r) => r[3]), low + 0.5);
  const across = (box.width - 24) / rows[rows.length - 1][0];
  const up = Math.min((box.height - 60) / (high - low), 15 * across);
  const below = (box.height - (high - low) * up) / 2;
  const at = (r) => `${(12 + r[0] * across).toFixed(1)},${(box.height - below - (r[3] - low) * up).toFixed(1)}`;
  const points = rows.map(at).join(" ");
  const foot = `${(12 + rows[rows.length - 1][0] * across).toFixed(1)},${box.height} 12,${box.height}`;
  svg.setAttribute("viewBox", `0 0 ${box.width} ${box.height}`);
  svg.replaceChildren(el("polygon", { points: `${points} ${foot}`, class: "soil" }), el("polyline", { points, class: "measured" }), label(16, box.height - 8, length(rows[rows.length - 1][0], "station"), {}));
  const times = up / across;
  document.getElementById("preview-ve").textContent = times > 0.95 && times < 1.05 ? "heights to scale" : times < 1 ? `lengths ×${(1 / times).toPrecision(2)}` : `heights ×${times.toFixed(times < 10 ? 1 : 0)}`;
}

plan(document.getElementById("preview-map"));
ground(document.getElementById("preview-ground"));
printQuantities(document);
