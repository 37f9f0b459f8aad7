// The map: the line in plan, with north, a scale bar, runs clear of the line, turns, gates with their swing.
import { PanZoom } from "../static/panzoom.js";
import { el, fit, label } from "../static/svg.js";
import { length, round, tapeDivisions } from "../static/units.js";

const LETTER = 6.6; // pixels of a letter

export class SiteMap extends EventTarget {
  constructor(svg) {
    super();
    this.svg = svg;
    this.eye = new PanZoom(svg, () => this.data && this.draw());
    new ResizeObserver(() => this.data && this.draw()).observe(svg);
    svg.addEventListener("pointermove", (event) => this.point(event, "cursor"));
    svg.addEventListener("click", (event) => this.point(event, "choose"));
  }

  show(data, others = []) {
    Object.assign(this, { data, others });
    this.draw();
  }

  place(station) {
    const { ground } = this.data;
    let k = 1;
    while (k < ground.length - 1 && ground[k][0] < station) k++;
    const [a, b] = [ground[k - 1], ground[k]];
    const t = Math.min(Math.max((station - a[0]) / (b[0] - a[0] || 1), 0), 1);
    return this.frame(a[1] + (b[1] - a[1]) * t, a[2] + (b[2] - a[2]) * t);
  }

  path(from, to) {
    const inside = this.data.ground.filter((g) => g[0] > from && g[0] < to).map((g) => this.frame(g[1], g[2]));
    return `M${[this.place(from), ...inside, this.place(to)].map((p) => p.map((v) => v.toFixed(1)).join(" ")).join("L")}`;
  }

  draw() {
    const { data, svg } = this;
    if (!svg.clientWidth) return;
    this.frame = this.eye.through(fit(svg, [...data.ground.map((g) => [g[1], g[2]]), ...this.others.flatMap((o) => o.places)], Math.min(40, svg.clientWidth / 6), 30));
    this.labels = [];
    this.othersAt = this.others.flatMap((o) => this.dotted(o.places));
    const parts = this.others.map((o) => this.other(o));
    for (const f of data.forbidden) parts.push(el("path", { class: "mapforbidden", d: this.path(f.from, f.to) }, el("title", {}, `no post here: ${f.reason || "forbidden"}`)));
    for (const r of data.runs) parts.push(el("path", { class: "fence", d: this.path(r.from, r.to) }));
    for (const g of data.gates) parts.push(...this.gate(g));
    let dots = "";
    for (const p of data.posts) {
      const [x, y] = this.frame(p.e, p.n);
      if (p.kind === "terminal") parts.push(el("rect", { class: "terminal", x: x - 4, y: y - 4, width: 8, height: 8 }));
      else if (p.kind === "wood" && this.frame.scale > 0.9) dots += `M${(x - 1.6).toFixed(1)} ${y.toFixed(1)}h3.2`;
    }
    parts.push(el("path", { class: "wooddots", d: dots }));
    for (const s of data.snags) {
      const [x, y] = this.place(s.at);
      parts.push(el("path", { class: s.grave ? "flag grave" : "flag", d: `M${x} ${y}v-12l8 3.5l-8 3.5` }));
    }
    const corners = data.posts.filter((p) => p.kind === "terminal").map((p) => this.frame(p.e, p.n));
    this.centre = corners.reduce((sum, c) => [sum[0] + c[0] / corners.length, sum[1] + c[1] / corners.length], [0, 0]);
    data.runs.forEach((r, k) => {
      const drawn = (r.to - r.from) * this.frame.scale;
      const text = data.runs.length > 1 ? `${k + 1}: ${length(r.to - r.from, "station")}` : length(r.to - r.from, "station");
      if (drawn > text.length * LETTER) parts.push(...this.write((r.from + r.to) / 2, text, "runname", 16));
    });
    for (const g of data.gates) parts.push(...this.write(g.at + g.opening / 2, g.name, "gatename", 20));
    for (const p of data.posts) if (p.role === "corner" && Math.abs(p.turn) > 1 && this.eye.k > 1.5) parts.push(...this.write(p.s, `${Math.abs(p.turn).toFixed(0)}°`, "turn", 16));
    if (this.others.length) parts.push(...this.called({ places: data.ground.map((g) => [g[1], g[2]]), name: data.name, id: data.id }, "linename own"));
    for (const o of this.others) parts.push(...this.called(o, "linename"));
    this.dot = el("circle", { class: "mapcursor", r: 5, visibility: "hidden" });
    svg.replaceChildren(...parts, ...this.furniture(), this.dot);
    this.setCursor(this.cursor ?? null);
  }

