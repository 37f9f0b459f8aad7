// The job's page: its lines on one ground, what to do next, the worst snags, what each line is and what joins them.
import { head, showHead } from "../static/head.js";
import { JobState, speaking } from "../static/job.js";
import { action } from "../set/tag.js";
import { PanZoom } from "../static/panzoom.js";
import { edits, el, fit, html } from "../static/svg.js";
import { length, quantity, say, units } from "../static/units.js";
import { jobPlan } from "./plan.js";

const at = (id) => document.getElementById(id);
const read = (id) => JSON.parse(at(id).textContent);
const job = new JobState(read("state"), null);
const tell = speaking(at("said"), job);
const eye = new PanZoom(at("ground"), drawGround);
let page = null; // comes after the lines
let picked = null;

const plural = (n, word) => `${n} ${word}${n === 1 ? "" : "s"}`;
const open = (id) => `/jobs/${job.job}${job.lines.length > 1 ? `?line=${id}` : ""}`;
const bare = () => (units() === "metric" ? "m" : "ft");
const edit = (change) => job.edit({ bare: bare(), ...change });

function drawGround() {
  const svg = at("ground");
  if (!svg.clientWidth) return;
  const frame = eye.through(fit(svg, job.lines.flatMap((l) => l.places), 54, 40));
  svg.replaceChildren(...jobPlan(frame, { lines: job.lines, page, picked, pick }));
}

const STANDS = { permanent: "built to stay", temporary: "for a time", there: "stands already" };

function joinsOf(l) {
  const ends = l.joins.map((j) => html("li", {}, `its ${j.end} stands on ${j.name}, `, length(j.at, "station"), " along ", html("button", { class: "link", edits: () => edit({ do: "part_line", line: l.id, end: j.end }) }, "part them")));
  const stands = job.lines.map((o) => [o, o.joins.filter((j) => j.on === l.id)]).filter(([, joins]) => joins.length);
  const carried = stands.map(([o, joins]) => `${o.id} at ${joins.map((j) => length(j.at, "station")).join(" and ")}`);
  const said = carried.length ? [html("li", {}, `Stand on it: ${carried.join(", ")}`)] : [];
  return ends.length + said.length ? [html("ul", { class: "joins" }, ...ends, ...said)] : [];
}

function joinForm(l, end) {
  const others = job.lines.filter((o) => o.id !== l.id);
  const on = html("select", { class: "inplace", "aria-label": `Line the ${end} of ${l.name} is to stand on` }, ...others.map((o) => html("option", { value: o.id }, `${o.id} ${o.name}`)));
  const form = action(`Its ${end} stands on`, [["where", `Station of that line`, "", 9, "at"]], ({ where }) => edit({ do: "join_line", line: l.id, end, on: on.value, at_m: where }), "Join");
  form.querySelector("input").placeholder = "120 ft";
  form.querySelector("span").after(on);
  return form;
}

function changes(l) {
  const standing = html("select", { class: "inplace", "aria-label": `How ${l.name} stands` }, ...Object.entries(STANDS).map(([value, text]) => html("option", { value, selected: value === l.standing }, text)));
  const until = html("input", { type: "date", class: "inplace", value: l.until, "aria-label": "Until", hidden: l.standing !== "temporary" });
  const stand = () => edit({ do: "stand_line", line: l.id, standing: standing.value, until: standing.value === "temporary" && until.value ? until.value : null });
  edits(standing, stand);
  edits(until, stand);
  const move = page?.others.length ? [html("form", { class: "action", edits: (event) => moveTo(event, l) }, html("span", {}, "Move it to"), html("select", { name: "to", class: "inplace", "aria-label": "Job it goes to" }, ...page.others.map((o) => html("option", { value: o.job }, o.name))), html("button", { class: "btn btn-quiet" }, "Move"))] : [];
  const joins = job.lines.length > 1 && !l.closed ? ["start", "end"].filter((end) => !l.joins.some((j) => j.end === end)).map((end) => joinForm(l, end)) : [];
  return html("details", { class: "change", edits: null }, html("summary", {}, "Change it"),
    html("p", { class: "action" }, html("span", {}, "It is"), standing, until),
    action("Call it", [["name", "Name of the line", l.name, 24]], ({ name }) => edit({ do: "rename_line", line: l.id, name }), "Rename"),
    ...joins,
    action("Split it at", [["where", "Station of the post", "", 9], ["name", "Name of the rest", `${l.name} 2`, 18, "the rest called"]], ({ where, name }) => edit({ do: "split_line", line: l.id, at_m: where, name }), "Split"),
    action("The same again, called", [["name", "Name of the copy", `${l.name} copy`, 20]], ({ name }) => edit({ do: "copy_line", line: l.id, name }), "Copy"),
    ...move,
    ...(job.lines.length > 1 ? [html("button", { class: "btn btn-quiet", edits: () => edit({ do: "remove_line", line: l.id }) }, `Take ${l.name} out`)] : []));
}

