// The plan as it is drawn: squared paper, the line with its points, what was found, names clear of it all.
import { el, label } from "../static/svg.js";
import { length, quantity, round, tapeDivisions } from "../static/units.js";


export const bearingOf = (from, to) => ((Math.atan2(to[0] - from[0], to[1] - from[1]) * 180) / Math.PI + 360) % 360;

export function quadrant(bearing) {
  const minutes = Math.round((((bearing % 360) + 360) % 360) * 60) % 21600;
  const [north, east] = [minutes <= 5400 || minutes > 16200, minutes <= 10800];
  const off = north ? (east ? minutes : 21600 - minutes) : Math.abs(10800 - minutes);
  return `${north ? "N" : "S"} ${Math.floor(off / 60)}°${String(off % 60).padStart(2, "0")}' ${east ? "E" : "W"}`;
}

export class Plan extends EventTarget {
  constructor(svg) {
    super();
    Object.assign(this, { svg, others: [], picked: null, leg: null, view: null, cursor: null, ghost: null, noted: [] });
    new ResizeObserver(() => this.points && this.draw()).observe(svg);
  }

  emit(name, detail) {
    this.dispatchEvent(new CustomEvent(name, { detail }));
  }

  show({ points, closed, found = [], stations = [], regions = [], others = [] }) {
    Object.assign(this, { points, closed, found, stations, regions, others });
    if (this.picked !== null && this.picked >= points.length) this.picked = null;
    if (!this.view) this.fit();
    else this.draw();
  }

  // The whole line, with what was found beside it.
  fit() {
    const box = this.svg.getBoundingClientRect();
    const places = [...this.points, ...this.found.flatMap((f) => f.shape)];
    if (!this.points.length) places.push(...this.others.flatMap((o) => o.places));
    if (!places.length) places.push([-15, -10], [15, 10]);
    const [es, ns] = [places.map((p) => p[0]), places.map((p) => p[1])];
    const [e0, e1, n0, n1] = [Math.min(...es), Math.max(...es), Math.min(...ns), Math.max(...ns)];
    const scale = Math.min((box.width - 110) / Math.max(e1 - e0, 4), (box.height - 90) / Math.max(n1 - n0, 4));
    this.view = { e: (e0 + e1) / 2, n: (n0 + n1) / 2, scale };
    this.draw();
  }

  zoom(factor, about) {
    const [e, n] = this.world(about[0], about[1]);
    this.view.scale = Math.min(Math.max(this.view.scale * factor, 0.005), 400);
    const [x, y] = this.screen([e, n]);
    this.view.e += (x - about[0]) / this.view.scale;
    this.view.n -= (y - about[1]) / this.view.scale;
    this.draw();
  }

  screen([e, n]) {
    return [this.width / 2 + (e - this.view.e) * this.view.scale, this.height / 2 - (n - this.view.n) * this.view.scale];
  }

  world(x, y) {
    return [this.view.e + (x - this.width / 2) / this.view.scale, this.view.n - (y - this.height / 2) / this.view.scale];
  }

  at(event) {
    const box = this.svg.getBoundingClientRect();
    return [event.clientX - box.left, event.clientY - box.top];
  }

  path(places) {
    return `M${places.map((p) => this.screen(p).map((v) => v.toFixed(1)).join(" ")).join("L")}`;
  }

  ring() {
    return this.closed ? [...this.points, this.points[0]] : this.points;
  }

