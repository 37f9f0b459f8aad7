// Zoom and pan of a plan: by wheel, by dragging, by two fingers, by buttons; a press that moved is no click.
import { html } from "./svg.js";

const MOST = 60;
const FAR = 5;

export class PanZoom {
  constructor(svg, redraw) {
    Object.assign(this, { svg, redraw, k: 1, dx: 0, dy: 0, down: new Map(), moved: false, waiting: 0 });
    svg.addEventListener("wheel", (event) => {
      event.preventDefault();
      this.zoom(event.deltaY > 0 ? 0.8 : 1.25, this.place(event));
    }, { passive: false });
    svg.addEventListener("pointerdown", (event) => {
      if (event.button !== 0) return;
      if (!this.down.size) this.moved = false;
      this.down.set(event.pointerId, this.place(event));
    });
    svg.addEventListener("pointermove", (event) => this.move(event));
    for (const name of ["pointerup", "pointercancel", "pointerleave"]) svg.addEventListener(name, (event) => this.down.delete(event.pointerId));
    svg.addEventListener("click", (event) => this.moved && event.stopImmediatePropagation(), { capture: true });
  }

  place(event) {
    const box = this.svg.getBoundingClientRect();
    return [event.clientX - box.left, event.clientY - box.top];
  }

  // A frame (east, north) → (x, y) as fitted, seen through this zoom.
  through(frame) {
    const [cx, cy] = [frame.width / 2, frame.height / 2];
    const seen = (e, n) => {
      const [x, y] = frame(e, n);
      return [(x - cx) * this.k + cx + this.dx, (y - cy) * this.k + cy + this.dy];
    };
    return Object.assign(seen, { scale: frame.scale * this.k, width: frame.width, height: frame.height });
  }

  zoom(factor, [x, y] = [this.svg.clientWidth / 2, this.svg.clientHeight / 2]) {
    const k = Math.min(Math.max(this.k * factor, 1), MOST);
    const by = k / this.k;
    const [cx, cy] = [this.svg.clientWidth / 2, this.svg.clientHeight / 2];
    this.dx = (x - cx) * (1 - by) + this.dx * by;
    this.dy = (y - cy) * (1 - by) + this.dy * by;
    this.k = k;
    if (k === 1) [this.dx, this.dy] = [0, 0];
    this.queue();
  }

  whole() {
    Object.assign(this, { k: 1, dx: 0, dy: 0 });
    this.queue();
  }

  move(event) {
    const before = this.down.get(event.pointerId);
    if (!before) return;
    const here = this.place(event);
    const [far, near] = [Math.hypot(here[0] - before[0], here[1] - before[1]), this.moved ? 0 : FAR];
    if (far < near) return;
    this.moved = true;
    const others = [...this.down].filter(([id]) => id !== event.pointerId).map(([, at]) => at);
    if (others.length) {
      const apart = (p) => Math.max(10, Math.hypot(p[0] - others[0][0], p[1] - others[0][1]));
      this.zoom(apart(here) / apart(before), [(here[0] + others[0][0]) / 2, (here[1] + others[0][1]) / 2]);
    } else if (this.k > 1) {
      this.dx += here[0] - before[0];
      this.dy += here[1] - before[1];
      this.queue();
    }
    this.down.set(event.pointerId, here);
  }

  queue() {
    this.waiting ||= requestAnimationFrame(() => {
      this.waiting = 0;
      this.redraw();
    });
  }

  // + − and the whole, for a corner of the plan.
  buttons(what) {
    const button = (text, name, run) => html("button", { "aria-label": `${name}: ${what.toLowerCase()}`, onclick: run }, text);
    return html("span", { class: "zoomers" }, button("+", "nearer", () => this.zoom(1.6)), button("−", "farther", () => this.zoom(1 / 1.6)), button("all", "all", () => this.whole()));
  }
}