async function moveTo(event, l, lose = false) {
  event?.preventDefault();
  const to = event ? event.target.elements.to.value : l.to;
  const answer = await job.call(`lines/${l.id}/move`, { base: job.version, to, lose });
  if (answer.ok) return location.assign(`/jobs/${answer.body.job}/lines`);
  tell(answer.body.said ? say(answer.body.said) : answer.body.detail, "wrong");
  if (answer.body.field === "lose") at("said").append(" ", html("button", { class: "btn btn-work", onclick: () => moveTo(null, { ...l, to }, true) }, "Do it all the same"));
  return null;
}

function rowOf(l) {
  const f = page?.figures[l.id];
  const counts = !page ? "…" : f ? [plural(f.posts, "post"), f.rolls ? plural(f.rolls, "roll") : "", f.coils ? plural(f.coils, "coil") : "", f.gates.length ? plural(f.gates.length, "gate") : ""].filter(Boolean).join(" · ") : "nothing is planned on it";
  const snags = f ? (f.snags ? html("span", { class: "flagtext" }, plural(f.snags, "snag")) : html("span", { class: "quiet" }, "no snags")) : "";
  const name = l.standing === "there" ? html("span", {}, l.name) : html("a", { href: open(l.id) }, l.name);
  const until = l.standing === "temporary" ? ` ${l.until ? `until ${l.until}` : "for a time"}` : l.standing === "there" ? " stands already" : "";
  const head = html("div", { class: "linehead" }, html("b", { class: "letter" }, l.id), html("h3", {}, name), html("span", { class: "quiet" }, length(l.length, "station"), l.closed ? ", closed" : "", until));
  const body = html("p", { class: "linefacts" }, l.hung ? `${l.hung}: ` : "", counts, snags ? " · " : "", snags);
  const row = html("li", { "data-line": l.id, class: l.id === picked ? "picked" : "" }, head, body, ...joinsOf(l), changes(l));
  row.addEventListener("pointerenter", () => pick(l.id, false));
  return row;
}

function meetingRow(m) {
  const where = m.end ? `The ${m.end} of ${m.name} lies ${length(m.off, "gap")} from ${m.other}.` : `${m.name} crosses ${m.other} at ${length(m.here, "station")}.`;
  const mend = m.end ? html("button", { class: "btn btn-quiet", edits: () => edit({ do: "join_line", line: m.line, end: m.end, on: m.on, at_m: m.at }) }, "Join them") : html("a", { href: open(m.line) }, "see to it");
  return html("li", { class: "meeting" }, where, " ", mend);
}

function pick(id, scroll = true) {
  if (picked === id) return;
  picked = id;
  drawGround();
  for (const row of at("linelist").children) row.classList.toggle("picked", row.dataset.line === id);
  if (scroll) at("linelist").querySelector(`[data-line="${id}"]`)?.scrollIntoView({ block: "nearest" });
}

