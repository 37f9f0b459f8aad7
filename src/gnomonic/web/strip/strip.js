// The strip: a stretch of the line on one station axis, in lanes under one tape.
import { el, label } from "../static/svg.js";
import { dimensions, snagWords } from "./dims.js";
import { foundLane } from "./found.js";
import { Gestures } from "./gestures.js";
import { groundLane } from "./ground.js";
import { handle, laneName, Lanes } from "./heads.js";
import { doneLane, fabricLane, postsLane, underLane } from "./lanes.js";
import { overlay, TAPE, tape } from "./tape.js";
import { tensionLane } from "./tension.js";
import { View } from "./view.js";

const LANES = [
  ["ground", "Ground", groundLane],
  ["found", "On it", foundLane],
  ["under", "Under", underLane],
  ["posts", "Posts", postsLane],
  ["done", "Done", doneLane],
  ["tension", "Tension", tensionLane],
  ["fabric", "Fabric", fabricLane],
];
const USUAL = { found: 36, under: 40, posts: 34, done: 28, tension: 112, fabric: 36 };
const FOLDED = 15;
const FOLDED_GROUND = 300;
const LEAST_GROUND = 60;
const NARROW = 600;

export class Strip extends EventTarget {
  constructor(svg, { still = false, only = null, built = !only } = {}) {
    super();
    Object.assign(this, { svg, still, only, built, exaggerate: true, cursor: null, selected: null, snag: null, hide: [], window: null, middle: null, waiting: 0 });
    this.lanesKept = new Lanes(USUAL, !still && !only);
    if (!still) {
      this.gestures = new Gestures(this);
      new ResizeObserver(() => this.data && this.draw()).observe(svg);
    }
  }

  show(data) {
    const same = this.data && Math.abs(this.data.length - data.length) < 1e-6;
    this.data = data;
    if (!same) [this.window, this.middle] = [[0, data.length], null];
    this.draw();
  }

  get left() {
    return this.width < NARROW ? 8 : 104;
  }

  // How high the ground lane is; folded it still zooms as if it were open.
  get groundHigh() {
    return this.lanes.ground.folded ? FOLDED_GROUND : this.lanes.ground.high;
  }

  // Which lanes this line has, with their heights; the ground takes what is left.
  layout() {
    const { data, lanesKept: kept } = this;
    const has = { found: data.found.length > 0, done: data.posts.some((p) => "in" in p), fabric: data.fabric.layers.length > 0, tension: Boolean(data.tension) };
    const shown = LANES.filter(([key]) => (this.only ? this.only.includes(key) : (has[key] ?? true) && !this.hide.includes(key)));
    const high = (key) => (kept.folded.has(key) ? FOLDED : kept.high(key));
    const rest = this.height - TAPE - shown.slice(1).reduce((sum, [key]) => sum + high(key), 0);
    let top = TAPE;
    return shown.map(([key, name, drawLane]) => {
      const lane = { key, name, drawLane, top, folded: kept.folded.has(key), high: key === "ground" && !kept.folded.has(key) ? Math.max(LEAST_GROUND, rest) : high(key) };
      top += lane.high;
      return lane;
    });
  }

  draw() {
    cancelAnimationFrame(this.waiting);
    this.waiting = 0;
    const box = this.svg.getBoundingClientRect();
    if (!box.width) return;
    [this.width, this.height] = [box.width, box.height];
    this.svg.setAttribute("viewBox", `0 0 ${box.width} ${box.height}`);
    const lanes = this.layout();
    this.lanes = Object.fromEntries(lanes.map((lane) => [lane.key, lane]));
    const ground = this.groundHigh;
    this.view = new View(this.data, { width: this.width, left: this.left, window: this.window, exaggerate: this.exaggerate, built: this.built }).stand(ground, this.middle);
    if (this.view.window[1] - this.view.window[0] < this.view.shortest(ground) - 1e-6) return this.look(...this.window);
    if (this.cursor !== null && this.view.seen(this.cursor, this.cursor)) this.view.middle = this.view.follow(this.cursor);
    this.drawn = this.view.middle;
    const groups = lanes.map((lane) => this.drawLane(lane));
    this.bottom = lanes[lanes.length - 1].top + lanes[lanes.length - 1].high;
    this.over = el("g", { class: "over", "pointer-events": "none" });
    this.svg.replaceChildren(this.clips(), ...groups, tape(this.view), this.over);
    this.heights = this.svg.querySelector(".lane.ground .heights");
    this.drawOver();
    return this.dispatchEvent(new Event("drawn"));
  }

  drawLane({ key, name, drawLane, top, high, folded }) {
    const group = el("g", { class: `lane ${key}`, transform: `translate(0 ${top})` });
    if (!folded) group.append(...drawLane(this.view, high, { built: this.built }));
    group.append(el("line", { class: "rule", x1: 0, x2: this.width, y1: high, y2: high }));
    if (this.width >= NARROW) group.append(laneName(this, key, name, high, folded));
    else if (!folded && key !== "ground") group.append(label(this.left + 2, 11, name, { class: "lanename little" }));
    if (!this.still && this.width >= NARROW && key !== "ground" && !folded && !this.lanesKept.folded.has("ground")) group.append(handle(this, key, name, high));
    return group;
  }

