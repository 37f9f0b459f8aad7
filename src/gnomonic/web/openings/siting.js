// The gate slid along the line: the ground, what would be left under the leaf everywhere, the best places.
import { el, html, label } from "../static/svg.js";
import { length, quantity, say, tapeDivisions, round } from "../static/units.js";

const FOOT = 0.3048;
const PAD = 46;
const REACH_M = 100; // searched on either side of the gate

export class Siting {
  constructor(job, tell, show) {
    Object.assign(this, { job, tell, show, svg: document.getElementById("site"), found: null, gate: null, at: null, asked: 0 });
    this.svg.addEventListener("pointerdown", (e) => this.grab(e));
    this.svg.addEventListener("pointermove", (e) => this.held && this.slide(this.station(e)));
    this.svg.addEventListener("pointerup", () => this.drop());
    this.svg.addEventListener("pointercancel", () => this.drop());
    this.svg.addEventListener("keydown", (e) => this.key(e));
  }

  of(gate, ground, total) {
    if (this.gate?.id !== gate?.id || this.gate?.at !== gate?.at || this.gate?.leaf !== gate?.leaf) this.found = null;
    Object.assign(this, { gate, ground, total, at: gate?.at ?? null });
    document.getElementById("places").replaceChildren();
    const swings = Boolean(gate?.leaves);
    this.svg.style.display = swings ? "" : "none";
    document.querySelector(".sitebar").hidden = !swings;
    if (swings) this.search();
    else this.draw();
  }

  get span() {
    const wide = this.gate.end - this.gate.at;
    return [Math.max(0, this.gate.at - REACH_M), Math.min(this.total, this.gate.end + REACH_M), wide];
  }

  async search() {
    if (!this.gate) return;
    const mine = (this.asked += 1);
    const [low, high] = this.span;
    document.getElementById("sitehint").textContent = "looking at the ground …";
    const answer = await this.job.call(`siting?gate=${this.gate.id}&low=${low}&high=${high}`);
    if (mine !== this.asked) return;
    if (!answer.ok) return void (document.getElementById("sitehint").textContent = answer.body.detail);
    this.found = answer.body;
    document.getElementById("sitehint").textContent = `every few inches from ${length(low, "station")} to ${length(high, "station")} tried: drag the gate, or take a place below`;
    this.draw();
    this.places();
  }

  scale() {
    const { width, height } = this.svg.getBoundingClientRect();
    const [low, high] = this.span;
    const x = (s) => PAD + ((s - low) * (width - PAD - 12)) / (high - low);
    return { x, back: (px) => low + ((px - PAD) * (high - low)) / (width - PAD - 12), width, height, low, high };
  }

  draw() {
    if (!this.gate) return this.svg.replaceChildren();
    const f = this.scale();
    this.svg.setAttribute("viewBox", `0 0 ${f.width} ${f.height}`);
    const inside = this.ground.filter(([s]) => s >= f.low && s <= f.high);
    const zAt = (s) => {
      const k = Math.max(1, this.ground.findIndex(([a]) => a >= s));
      const [[a, za], [b, zb]] = [this.ground[k - 1], this.ground[k] ?? this.ground[k - 1]];
      return b === a ? za : za + ((zb - za) * (s - a)) / (b - a);
    };
    const line = [[f.low, zAt(f.low)], ...inside, [f.high, zAt(f.high)]];
    const [z0, z1] = [Math.min(...line.map((p) => p[1])), Math.max(...line.map((p) => p[1]))];
    const [top, foot] = [26, 74];
    const y = (z) => foot - ((z - z0) * (foot - top)) / Math.max(z1 - z0, 0.5);
    const parts = [el("path", { class: "soilfill", d: `${line.map(([s, z], k) => `${k ? "L" : "M"}${f.x(s).toFixed(1)} ${y(z).toFixed(1)}`).join("")}L${f.x(f.high).toFixed(1)} 84L${f.x(f.low).toFixed(1)} 84Z` })];
    parts.push(label(4, 50, "ground", { class: "sitelabel" }), label(4, 112, "under it", { class: "sitelabel" }));
    if (this.found) parts.push(...this.curve(f));
    const [major] = tapeDivisions((f.high - f.low) / (f.width - PAD - 12), 90);
    for (let s = Math.ceil(f.low / major) * major; s <= f.high; s += major) parts.push(el("path", { class: "sitetick", d: `M${f.x(s).toFixed(1)} 12v6` }), label(f.x(s), 10, round(s), { class: "sitelabel", "text-anchor": "middle" }));
    for (const [k, p] of (this.found?.places ?? []).entries()) if (k) parts.push(el("path", { class: "siteplace", d: `M${f.x(p.at).toFixed(1)} 88l-5 -8h10Z` }), label(f.x(p.at), 98, String(k), { class: "sitelabel", "text-anchor": "middle" }));
    const [a, b] = [f.x(this.at), f.x(this.at + this.gate.end - this.gate.at)];
    parts.push(el("rect", { class: "sitegate", x: a.toFixed(1), y: 20, width: Math.max(8, b - a).toFixed(1), height: 64 }));
    this.svg.replaceChildren(...parts);
    this.svg.setAttribute("aria-valuemin", String(f.low));
    this.svg.setAttribute("aria-valuemax", String(f.high));
    this.svg.setAttribute("aria-valuenow", String(this.at));
    this.svg.setAttribute("aria-valuetext", length(this.at, "station"));
  }

