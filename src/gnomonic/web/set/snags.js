// The worklist: every snag with its place, its consequence, and remedies whose effect is shown before they are taken.
import { html } from "../static/svg.js";
import { say } from "../static/units.js";

const WEIGHED = 12;
const IDLE_MS = 250; // weighing waits until no edit has come for a while, so that it never holds one up

function put(price, text) {
  price.textContent = text;
  price.classList.remove("waiting");
}

export class Snags {
  constructor(list, count, job, look) {
    Object.assign(this, { list, count, job, look, chosen: -1, round: 0 });
  }

  show(data) {
    this.data = data;
    this.round += 1;
    const n = data.snags.length;
    this.count.textContent = n === 0 ? "No snags" : `${n} snag${n === 1 ? "" : "s"}, worst first`;
    this.buttons = [];
    if (n === 0) {
      this.list.replaceChildren(html("li", { class: "none" }, "Nothing on this line needs a second look."));
      return;
    }
    this.list.replaceChildren(...data.snags.map((s, k) => this.row(s, k)));
    const { round } = this;
    setTimeout(() => round === this.round && this.weigh(round), IDLE_MS);
  }

  row(snag, k) {
    const place = html("button", { class: "place", onclick: () => this.choose(k) }, say(snag.title));
    const remedies = snag.remedies.flatMap((r) => {
      const price = html("span", { class: "price waiting" }, "…");
      const button = html("button", { class: "remedy", onclick: () => this.job.edit(r.edit) }, say(r.label));
      this.buttons.push([r.edit, price]);
      return [html("div", {}, button, price)];
    });
    if (snag.go) remedies.push(html("div", {}, html("a", { class: "remedy", href: this.job.to(snag.go) }, { marking: "see to the marks", hold: "see what does it in Hold" }[snag.go] ?? "look at it in Walk")));
    return html("li", { class: snag.grave ? "grave" : "" }, place, html("span", { class: "consequence" }, say(snag.consequence)), ...remedies);
  }

  choose(k) {
    this.chosen = k;
    [...this.list.children].forEach((li, n) => li.classList.toggle("chosen", n === k));
    this.list.children[k].scrollIntoView({ block: "nearest" });
    this.look(this.data.snags[k]);
  }

  step(way) {
    if (!this.data.snags.length) return;
    this.choose((this.chosen + way + this.data.snags.length) % this.data.snags.length);
  }

  // What each remedy would do, one after the other so that the page stays quick.
  async weigh(round) {
    for (const [, price] of this.buttons.slice(WEIGHED)) put(price, "");
    for (const [edit, price] of this.buttons.slice(0, WEIGHED)) {
      const answer = await this.job.call("weigh", { edit });
      if (round !== this.round) return;
      put(price, answer.ok ? say(answer.body.said) : "");
    }
  }
}