  // Draws one lane anew, at once.
  redraw(key) {
    if (this.waiting || !this.lanes?.[key]) return this.queue();
    return this.svg.querySelector(`.lane.${key}`)?.replaceWith(this.drawLane(this.lanes[key]));
  }

  // Draws anew before the next frame, once however often it is asked for.
  queue() {
    this.waiting ||= requestAnimationFrame(() => this.draw());
  }

  clips() {
    const [before, after] = [this.window[0] > 0 ? 0 : 7, this.window[1] < this.data.length - 1e-6 ? 0 : 7]; // an end post stands half outside
    const plot = { x: this.left - before, width: this.view.wide + before + after, y: 0 };
    const clips = Object.values(this.lanes).map(({ key, high }) => el("clipPath", { id: `clip-${key}` }, el("rect", { ...plot, height: high })));
    const dims = el("clipPath", { id: "clip-dims" }, el("rect", { x: this.left - 7, width: this.width - this.left + 7, y: 0, height: this.lanes.ground.high }));
    return el("defs", {}, ...clips, dims, hatch());
  }

  drawOver() {
    if (!this.over) return;
    const parts = overlay(this.view, { ...this, drag: this.gestures?.drag });
    if (this.built && !this.only && !this.still && this.lanes.ground && !this.lanes.ground.folded) {
      const shown = this.cursor !== null && this.view.seen(this.cursor, this.cursor) ? dimensions(this.view, this.lanes.ground.high, this.cursor) : [];
      parts.push(el("g", { class: "dims", transform: `translate(0 ${TAPE})`, "clip-path": "url(#clip-dims)" }, ...shown, ...snagWords(this.view, this.snag)));
    }
    this.over.replaceChildren(...parts);
  }

  // The heights follow the cursor: what stands at it is never out of the lane.
  setCursor(station) {
    this.cursor = station;
    if (!this.view || this.waiting) return;
    if (station !== null && this.view.seen(station, station)) this.raise(this.view.follow(station));
    this.drawOver();
  }

  raise(middle) {
    this.view.middle = middle;
    this.middle = middle;
    this.heights?.setAttribute("transform", `translate(0 ${((middle - this.drawn) * this.view.up).toFixed(1)})`);
  }

  select(selected, snag = null) {
    Object.assign(this, { selected, snag });
    if (selected?.from !== undefined) this.reveal(selected.from);
    this.drawOver();
  }

  reveal(station) {
    const [from, to] = this.window;
    if (station >= from && station <= to) return;
    const half = (to - from) / 2;
    this.look(station - half, station + half);
  }

  // So near that heights are to scale and what is under the wire can be read.
  lookAt(station) {
    const span = this.view.readable(this.groundHigh);
    this.look(station - span / 2, station + span / 2);
  }

  look(from, to) {
    const least = this.view ? this.view.shortest(this.groundHigh) : 0;
    const span = Math.min(Math.max(to - from, least), this.data.length);
    const start = Math.min(Math.max((from + to) / 2 - span / 2, 0), this.data.length - span);
    this.window = [start, start + span];
    if (this.view) this.view.window = this.window;
    this.queue();
  }

  pan(along, up) {
    if (up && !this.view.fits) this.middle = this.view.middle + up;
    this.look(this.window[0] + along, this.window[1] + along);
  }

  zoom(factor, about = (this.window[0] + this.window[1]) / 2) {
    const [from, to] = this.window;
    this.look(about - (about - from) * factor, about + (to - about) * factor);
  }

  emit(name, detail) {
    this.dispatchEvent(new CustomEvent(name, { detail }));
  }

  // What the button that changes the heights says.
  get scaleWords() {
    if (!this.exaggerate) return "to scale: fill the height";
    return this.view.times > 1.05 ? `${this.view.note}: draw to scale` : this.view.note;
  }

  nearestPost(station) {
    const { posts } = this.data;
    return posts.reduce((best, p, k) => (Math.abs(p.s - station) < Math.abs(posts[best].s - station) ? k : best), 0);
  }

  at(event) {
    const box = this.svg.getBoundingClientRect();
    const [x, y] = [event.clientX - box.left, event.clientY - box.top];
    const lane = Object.values(this.lanes).find((l) => y >= l.top && y < l.top + l.high)?.key;
    return { x, y, lane, station: this.view.station(x) };
  }

  bayAt(station) {
    return Math.max(0, this.data.bays.findIndex((b) => b.from <= station && station <= b.to));
  }
}

function hatch() {
  const lines = el("path", { d: "M-2 2l4-4M0 10l10-10M8 12l4-4" });
  return el("pattern", { id: "hatch", width: 10, height: 10, patternUnits: "userSpaceOnUse" }, lines);
}
