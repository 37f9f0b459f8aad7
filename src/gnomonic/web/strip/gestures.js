// Pointers on the strip: one drags or pans, two zoom, a wheel zooms; what they mean is told to the strip.

const FAR = 5; // pixels a pointer goes before it is a drag

export class Gestures {
  constructor(strip) {
    const { svg } = strip;
    Object.assign(this, { strip, down: new Map(), drag: null, pinch: null });
    svg.addEventListener("pointermove", (event) => this.moved(event));
    svg.addEventListener("pointerdown", (event) => this.pressed(event));
    svg.addEventListener("pointerup", (event) => this.released(event));
    svg.addEventListener("pointercancel", (event) => this.left(event));
    svg.addEventListener("wheel", (event) => {
      event.preventDefault();
      strip.zoom(event.deltaY > 0 ? 1.25 : 0.8, strip.at(event).station);
    }, { passive: false });
  }

  left(event) {
    this.down.delete(event.pointerId);
    this.pinch = null;
    this.drag = null;
  }

  pressed(event) {
    const { strip } = this;
    if (event.button !== 0 || event.target.closest(".fold, .handle")) return;
    const here = strip.at(event);
    if (here.x < strip.left - 8) return;
    this.down.set(event.pointerId, here.x);
    capture(strip.svg, event);
    if (this.down.size === 2) return this.beginPinch();
    const post = strip.nearestPost(here.station);
    const near = Math.abs(strip.view.x(strip.data.posts[post].s) - here.x) < 12;
    const movable = near && here.lane === "posts" && !strip.data.posts[post].fixed;
    const kind = event.shiftKey ? "forbid" : movable ? "post" : "pan";
    this.drag = { kind, post, near, x: here.x, y: here.y, lastX: here.x, lastY: here.y, from: here.station, to: here.station, far: false };
  }

  beginPinch() {
    const { view } = this.strip;
    const [a, b] = [...this.down.values()].sort((p, q) => p - q);
    this.drag = null;
    this.pinch = { from: view.station(a), to: view.station(Math.max(b, a + 20)) };
  }

  moved(event) {
    const { strip } = this;
    const here = strip.at(event);
    if (this.down.has(event.pointerId)) this.down.set(event.pointerId, here.x);
    if (this.pinch && this.down.size === 2) return this.stretch();
    const { drag } = this;
    if (!drag) {
      if (here.x >= strip.left && event.pointerType !== "touch") strip.emit("cursor", here.station);
      return;
    }
    drag.to = here.station;
    drag.far ||= Math.hypot(here.x - drag.x, here.y - drag.y) > FAR;
    if (!drag.far) return;
    if (drag.kind === "pan") {
      strip.pan((drag.lastX - here.x) / strip.view.perMetre, here.lane === "ground" || drag.panning ? (here.y - drag.lastY) / strip.view.up : 0);
      drag.panning = true;
      [drag.lastX, drag.lastY] = [here.x, here.y];
    } else strip.emit("cursor", here.station);
  }

  // The two stations under the fingers stay under them.
  stretch() {
    const { strip, pinch } = this;
    const [a, b] = [...this.down.values()].sort((p, q) => p - q);
    const apart = Math.max(20, b - a);
    const span = ((pinch.to - pinch.from) * strip.view.wide) / apart;
    const start = pinch.from - ((a - strip.view.left) / strip.view.wide) * span;
    strip.look(start, start + span);
  }

  released(event) {
    const { drag, strip } = this;
    this.left(event);
    if (!drag) return;
    const here = strip.at(event);
    if (!drag.far) {
      strip.emit("cursor", here.station);
      this.clicked(here, drag);
    } else if (drag.kind === "post") strip.emit("movepost", { post: drag.post, to: here.station });
    else if (drag.kind === "forbid") strip.emit("forbid", { from: Math.min(drag.from, here.station), to: Math.max(drag.from, here.station) });
    strip.drawOver();
  }

  clicked(here, drag) {
    const { strip } = this;
    const splice = strip.data.splices.findIndex((s) => Math.abs(strip.view.x(s.at) - here.x) < 12);
    if (here.lane === "fabric" && splice >= 0) strip.emit("choose", { splice });
    else if (here.lane === "under" && !drag.near) strip.emit("choose", { bay: strip.bayAt(here.station) });
    else strip.emit("choose", { post: drag.post });
  }
}

function capture(svg, event) {
  svg.focus({ preventScroll: true });
  try {
    svg.setPointerCapture(event.pointerId);
  } catch {
    // a synthetic pointer has nothing to capture
  }
}
