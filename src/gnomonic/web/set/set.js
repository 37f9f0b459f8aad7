// The work surface: strip, map, snags and tag on one job, one selection and one station cursor.
import { html } from "../static/svg.js";
import { length, parseLength, say, units } from "../static/units.js";
import { changes } from "./change.js";
import { Column } from "./column.js";
import { showDecisions } from "./decisions.js";
import { head, showHead } from "../static/head.js";
import { JobState, showLine, speaking } from "../static/job.js";
import { SiteMap } from "./map.js";
import { showRolls, showSteps } from "./rolls.js";
import { never, Round, seen, stops } from "./round.js";
import { Snags } from "./snags.js";
import { Strip } from "../strip/strip.js";
import { showLoading, showTag } from "./tag.js";

const read = (id) => JSON.parse(document.getElementById(id).textContent);
const at = (id) => document.getElementById(id);
const words = read("words");
const job = new JobState(read("state"), read("drawing"));
const tell = speaking(at("said"), job);
const strip = new Strip(at("strip"));
const map = new SiteMap(at("map"));
const column = new Column(document.querySelector(".column"));
const snags = new Snags(at("snags"), at("snagcount"), job, lookAtSnag);
const PHONE = 700;
let verb = "set";
let selected = {};
let asked = 0;
let unfolded = {}; // what may be changed there, of which tag it was last open or shut

at("mapzoom").replaceWith(map.eye.buttons("Map"));

function setCursor(station) {
  strip.setCursor(station);
  map.setCursor(station);
}

function lookAtSnag(snag) {
  column.open("snags");
  strip.lookAt(snag.at);
  strip.select({ from: snag.at }, snag);
  setCursor(snag.at);
}

const SPANS = { post: (k) => ({ from: job.drawing.posts[k].s }), bay: (k) => job.drawing.bays[k], splice: (k) => ({ from: job.drawing.splices[k].from, to: job.drawing.splices[k].at }) };

// Selects a post, a bay, a splice, or the whole line ({}), and shows its tag.
async function choose(what, { move = true, open = true } = {}) {
  selected = what;
  const [kind, number] = Object.entries(what)[0] ?? ["job", null];
  if (kind === "post") what.s = job.drawing.posts[number].s;
  const span = SPANS[kind]?.(number);
  if (open) {
    snags.leave();
    column.open("tag");
  }
  strip.select(span ?? null, open ? null : snags.now);
  if (span && move) setCursor(span.from);
  const turn = (asked += 1); // an answer that comes late must not take the panel over
  const panel = at("tag");
  const title = kind === "job" ? "Whole line" : kind === "post" ? `Post ${job.drawing.posts[number].name}` : `${kind[0].toUpperCase()}${kind.slice(1)} ${number + 1}`;
  column.call("tag", title);
  const slow = setTimeout(() => turn === asked && (keepFold(panel), showLoading(panel, title)), 250);
  const answer = await job.call(kind === "job" ? "tag" : `tag?${kind}=${number}`);
  clearTimeout(slow);
  if (turn !== asked) return;
  keepFold(panel);
  if (!answer.ok) return panel.replaceChildren(html("p", { class: "refusal", role: "alert" }, answer.body.detail));
  tagged(panel, answer.body, kind, number);
}

// Notes whether what may be changed is open in the panel, just before something else is shown there.
function keepFold(panel) {
  const shown = panel.querySelector("details.change");
  if (shown) unfolded = { title: panel.querySelector("h2").textContent, open: shown.open };
}

function tagged(panel, tag, kind, number) {
  const { drawing } = job;
  const open = unfolded.title === tag.title ? unfolded.open : innerWidth > PHONE && kind === "post";
  const even = kind === "job" ? [html("p", { class: "quiet" }, say(drawing.even))] : [];
  const post = kind === "post" ? drawing.posts[number] : null;
  const change = changes(job, { kind, number, cursor: strip.cursor });
  change.open = open; // what was opened stays open when the plan is made anew
  showTag(panel, tag, [...even, change], post && { ...post, material: drawing.materials[post.kind] }, drawing.fabric);
}