function showTotals() {
  const sum = (of) => Object.values(page.figures).reduce((total, f) => total + of(f), 0);
  const long = job.lines.reduce((total, l) => total + l.length, 0);
  const area = sum((f) => f.area ?? 0);
  const rows = [["Lines", String(job.lines.length)], ["Length", length(long, "station")], ["Posts", String(sum((f) => f.posts))], ["Gates", String(sum((f) => f.gates.length))], ["Rolls", String(sum((f) => f.rolls))], ["Coils", String(sum((f) => f.coils))], ...(area ? [["Enclosed", quantity(area, "land")]] : [])];
  at("totals").replaceChildren(...rows.map(([name, value]) => html("div", {}, html("dt", {}, name), html("dd", {}, value))));
}

function goesTo(n) {
  if (n.go === "lines") return html("button", { class: "link", onclick: () => document.querySelector(".meeting")?.scrollIntoView({ block: "center" }) }, say(n.said));
  const line = n.line && job.lines.length > 1 ? `?line=${n.line}` : "";
  return html("a", { href: `/jobs/${job.job}${n.go ? `/${n.go}` : ""}${n.go === "print-all" ? `?units=${units()}` : line}` }, say(n.said));
}

function showBesides() {
  at("next").replaceChildren(...page.next.map((n) => html("li", {}, goesTo(n), html("span", { class: "quiet" }, say(n.why)))));
  at("snaghead").textContent = page.snag_count ? `${plural(page.snag_count, "snag")}, worst first` : "No snags";
  const rows = page.snags.map((s) => html("li", { class: s.grave ? "grave" : "" }, html("b", { class: "letter" }, s.line), html("a", { href: `/jobs/${job.job}?line=${s.line}#snag=${s.snag}` }, say(s.title)), html("span", { class: "consequence" }, say(s.consequence))));
  const more = page.snag_count - page.snags.length;
  at("worst").replaceChildren(...rows, ...(more > 0 ? [html("li", { class: "more quiet" }, `and ${more} more, on their lines`)] : []), ...(rows.length ? [] : [html("li", { class: "none quiet" }, "Nothing on any line needs a second look.")]));
}

function show() {
  if (page) at("jobname").textContent = page.name;
  showHead(job);
  const total = job.lines.reduce((sum, l) => sum + l.length, 0);
  at("count").textContent = `${plural(job.lines.length, "line")}, together ${length(total, "station")}`;
  at("printall").href = `/jobs/${job.job}/print-all?units=${units()}`;
  const opened = new Set([...document.querySelectorAll(".linelist details[open]")].map((d) => d.closest("li").dataset.line));
  at("linelist").replaceChildren(...(page?.meetings ?? []).map(meetingRow), ...job.lines.map(rowOf));
  for (const id of opened) at("linelist").querySelector(`[data-line="${id}"] details`)?.setAttribute("open", "");
  drawGround();
  if (!page) return;
  showTotals();
  showBesides();
}

// What the lines come to: asked for when the page stands, and after every change.
async function look() {
  const answer = await job.call("lines");
  if (answer.ok) page = answer.body;
  else tell(answer.body.detail, "wrong");
  show();
}

job.follow("lines", tell, (lines) => {
  page = lines ?? page;
  show();
});
head(job, { units: show });
new ResizeObserver(drawGround).observe(at("ground"));
const LEGEND = [["flag", "M4 11V1l9 4l-9 4", "a snag"], ["mapgate", "M2 6h18", "a gate"], ["joinpost", "M6 6l5 -5l5 5l-5 5Z", "a shared post"], ["mapthing of-water", "M2 6h18", "water"], ["mapthing service", "M2 6h18", "a buried service"]];
at("legend").replaceChildren(...LEGEND.map(([kind, d, words]) => html("span", {}, el("svg", { viewBox: "0 0 22 12", "aria-hidden": "true" }, el("path", { class: kind, d })), words)));
at("groundzoom").replaceWith(eye.buttons("Plan"));
show();
await look();
document.body.dataset.ready = "yes";
