// A barrier to scale: edge-on with what lies in and on the ground, and face-on with its mesh.
import { el, label } from "../static/svg.js";
import { length } from "../static/units.js";

const CROSSED = ["link", "netting", "hex"];
let clips = 0;

// Lines of one fabric over a width, from its bottom edge: [[x0, y0, x1, y1] …] in metres; empty when finer than can be seen.
export function meshLines(layer, wide, perMetre) {
  const lines = [];
  const high = layer.high;
  if (layer.kind === "woven") {
    for (const h of layer.wires) lines.push([0, h, wide, h]);
    if (layer.stay * perMetre >= 3) for (let s = layer.stay / 2; s < wide; s += layer.stay) lines.push([s, 0, s, high]);
    return lines;
  }
  const [up, along] = layer.mesh;
  if (Math.min(up, along) * perMetre < 3 || layer.kind === "sheet") return lines;
  if (CROSSED.includes(layer.kind)) {
    const step = along * Math.SQRT2;
    for (let s = -Math.ceil(high / step) * step; s < wide; s += step) lines.push([s, 0, s + high, high], [s, high, s + high, 0]);
  } else {
    for (let h = 0; h <= high + 1e-6; h += up) lines.push([0, h, wide, h]);
    for (let s = 0; s <= wide; s += along) lines.push([s, 0, s, high]);
  }
  return lines;
}

const path = (d, name) => el("path", { d, class: name });

// One label per height, pushed apart where they would touch.
function apart(marks, least) {
  marks.sort((a, b) => a.y - b.y);
  for (let k = 1; k < marks.length; k++) marks[k].at = Math.max(marks[k].at, marks[k - 1].at + least);
  return marks;
}

export function drawSection(svg, section, { small = false, side = "" } = {}) {
  const box = svg.getBoundingClientRect();
  const [width, height] = [box.width || 300, box.height || 220];
  svg.setAttribute("viewBox", `0 0 ${width} ${height}`);
  const { posts, clear, top } = section;
  const reach = Math.max(0, ...section.aprons.map((a) => a.out), ...section.layers.map((l) => l.lip));
  const above = Math.max(clear + top, posts.line.above, posts.terminal.above);
  const below = small ? 0.12 : Math.max(posts.line.depth, 0.25);
  const pad = small ? 3 : 16;
  const scale = (height - 2 * pad) / (above + below + 0.08);
  const ground = height - pad - below * scale;
  const y = (h) => ground - h * scale;
  const parts = [el("rect", { class: "soil", x: 0, y: ground, width, height: height - ground })];
  const clipId = `face${(clips += 1)}`;
  // Edge-on.
  const edge = small ? 0 : Math.max(96, reach * scale + 70);
  if (!small) parts.push(...edgeOn(section, edge - 26, scale, y));
  if (side) parts.push(label(edge - 36, 12, side, { class: "dim", "text-anchor": "end" }), label(edge - 16, 12, side === "left" ? "right" : "left", { class: "dim" }));
  // Face-on.
  const from = small ? 2 : edge + 16;
  const wide = width - from - (small ? 2 : 112);
  parts.push(el("clipPath", { id: clipId }, el("rect", { x: from, y: 0, width: wide, height })));
  const face = el("g", { "clip-path": `url(#${clipId})` });
  for (const layer of section.layers) {
    const [low, high] = [y(clear + layer.bottom), y(clear + layer.top)];
    face.append(el("rect", { class: `face ${layer.kind}`, x: from, y: high, width: wide, height: low - high }));
    const d = meshLines({ ...layer, high: layer.top - layer.bottom }, wide / scale, scale).map(([a, b, c, e]) => `M${(from + a * scale).toFixed(1)} ${(low - b * scale).toFixed(1)}L${(from + c * scale).toFixed(1)} ${(low - e * scale).toFixed(1)}`).join("");
    const inner = `${clipId}-${layer.bottom}`;
    face.append(el("clipPath", { id: inner }, el("rect", { x: from, y: high - 0.5, width: wide, height: low - high + 1 })), el("path", { class: "mesh", d, "clip-path": `url(#${inner})` }));
    if (!small) face.append(path(`M${from} ${low}h${wide}M${from} ${high}h${wide}`, "meshedge"));
  }
  for (const s of section.strands) face.append(path(`M${from} ${y(clear + s.at)}h${wide}`, `strand of-${s.key}`));
  const bay = Math.min(2.4, (wide / scale) * 0.72);
  for (const s of small ? [0.12, 0.12 + bay] : [0.18 * (wide / scale), 0.18 * (wide / scale) + bay * 0.8]) {
    const x = from + s * scale;
    const w = Math.max(posts.line.wide * scale, 2);
    face.append(el("rect", { class: `post ${posts.line.material}`, x: x - w / 2, y: y(posts.line.above), width: w, height: (posts.line.above + Math.min(posts.line.depth, below)) * scale }));
  }
  parts.push(face, path(`M0 ${ground}H${width}`, "turf"));
  if (!small) parts.push(...dims(section, from + wide, y));
  svg.replaceChildren(...parts);
}

