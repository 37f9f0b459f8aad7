// The plan of a job: what lies on the ground, all lines with their corners, gates and joins, their names; data to nodes.
import { el, label } from "../static/svg.js";
import { length, quantity, round, tapeDivisions } from "../static/units.js";

const LETTER = 6.8;

// The place on a line at a station, along its drawn places.
export function along(line, station) {
  let gone = 0;
  for (let k = 1; k < line.places.length; k++) {
    const [a, b] = [line.places[k - 1], line.places[k]];
    const leg = Math.hypot(b[0] - a[0], b[1] - a[1]);
    if (gone + leg >= station) return [0, 1].map((c) => a[c] + ((b[c] - a[c]) * (station - gone)) / (leg || 1));
    gone += leg;
  }
  return line.places[line.places.length - 1];
}

const pathOf = (frame, places, closed = false) => `M${places.map((p) => frame(...p).map((v) => v.toFixed(1)).join(" ")).join("L")}${closed ? "Z" : ""}`;

function things(frame, page) {
  return page.things.flatMap((t) => t.shapes.map((shape) => {
    const title = el("title", {}, t.name);
    if (shape.length === 1) {
      const [x, y] = frame(...shape[0]);
      return el("circle", { class: `mapthing ${t.group}`, cx: x, cy: y, r: 4 }, title);
    }
    return el("path", { class: `mapthing ${t.group} of-${t.kind}`, d: pathOf(frame, shape) }, title);
  }));
}

function sites(frame, line, figures) {
  return (figures?.sites ?? []).map(([, role, e, n]) => {
    const [x, y] = frame(e, n);
    return role === "join" ? el("path", { class: "joinpost", d: `M${x - 5} ${y}l5 -5l5 5l-5 5Z` }) : el("rect", { class: "terminal", x: x - 2.5, y: y - 2.5, width: 5, height: 5 });
  });
}

function gates(frame, line, figures) {
  return (figures?.gates ?? []).map(([name, at, wide]) => {
    const [a, b] = [frame(...along(line, at)), frame(...along(line, at + wide))];
    return el("path", { class: "mapgate", d: `M${a.map((v) => v.toFixed(1)).join(" ")}L${b.map((v) => v.toFixed(1)).join(" ")}` }, el("title", {}, `${name}, ${length(wide, "station")}`));
  });
}

// A label beside its line, where nothing else is written.
function nameOf(frame, line, text, taken, kind) {
  const wide = text.length * LETTER;
  for (const share of [0.5, 0.3, 0.7, 0.15, 0.85]) {
    const [x, y] = frame(...along(line, line.length * share));
    const [ax, ay] = frame(...along(line, Math.max(0, line.length * share - 3)));
    const size = Math.hypot(x - ax, y - ay) || 1;
    const [nx, ny] = [(ay - y) / size, (x - ax) / size];
    for (const way of [-1, 1]) {
      const [dx, dy] = [nx * way * (wide / 2 + 8), ny * way * 13 + 4];
      const box = [x + dx - wide / 2, y + dy - 11, x + dx + wide / 2, y + dy + 3];
      if (box[0] < 3 || box[2] > frame.width - 3 || box[1] < 3 || box[3] > frame.height - 3 || taken.some((o) => box[0] < o[2] && box[2] > o[0] && box[1] < o[3] && box[3] > o[1])) continue;
      taken.push(box);
      return [label(x + dx, y + dy, text, { class: kind, "text-anchor": "middle" })];
    }
  }
  return [];
}

// The middle of a closed line, where its area is written.
function areaOf(frame, line, area, taken) {
  const middle = [0, 1].map((c) => line.places.reduce((sum, p) => sum + p[c], 0) / line.places.length);
  const text = quantity(area, "land");
  const [x, middleY] = frame(...middle);
  for (const y of [0, -24, 24, -48, 48].map((dy) => middleY + dy)) {
    const box = [x - (text.length * LETTER) / 2, y - 11, x + (text.length * LETTER) / 2, y + 3];
    if (taken.some((o) => box[0] < o[2] && box[2] > o[0] && box[1] < o[3] && box[3] > o[1])) continue;
    taken.push(box);
    return [label(x, y, text, { class: "areaname", "text-anchor": "middle" })];
  }
  return [];
}

function furniture(frame) {
  const [bar] = tapeDivisions(1 / frame.scale, 70);
  const y = frame.height - 14;
  const x = frame.width - 26;
  return [el("path", { class: "scalebar", d: `M16 ${y - 5}v5h${(bar * frame.scale).toFixed(1)}v-5` }), label(22 + bar * frame.scale, y + 1, round(bar), { class: "scaletext" }), el("path", { class: "north", d: `M${x} 44V14M${x - 5} 22l5-9l5 9` }), label(x, 57, "N", { class: "northtext", "text-anchor": "middle" })];
}

// Everything of the plan; ``page`` may still be on its way (null): then the lines alone.
export function jobPlan(frame, { lines, page, picked, pick }) {
  const parts = [];
  for (const l of lines) if (l.closed) parts.push(el("path", { class: "enclosed", d: pathOf(frame, l.places, true) }));
  if (page) parts.push(...things(frame, page));
  for (const l of lines) {
    const shape = el("path", { class: `jobline ${l.standing}${l.id === picked ? " picked" : ""}`, d: pathOf(frame, l.places, l.closed) }, el("title", {}, l.name));
    const wide = el("path", { class: "jobline-hit", d: pathOf(frame, l.places, l.closed) });
    wide.addEventListener("click", () => pick(l.id));
    parts.push(shape, wide);
  }
  const taken = [];
  if (page) {
    for (const l of lines) parts.push(...sites(frame, l, page.figures[l.id]), ...gates(frame, l, page.figures[l.id]));
    for (const s of page.snags) {
      const [x, y] = frame(...along(lines.find((l) => l.id === s.line), s.at));
      parts.push(el("path", { class: s.grave ? "flag grave" : "flag", d: `M${x.toFixed(1)} ${y.toFixed(1)}v-13l8 3.5l-8 3.5` }));
    }
    for (const m of page.meetings) {
      const line = lines.find((l) => l.id === m.line);
      const [x, y] = frame(...(m.end === "start" ? line.places[0] : m.end === "end" ? line.places[line.places.length - 1] : along(line, m.here)));
      parts.push(el("circle", { class: "meetingring", cx: x.toFixed(1), cy: y.toFixed(1), r: 9 }));
    }
  }
  for (const l of lines) parts.push(...nameOf(frame, l, lines.length > 12 ? l.id : `${l.id} ${l.name}`, taken, `linename${l.id === picked ? " picked" : ""}`));
  if (page) for (const l of lines) if (l.closed && page.figures[l.id]?.area) parts.push(...areaOf(frame, l, page.figures[l.id].area, taken));
  return [...parts, ...furniture(frame)];
}