  // Places every few pixels along a line.
  dotted(places) {
    const screen = places.map((p) => this.frame(...p));
    return screen.slice(1).flatMap(([x, y], k) => {
      const [a, b] = screen[k];
      const steps = Math.min(200, Math.ceil(Math.hypot(x - a, y - b) / 6)) || 1;
      return Array.from({ length: steps }, (_, n) => [a + ((x - a) * n) / steps, b + ((y - b) * n) / steps]);
    });
  }

  other(o) {
    const d = `M${o.places.map((p) => this.frame(...p).map((v) => v.toFixed(1)).join(" ")).join("L")}`;
    return el("path", { class: `otherline ${o.standing}`, d }, el("title", {}, `${o.id} ${o.name}`));
  }

  // A line's name, or else its letter, beside it where nothing else is written.
  called(o, kind) {
    for (const text of [o.name, o.id]) {
      for (const share of [0.5, 0.3, 0.7]) {
        const [x, y] = this.frame(...o.places[Math.floor((o.places.length - 1) * share)]);
        for (const [dx, dy, lean] of [[8, 0, 1], [-8, 0, -1], [0, -11, 0], [0, 14, 0]]) {
          const made = this.tryLabel(x + dx, y + dy, lean, text, kind, true);
          if (made) return [made];
        }
      }
    }
    return [];
  }

  // The other line under a place on the screen.
  lineAt(x, y) {
    const near = (o) => Math.min(...o.places.slice(1).map((q, k) => {
      const [[ax, ay], [bx, by]] = [this.frame(...o.places[k]), this.frame(...q)];
      const t = Math.min(Math.max(((x - ax) * (bx - ax) + (y - ay) * (by - ay)) / ((bx - ax) ** 2 + (by - ay) ** 2 || 1), 0), 1);
      return Math.hypot(ax + (bx - ax) * t - x, ay + (by - ay) * t - y);
    }));
    return this.others.map((o) => [near(o), o]).filter(([far]) => far < 9).sort((a, b) => a[0] - b[0])[0]?.[1];
  }

  // A label beside the line at a station, outward, left out where it would lie on another.
  write(station, text, name, off) {
    const [x, y] = this.place(station);
    const [a, b] = [this.place(Math.max(0, station - 0.5)), this.place(Math.min(this.data.length, station + 0.5))];
    let [nx, ny] = [b[1] - a[1], a[0] - b[0]];
    const size = Math.hypot(nx, ny) || 1;
    [nx, ny] = [nx / size, ny / size];
    if (name === "turn" && this.data.closed) {
      const far = Math.hypot(x - this.centre[0], y - this.centre[1]) || 1;
      [nx, ny] = [(x - this.centre[0]) / far, (y - this.centre[1]) / far];
    } else if (this.data.closed ? nx * (x - this.centre[0]) + ny * (y - this.centre[1]) < 0 : ny > 0) [nx, ny] = [-nx, -ny];
    const ways = name === "turn" && this.data.closed ? [-1] : [1, -1];
    for (const clear of this.others.length ? [true, false] : [false]) {
      for (const way of ways) {
        const made = this.tryLabel(x + nx * way * off, y + ny * way * off, nx * way, text, name, clear);
        if (made) return [made];
      }
    }
    return [];
  }

