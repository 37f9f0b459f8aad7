// The work surface: map, strip, tag and snags on one job, one selection and one station cursor.
import { html } from "../static/svg.js";
import { length, parseLength, say, setUnits, units } from "../static/units.js";
import { showDecisions } from "./decisions.js";
import { JobState, showLine, showWhere, speaking } from "./job.js";
import { SiteMap } from "./map.js";
import { Snags } from "./snags.js";
import { Strip } from "./strip.js";
import { action, showHaul, showLoading, showRolls, showTag } from "./tag.js";

const read = (id) => JSON.parse(document.getElementById(id).textContent);
const at = (id) => document.getElementById(id);
const words = read("words");
const job = new JobState(read("state"), read("drawing"));
const tell = speaking(at("said"), job);
const strip = new Strip(at("strip"));
const map = new SiteMap(at("map"));
const snags = new Snags(at("snags"), at("snagcount"), job, (snag) => {
  look(snag.at);
  choose({ post: strip.nearestPost(snag.at) }, false);
  setCursor(snag.at);
});
let verb = "set";
let selected = {};
let asked = 0;

function setCursor(station) {
  strip.setCursor(station);
  map.setCursor(station);
}

function look(station) {
  const span = Math.min(strip.window[1] - strip.window[0], 60);
  strip.look(station - span / 2, station + span / 2);
}

const bare = () => (units() === "metric" ? "m" : "ft");
const edit = (change) => job.edit({ ...change, bare: bare() });

const bareName = (name) => name.replace(/^[A-Z]+/, "");

function actionsFor(kind, post, number) {
  const { drawing } = job;
  const here = length(post ? post.s : strip.cursor ?? drawing.length / 2, "station");
  const made = [];
  if (kind === "post" && !post.fixed) {
    made.push(action(`Move post ${post.name}, its centre to`, [["to", `New station of post ${post.name}`, here]], ({ to }) => edit({ do: "move_post", from_m: post.s, to_m: to }), `Move post ${post.name}`));
    if (post.forced) made.push(html("button", { class: "btn btn-quiet", onclick: () => job.edit({ do: "release_post", at_m: post.s }) }, "Let this post go where it costs least"));
  }
  const gate = post && drawing.gates.find((g) => Math.abs(g.at - post.s) < 0.5 || Math.abs(g.at + g.opening - post.s) < 0.5);
  if (gate) {
    made.push(action(`Move ${gate.name} to`, [["to", "Station of the gate", length(gate.at, "station")]], ({ to }) => edit({ do: "move_gate", id: gate.id, at_m: to }), "Move"));
    made.push(html("button", { class: "btn btn-quiet", onclick: () => job.edit({ do: "remove_gate", id: gate.id }) }, `Close ${gate.name} up`));
  }
  if (kind === "job") made.push(action("Call this job", [["name", "Name of the job", drawing.job, 26]], (typed) => job.edit({ do: "rename", name: typed.name }), "Rename"));
  if (kind === "job" && job.lines.length > 1) made.push(action("Call this line", [["name", "Name of the line", drawing.name, 26]], (typed) => job.edit({ do: "rename_line", name: typed.name }), "Rename"));
  if (kind === "post") {
    made.push(action(`Write down at post ${post.name}`, [["text", "What is known of it", "", 28]], ({ text }) => job.edit({ do: "hang_fact", post: bareName(post.name), at_m: post.s, text }), "Keep"));
    for (const f of drawing.facts.filter((f) => f.post === post.name)) made.push(html("button", { class: "btn btn-quiet", onclick: () => job.edit({ do: "drop_fact", post: bareName(f.post), text: f.text }) }, `Take back: ${f.text}`));
  }
  if (kind === "post" && number > 0 && number < drawing.posts.length - 1) made.push(action(`Split the line at post ${post.name}, the rest called`, [["name", "Name of the new line", `${drawing.name} 2`, 20]], (typed) => job.edit({ do: "split_line", at_m: post.s, name: typed.name }), "Split"));
  made.push(action("One more post, its centre at", [["to", "Station of the new post", kind === "post" ? length(post.s + 1, "station") : here]], ({ to }) => edit({ do: "place_post", at_m: to }), "Add a post"));
  made.push(action("Gate from", [["at", "Station of its first post’s centre", here, 11], ["wide", "Opening between post centres", length(3.7338, "station"), 10, "opening, post centres,"], ["name", "Name", "gate", 8, "called"]], ({ at: start, wide, name }) => edit({ do: "add_gate", at_m: start, opening_m: wide, name }), "Hang"));
  made.push(action("No post from", [["low", "From station", here, 11], ["high", "To station", length((post ? post.s : strip.cursor ?? 0) + 1.5, "station"), 11, "to"], ["why", "What is there", "rock", 8, "for"]], ({ low, high, why }) => edit({ do: "forbid", from_m: low, to_m: high, reason: why }), "Forbid"));
  for (const f of drawing.forbidden.filter((f) => post && f.from - 4 < post.s && post.s < f.to + 4)) {
    made.push(html("button", { class: "btn btn-quiet", onclick: () => job.edit({ do: "allow", from_m: f.from, to_m: f.to }) }, `Allow posts again: ${f.reason || "forbidden stretch"}`));
  }
  return [html("details", { class: "change", open: innerWidth > 700 && kind === "post" }, html("summary", {}, "Change the line here"), ...made)];
}