function edgeOn(section, x, scale, y) {
  const { posts, clear } = section;
  const w = Math.max(posts.line.wide * scale, 3);
  const parts = [];
  if (posts.line.hole) parts.push(el("rect", { class: "hole", x: x - (posts.line.hole * scale) / 2, y: y(0), width: posts.line.hole * scale, height: posts.line.depth * scale }));
  parts.push(el("rect", { class: `post ${posts.line.material}`, x: x - w / 2, y: y(posts.line.above), width: w, height: (posts.line.above + posts.line.depth) * scale }));
  const face = x - w / 2 - 2.5;
  for (const layer of section.layers) {
    const d = `M${face} ${y(clear + layer.bottom)}V${y(clear + layer.top)}`;
    parts.push(path(d + (layer.lip ? `l${-layer.lip * scale * 0.9} ${layer.lip * scale * 0.35}` : ""), "edge"));
  }
  for (const s of section.strands) parts.push(el("circle", { class: `dot of-${s.key}`, cx: face, cy: y(clear + s.at), r: s.key === "rail" || s.key === "board" ? 3.4 : 1.9 }));
  for (const a of section.aprons) {
    parts.push(path(`M${face} ${y(0.01)}h${-a.out * scale}`, "edge"), label(face - (a.out * scale) / 2, y(0) + 14, length(a.out, "depth"), { class: "dim", "text-anchor": "middle" }));
  }
  return parts;
}

function dims(section, x, y) {
  const { clear, top, posts } = section;
  const marks = [
    { h: clear + top, text: length(clear + top, "cut") },
    ...(Math.abs(clear) > 0.012 ? [{ h: clear, text: clear < 0 ? `${length(-clear, "gap")} buried` : length(clear, "gap") }] : []),
    ...section.strands.filter((s) => s.at > 0.01 && s.at < top - 0.01 && section.strands.length < 8).map((s) => ({ h: clear + s.at, text: length(clear + s.at, "cut") })),
    ...section.layers.filter((l) => l.bottom > 0.01).map((l) => ({ h: clear + l.bottom, text: length(clear + l.bottom, "cut") })),
    { h: -posts.line.depth, text: `${length(posts.line.depth, "depth")} deep` },
  ];
  for (const m of marks) Object.assign(m, { y: y(m.h), at: y(m.h) });
  return apart(marks, 13).flatMap((m) => [path(`M${x} ${m.y}h5L${x + 11} ${m.at}h3`, "dimline"), label(x + 17, m.at + 4, m.text, { class: "dim" })]);
}

const FIT_LETTER = 6.3; // pixels of a letter of their names

