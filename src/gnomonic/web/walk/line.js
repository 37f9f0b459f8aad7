// Walk on a job: plan, profile and what was measured, on one cursor.
import { head, showHead } from "../static/head.js";
import { JobState, speaking } from "../static/job.js";
import { Strip } from "../strip/strip.js";
import { html, looks } from "../static/svg.js";
import { units } from "../static/units.js";
import { showBook } from "./book.js";
import { showFound } from "./found.js";
import { showGround } from "./heights.js";
import { showLegs } from "./legs.js";
import { HandPlan } from "./hand.js";
import { oneByOne, typedLeg } from "./typed.js";

const at = (id) => document.getElementById(id);
const read = (id) => JSON.parse(at(id).textContent);
const kinds = read("kinds");
const job = new JobState(read("state"), read("drawing"));
const tell = speaking(at("said"), job);
const page = { job, kinds, walk: read("walk"), tab: "legs", picked: null, leg: null, shape: [], bare: () => (units() === "metric" ? "m" : "ft"), tell };
const strip = new Strip(at("strip"), { only: ["ground", "found"] });
const plan = new HandPlan(at("plan"));
const PANES = { legs: showLegs, book: showBook, found: showFound, ground: showGround };
const DIG = { "not asked": "Do not dig: services not asked about", requested: "Do not dig: marks not in", expired: "Do not dig: marks have run out", elsewhere: "Do not dig: the line has moved", marked: "Marks are in", clear: "Clear to dig" };

page.edit = (edit) => job.edit({ bare: page.bare(), ...edit });
page.pick = (point, leg = null, move = true) => {
  Object.assign(page, { picked: point, leg });
  plan.pick(point, leg);
  const station = point !== null ? job.drawing.ground[point]?.[0] : leg !== null ? page.walk.legs[leg].at_m : null;
  if (station !== null && move) setCursor(station);
  if (page.tab === "legs") showPane();
};
page.note = (shape) => {
  page.shape = shape;
  if (page.tab === "found") showPane();
};
page.mode = setMode;

function setCursor(station) {
  strip.setCursor(station);
  plan.setCursor(station);
  page.station = station;
}

function showPane() {
  const pane = at("pane");
  const keep = pane.dataset.tab === page.tab ? pane.scrollTop : 0;
  pane.dataset.tab = page.tab;
  for (const tab of document.querySelectorAll("[data-tab][role=tab]")) tab.setAttribute("aria-selected", String(tab.dataset.tab === page.tab));
  PANES[page.tab](pane, page);
  pane.scrollTop = keep;
}

function show() {
  const { drawing } = job;
  showHead(job);
  strip.show(drawing);
  plan.show({ points: page.walk.points.map((p) => [p[0], p[1], p[2], p[3]]), closed: drawing.closed, found: drawing.found, stations: drawing.ground.map((g) => g[0]), regions: page.walk.figures.parts, others: job.lines.filter((l) => l.id !== job.line) });
  if (page.picked !== null && page.picked >= page.walk.points.length) page.pick(null);
  const state = page.walk.marking;
  const good = state === "marked" || state === "clear";
  at("dig").className = good ? "dig ok" : "dig";
  at("dig").replaceChildren(DIG[state], html("a", { href: job.to("marking", { units: units() }) }, good ? "see the marks" : "see to it"));
  at("sheet").href = job.to("walk-sheet", { units: units() });
  if (!looks) at("typed").placeholder = units() === "us" ? "a leg: N 4 30 E 96' 6\", or square right 40 ft" : "a leg: N 4 30 E 29.4 m, or square right 12 m";
  showPane();
}

job.follow("walk", tell, (walk) => {
  page.walk = walk ?? page.walk;
  show();
});
job.addEventListener("refused", () => plan.draw());

const mm = (v) => Number(v.toFixed(4));
plan.addEventListener("cursor", ({ detail }) => setCursor(detail));
strip.addEventListener("cursor", ({ detail }) => setCursor(detail));
strip.addEventListener("choose", () => {
  const stations = job.drawing.ground.map((g) => g[0]);
  const near = stations.reduce((best, s, k) => (Math.abs(s - page.station) < Math.abs(stations[best] - page.station) ? k : best), 0);
  page.pick(near % page.walk.points.length);
});
strip.addEventListener("forbid", ({ detail }) => job.edit({ do: "forbid", from_m: mm(detail.from), to_m: mm(detail.to), reason: "" }));
plan.addEventListener("choose", ({ detail }) => {
  page.pick(detail.point ?? null, detail.leg ?? null, false);
  if (detail.station !== undefined) setCursor(detail.station);
});
plan.addEventListener("movepoint", ({ detail }) => {
  const neighbour = detail.onto !== undefined && Math.abs(detail.onto - detail.index) === 1;
  if (detail.join) page.edit({ do: "join_line", end: detail.index === 0 ? "start" : "end", on: detail.join.id, e_m: mm(detail.to[0]), n_m: mm(detail.to[1]) });
  else if (neighbour) page.edit({ do: "join_points", index: Math.min(detail.onto, detail.index) });
  else page.edit({ do: "move_point", index: detail.index, e_m: mm(detail.to[0]), n_m: mm(detail.to[1]) });
});
plan.addEventListener("split", ({ detail }) => page.edit({ do: "split_leg", at_m: mm(detail) }));
plan.addEventListener("add", async ({ detail }) => {
  const done = await addPlace(detail.to, detail.onto);
  if (done && detail.join) page.edit({ do: "join_line", end: "end", on: detail.join.id, e_m: mm(detail.to[0]), n_m: mm(detail.to[1]) });
});
plan.addEventListener("noted", ({ detail }) => page.note(detail.map((p) => p.map(mm))));

