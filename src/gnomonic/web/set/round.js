// A walk round the work surface: eight stops, each beside what it speaks of; left at any time, offered once.
import { html } from "../static/svg.js";

const SEEN = "round:seen";
const GAP = 10;

export const seen = () => localStorage.getItem(SEEN) === "yes";
export const never = () => localStorage.setItem(SEEN, "yes");

// Stops: [selector, words, what is done before it].
export function stops({ snags, strip, choose, column, job }) {
  const middle = () => Math.floor(job.drawing.posts.length / 2);
  return [
    ["#strip", "This is the line under its tape, from its start to its end. Everything lives at a station: posts, splices, gaps. The wheel or two fingers zoom, dragging pans.", () => strip.look(0, job.drawing.length)],
    ["#strip", "Near enough, heights are to scale, and what is at the cursor is measured on the place: the gap under the wire, the bay, the post’s height and depth.", () => strip.lookAt(job.drawing.posts[middle()].s)],
    [".tabs", "Snags are what the plan does not like, the worst first. Shift and an arrow key go from one to the next.", () => snags.step(1)],
    [".column", "The chosen snag says what follows from it, and what mends it, each remedy with what it would change before you take it.", () => snags.open(Math.max(0, job.drawing.snags.findIndex((s) => s.remedies.length)))],
    [".column", "Arrow keys go from post to post. The tag says what is known of it and what is put on it; every number opens its why.", () => choose({ post: middle() })],
    ["#decide", "Decisions stand in a sentence. Change a number and the line is planned anew; what that did is said at the foot. Undo takes it back.", () => (document.getElementById("decide").open = true)],
    [".mapbox", "The job’s map has all its lines: press one to go to it. It zooms by itself, and folds away.", () => column.open("snags")],
    [".verbs", "The verbs are the work in its order: measure it, say what it must hold, set the posts, hang the fabric, haul what it needs. Pull, days and the log are still to come.", () => {}],
  ];
}

export class Round {
  constructor(list) {
    Object.assign(this, { list, at: 0 });
  }

  begin() {
    if (this.box) return;
    this.box = html("div", { class: "round", role: "dialog", "aria-label": "Round the work surface", tabindex: "-1" });
    document.body.append(this.box);
    this.key = (event) => event.key === "Escape" && this.end();
    document.addEventListener("keydown", this.key);
    this.show(0);
  }

  show(k) {
    this.at = k;
    const [where, words, before] = this.list[k];
    before();
    const anchor = document.querySelector(where);
    document.querySelector(".rounded")?.classList.remove("rounded");
    anchor.classList.add("rounded");
    const last = k === this.list.length - 1;
    const on = html("button", { class: "btn btn-work", onclick: () => (last ? this.end() : this.show(k + 1)) }, last ? "To work" : "On");
    const back = k ? [html("button", { class: "btn btn-quiet", onclick: () => this.show(k - 1) }, "Back")] : [];
    const leave = last ? [] : [html("button", { class: "link", onclick: () => this.end() }, "leave it")];
    this.box.replaceChildren(html("p", { class: "quiet" }, `${k + 1} of ${this.list.length}`), html("p", {}, words), html("p", { class: "roundbuttons" }, on, " ", ...back, " ", ...leave));
    this.place(anchor.getBoundingClientRect());
    on.focus();
  }

  // Beside what it speaks of, inside the window.
  place(about) {
    const { offsetWidth: wide, offsetHeight: high } = this.box;
    const below = about.bottom + GAP + high < innerHeight;
    const left = about.left > wide + 2 * GAP ? about.left - wide - GAP : Math.min(about.left + GAP, innerWidth - wide - GAP);
    const top = about.left > wide + 2 * GAP ? about.top + GAP : below ? about.bottom + GAP : innerHeight - high - 2 * GAP;
    this.box.style.left = `${Math.max(GAP, left)}px`;
    this.box.style.top = `${Math.max(GAP, Math.min(top, innerHeight - high - GAP))}px`;
  }

  end() {
    never();
    document.removeEventListener("keydown", this.key);
    document.querySelector(".rounded")?.classList.remove("rounded");
    this.box.remove();
    this.box = null;
    document.getElementById("strip").focus();
  }
}
