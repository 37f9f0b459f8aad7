// What is on the line: buried services with their zone, ground, hazards, and what lies on each side.
import { el, label } from "../static/svg.js";

export function foundLane(view, high) {
  const group = el("g", { "clip-path": "url(#clip-found)" });
  const names = [];
  const middle = high / 2 - 1;
  for (const f of view.data.found) {
    for (const [from, to] of f.at) {
      if (to < view.window[0] || from > view.window[1]) continue;
      const [a, b] = [view.x(from), view.x(to)];
      const wide = Math.max(4, b - a);
      const at = (a + b) / 2;
      const y = f.side === "left" ? 3 : f.side === "right" ? high - 8 : 8;
      const tall = f.side ? 5 : high - 18;
      group.append(el("rect", { class: `thing ${f.group}`, x: at - wide / 2, y, width: wide, height: tall }, el("title", {}, `${f.title}${f.name === f.title.toLowerCase() ? "" : `: ${f.name}`}`)));
      if (f.group === "hazard") group.append(el("path", { class: "hazardflag", d: `M${at} ${y - 3}v${tall + 6}M${at} ${y - 3}l8 4l-8 4z` }));
      names.push([at, Math.max(wide / 2, 5), f.name]);
    }
  }
  // names where they fit, nothing over another
  const taken = view.data.found.filter((f) => !f.side).flatMap((f) => f.at.map(([from, to]) => [view.x(from) - 3, view.x(to) + 3]));
  for (const [at, half, text] of names.sort((p, q) => p[0] - q[0])) {
    const wide = text.length * 6.4 + 6;
    for (const left of [at + half + 3, at - half - wide]) {
      const box = [left, left + wide];
      if (box[0] < view.left || box[1] > view.width - 14 || taken.some(([p, q]) => box[0] < q && box[1] > p && !(Math.abs((p + q) / 2 - at) < half + 4))) continue;
      taken.push(box);
      group.append(label(left + 3, middle + 4, text, { class: "thingname" }));
      break;
    }
  }
  return [group];
}