function addPlace(to, onto, height) {
  if (onto === 0 && page.walk.points.length > 2) return page.edit({ do: "close_line", closed: true }).then((done) => done && setMode("mend"));
  return page.edit({ do: "add_point", e_m: mm(to[0]), n_m: mm(to[1]), ...(height === undefined ? {} : { h_m: mm(height) }) });
}

// From the chosen point's neighbour it stands the point anew; otherwise the line runs on from its end.
async function take(text) {
  if ((await job.followed) === false) return tell("How the line runs now did not come: load the page anew, then type the leg.", "wrong");
  const { points } = page.walk;
  const moving = plan.mode === "mend" && page.picked !== null && page.picked > 0;
  const from = moving ? page.picked - 1 : points.length - 1;
  const { refused, to, rise } = await typedLeg(points, from, text);
  if (refused) return tell(refused, "wrong");
  const place = { index: page.picked, e_m: mm(to[0]), n_m: mm(to[1]), ...(rise ? { h_m: mm(points[from][2] + rise) } : {}) };
  const done = await (moving ? page.edit({ do: "move_point", ...place }) : addPlace(to, undefined, points[from][2] + rise));
  await job.followed; // the next leg begins where this one ends
  return done;
}
if (at("typed")) oneByOne(at("typed"), take);
at("typed")?.addEventListener("keydown", (event) => {
  event.stopPropagation();
  if (event.key === "Escape") at("plan").focus();
});

function setMode(mode) {
  if (mode === "draw" && job.drawing.closed) return tell("A closed line has no end to run on from: split a leg, or open the line under Legs.", "wrong");
  plan.setMode(mode);
  for (const button of document.querySelectorAll("[data-mode]")) button.setAttribute("aria-pressed", String(button.dataset.mode === mode));
  at("finish").hidden = mode === "mend";
  if (mode === "note") {
    page.note([]);
    setTab("found");
    tell("Click the places of what you found, or give its stations at the right.");
  } else if (mode === "draw") tell("Click where the line runs on, or type the next leg and press Enter. Esc when done.");
  return null;
}

function setTab(tab) {
  page.tab = tab;
  showPane();
}

for (const button of document.querySelectorAll("[data-mode]")) button.addEventListener("click", () => setMode(button.dataset.mode));
const tabs = [...document.querySelectorAll("[role=tab]")];
tabs.forEach((tab, k) => {
  tab.addEventListener("click", () => setTab(tab.dataset.tab));
  tab.addEventListener("keydown", (event) => {
    const way = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (!way) return;
    event.stopPropagation();
    const next = tabs[(k + way + tabs.length) % tabs.length];
    next.focus();
    setTab(next.dataset.tab);
  });
});
at("finish")?.addEventListener("click", () => setMode("mend"));
at("fit").addEventListener("click", () => plan.fit());
at("scale").addEventListener("click", () => {
  strip.exaggerate = !strip.exaggerate;
  strip.draw();
});
for (const button of document.querySelectorAll("[data-zoom]")) {
  button.addEventListener("click", () => (button.dataset.zoom === "all" ? strip.look(0, job.drawing.length) : strip.zoom(button.dataset.zoom === "in" ? 0.5 : 2, strip.cursor ?? undefined)));
}
strip.addEventListener("drawn", () => (at("scale").textContent = strip.scaleWords));

const ARROWS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] };
let nudging = false;

function key(event) {
  const arrow = ARROWS[event.key];
  if (nudging && arrow) {
    const step = (units() === "us" ? 0.1016 : 0.1) * (event.shiftKey ? 10 : 1);
    plan.nudge(arrow[0] * step, arrow[1] * step);
    return true;
  }
  if (nudging && (event.key === "Enter" || event.key === "Escape")) {
    nudging = false;
    plan.settle(event.key === "Enter");
    return true;
  }
  if (arrow && arrow[0]) {
    const last = page.walk.points.length - 1;
    page.pick(Math.min(Math.max((page.picked ?? (arrow[0] > 0 ? -1 : last + 1)) + arrow[0], 0), last));
    return true;
  }
  if (looks && event.key !== "0" && event.key !== "Escape") return false;
  const doing = {
    m: () => page.picked !== null && ((nudging = true), tell("Arrow keys move the point, Enter sets it, Esc leaves it.")),
    s: () => page.station > 0 && page.edit({ do: "split_leg", at_m: mm(page.station) }),
    j: () => page.picked !== null && page.edit({ do: "join_points", index: page.picked }),
    d: () => setMode("draw"),
    n: () => setMode("note"),
    0: () => plan.fit(),
    Delete: () => page.picked !== null && page.edit({ do: "remove_point", index: page.picked }),
    Backspace: () => page.picked !== null && page.edit({ do: "remove_point", index: page.picked }),
    Escape: () => (plan.mode === "mend" ? page.pick(null) : setMode("mend")),
  }[event.key];
  doing?.();
  return Boolean(doing);
}

head(job, { units: show, own: key });

show();
document.body.dataset.ready = "yes";
