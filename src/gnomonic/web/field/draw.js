// The line round a post, to scale but for heights: the ground, posts that are in, the one to set.
import { svg } from "./ui.js";

const [WIDE, HIGH] = [390, 112];

// Posts within some bays of ``at``; ``known`` says which are in.
export function strip(line, index, known) {
  const post = line.posts[index];
  const bays = line.posts.map((p) => p.at);
  const [low, high] = [bays[Math.max(0, index - 4)], bays[Math.min(bays.length - 1, index + 5)]];
  const span = Math.max(high - low, 6);
  const from = low - span * 0.06;
  const x = (at) => ((at - from) / (span * 1.12)) * WIDE;
  const ground = line.ground.filter(([s]) => s >= from - span && s <= high + span);
  const inside = ground.filter(([s]) => s >= from && s <= from + span * 1.12).map(([, h]) => h);
  const [least, most] = [Math.min(...inside, post.h), Math.max(...inside, post.h)];
  const scale = Math.min((HIGH * 0.42) / Math.max(most - least, 0.4), WIDE / (span * 1.12));
  const times = scale / (WIDE / (span * 1.12));
  const y = (h) => HIGH * 0.74 - (h - least) * scale;
  const made = svg("svg", { viewBox: `0 0 ${WIDE} ${HIGH}`, class: "strip", role: "img", "aria-label": `Posts round ${line.id}${post.name}` });
  const path = ground.map(([s, h]) => `${x(s).toFixed(1)} ${y(h).toFixed(1)}`).join("L");
  made.append(svg("path", { class: "soil", d: `M${x(ground[0][0]).toFixed(1)} ${HIGH}L${path}L${x(ground.at(-1)[0]).toFixed(1)} ${HIGH}Z` }), svg("path", { class: "turf", d: `M${path}` }));
  const tall = 34;
  for (const p of line.posts) {
    if (p.at < from || p.at > from + span * 1.12) continue;
    const is = known.get(line.id + p.name);
    const done = is?.reached_m !== undefined;
    const now = p === post;
    const [px, py] = [x(p.at), y(p.h)];
    const g = svg("g", { class: now ? "now" : done ? "in" : "to" });
    g.append(svg("path", { d: `M${px.toFixed(1)} ${(py - tall).toFixed(1)}V${(py + (done ? 16 : now ? 20 : 0)).toFixed(1)}` }));
    if (done) g.append(svg("circle", { cx: px.toFixed(1), cy: (py - tall).toFixed(1), r: 4 }));
    if (now) g.append(svg("path", { class: "flag", d: `M${px.toFixed(1)} ${(py - tall).toFixed(1)}l16 6l-16 6Z` }));
    made.append(g);
  }
  if (Math.abs(times - 1) > 0.05) {
    const words = svg("text", { x: WIDE - 8, y: 14, class: "times" });
    words.textContent = `heights ×${times.toFixed(times < 0.2 ? 2 : times < 3 ? 1 : 0)}`;
    made.append(words);
  }
  return made;
}
