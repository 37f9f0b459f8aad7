// Haul: the take-off over the full width, of the whole job or of one line, grouped by use, searched, held against the last print.
import { head, showHead } from "../static/head.js";
import { JobState, speaking } from "../static/job.js";
import { Strip } from "../strip/strip.js";
import { html } from "../static/svg.js";
import { quantity, say, units } from "../static/units.js";

const at = (id) => document.getElementById(id);
const read = (id) => JSON.parse(at(id).textContent);
const job = new JobState(read("state"), read("drawing"));
const tell = speaking(at("said"), job);
const strip = new Strip(at("strip"), { only: ["ground", "posts"], built: true });
const FILES = [["print", "Sheet to print"], ["stake-out.csv", "Stake-out, CSV"], ["take-off.csv", "Take-off, CSV"], ["job.json", "The Job, JSON"], ["line.geojson", "Line and posts, GeoJSON"], ["posts.gpx", "Posts, GPX"]];
const WORLD = ["line.geojson", "posts.gpx"]; // mean longitude and latitude
const EVERY = [["print-all", "Sheets of all lines"], ["job.json", "The Job, JSON"]];
let haul = read("haul");
let of = new URLSearchParams(location.search).get("of") === "all" && job.lines.length > 1 ? "" : job.line;

const amount = (row, count) => quantity(count, { m: "station", m3: "volume" }[row.unit] ?? "count");
const countOf = (row) => (of ? (row.lines[of] ?? 0) : row.count);
const has = (row, words) => words.every((w) => `${say(row.name)} ${say(of ? (row.goes[of] ?? row.where) : row.where)} ${row.group}`.toLowerCase().includes(w));

// What a row was at the last print; only of the job as a whole, that is what was bought.
function change(row, k) {
  const was = haul.since?.was[k];
  if (was === undefined || of) return html("td", { class: "num since" });
  const more = row.count - was;
  return html("td", { class: "num since changed" }, `${more > 0 ? "+" : "−"}${amount(row, Math.abs(more))}`, html("span", { class: "quiet" }, ` was ${amount(row, was)}`));
}

function columns(ids) {
  const cells = [["Item", ""], [of ? "How many" : "All lines", "num"]];
  if (!of) cells.push(...ids.map((id) => [id, "num", job.lines.find((l) => l.id === id).name]));
  if (!of && haul.since) cells.push(["Since the print", "num"]);
  if (of || ids.length < 2) cells.push(["Where", ""]);
  return html("thead", {}, html("tr", {}, ...cells.map(([text, kind, title]) => html("th", { scope: "col", class: kind, title: title ?? false }, text))));
}

function rowOf(row, k, ids) {
  const parts = of ? [] : ids.map((id) => html("td", { class: "num part" }, row.lines[id] ? amount(row, row.lines[id]) : ""));
  const since = !of && haul.since ? [change(row, k)] : [];
  return html("tr", {}, html("th", { scope: "row" }, say(row.name)), html("td", { class: "num all" }, amount(row, countOf(row))), ...parts, ...since, ...(of || ids.length < 2 ? [html("td", { class: "goes" }, say(of ? row.goes[of] : row.where))] : []));
}

function showTable() {
  const words = at("q").value.toLowerCase().split(/\s+/).filter(Boolean);
  const ids = job.lines.map((l) => l.id).filter((id) => haul.rows.some((r) => r.lines[id]));
  const seen = haul.rows.map((row, k) => [row, k]).filter(([row]) => countOf(row) > 0 && has(row, words));
  const groups = [...new Set(seen.map(([row]) => row.group))];
  const wide = (of ? 3 : 2 + ids.length + (ids.length < 2) + (haul.since ? 1 : 0)).toString();
  const bodies = groups.map((group) => html("tbody", {}, html("tr", { class: "group" }, html("th", { colspan: wide, scope: "rowgroup" }, group)), ...seen.filter(([row]) => row.group === group).map(([row, k]) => rowOf(row, k, ids))));
  const gone = !of && !words.length && haul.since?.gone.length ? [html("tbody", {}, html("tr", { class: "group" }, html("th", { colspan: wide, scope: "rowgroup" }, "No longer needed")), ...haul.since.gone.map((g) => html("tr", { class: "gone" }, html("th", { scope: "row" }, say(g.name)), html("td", { class: "num" }, `−${amount(g, g.count)}`), html("td", { colspan: String(Number(wide) - 2) }, "was on the last print"))))] : [];
  const none = seen.length ? [] : [html("tbody", {}, html("tr", {}, html("td", { colspan: wide }, words.length ? `Nothing in this take-off has “${at("q").value}” in it.` : "Nothing is needed: every line stands already.")))];
  at("takeoff").replaceChildren(html("caption", {}, caption()), columns(ids), ...bodies, ...gone, ...none);
}

function caption() {
  const line = of ? `What ${job.lines.find((l) => l.id === of)?.name ?? "the line"} needs. ` : "What all lines need together. ";
  const rolls = job.lines.length > 1 ? "Rolls and coils are cut over all lines: one stands under the line it is opened on; a post that lines share is counted once. " : "";
  const cut = haul.offcuts.length ? `Offcuts on hand: ${haul.offcuts.map((o) => `${quantity(o.length, "station")} of ${o.label}`).join(", ")}. ` : "";
  const changed = haul.since ? Object.keys(haul.since.was).length + haul.since.gone.length : 0;
  const since = !haul.since ? "No sheet has been printed yet." : changed ? `${changed} item${changed === 1 ? "" : "s"} changed since the print of ${haul.since.day}${of ? ": see all lines" : ""}.` : `Nothing changed since the print of ${haul.since.day}.`;
  return html("span", { class: "quiet" }, line + rolls + cut + since);
}

function showOf() {
  const pick = (id, text, title) => html("button", { "aria-pressed": String(of === id), title: title ?? false, onclick: () => ((of = id), show()) }, text);
  at("of").hidden = job.lines.length < 2;
  at("of").replaceChildren(pick("", "all lines"), ...job.lines.filter((l) => l.standing !== "there").map((l) => pick(l.id, job.lines.length > 8 ? l.id : `${l.id} ${l.name}`, l.name)));
}

function show() {
  showHead(job);
  const files = of ? FILES.filter(([path]) => !haul.local || !WORLD.includes(path)).map(([path, words]) => [job.to(path, { units: units(), ...(job.lines.length > 1 ? { line: of } : {}) }), words]) : EVERY.map(([path, words]) => [`/jobs/${job.job}/${path}?units=${units()}`, words]);
  at("files").replaceChildren(...files.map(([address, words]) => html("a", { href: address }, words)));
  strip.show(job.drawing);
  showOf();
  showTable();
}

job.follow("needs", tell, (needs) => {
  haul = needs ?? haul;
  show();
});
strip.addEventListener("cursor", ({ detail }) => strip.setCursor(detail));
strip.addEventListener("choose", ({ detail }) => location.assign(job.to(`#at=${job.drawing.posts[detail.post].s}`)));
at("q").addEventListener("input", showTable);
at("search").addEventListener("submit", (event) => event.preventDefault());
head(job, {
  units: show,
  own: (event) => {
    if (event.key === "/") at("q").focus();
    return event.key === "/";
  },
});
show();
document.body.dataset.ready = "yes";
