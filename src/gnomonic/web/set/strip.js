// The strip: the whole line on one station axis, in lanes under one tape.
import { el, label } from "../static/svg.js";
import { length, round, tapeDivisions } from "../static/units.js";
import { groundLane } from "./ground.js";
import { foundLane } from "./found.js";
import { fabricLane, postsLane, underLane } from "./lanes.js";

const LANES = [
  ["ground", "Ground", groundLane],
  ["found", "On it", foundLane],
  ["under", "Under", underLane],
  ["posts", "Posts", postsLane],
  ["fabric", "Fabric", fabricLane],
];
const HEIGHTS = { found: 40, under: 56, posts: 38, fabric: 46 };
const FOLDED = 15;
const TAPE = 28;
const SHORTEST_M = 6;

export class Strip extends EventTarget {
  constructor(svg, { still = false, only = null } = {}) {
    super();
    Object.assign(this, { svg, still, only, folded: new Set(), exaggerate: true, cursor: null, selected: null, window: null });
    if (!still) {
      this.listen();
      new ResizeObserver(() => this.data && this.draw()).observe(svg);
    }
  }

  show(data) {
    const same = this.data && Math.abs(this.data.length - data.length) < 1e-6;
    this.data = data;
    if (!same) this.window = [0, data.length];
    this.draw();
  }

  get left() {
    return this.width < 600 ? 10 : 104;
  }

  x(station) {
    const [from, to] = this.window;
    return this.left + ((station - from) / (to - from)) * (this.width - this.left - 14);
  }

  station(x) {
    const [from, to] = this.window;
    const s = from + ((x - this.left) / (this.width - this.left - 14)) * (to - from);
    return Math.min(Math.max(s, 0), this.data.length);
  }

  get perMetre() {
    return (this.width - this.left - 14) / (this.window[1] - this.window[0]);
  }

  draw() {
    const box = this.svg.getBoundingClientRect();
    [this.width, this.height] = [box.width, box.height];
    this.svg.setAttribute("viewBox", `0 0 ${box.width} ${box.height}`);
    const shown = LANES.filter(([key]) => (this.only ? this.only.includes(key) : (key !== "found" || this.data.found.length) && (key !== "fabric" || this.data.fabric.layers.length)));
    const fixed = shown.slice(1).reduce((sum, [key]) => sum + (this.folded.has(key) ? FOLDED : HEIGHTS[key]), TAPE);
    let top = TAPE;
    const parts = [];
    this.lanes = {};
    for (const [key, name, drawLane] of shown) {
      const high = this.folded.has(key) ? FOLDED : (HEIGHTS[key] ?? Math.max(90, this.height - fixed));
      this.lanes[key] = { top, high };
      const group = el("g", { class: `lane ${key}`, transform: `translate(0 ${top})` });
      if (!this.folded.has(key)) group.append(...drawLane(this, high));
      group.append(el("line", { class: "rule", x1: 0, x2: this.width, y1: high, y2: high }));
      if (this.width >= 600) group.append(this.laneName(key, name, high));
      parts.push(group);
      top += high;
    }
    this.bottom = top;
    this.over = el("g", { class: "over", "pointer-events": "none" });
    this.svg.replaceChildren(this.clips(), ...parts, this.tape(), this.over);
    this.drawOver();
    this.dispatchEvent(new Event("drawn"));
  }

  clips() {
    const plot = { x: this.left - 7, width: this.width - this.left, y: 0 };
    const lanes = Object.entries(this.lanes).map(([key, { high }]) => el("clipPath", { id: `clip-${key}` }, el("rect", { ...plot, height: high })));
    return el("defs", {}, ...lanes, hatch());
  }

