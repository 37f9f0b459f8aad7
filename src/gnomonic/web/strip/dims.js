// Dimensions at the cursor, drawn on the place like on a builder's sketch: gap, clearance, height, depth, bay; and the words of a snag.
import { el, label } from "../static/svg.js";
import { length, say } from "../static/units.js";
import { bayAt, edgeAt, edgeEnds, groundAt } from "./profile.js";

const LETTER = 6.9; // pixels of a letter of these labels
const TALL = 17; // pixels of a label's box
const SMALLEST = 38; // pixels of a fence's height below which only the gap is written
const TICK = 4;

// Boxes that are taken; a label goes to the first place that is free and inside.
class Room {
  constructor(view, high) {
    Object.assign(this, { left: view.left + 1, right: view.width - view.right, top: 18, bottom: high - 2, taken: [] });
  }

  put(text, places, name = "dimtext") {
    const wide = text.length * LETTER + 8;
    for (const [x, y, anchor = "start"] of places) {
      const from = anchor === "middle" ? x - wide / 2 : anchor === "end" ? x - wide : x;
      const box = [from, y - TALL / 2, from + wide, y + TALL / 2];
      if (box[0] < this.left || box[2] > this.right || box[1] < this.top || box[3] > this.bottom) continue;
      if (this.taken.some((o) => box[0] < o[2] && box[2] > o[0] && box[1] < o[3] && box[3] > o[1])) continue;
      this.taken.push(box);
      return [el("rect", { class: "dimback", x: from.toFixed(1), y: box[1].toFixed(1), width: wide.toFixed(1), height: TALL, rx: 2 }), label(from + wide / 2, y + 4.5, text, { class: name, "text-anchor": "middle" })];
    }
    return [];
  }
}

const upright = (x, y0, y1) => el("path", { class: "dimension", d: `M${x.toFixed(1)} ${y0.toFixed(1)}V${y1.toFixed(1)}M${(x - TICK).toFixed(1)} ${y0.toFixed(1)}h${2 * TICK}M${(x - TICK).toFixed(1)} ${y1.toFixed(1)}h${2 * TICK}` });

function gapAt(view, bay, station, room) {
  const { data } = view;
  const [edge, ground] = [edgeAt(data, bay, station), groundAt(data.ground, station)];
  const [x, y0, y1] = [view.x(station), view.y(edge), view.y(ground)];
  const gap = edge - ground;
  const text = gap < -0.0015 ? `${length(-gap, "gap")} below ground` : `${length(gap, "gap")} under`;
  const middle = (y0 + y1) / 2;
  const places = [0, 22, -22, 44, -44].flatMap((dy) => [[x + 9, middle + dy], [x - 9, middle + dy, "end"]]);
  return [[upright(x, y0, y1)], room.put(text, places, gap > data.decisions.gap_max_m + 5e-4 || gap < data.decisions.gap_min_m - 5e-4 ? "dimtext wrong" : "dimtext")];
}

const across = (y, xa, xb) => el("path", { class: "dimension", d: `M${xa.toFixed(1)} ${y.toFixed(1)}H${xb.toFixed(1)}M${xa.toFixed(1)} ${(y - TICK).toFixed(1)}v${2 * TICK}M${xb.toFixed(1)} ${(y - TICK).toFixed(1)}v${2 * TICK}` });

// The bay at a station with its two posts, dimensioned as far as there is room: lines first, their words over them.
export function dimensions(view, high, station) {
  const { data } = view;
  const bay = bayAt(data, station);
  if (!bay) return gateAt(view, high, station);
  const room = new Room(view, high);
  const [lines, words] = gapAt(view, bay, station, room);
  const [a, b] = [data.posts[bay.a], data.posts[bay.b]];
  const [xa, xb] = [view.x(bay.from), view.x(bay.to)];
  if (data.fabric.top * view.up < SMALLEST || xb - xa < 26) return [...lines, ...words];
  const top = Math.max(27, Math.min(view.y(a.z + a.above), view.y(b.z + b.above)) - 13);
  lines.push(across(top, xa, xb));
  words.push(...room.put(length(bay.to - bay.from, "station"), [[(xa + xb) / 2, top, "middle"]]));
  if (xb - xa > 60) ofPosts(view, room, { a, b, xa, xb, edge: edgeEnds(view.data, bay) }, lines, words);
  return [...lines, ...words];
}

// Height of the fabric's upper edge at the left post; depth and clearance at the right one.  A line whose words find no room is left out.
function ofPosts(view, room, { a, b, xa, xb, edge }, lines, words) {
  const { fabric } = view.data;
  const clear = edge[1] - b.z;
  const mark = (x, high, low, text, places) => {
    const said = room.put(text, places);
    if (said.length) lines.push(upright(x, view.y(high), view.y(low)));
    words.push(...said);
  };
  const left = xa - 16 > view.left ? xa - 16 : xa + 14;
  const top = edge[0] + fabric.top;
  const middle = view.y((top + a.z) / 2);
  mark(left, top, a.z, length(top - a.z, "cut"), [[left - 6, middle, "end"], [left + 6, middle], [left - 6, middle - 24, "end"]]);
  const right = xb + 16 < view.width - view.right ? xb + 16 : xb - 14;
  if (b.depth > 0.01) {
    const y = view.y(b.z - b.depth / 2);
    mark(right, b.z, b.z - b.depth, `${length(b.depth, "depth")} deep`, [[right + 6, y], [right - 6, y, "end"], [right + 6, y + 20], [right - 6, y + 24, "end"]]);
  }
  if (clear * view.up > 2) {
    const y = view.y(b.z + clear / 2);
    mark(right, b.z + clear, b.z, `${length(clear, "gap")} at the post`, [[right + 6, y - 12], [right - 6, y - 14, "end"]]);
  }
}

function gateAt(view, high, station) {
  const gate = view.data.gates.find((g) => g.at <= station && station <= g.at + g.opening);
  if (!gate) return waterAt(view, high, station);
  const room = new Room(view, high);
  const [xa, xb] = [view.x(gate.at), view.x(gate.at + gate.opening)];
  const y = Math.max(27, view.y(groundAt(view.data.ground, gate.at) + 1.75));
  return [across(y, xa, xb), ...room.put(`${gate.name}: ${length(gate.clear, "cut")} clear, ${length(gate.opening, "cut")} between post centres`, [[(xa + xb) / 2, y, "middle"], [view.left + 6, y - 20]])];
}

function waterAt(view, high, station) {
  const water = view.data.crossings.find((c) => c.at <= station && station <= c.to);
  if (!water) return [];
  const room = new Room(view, high);
  const [xa, xb] = [view.x(water.at), view.x(water.to)];
  const y = Math.max(27, view.y(groundAt(view.data.ground, water.at) + 1.75));
  return [across(y, xa, xb), ...room.put(`${water.name}: a rope over ${length(water.to - water.at, "cut")}, post centres, sagging ${length(water.sag, "cut")}`, [[(xa + xb) / 2, y, "middle"], [view.left + 6, y - 20]])];
}

// The chosen snag's words at its flag.
export function snagWords(view, snag) {
  if (!snag || !view.seen(snag.at, snag.at)) return [];
  const text = say(snag.title);
  const [x, wide] = [view.x(snag.at), text.length * LETTER + 8];
  const from = Math.max(view.left + 2, Math.min(x + 12, view.width - view.right - wide));
  return [el("rect", { class: "dimback", x: from.toFixed(1), y: 37, width: wide.toFixed(1), height: TALL, rx: 2 }), label(from + 4, 50, text, { class: snag.grave ? "snagwords grave" : "snagwords" })];
}