// One post face-on with its fittings at their heights, numbered in the order they are put on.
export function drawFittings(svg, post, fittings, section) {
  const box = svg.getBoundingClientRect();
  const [width, height] = [box.width || 300, box.height || 230];
  svg.setAttribute("viewBox", `0 0 ${width} ${height}`);
  const { clear, top } = section;
  const peak = Math.max(post.above, clear + top) + 0.06;
  const scale = (height - 26) / (peak + 0.18);
  const ground = height - 8 - 0.18 * scale;
  const y = (h) => ground - h * scale;
  const x = 74;
  const w = Math.max(post.wide * scale, 7);
  const longest = Math.max(0, ...fittings.map((f) => `1. ${f.title} × ${f.count}`.length)) * FIT_LETTER;
  const reach = x + Math.min(92, Math.max(28, width - x - 16 - longest));
  const parts = [el("rect", { class: "soil", x: 0, y: ground, width: reach, height: height - ground })];
  const both = fittings.some((f) => f.tied > 1);
  const from = post.kind === "terminal" && !both ? x : 8;
  for (const layer of section.layers) {
    const d = meshLines({ ...layer, high: layer.top - layer.bottom }, (reach - from) / scale, scale).map(([a, b, c, e]) => `M${(from + a * scale).toFixed(1)} ${(y(clear + layer.bottom) - b * scale).toFixed(1)}L${(from + c * scale).toFixed(1)} ${(y(clear + layer.bottom) - e * scale).toFixed(1)}`).join("");
    const id = `fit${(clips += 1)}`;
    parts.push(el("clipPath", { id }, el("rect", { x: from, y: y(clear + layer.top) - 0.5, width: reach - from, height: (layer.top - layer.bottom) * scale + 1 })), el("path", { class: "mesh faint", d, "clip-path": `url(#${id})` }));
  }
  for (const s of section.strands) parts.push(path(`M${from} ${y(clear + s.at)}H${reach}`, `strand of-${s.key}`));
  parts.push(el("rect", { class: `post ${post.kind} of-${post.material}`, x: x - w / 2, y: y(post.above), width: w, height: (post.above + 0.18) * scale }), path(`M0 ${ground}H${reach}`, "turf"));
  const marks = fittings.map((f, k) => {
    const heights = f.heights;
    for (const h of heights) parts.push(symbol(f.item, x, y(h), w, scale));
    const middle = heights[Math.floor((heights.length - 1) / 2)];
    return { y: y(middle), at: Math.max(16, y(middle)), text: `${k + 1}. ${f.title} × ${f.count}`, k };
  });
  for (const m of apart(marks, 17)) parts.push(path(`M${x + w / 2 + 8} ${m.y.toFixed(1)}L${reach + 4} ${m.at.toFixed(1)}h4`, "dimline"), label(reach + 12, m.at + 4, m.text, { class: "fitname" }));
  const lowest = Math.max(...marks.map((m) => m.at), 0) + 12;
  if (lowest > height) svg.setAttribute("viewBox", `0 ${(16 - (lowest - height)).toFixed(0)} ${width} ${lowest.toFixed(0)}`);
  svg.replaceChildren(...parts);
}

// Each fitting as it sits on the post: what grips round it, what is driven into it, what stands on its head.
function symbol(item, x, y, w, scale) {
  const half = w / 2;
  const shapes = {
    head: `M${x - half - 2} ${y}h${w + 4}v-5h${-(w + 4)}z`,
    band: `M${x - half - 1.5} ${y - 2}h${w + 3}v4h${-(w + 3)}z`,
    driven: `M${x - 3} ${y + 2.2}l1.5 -4.4h3l1.5 4.4`,
    turned: `M${x - half - 2} ${y - 1.6}h${w + 4}M${x - half - 2} ${y + 1.6}h${w + 4}`,
    bar: `M${x + half + 4} ${y - 0.5 * scale}v${scale}`,
  };
  const kind = ["cap", "cap_dome", "loop_cap", "post_cap"].includes(item) ? "head" : ["brace_band", "tension_band"].includes(item) ? "band" : ["staple", "long_staple", "board_screw", "carriage_bolt"].includes(item) ? "driven" : item === "tension_bar" ? "bar" : "turned";
  return path(shapes[kind], `fitting ${kind}`);
}
