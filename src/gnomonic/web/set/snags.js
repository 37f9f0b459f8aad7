// The worklist: every snag with its place and its consequence; the chosen one opens its remedies, whose effect is shown before they are taken.
import { html, looks } from "../static/svg.js";
import { say } from "../static/units.js";

const GO = { marking: "see to the marks", hold: "see what does it in Hold", stand: "see how it is held, and the other ways", openings: "see it drawn, and what else would do", pull: "see how it is pulled, and what else would do" };

export class Snags {
  constructor(list, count, job, look) {
    Object.assign(this, { list, count, job, look, chosen: -1, round: 0 });
  }

  show(data) {
    const was = this.data?.snags[this.chosen];
    this.data = data;
    this.round += 1;
    const n = data.snags.length;
    this.count.textContent = n === 0 ? "No snags" : `${n} snag${n === 1 ? "" : "s"}`;
    this.list.replaceChildren(...(n ? data.snags.map((s, k) => this.row(s, k)) : [html("li", { class: "none" }, "Nothing on this line needs a second look.")]));
    this.chosen = was ? data.snags.findIndex((s) => s.title.t === was.title.t && Math.abs(s.at - was.at) < 0.5) : -1;
    if (this.chosen >= 0) this.open(this.chosen);
  }

  row(snag, k) {
    const place = html("button", { class: "place", "aria-expanded": "false", onclick: () => this.choose(k) }, say(snag.title));
    return html("li", { class: snag.grave ? "grave" : "" }, place, html("span", { class: "consequence" }, say(snag.consequence)), html("div", { class: "remedies", hidden: true }));
  }

  remedies(snag) {
    const priced = [];
    const rows = snag.remedies.map((r) => {
      const price = html("span", { class: "price waiting" }, "…");
      priced.push([r.edit, price]);
      return html("div", {}, looks ? html("span", { class: "remedy" }, say(r.label)) : html("button", { class: "remedy", edits: () => this.job.edit(r.edit) }, say(r.label)), price);
    });
    if (snag.go) rows.push(html("div", {}, html("a", { class: "remedy", href: this.job.to(["openings", "pull"].includes(snag.go) ? `${snag.go}#at=${snag.at}` : snag.go) }, GO[snag.go] ?? "look at it in Walk")));
    return [rows, priced];
  }

  choose(k) {
    this.open(k);
    this.list.children[k].scrollIntoView({ block: "nearest" });
    this.look(this.data.snags[k]);
  }

  // Opens a snag's remedies and says what each would do.
  open(k) {
    this.chosen = k;
    const snag = this.data.snags[k];
    const [rows, priced] = this.remedies(snag);
    [...this.list.children].forEach((li, n) => {
      li.classList.toggle("chosen", n === k);
      li.querySelector(".place").setAttribute("aria-expanded", String(n === k));
      const box = li.querySelector(".remedies");
      box.hidden = n !== k;
      box.replaceChildren(...(n === k ? rows : []));
    });
    this.weigh(priced, (this.round += 1));
  }

  get now() {
    return this.data?.snags[this.chosen] ?? null;
  }

  leave() {
    if (this.chosen < 0) return;
    this.chosen = -1;
    for (const li of this.list.children) {
      li.classList.remove("chosen");
      li.querySelector(".place")?.setAttribute("aria-expanded", "false");
      li.querySelector(".remedies")?.setAttribute("hidden", "");
    }
  }

  step(way) {
    const { length: n } = this.data.snags;
    if (n) this.choose(this.chosen < 0 ? (way > 0 ? 0 : n - 1) : (this.chosen + way + n) % n);
  }

  async weigh(priced, round) {
    for (const [edit, price] of priced) {
      const answer = await this.job.call("weigh", { edit });
      if (round !== this.round) return;
      price.textContent = answer.ok ? say(answer.body.said) : "";
      price.classList.remove("waiting");
    }
  }
}
