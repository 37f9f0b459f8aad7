// The job as the page knows it: its version, its drawing, and the calls that change it.
import { call, newKey, send } from "./send.js";
import { html, looks } from "./svg.js";
import { openIn, say } from "./units.js";

// What this browser is called among those that write facts down; made once and remembered.
function device() {
  const known = localStorage.getItem("device") ?? `page-${crypto.randomUUID().slice(0, 8)}`;
  localStorage.setItem("device", known);
  return known;
}

export class JobState extends EventTarget {
  constructor(state, drawing) {
    super();
    Object.assign(this, state, { drawing, busy: null });
    openIn(state.job, state.units);
  }

  // An address of this job, of the line that is shown.
  to(path, query = {}) {
    const asked = new URLSearchParams({ ...query, ...(this.lines.length > 1 ? { line: this.line } : {}) }).toString();
    const [place, mark] = path.split("#");
    return `/jobs/${this.job}${place && `/${place}`}${asked && `?${asked}`}${mark ? `#${mark}` : ""}`;
  }

  // Where a call of this job goes, of the line that is shown.
  address(path, more = {}) {
    const [place, query] = path.split("?");
    const asked = new URLSearchParams(query ?? "");
    for (const [key, value] of Object.entries(more)) asked.set(key, value);
    if (this.lines.length > 1 && this.line) asked.set("line", this.line);
    return `/api/v1/jobs/${this.job}/${place}${asked.size ? `?${asked}` : ""}`;
  }

  call(path, body, more = {}) {
    return call(this.address(path, more), body);
  }

  // What a page shows beside the drawing is asked for anew after every change: the answer to the last one counts, and where none comes
  // that is said.  ``followed`` ends when it is there, with whether it came.
  follow(path, tell, show) {
    let turn = 0;
    const anew = async (mine, said) => {
      const { ok, body } = await this.call(path);
      if (mine !== turn) return ok;
      show(ok ? body : null);
      if (ok) tell(say(said));
      else tell(`Changed, but what it comes to did not come: ${body.detail} What stands here is of before.`, "wrong");
      document.body.dataset.version = this.version;
      return ok;
    };
    this.addEventListener("changed", ({ detail }) => (this.followed = anew((turn += 1), detail.said)));
  }

  // One change at a time, in the order they were made.
  change(path, body, retry, again, key = newKey()) {
    const turn = (this.busy ?? Promise.resolve()).then(() => this.changeNow(path, body, retry, again, key));
    this.busy = turn;
    return turn;
  }

  async changeNow(path, body, retry, again, key) {
    if (looks && path !== "events") {
      this.dispatchEvent(new CustomEvent("refused", { detail: { detail: "You look at this plan: a planner changes it.", kind: "role" } }));
      return false;
    }
    const address = this.address(path, this.drawing && this.seen ? { seen: this.seen } : {});
    const unsure = (detail) => this.dispatchEvent(new CustomEvent("unsure", { detail }));
    const answer = await send(address, { ...body, base: this.version }, unsure, key);
    if (answer.ok) {
      this.take(answer.body);
      return true;
    }
    this.dispatchEvent(new CustomEvent(answer.status === 409 ? "conflict" : "refused", { detail: { ...answer.body, retry, again } }));
    return false;
  }

  take(body) {
    const gone = this.line && body.line !== this.line;
    Object.assign(this, { version: body.version, undo: body.undo, redo: body.redo, seen: body.seen, lines: body.lines ?? this.lines });
    if (this.line) this.line = body.line;
    if (gone) return location.assign(body.line ? this.to(location.pathname.split("/").slice(3).join("/")) : `/jobs/${this.job}/lines`);
    this.drawing = body.parts ? { ...this.drawing, ...body.drawing } : body.drawing;
    return this.dispatchEvent(new CustomEvent("changed", { detail: { said: body.said, parts: body.parts ? new Set(body.parts) : null } }));
  }

  // A fact of a post from the field: an event, kept once by its id, never an edit.
  log(thing, values) {
    const event = { id: crypto.randomUUID(), device: device(), seq: Date.now(), clock: new Date().toISOString(), line: this.line || this.lines[0].id, post: thing.name.replace(/^[A-Z]+/, ""), at_m: thing.at_m ?? thing.at, ...values };
    const send = () => this.change("events", { events: [event], now: new Date().toISOString() }, send);
    return send();
  }

  edit(edit) {
    if (edit.do === "log") {
      const { do: _, line: __, post, at_m, ...values } = edit;
      return this.log({ name: post, at_m }, values);
    }
    const key = newKey();
    const again = () => this.change("edits", { edit }, again, undefined, key);
    return this.change("edits", { edit }, again, () => this.edit({ ...edit, lose: true }), key);
  }

  step(way) {
    const key = newKey();
    const again = () => this.change(way, {}, again, undefined, key);
    return this.change(way, {}, again, undefined, key);
  }

  async refresh() {
    const answer = await this.call("plan");
    if (answer.ok) this.take(answer.body);
    return answer.ok;
  }
}

// The name of the job, and which of its lines is shown, at the head of every page of a line.
export function showWhere(job) {
  document.getElementById("jobname").textContent = job.drawing.job;
  const pick = document.getElementById("lines");
  pick.hidden = job.lines.length < 2;
  pick.replaceChildren(...job.lines.map((l) => html("option", { value: l.id, selected: l.id === job.line, disabled: l.standing === "there" }, `${l.id}  ${l.name}`)));
  pick.onchange = () => showLine(job, pick.value);
}

// The same page of another line.
export function showLine(job, id) {
  const rest = location.pathname.split("/").slice(3).join("/");
  location.assign(`/jobs/${job.job}${rest && `/${rest}`}?line=${id}${location.hash}`);
}

// What is said at the foot of a job's page, and what to do when another window changed the job.
export function speaking(said, job) {
  const tell = (text, tone = "") => {
    said.className = `said ${tone}`.trim();
    said.setAttribute("role", tone === "wrong" ? "alert" : "status");
    said.replaceChildren(text);
  };
  job.addEventListener("refused", (event) => {
    const { detail, said: sentence, field, kind, retry, again } = event.detail;
    tell(sentence ? say(sentence) : detail, "wrong");
    if (field === "lose" && again) said.append(" ", html("button", { class: "btn btn-work", onclick: again }, "Do it all the same"));
    if (["away", "unknown"].includes(kind) && retry) said.append(" ", html("button", { class: "btn btn-work", onclick: retry }, kind === "away" ? "Try again" : "Ask again"));
  });
  job.addEventListener("unsure", (event) => tell(event.detail, "wrong"));
  job.addEventListener("conflict", (event) => {
    const { retry } = event.detail;
    const again = html("button", { class: "btn btn-work", onclick: async () => (await job.refresh()) && retry() }, "Show it as it is now, and do mine again");
    const leave = html("button", { class: "btn btn-quiet", onclick: () => job.refresh() }, "Show it, leave mine");
    tell(event.detail.detail, "wrong");
    said.append(" ", again, " ", leave);
  });
  return tell;
}