async function choose(what, move = true) {
  selected = what;
  const { drawing } = job;
  const [kind, number] = Object.entries(what)[0] ?? ["job", null];
  if (kind === "post") what.s = drawing.posts[number].s;
  const spans = { post: (k) => ({ from: drawing.posts[k].s }), bay: (k) => drawing.bays[k], splice: (k) => ({ from: drawing.splices[k].from, to: drawing.splices[k].at }) };
  const span = spans[kind]?.(number);
  strip.select(span ?? null);
  if (span && move) setCursor(span.from);
  const panel = at("tag");
  const turn = (asked += 1); // an answer that comes late must not take the panel over
  if (verb === "hang" && kind !== "splice") return showRolls(panel, drawing, choose);
  if (verb === "haul") return showHaul(panel, drawing, job);
  const slow = setTimeout(() => turn === asked && showLoading(panel, kind === "job" ? "The whole line" : kind === "post" ? `Post ${drawing.posts[number].name}` : `${kind} ${number + 1}`), 250);
  const answer = await job.call(kind === "job" ? "tag" : `tag?${kind}=${number}`);
  clearTimeout(slow);
  if (turn !== asked) return;
  if (!answer.ok) return panel.replaceChildren(html("p", { class: "refusal", role: "alert" }, answer.body.detail));
  const title = panel.querySelector("h2")?.textContent;
  const open = title === answer.body.title && panel.querySelector("details.change")?.open;
  const even = kind === "job" ? [html("p", { class: "quiet" }, say(drawing.even))] : [];
  const post = kind === "post" ? drawing.posts[number] : null;
  showTag(panel, answer.body, [...even, ...actionsFor(kind, post, number)], post && { ...post, material: drawing.materials[post.kind] }, drawing.fabric);
  if (open) panel.querySelector("details.change").open = true; // what was opened stays open when the plan is made anew
}

function showTable() {
  const { posts, bays } = job.drawing;
  const next = new Map(bays.map((b) => [b.a, b]));
  const rows = posts.map((p, k) => html("tr", {}, html("th", { scope: "row" }, p.name), html("td", { class: "num" }, length(p.s, "station")), html("td", {}, ["line", "brace"].includes(p.role) ? p.kind : `${p.role} ${p.kind}`), html("td", { class: "num" }, length(p.depth, "depth")), html("td", { class: "num" }, next.has(k) ? length(next.get(k).worst, "gap") : "")));
  const head = ["Post", "Station", "Kind", "Deep", "Widest gap, next bay"].map((h) => html("th", { scope: "col" }, h));
  at("table").replaceChildren(html("table", { class: "plain-table" }, html("thead", {}, html("tr", {}, ...head)), html("tbody", {}, ...rows)));
}

function show() {
  const { drawing } = job;
  showWhere(job);
  at("undo").disabled = !job.undo;
  at("redo").disabled = !job.redo;
  at("units").textContent = units() === "us" ? "ft in" : "metres";
  strip.show(drawing);
  map.show(drawing, job.lines.filter((l) => l.id !== job.line));
  snags.show(drawing);
  showDecisions(at("sentence"), verb, words, job);
  if (document.querySelector(".same").open) showTable();
  const still = { post: drawing.posts.length, bay: drawing.bays.length, splice: drawing.splices.length };
  const [kind, number] = Object.entries(selected)[0] ?? [];
  if (kind === "post" && selected.s !== undefined) choose({ post: strip.nearestPost(selected.s) }, false);
  else choose(kind && number < still[kind] ? { [kind]: number } : {}, false);
}