  laneName(key, name, high) {
    const open = !this.folded.has(key);
    const text = label(12, Math.min(high / 2 + 4, 17), `${open ? "▾" : "▸"} ${name}`, { class: "lanename" });
    const hit = el("rect", { x: 0, y: 0, width: this.left - 6, height: high, class: "hit" });
    if (this.still) return label(12, 17, name, { class: "lanename" });
    const button = el("g", { class: "fold", role: "button", tabindex: 0, "aria-expanded": open, "aria-label": `${name} lane` }, hit, text);
    const toggle = () => {
      if (open) this.folded.add(key);
      else this.folded.delete(key);
      this.draw();
    };
    button.addEventListener("click", toggle);
    button.addEventListener("keydown", (event) => {
      if (event.key === "Enter" || event.key === " ") toggle();
    });
    return button;
  }

  tape() {
    const [from, to] = this.window;
    const [major, minor] = tapeDivisions((to - from) / (this.width - this.left - 14));
    const group = el("g", { class: "tape" }, el("rect", { x: this.left, y: 2, width: this.width - this.left - 14, height: TAPE - 6 }));
    let marks = "";
    for (let k = Math.ceil(from / minor - 1e-6); k * minor <= to + 1e-6; k++) {
      const x = this.x(k * minor);
      const whole = Math.abs(k * minor - Math.round((k * minor) / major) * major) < minor / 10;
      marks += `M${x.toFixed(1)} ${TAPE - 4}v${whole ? -20 : -6}`;
      if (whole && x < this.width - 60) group.append(label(x + 4, 16, round(k * minor)));
    }
    group.append(el("path", { d: marks }));
    return group;
  }

  drawOver() {
    if (!this.over) return;
    const parts = [];
    const { selected, drag } = this;
    if (selected?.from !== undefined) {
      const [a, b] = [this.x(selected.from), this.x(selected.to ?? selected.from)];
      if (b - a > 1) parts.push(el("rect", { class: "chosen", x: a, y: TAPE, width: b - a, height: this.bottom - TAPE }));
      else parts.push(el("line", { class: "chosen", x1: a, x2: a, y1: TAPE, y2: this.bottom }));
    }
    if (drag?.from !== undefined && drag.kind === "forbid") {
      const [a, b] = [this.x(Math.min(drag.from, drag.to)), this.x(Math.max(drag.from, drag.to))];
      parts.push(el("rect", { class: "forbidding", x: a, y: TAPE, width: Math.max(1, b - a), height: this.bottom - TAPE }));
    }
    if (this.cursor !== null && this.cursor >= this.window[0] - 1e-9 && this.cursor <= this.window[1] + 1e-9) {
      const x = this.x(this.cursor);
      const text = length(this.cursor, "station");
      const wide = text.length * 7.4 + 14;
      const at = Math.min(Math.max(x - wide / 2, this.left), this.width - wide - 4);
      parts.push(
        el("line", { class: "cursor", x1: x, x2: x, y1: TAPE - 4, y2: this.bottom }),
        el("rect", { class: "cursortag", x: at, y: 1, width: wide, height: TAPE - 5, rx: 2 }),
        label(at + wide / 2, 17, text, { class: "cursortext", "text-anchor": "middle" }),
      );
    }
    this.over.replaceChildren(...parts);
  }

  setCursor(station) {
    this.cursor = station;
    this.drawOver();
  }

  select(selected) {
    this.selected = selected;
    if (selected?.from !== undefined) this.reveal(selected.from);
    this.drawOver();
  }

  reveal(station) {
    const [from, to] = this.window;
    if (station >= from && station <= to) return;
    const half = (to - from) / 2;
    this.look(station - half, station + half);
  }

  look(from, to) {
    const span = Math.min(Math.max(to - from, Math.min(SHORTEST_M, this.data.length)), this.data.length);
    const middle = (from + to) / 2;
    const start = Math.min(Math.max(middle - span / 2, 0), this.data.length - span);
    this.window = [start, start + span];
    this.draw();
  }