  // What is left under the leaf at every place, what is allowed, and where it may not hang.
  curve(f) {
    const { at, gap, out, most } = this.found;
    const worst = Math.max(most * 2, ...gap.filter((_, k) => !out[k]), 0.1);
    const top = Math.min(worst, most * 6);
    const y = (g) => 132 - (Math.min(g, top) * 42) / top;
    const parts = [el("path", { class: "sitemost", d: `M${PAD} ${y(most).toFixed(1)}H${f.width - 12}` }), label(f.width - 14, y(most) - 3, `${quantity(most, "gap")} allowed`, { class: "sitelabel", "text-anchor": "end" })];
    let d = "";
    let barred = "";
    at.forEach((s, k) => {
      const x = f.x(s).toFixed(1);
      if (out[k]) barred += `M${x} 88V134`;
      else d += `${d && !out[k - 1] ? "L" : "M"}${x} ${y(gap[k]).toFixed(1)}`;
    });
    return [el("path", { class: "siteout", d: barred }), el("path", { class: "sitecurve", d }), ...parts];
  }

  station(event) {
    const box = this.svg.getBoundingClientRect();
    return this.scale().back(event.clientX - box.left) - (this.offset ?? 0);
  }

  grab(event) {
    if (!this.gate) return;
    this.offset = 0;
    const s = this.station(event);
    const on = s >= this.at - 1 && s <= this.at + this.gate.end - this.gate.at + 1;
    this.offset = on ? s - this.at : (this.gate.end - this.gate.at) / 2;
    this.held = true;
    this.svg.setPointerCapture(event.pointerId);
    this.slide(this.station(event));
  }

  slide(to) {
    const [low, high, wide] = this.span;
    this.at = Math.min(Math.max(to, low), high - wide);
    this.draw();
    this.look();
  }

  // The gate as it would hang there, one question at a time, the latest place asked last.
  async look() {
    if (this.looking) return void (this.again = true);
    this.looking = true;
    const answer = await this.job.call(`swing?gate=${this.gate.id}&at=${this.at.toFixed(3)}`);
    this.looking = false;
    if (answer.ok) this.show(answer.body, this.at !== this.gate.at);
    if (this.again) {
      this.again = false;
      this.look();
    }
  }

  drop() {
    if (!this.held) return;
    this.held = false;
    if (Math.abs(this.at - this.gate.at) > 0.02) this.offer();
  }

  offer() {
    const at = Number(this.at.toFixed(3));
    const k = this.found?.at.findIndex((s) => Math.abs(s - at) < 0.13) ?? -1;
    const out = k >= 0 ? this.found.out[k] : "";
    const take = html("button", { class: "btn btn-work", edits: () => this.move(at) }, `Hang it at ${length(at, "station")}`);
    const back = html("button", { class: "btn btn-quiet", onclick: () => this.back() }, "Leave it where it is");
    document.getElementById("sitehint").replaceChildren(out ? `${length(at, "station")} lies ${out}. ` : "", ...(out ? [] : [take, " "]), back);
  }

  back() {
    this.at = this.gate.at;
    this.draw();
    this.look();
    document.getElementById("sitehint").textContent = "";
  }

  move(at) {
    return this.job.edit({ do: "move_gate", id: this.gate.id, at_m: at });
  }

  key(event) {
    if (!this.gate || event.ctrlKey || event.metaKey) return;
    if (event.key === "Enter" && Math.abs(this.at - this.gate.at) > 0.02) this.move(Number(this.at.toFixed(3)));
    else if (event.key === "Escape") this.back();
    else if (["ArrowLeft", "ArrowRight"].includes(event.key)) {
      this.slide(this.at + (event.key === "ArrowLeft" ? -1 : 1) * (event.shiftKey ? 10 : 1) * FOOT);
      this.offer();
    } else return;
    event.preventDefault();
    event.stopPropagation();
  }

  places() {
    const sign = (n, one) => (n ? `${n > 0 ? "+" : "−"}${Math.abs(n)} ${one}${Math.abs(n) === 1 ? "" : "s"}` : `no ${one} more or less`);
    const rows = this.found.places.map((p, k) =>
      html(
        "tr",
        p.here ? { class: "now" } : {},
        html("th", { scope: "row" }, p.here ? "here" : String(k)),
        html("td", { class: "num", "data-of": "at" }, length(p.at, "station")),
        html("td", { "data-of": "under it", class: `num${p.gap > this.found.most + 0.0127 ? " wrong" : ""}` }, quantity(p.gap, "gap")),
        html("td", { class: "num", "data-of": "at its hinge" }, quantity(p.bottom, "gap")),
        html("td", {}, say(p.words)),
        html("td", { "data-of": "costs" }, p.here ? "" : p.posts || Math.abs(p.cost) > 0.05 ? `${sign(p.posts, "post")}; ${p.cost > 0 ? "+" : "−"}${Math.abs(p.cost).toFixed(1)} in posts, fill and cut` : "nothing"),
        html("td", {}, p.here ? "" : html("button", { class: "btn btn-quiet", onclick: () => this.move(p.at), "aria-label": `Hang it at place ${k}` }, "Hang it there")),
      ),
    );
    const heads = [["Place"], ["First post", "num"], ["Under it", "num"], ["At its hinge", "num"], ["Which way round"], ["What it costs the fence"], [""]];
    const head = html("thead", {}, html("tr", {}, ...heads.map(([t, c]) => html("th", { scope: "col", class: c ?? "" }, t))));
    const [here, ...others] = this.found.places;
    const well = others.every((p) => here.gap <= Math.max(p.gap, this.found.most) + 0.0127 && here.bottom <= p.bottom + 0.0127);
    const words = well ? html("p", { class: "bodywords" }, html("b", {}, "It hangs as well here as anywhere on the stretch above.")) : "";
    document.getElementById("places").replaceChildren(words, html("table", { class: "plain-table places" }, html("caption", {}, "Best places of the stretch above, by what is left under the leaf, then how high it hangs, then how near. Splices are not reckoned in."), head, html("tbody", {}, ...rows)));
  }
}