  // A label where nothing else is written; ``clear`` of the other lines too.
  tryLabel(x, y, lean, text, name, clear = false) {
    const wide = text.length * LETTER;
    const [px, py] = [x + (lean * wide) / 2, y + 4];
    const box = [px - wide / 2, py - 11, px + wide / 2, py + 3];
    const clash = this.labels.some((o) => box[0] < o[2] + 2 && box[2] > o[0] - 2 && box[1] < o[3] + 1 && box[3] > o[1] - 1);
    if (clash || box[0] < 2 || box[2] > this.frame.width - 2 || box[1] < 2 || box[3] > this.frame.height - 2) return null;
    if (clear && this.othersAt.some(([a, b]) => a > box[0] && a < box[2] && b > box[1] && b < box[3])) return null;
    this.labels.push(box);
    return label(px, py, text, { class: name, "text-anchor": "middle" });
  }

  gate(g) {
    const ends = [this.place(g.at), this.place(g.at + g.opening)];
    const parts = [];
    const from = g.leaves === 2 ? [0, 1] : g.leaves ? [g.hinge === "last" ? 1 : 0] : [];
    for (const k of from) {
      const [a, far] = [ends[k], ends[1 - k]];
      const b = g.leaves === 2 ? [(a[0] + far[0]) / 2, (a[1] + far[1]) / 2] : far;
      const turn = (g.side === "left") === (k === 0) ? 1 : -1; // on the page left of the line is a turn against the clock from its first post
      const r = Math.hypot(b[0] - a[0], b[1] - a[1]);
      const open = [a[0] + turn * (b[1] - a[1]), a[1] - turn * (b[0] - a[0])];
      parts.push(el("path", { class: "swing", d: `M${b.join(" ")}A${r} ${r} 0 0 ${turn > 0 ? 0 : 1} ${open.join(" ")}` }), el("path", { class: "leaf", d: `M${a.join(" ")}L${open.join(" ")}` }));
    }
    return parts;
  }

  furniture() {
    const [bar] = tapeDivisions(1 / this.frame.scale, 70);
    const wide = bar * this.frame.scale;
    const y = this.frame.height - 16;
    const x = this.frame.width - 26;
    return [
      el("path", { class: "scalebar", d: `M16 ${y - 5}v5h${wide.toFixed(1)}v-5` }),
      label(16 + wide + 7, y + 1, round(bar), { class: "scaletext" }),
      el("path", { class: "north", d: `M${x} 50V18M${x - 5} 27l5-10l5 10` }),
      label(x, 64, "N", { class: "northtext", "text-anchor": "middle" }),
    ];
  }

  setCursor(station) {
    this.cursor = station;
    if (!this.dot) return;
    this.dot.setAttribute("visibility", station === null ? "hidden" : "visible");
    if (station === null) return;
    const [x, y] = this.place(station);
    this.dot.setAttribute("cx", x);
    this.dot.setAttribute("cy", y);
  }

  point(event, name) {
    if (!this.data) return null;
    const box = this.svg.getBoundingClientRect();
    const [x, y] = [event.clientX - box.left, event.clientY - box.top];
    let best = [Infinity, 0];
    this.data.posts.forEach((p, k) => {
      const [px, py] = this.frame(p.e, p.n);
      const far = Math.hypot(px - x, py - y);
      if (far < best[0]) best = [far, k];
    });
    const other = best[0] > 8 ? this.lineAt(x, y) : null;
    this.svg.style.cursor = other ? "pointer" : "";
    if (other && name === "choose") return this.dispatchEvent(new CustomEvent("line", { detail: other.id }));
    if (best[0] > 40) return null;
    const detail = name === "choose" ? { post: best[1] } : this.data.posts[best[1]].s;
    return this.dispatchEvent(new CustomEvent(name, { detail }));
  }
}