function showTable() {
  const { posts, bays } = job.drawing;
  const next = new Map(bays.map((b) => [b.a, b]));
  const rows = posts.map((p, k) => html("tr", {}, html("th", { scope: "row" }, p.name), html("td", { class: "num" }, length(p.s, "station")), html("td", {}, ["line", "brace"].includes(p.role) ? p.kind : `${p.role} ${p.kind}`), html("td", { class: "num" }, length(p.depth, "depth")), html("td", { class: "num" }, next.has(k) ? length(next.get(k).worst, "gap") : "")));
  const head = ["Post", "Station", "Kind", "Deep", "Widest gap, next bay"].map((h) => html("th", { scope: "col" }, h));
  at("table").replaceChildren(html("table", { class: "plain-table" }, html("thead", {}, html("tr", {}, ...head)), html("tbody", {}, ...rows)));
}

// Shows what the job is now; ``parts`` are the parts of its drawing that changed, all of them when none are named.  Decisions are
// shown anew as they were read, and what the open remedies would do is weighed anew, whatever changed.
function show(parts = null) {
  const { drawing } = job;
  const changed = (...keys) => !parts || keys.some((key) => parts.has(key));
  showHead(job);
  const total = job.lines.reduce((sum, l) => sum + l.length, 0);
  at("mapsum").textContent = job.lines.length > 1 ? `Whole job: ${job.lines.length} lines, ${length(total, "station")}` : `Whole line, ${length(drawing.length, "station")}`;
  strip.show(drawing);
  if (changed("ground", "posts", "snags", "lines")) map.show(drawing, job.lines.filter((l) => l.id !== job.line));
  snags.show(drawing);
  showDecisions(at("sentence"), verb, words, job);
  if (verb === "hang") showHang();
  if (document.querySelector(".same").open) showTable();
  const still = { post: drawing.posts.length, bay: drawing.bays.length, splice: drawing.splices.length };
  const [kind, number] = Object.entries(selected)[0] ?? [];
  const quietly = { move: false, open: false };
  if (kind === "post" && selected.s !== undefined) choose({ post: strip.nearestPost(selected.s) }, quietly);
  else choose(kind && number < still[kind] ? { [kind]: number } : {}, quietly);
}

async function showHang() {
  showRolls(at("rolls"), job.drawing, choose);
  const { version } = job;
  const answer = await job.call("steps");
  if (version === job.version) showSteps(at("steps"), answer, job.drawing.laying);
}

job.addEventListener("changed", ({ detail }) => {
  const focus = document.activeElement?.id;
  show(detail.parts);
  if (focus?.startsWith("d-")) at(focus)?.focus();
  tell(say(detail.said));
});
map.addEventListener("line", (event) => showLine(job, event.detail));
for (const source of [strip, map]) {
  source.addEventListener("cursor", (event) => setCursor(event.detail));
  source.addEventListener("choose", (event) => choose(event.detail));
}
strip.addEventListener("movepost", ({ detail }) => job.edit({ do: "move_post", from_m: job.drawing.posts[detail.post].s, to_m: Number(detail.to.toFixed(2)) }));
strip.addEventListener("forbid", ({ detail }) => job.edit({ do: "forbid", from_m: Number(detail.from.toFixed(2)), to_m: Number(detail.to.toFixed(2)), reason: "" }));
strip.addEventListener("drawn", () => (at("scale").textContent = strip.scaleWords));

function setVerb(next) {
  verb = next;
  document.body.dataset.verb = next;
  for (const button of document.querySelectorAll("[data-verb]")) {
    if (button.dataset.verb === next) button.setAttribute("aria-current", "page");
    else button.removeAttribute("aria-current");
  }
  at("rolls").hidden = next !== "hang";
  strip.hide = next === "hang" ? ["found", "under", "posts"] : [];
  column.offer("steps", next === "hang");
  if (strip.data) strip.draw();
  showDecisions(at("sentence"), verb, words, job);
  if (next === "hang") showHang();
  column.open(next === "hang" ? "steps" : column.now === "steps" || !column.now ? "snags" : column.now);
}

