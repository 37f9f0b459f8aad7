// The hand on the plan: pointing, dragging, pinching, snapping to right angles and points, moving by keys.
import { bearingOf, Plan } from "./plan.js";

const SNAP_PX = 11;
const SNAP_DEG = 5;
const HIT_PX = 16;

export class HandPlan extends Plan {
  constructor(svg) {
    super(svg);
    Object.assign(this, { mode: "mend", ghost: null, noted: [], pointers: new Map(), moving: null });
    svg.addEventListener("pointerdown", (event) => this.down(event));
    svg.addEventListener("pointermove", (event) => this.move(event));
    svg.addEventListener("pointerup", (event) => this.up(event));
    svg.addEventListener("pointercancel", (event) => this.pointers.delete(event.pointerId));
    svg.addEventListener("wheel", (event) => {
      event.preventDefault();
      this.zoom(event.deltaY > 0 ? 0.8 : 1.25, this.at(event));
    }, { passive: false });
  }

  setMode(mode) {
    Object.assign(this, { mode, ghost: null, noted: [], moving: null });
    this.svg.classList.toggle("drawing", mode === "draw");
    this.svg.classList.toggle("noting", mode === "note");
    this.draw();
  }

  // A place snapped to another point, or square to the leg before; ``skip`` is the point being moved.
  snap(place, from, before, skip = null) {
    for (let k = 0; k < this.points.length; k++) {
      if (k === skip) continue;
      const [x, y] = this.screen(this.points[k]);
      const [px, py] = this.screen(place);
      if (Math.hypot(x - px, y - py) < SNAP_PX) return { to: this.points[k].slice(0, 2), onto: k, square: false };
    }
    const join = skip === null || this.free(skip) ? this.onOther(place) : null;
    if (join) return join;
    if (from && before) {
      const base = bearingOf(before, from);
      const turn = ((bearingOf(from, place) - base) % 360 + 360) % 360;
      const nearest = Math.round(turn / 90) * 90;
      const far = Math.hypot(place[0] - from[0], place[1] - from[1]);
      if (far * this.view.scale > 12 && Math.abs(turn - nearest) < SNAP_DEG) {
        const angle = ((base + nearest) * Math.PI) / 180;
        const along = far * Math.cos(((turn - nearest) * Math.PI) / 180);
        return { to: [from[0] + along * Math.sin(angle), from[1] + along * Math.cos(angle)], square: nearest % 180 !== 0 };
      }
    }
    return { to: place, square: false };
  }

  // Whether a point is an end of an open line, which may stand on another.
  free(k) {
    return !this.closed && (k === 0 || k === this.points.length - 1);
  }

  // The place on another line under the hand: one of its points, or between two.
  onOther(place) {
    const [x, y] = this.screen(place);
    let best = null;
    const take = (far, to, on) => {
      if (far < SNAP_PX && (!best || far < best.far)) best = { far, to, join: on, square: false };
    };
    for (const on of this.others) {
      on.places.forEach((p, k) => {
        const [px, py] = this.screen(p);
        take(Math.hypot(px - x, py - y) - 3, p, on);
        if (!k) return;
        const a = on.places[k - 1];
        const [ax, ay] = this.screen(a);
        const t = Math.min(Math.max(((x - ax) * (px - ax) + (y - ay) * (py - ay)) / ((px - ax) ** 2 + (py - ay) ** 2 || 1), 0), 1);
        take(Math.hypot(ax + (px - ax) * t - x, ay + (py - ay) * t - y), [a[0] + (p[0] - a[0]) * t, a[1] + (p[1] - a[1]) * t], on);
      });
    }
    return best;
  }

  nearestPoint(x, y, within = HIT_PX) {
    let best = null;
    this.points.forEach((p, k) => {
      const [px, py] = this.screen(p);
      const far = Math.hypot(px - x, py - y);
      if (far <= within && (!best || far < best[0])) best = [far, k];
    });
    return best && best[1];
  }

  // The leg under a place, and the station there.
  nearestLeg(x, y, within = 12) {
    const ring = this.ring();
    let best = null;
    for (let k = 0; k + 1 < ring.length; k++) {
      const [[ax, ay], [bx, by]] = [this.screen(ring[k]), this.screen(ring[k + 1])];
      const t = Math.min(Math.max(((x - ax) * (bx - ax) + (y - ay) * (by - ay)) / ((bx - ax) ** 2 + (by - ay) ** 2 || 1), 0), 1);
      const far = Math.hypot(ax + (bx - ax) * t - x, ay + (by - ay) * t - y);
      if (far <= within && (!best || far < best.far)) best = { far, leg: k, station: this.stations[k] + t * (this.stations[k + 1] - this.stations[k]) };
    }
    return best;
  }