  draw() {
    const box = this.svg.getBoundingClientRect();
    [this.width, this.height] = [box.width, box.height];
    this.svg.setAttribute("viewBox", `0 0 ${box.width} ${box.height}`);
    const { points, closed } = this;
    const parts = [this.squares()];
    Object.assign(this, { names: [], lineNames: [], written: [[0, this.height - 34, 190, this.height], [this.width - 44, 8, this.width, 70]] });
    for (const o of this.others) parts.push(...this.other(o));
    if (points.length > 1) {
      if (closed) parts.push(el("path", { class: "region", d: `${this.path(points)}Z` }));
      for (const f of this.found) parts.push(...this.thing(f));
      if (this.leg !== null) parts.push(el("path", { class: "leg-picked", d: this.path([points[this.leg], points[(this.leg + 1) % points.length]]) }));
      parts.push(el("path", { class: "line", d: this.path(points) + (closed ? "Z" : "") }));
      this.regions.forEach((r, k) => {
        const [x, y] = this.screen(r.at);
        this.written.push([x - 45, y + 12, x + 45, y + 30]);
        parts.push(label(x, y + 26, `${String.fromCharCode(65 + k)} ${quantity(r.area, "land")}`, { class: "regionname", "text-anchor": "middle" }));
      });
    }
    const apart = points.length > 1 ? this.spread() : 99;
    let far = [-99, -99];
    points.forEach((p, k) => {
      const [x, y] = this.screen(p);
      const picked = k === this.picked;
      const name = p[3] || String(k + 1);
      parts.push(el("circle", { class: `peg${apart < 9 && !picked && k && !p[3] ? " small" : ""}${k === 0 ? " start" : ""}${picked ? " picked" : ""}`, cx: x, cy: y, r: picked ? 7 : apart < 9 && k && !p[3] ? 2 : 5 }));
      if (picked || k === 0 || p[3] || apart > 24) {
        if (picked || p[3] || Math.hypot(x - far[0], y - far[1]) > 26) {
          if (x > this.width - 60 || y < 20 || y > this.height || x < 0) return;
          parts.push(label(x + 9, y - 8, name, { class: "pegname" }));
          this.written.push([x + 7, y - 20, x + 11 + name.length * 6.5, y - 4]);
          far = [x, y];
        }
      }
    });
    if (this.noted.length) parts.push(el("path", { class: "ghost", d: this.path(this.noted) }), ...this.noted.map((p) => el("circle", { class: "dot", cx: this.screen(p)[0], cy: this.screen(p)[1], r: 4 })));
    this.over = el("g", { "pointer-events": "none" });
    this.svg.replaceChildren(...parts, ...this.named(), ...this.furniture(), this.over);
    this.drawOver();
  }

  other(o) {
    const seen = o.places.map((p) => this.screen(p)).filter(([x, y]) => x > 0 && x < this.width && y > 0 && y < this.height);
    if (seen.length) this.lineNames.push([...seen[seen.length >> 1], `${o.id} ${o.name}`, "linename"]);
    return [el("path", { class: `otherline ${o.standing}`, d: this.path(o.places) }, el("title", {}, o.name))];
  }

  // The median distance between neighbouring points on the screen.
  spread() {
    const ring = this.ring();
    const gaps = ring.slice(1).map((p, k) => Math.hypot(p[0] - ring[k][0], p[1] - ring[k][1]) * this.view.scale).sort((a, b) => a - b);
    return gaps[gaps.length >> 1];
  }

  squares() {
    const [major] = tapeDivisions(1 / this.view.scale, 64);
    const [e0, n1] = this.world(0, 0);
    const [e1, n0] = this.world(this.width, this.height);
    let d = "";
    for (let e = Math.ceil(e0 / major) * major; e <= e1; e += major) d += `M${this.screen([e, 0])[0].toFixed(1)} 0V${this.height}`;
    for (let n = Math.ceil(n0 / major) * major; n <= n1; n += major) d += `M0 ${this.screen([0, n])[1].toFixed(1)}H${this.width}`;
    return el("path", { class: "squares", d });
  }

  thing(f) {
    const title = el("title", {}, f.name);
    if (!f.shape.length) return f.at.flatMap(([from, to]) => this.along(f, from, to));
    const [x, y] = this.screen(f.shape[0]);
    const wide = 2 * f.zone * this.view.scale;
    const area = f.shape.length > 3 && f.shape[0].every((v, k) => v === f.shape[f.shape.length - 1][k]);
    const middle = this.screen(f.shape.length === 2 ? [0, 1].map((c) => (f.shape[0][c] + f.shape[1][c]) / 2) : f.shape[f.shape.length >> 1]);
    if (f.shape.length === 1) this.names.push([x, y, f.name]);
    else this.names.push([...middle, f.name]);
    if (f.shape.length === 1) return [el("circle", { class: `thing ${f.group}`, cx: x, cy: y, r: Math.max(5, wide / 2) }, title)];
    if (area) return [el("path", { class: `thing ${f.group}`, d: `${this.path(f.shape)}Z` }, title)];
    const zone = f.zone ? [el("path", { class: "zone", d: this.path(f.shape), "stroke-width": Math.max(4, wide) }, title)] : [];
    return [...zone, el("path", { class: `core ${f.group}`, d: this.path(f.shape) }, title)];
  }