for (const button of document.querySelectorAll("button[data-verb]")) button.addEventListener("click", () => setVerb(button.dataset.verb));
for (const button of document.querySelectorAll("[data-zoom]")) {
  const about = () => strip.cursor ?? undefined;
  button.addEventListener("click", () => (button.dataset.zoom === "all" ? strip.look(0, job.drawing.length) : strip.zoom(button.dataset.zoom === "in" ? 0.5 : 2, about())));
}
at("scale").addEventListener("click", () => {
  strip.exaggerate = !strip.exaggerate;
  strip.draw();
});
document.querySelector(".same").addEventListener("toggle", (event) => event.target.open && showTable());
at("goto").addEventListener("submit", (event) => {
  event.preventDefault();
  const metres = parseLength(at("station").value, units() === "metric" ? "m" : "ft");
  if (metres === null || metres > job.drawing.length + 0.01) return tell(`“${at("station").value}” is not a station of this line: write 383' 4", 120 ft or 36.5 m, up to ${length(job.drawing.length, "station")}`, "wrong");
  const station = Math.min(metres, job.drawing.length);
  strip.lookAt(station);
  choose({ post: strip.nearestPost(station) }, { move: false });
  setCursor(station);
  at("strip").focus();
});

function stepPost(way) {
  const { posts } = job.drawing;
  const now = selected.post ?? (way > 0 ? -1 : posts.length);
  choose({ post: Math.min(Math.max(now + way, 0), posts.length - 1) });
}

// The walk round the surface is offered until it was taken or declined.
function offerRound() {
  const round = new Round(stops({ snags, strip, choose, column, job }));
  at("showround").addEventListener("click", () => setTimeout(() => round.begin()));
  if (seen() || location.hash) return;
  const away = (run) => () => {
    run();
    at("said").replaceChildren();
  };
  at("said").replaceChildren("First time here? ", html("button", { class: "btn btn-work", onclick: away(() => round.begin()) }, "Show me round, eight stops"), " ", html("button", { class: "btn btn-quiet", onclick: away(never) }, "Not now"));
}

// A place that another page points at: #snag=3, #at=68.2.
function follow() {
  const [, what, value] = location.hash.match(/^#(snag|at)=([\d.]+)$/) ?? [];
  if (what === "snag" && job.drawing.snags[Number(value)]) snags.choose(Number(value));
  if (what === "at" && Number(value) <= job.drawing.length) {
    strip.lookAt(Number(value));
    choose({ post: strip.nearestPost(Number(value)) });
  }
}

addEventListener("hashchange", follow);
const KEYS = {
  ArrowLeft: (shift) => (shift ? snags.step(-1) : stepPost(-1)),
  ArrowRight: (shift) => (shift ? snags.step(1) : stepPost(1)),
  "/": () => at("station").focus(),
  "+": () => strip.zoom(0.5, strip.cursor ?? undefined),
  "=": () => strip.zoom(0.5, strip.cursor ?? undefined),
  "-": () => strip.zoom(2, strip.cursor ?? undefined),
  0: () => strip.look(0, job.drawing.length),
  Escape: () => choose({}),
};

head(job, {
  units: () => {
    show();
    tell(units() === "us" ? "feet and inches" : "metres");
  },
  own: (event) => {
    KEYS[event.key]?.(event.shiftKey);
    return event.key in KEYS;
  },
});
if (innerWidth <= PHONE) at("decide").open = false;
show();
setVerb(location.hash === "#hang" ? "hang" : "set");
column.open(verb === "hang" ? "steps" : "snags");
follow();
offerRound();
document.body.dataset.ready = "yes";