  down(event) {
    if (event.button !== 0) return;
    const [x, y] = this.at(event);
    this.svg.focus({ preventScroll: true });
    this.pointers.set(event.pointerId, [x, y]);
    try {
      this.svg.setPointerCapture(event.pointerId);
    } catch {
      // a synthetic pointer has nothing to capture
    }
    const point = this.mode === "mend" ? this.nearestPoint(x, y) : null;
    this.drag = { x, y, lastX: x, lastY: y, far: false, point };
    if (this.pointers.size === 2) this.drag = null;
  }

  pinch(event, x, y) {
    const [a, b] = [...this.pointers.values()];
    const before = Math.hypot(a[0] - b[0], a[1] - b[1]);
    this.pointers.set(event.pointerId, [x, y]);
    const [c, d] = [...this.pointers.values()];
    this.zoom(Math.hypot(c[0] - d[0], c[1] - d[1]) / (before || 1), [(c[0] + d[0]) / 2, (c[1] + d[1]) / 2]);
  }

  move(event) {
    const [x, y] = this.at(event);
    if (this.pointers.size === 2 && this.pointers.has(event.pointerId)) return this.pinch(event, x, y);
    const { drag } = this;
    if (!drag) return this.hover(x, y, event.altKey);
    drag.far ||= Math.hypot(x - drag.x, y - drag.y) > 4;
    if (!drag.far) return;
    if (drag.point !== null) this.dragTo(drag.point, this.world(x, y), event.altKey);
    else {
      this.view.e -= (x - drag.lastX) / this.view.scale;
      this.view.n += (y - drag.lastY) / this.view.scale;
      [drag.lastX, drag.lastY] = [x, y];
      this.draw();
    }
  }

  neighbours(k) {
    const { points, closed } = this;
    const n = points.length;
    const at = (j) => (closed ? points[(j + n) % n] : points[j]);
    return { before: at(k - 1), beforeThat: at(k - 2), after: at(k + 1) };
  }

  dragTo(k, place, free) {
    const { before, beforeThat, after } = this.neighbours(k);
    const to = free ? { to: place } : this.snap(place, before, beforeThat, k);
    this.ghost = { from: [before, after].filter(Boolean), ...to };
    this.drawOver();
  }

  hover(x, y, free) {
    if (this.mode === "draw") {
      const last = this.points[this.points.length - 1];
      this.ghost = { from: last ? [last] : [], ...(free ? { to: this.world(x, y) } : this.snap(this.world(x, y), last, this.points[this.points.length - 2])) };
      this.drawOver();
    } else if (this.mode === "mend" && this.stations.length) {
      const leg = this.nearestLeg(x, y, 30);
      if (leg) this.emit("cursor", leg.station);
    }
  }

  up(event) {
    const [x, y] = this.at(event);
    this.pointers.delete(event.pointerId);
    const { drag } = this;
    this.drag = null;
    if (!drag) return;
    if (drag.far) {
      if (drag.point !== null && this.ghost) this.emit("movepoint", { index: drag.point, to: this.ghost.to, onto: this.ghost.onto, join: this.ghost.join });
      this.ghost = null;
      return this.drawOver();
    }
    if (this.mode === "draw") {
      this.hover(x, y, event.altKey);
      const { to, onto, join } = this.ghost;
      this.ghost = null;
      return this.emit("add", { to, onto, join });
    }
    if (this.mode === "note") {
      this.noted.push(this.world(x, y));
      this.draw();
      return this.emit("noted", this.noted);
    }
    if (drag.point !== null) return this.emit("choose", { point: drag.point });
    const leg = this.nearestLeg(x, y);
    // two presses in one place split the leg: told here, since what was pressed first has been drawn anew
    const before = this.pressed;
    this.pressed = { x, y, when: event.timeStamp };
    if (leg && before && event.timeStamp - before.when < 450 && Math.hypot(x - before.x, y - before.y) < 7) return this.emit("split", leg.station);
    return this.emit("choose", leg ? { leg: leg.leg, station: leg.station } : {});
  }

  // Moving the chosen point by keys: a ghost until Enter.
  nudge(east, north) {
    if (this.picked === null) return;
    this.moving ??= this.points[this.picked].slice(0, 2);
    this.moving = [this.moving[0] + east, this.moving[1] + north];
    const { before, after } = this.neighbours(this.picked);
    this.ghost = { from: [before, after].filter(Boolean), to: this.moving };
    this.drawOver();
  }

  settle(keep) {
    const to = this.moving;
    Object.assign(this, { moving: null, ghost: null });
    this.drawOver();
    if (keep && to) this.emit("movepoint", { index: this.picked, to });
  }
}