  along(f, from, to) {
    const places = [this.placeAt(from), ...this.points.filter((_, k) => this.stations[k] > from && this.stations[k] < to), this.placeAt(to)];
    const [x, y] = this.screen(places[places.length >> 1]);
    if (!f.side) this.names.push([x, y, f.name]);
    if (to - from < 0.05) return [el("circle", { class: `thing ${f.group}`, cx: x, cy: y, r: 6 }, el("title", {}, f.name))];
    return [el("path", { class: `stretch ${f.group}`, d: this.path(places) }, el("title", {}, f.name))];
  }

  // Names of what was found, and of the other lines, beside them where nothing else is written.
  named() {
    const taken = [...this.written];
    const parts = [];
    const ring = this.ring().map((p) => this.screen(p));
    const line = ring.slice(1).flatMap(([x, y], k) => {
      const [a, b] = ring[k];
      const steps = Math.min(200, Math.ceil(Math.hypot(x - a, y - b) / 7)) || 1;
      return Array.from({ length: steps }, (_, n) => [a + ((x - a) * n) / steps, b + ((y - b) * n) / steps]);
    });
    const crossed = (box) => line.some(([x, y]) => x > box[0] && x < box[2] && y > box[1] && y < box[3]);
    for (const [x, y, text, kind] of [...this.names, ...this.lineNames]) {
      const wide = text.length * 6.5;
      const ways = [[10, 4], [-wide - 10, 4], [-wide / 2, -11], [-wide / 2, 20], [10, -12], [10, 20], [-wide - 10, 20], [-wide - 10, -12]];
      const clear = ways.filter(([dx, dy]) => !crossed([x + dx, y + dy - 11, x + dx + wide, y + dy + 3]));
      for (const [dx, dy] of clear.length ? clear : ways) {
        const box = [x + dx, y + dy - 12, x + dx + wide, y + dy + 4];
        if (box[0] < 2 || box[2] > this.width - 2 || box[1] < 2 || box[3] > this.height - 2) continue;
        if (taken.some((o) => box[0] < o[2] && box[2] > o[0] && box[1] < o[3] && box[3] > o[1])) continue;
        taken.push(box);
        parts.push(label(x + dx, y + dy, text, kind ? { class: kind } : {}));
        break;
      }
    }
    return parts;
  }

  placeAt(station) {
    const { stations } = this;
    const ring = this.ring();
    let k = 1;
    while (k < ring.length - 1 && stations[k] < station) k++;
    const t = Math.min(Math.max((station - stations[k - 1]) / (stations[k] - stations[k - 1] || 1), 0), 1);
    return [0, 1].map((c) => ring[k - 1][c] + (ring[k][c] - ring[k - 1][c]) * t);
  }

  furniture() {
    const [bar] = tapeDivisions(1 / this.view.scale, 70);
    const wide = bar * this.view.scale;
    const [x, y] = [this.width - 26, this.height - 16];
    return [
      el("path", { class: "scalebar", d: `M16 ${y - 5}v5h${wide.toFixed(1)}v-5` }),
      label(16 + wide + 7, y + 1, round(bar), {}),
      el("path", { class: "north", d: `M${x} 50V18M${x - 5} 27l5-10l5 10` }),
      label(x, 64, "N", { "text-anchor": "middle" }),
    ];
  }

  drawOver() {
    if (!this.over) return;
    const parts = [];
    const { ghost } = this;
    if (this.cursor !== null && this.points.length > 1 && this.stations.length) {
      const [x, y] = this.screen(this.placeAt(this.cursor));
      parts.push(el("circle", { class: "mapcursor", cx: x, cy: y, r: 4.5 }));
    }
    if (ghost) {
      for (const from of ghost.from) parts.push(el("path", { class: "ghost", d: this.path([from, ghost.to]) }));
      const [x, y] = this.screen(ghost.to);
      parts.push(el("circle", { class: "ghost", cx: x, cy: y, r: 6 }));
      if (ghost.from.length) {
        const text = `${quadrant(bearingOf(ghost.from[0], ghost.to))}  ${length(Math.hypot(ghost.to[0] - ghost.from[0][0], ghost.to[1] - ghost.from[0][1]), "station")}${ghost.square ? "  square" : ""}${ghost.join ? `  on ${ghost.join.name}` : ""}`;
        parts.push(label(Math.min(x + 12, this.width - text.length * 6.8), Math.max(y - 12, 16), text, { class: "ghosttext" }));
      }
    }
    this.over.replaceChildren(...parts);
  }

  setCursor(station) {
    this.cursor = station;
    this.drawOver();
  }

  pick(point, leg = null) {
    Object.assign(this, { picked: point, leg });
    this.draw();
  }
}