job.addEventListener("changed", (event) => {
  const focus = document.activeElement?.id;
  show();
  if (focus?.startsWith("d-")) at(focus)?.focus();
  tell(say(event.detail));
});
map.addEventListener("line", (event) => showLine(job, event.detail));
for (const source of [strip, map]) {
  source.addEventListener("cursor", (event) => setCursor(event.detail));
  source.addEventListener("choose", (event) => choose(event.detail));
}
strip.addEventListener("movepost", ({ detail }) => job.edit({ do: "move_post", from_m: job.drawing.posts[detail.post].s, to_m: Number(detail.to.toFixed(2)) }));
strip.addEventListener("forbid", ({ detail }) => job.edit({ do: "forbid", from_m: Number(detail.from.toFixed(2)), to_m: Number(detail.to.toFixed(2)), reason: "" }));
strip.addEventListener("drawn", () => {
  const drawn = strip.exaggeration > 1.05 ? `${strip.exaggerationText}: draw to scale` : "heights to scale";
  at("scale").textContent = strip.exaggerate ? drawn : "to scale: fill the height";
});

function setVerb(next) {
  verb = next;
  document.body.dataset.verb = next;
  for (const button of document.querySelectorAll("[data-verb]")) button.toggleAttribute("aria-current", button.dataset.verb === next);
  showDecisions(at("sentence"), verb, words, job);
  choose(next === "set" ? selected : {}, false);
}

function toggleUnits() {
  setUnits(units() === "us" ? "metric" : "us");
  show();
  tell(units() === "us" ? "feet and inches" : "metres");
}

for (const button of document.querySelectorAll("button[data-verb]")) button.addEventListener("click", () => setVerb(button.dataset.verb));
for (const button of document.querySelectorAll("[data-zoom]")) {
  const about = () => strip.cursor ?? undefined;
  button.addEventListener("click", () => (button.dataset.zoom === "all" ? strip.look(0, job.drawing.length) : strip.zoom(button.dataset.zoom === "in" ? 0.5 : 2, about())));
}
at("undo").addEventListener("click", () => job.step("undo"));
at("redo").addEventListener("click", () => job.step("redo"));
at("units").addEventListener("click", toggleUnits);
at("keys").addEventListener("click", () => at("help").showModal());
at("scale").addEventListener("click", () => {
  strip.exaggerate = !strip.exaggerate;
  strip.draw();
});
document.querySelector(".same").addEventListener("toggle", (event) => event.target.open && showTable());
at("goto").addEventListener("submit", (event) => {
  event.preventDefault();
  const station = typedStation(at("station").value);
  if (station === null) return tell(`“${at("station").value}” is not a station of this line: write 383' 4", 120 ft or 36.5 m, up to ${length(job.drawing.length, "station")}`, "wrong");
  look(station);
  choose({ post: strip.nearestPost(station) }, false);
  setCursor(station);
  at("strip").focus();
});

function typedStation(text) {
  const metres = parseLength(text, bare());
  return metres !== null && metres <= job.drawing.length + 0.01 ? Math.min(metres, job.drawing.length) : null;
}

const VERBS = { 3: "set", 4: "hang", 6: "haul" };

function stepPost(way) {
  const { posts } = job.drawing;
  const now = selected.post ?? (way > 0 ? -1 : posts.length);
  choose({ post: Math.min(Math.max(now + way, 0), posts.length - 1) });
}

document.addEventListener("keydown", (event) => {
  if (event.target.closest("input, select, textarea, dialog")) return;
  const arrow = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
  const plain = !event.ctrlKey && !event.metaKey && !event.altKey;
  if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z") job.step(event.shiftKey ? "redo" : "undo");
  else if (arrow && plain) {
    if (event.shiftKey) snags.step(arrow);
    else stepPost(arrow);
  } else if (plain && VERBS[event.key]) setVerb(VERBS[event.key]);
  else if (plain && event.key === "1") at("to-walk").click();
  else if (plain && event.key === "2") at("to-hold").click();
  else if (plain && event.key === "u") toggleUnits();
  else if (plain && event.key === "?") at("help").showModal();
  else if (plain && event.key === "/") at("station").focus();
  else if (plain && (event.key === "+" || event.key === "=")) strip.zoom(0.5, strip.cursor ?? undefined);
  else if (plain && event.key === "-") strip.zoom(2, strip.cursor ?? undefined);
  else if (plain && event.key === "0") strip.look(0, job.drawing.length);
  else if (plain && event.key === "Escape") choose({});
  else return;
  event.preventDefault();
});

const wanted = location.hash.slice(1);
setVerb(Object.values(VERBS).includes(wanted) ? wanted : "set");
show();
document.body.dataset.ready = "yes";
