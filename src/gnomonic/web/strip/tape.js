// The tape over the lanes, and what lies over them all: the cursor, what is chosen, what is being forbidden.
import { el, label } from "../static/svg.js";
import { length, round, tapeDivisions } from "../static/units.js";

export const TAPE = 28;

export function tape(view) {
  const [from, to] = view.window;
  const [major, minor] = tapeDivisions(1 / view.perMetre);
  const group = el("g", { class: "tape" }, el("rect", { x: view.left, y: 2, width: view.wide, height: TAPE - 6 }));
  let marks = "";
  for (let k = Math.ceil(from / minor - 1e-6); k * minor <= to + 1e-6; k++) {
    const x = view.x(k * minor);
    const whole = Math.abs(k * minor - Math.round((k * minor) / major) * major) < minor / 10;
    marks += `M${x.toFixed(1)} ${TAPE - 4}v${whole ? -20 : -6}`;
    if (whole && x < view.width - 60) group.append(label(x + 4, 16, round(k * minor)));
  }
  group.append(el("path", { d: marks }));
  return group;
}

// A stretch over all lanes, or a line where it is shorter than a pixel.
function stretch(view, name, from, to, bottom) {
  const [a, b] = [view.x(from), view.x(to)];
  if (b - a > 1) return el("rect", { class: name, x: a, y: TAPE, width: b - a, height: bottom - TAPE });
  return el("line", { class: name, x1: a, x2: a, y1: TAPE, y2: bottom });
}

export function overlay(view, { selected, drag, cursor, bottom }) {
  const parts = [];
  if (selected?.from !== undefined) parts.push(stretch(view, "chosen", selected.from, selected.to ?? selected.from, bottom));
  if (drag?.kind === "forbid") parts.push(stretch(view, "forbidding", Math.min(drag.from, drag.to), Math.max(drag.from, drag.to), bottom));
  if (cursor === null || cursor < view.window[0] - 1e-9 || cursor > view.window[1] + 1e-9) return parts;
  const x = view.x(cursor);
  const text = length(cursor, "station");
  const wide = text.length * 7.4 + 14;
  const at = Math.min(Math.max(x - wide / 2, view.left), view.width - wide - 4);
  parts.push(
    el("line", { class: "cursor", x1: x, x2: x, y1: TAPE - 4, y2: bottom }),
    el("rect", { class: "cursortag", x: at, y: 1, width: wide, height: TAPE - 5, rx: 2 }),
    label(at + wide / 2, 17, text, { class: "cursortext", "text-anchor": "middle" }),
  );
  return parts;
}