  zoom(factor, about = (this.window[0] + this.window[1]) / 2) {
    const [from, to] = this.window;
    this.look(about - (about - from) * factor, about + (to - about) * factor);
  }

  emit(name, detail) {
    this.dispatchEvent(new CustomEvent(name, { detail }));
  }

  nearestPost(station) {
    let best = 0;
    this.data.posts.forEach((p, k) => {
      if (Math.abs(p.s - station) < Math.abs(this.data.posts[best].s - station)) best = k;
    });
    return best;
  }

  at(event) {
    const box = this.svg.getBoundingClientRect();
    const [x, y] = [event.clientX - box.left, event.clientY - box.top];
    const lane = Object.entries(this.lanes).find(([, l]) => y >= l.top && y < l.top + l.high)?.[0];
    return { x, y, lane, station: this.station(x) };
  }

  listen() {
    const { svg } = this;
    svg.addEventListener("pointermove", (event) => this.moved(event));
    svg.addEventListener("pointerdown", (event) => this.pressed(event));
    svg.addEventListener("pointerup", (event) => this.released(event));
    svg.addEventListener("pointercancel", () => (this.drag = null));
    svg.addEventListener("wheel", (event) => {
      event.preventDefault();
      this.zoom(event.deltaY > 0 ? 1.25 : 0.8, this.at(event).station);
    }, { passive: false });
  }

  moved(event) {
    const here = this.at(event);
    const { drag } = this;
    if (!drag) {
      if (here.x >= this.left) this.emit("cursor", here.station);
      return;
    }
    drag.to = here.station;
    drag.far ||= Math.abs(here.x - drag.x) > 5;
    if (drag.kind === "pan" && drag.far) {
      const shift = (drag.lastX - here.x) / this.perMetre;
      drag.lastX = here.x;
      this.look(this.window[0] + shift, this.window[1] + shift);
    } else if (drag.far) this.emit("cursor", here.station);
  }

  pressed(event) {
    if (event.button !== 0 || event.target.closest(".fold")) return;
    const here = this.at(event);
    if (here.x < this.left - 8) return;
    const post = this.nearestPost(here.station);
    const near = Math.abs(this.x(this.data.posts[post].s) - here.x) < 12;
    const movable = near && here.lane === "posts" && !this.data.posts[post].fixed;
    const kind = event.shiftKey ? "forbid" : movable ? "post" : "pan";
    this.drag = { kind, post, near, x: here.x, lastX: here.x, from: here.station, to: here.station, far: false };
    svgCapture(this.svg, event);
  }

  released(event) {
    const { drag } = this;
    this.drag = null;
    if (!drag) return;
    const here = this.at(event);
    if (!drag.far) this.clicked(here, drag);
    else if (drag.kind === "post") this.emit("movepost", { post: drag.post, to: here.station });
    else if (drag.kind === "forbid") this.emit("forbid", { from: Math.min(drag.from, here.station), to: Math.max(drag.from, here.station) });
    this.drawOver();
  }

  clicked(here, drag) {
    const splice = this.data.splices.findIndex((s) => Math.abs(this.x(s.at) - here.x) < 12);
    if (here.lane === "fabric" && splice >= 0) this.emit("choose", { splice });
    else if (here.lane === "under" && !drag.near) this.emit("choose", { bay: this.bayAt(here.station) });
    else this.emit("choose", { post: drag.post });
  }

  bayAt(station) {
    return Math.max(0, this.data.bays.findIndex((b) => b.from <= station && station <= b.to));
  }
}

function svgCapture(svg, event) {
  svg.focus({ preventScroll: true });
  try {
    svg.setPointerCapture(event.pointerId);
  } catch {
    // a synthetic pointer has nothing to capture
  }
}

function hatch() {
  const lines = el("path", { d: "M-2 2l4-4M0 10l10-10M8 12l4-4" });
  return el("pattern", { id: "hatch", width: 10, height: 10, patternUnits: "userSpaceOnUse" }, lines);
}
