// The job's page: its lines on one ground, what each is, what joins them, what they need together.
import { JobState, speaking } from "../set/job.js";
import { action } from "../set/tag.js";
import { el, fit, html, label } from "../static/svg.js";
import { length, quantity, round, say, setUnits, tapeDivisions, units } from "../static/units.js";

const at = (id) => document.getElementById(id);
const read = (id) => JSON.parse(at(id).textContent);
const job = new JobState(read("state"), null);
const tell = speaking(at("said"), job);
let page = read("page");
let picked = null;

const plural = (n, word) => `${n} ${word}${n === 1 ? "" : "s"}`;
const open = (id) => `/jobs/${job.job}${job.lines.length > 1 ? `?line=${id}` : ""}`;
const bare = () => (units() === "metric" ? "m" : "ft");
const edit = (change) => job.edit({ bare: bare(), ...change });

function drawGround() {
  const svg = at("ground");
  const frame = fit(svg, job.lines.flatMap((l) => l.places), 54, 40);
  const path = (l) => `M${l.places.map((p) => frame(...p).map((v) => v.toFixed(1)).join(" ")).join("L")}${l.closed ? "Z" : ""}`;
  const parts = [];
  for (const l of job.lines) {
    const shape = el("path", { class: `jobline ${l.standing}${l.id === picked ? " picked" : ""}`, d: path(l) }, el("title", {}, l.name));
    const wide = el("path", { class: "jobline-hit", d: path(l) });
    wide.addEventListener("click", () => pick(l.id));
    parts.push(shape, wide);
  }
  for (const l of job.lines) {
    for (const [, role, e, n] of page.figures[l.id]?.sites ?? []) {
      const [x, y] = frame(e, n);
      parts.push(role === "join" ? el("path", { class: "joinpost", d: `M${x - 5} ${y}l5 -5l5 5l-5 5Z` }) : el("rect", { class: "terminal", x: x - 2.5, y: y - 2.5, width: 5, height: 5 }));
    }
  }
  for (const m of page.meetings) {
    const line = job.lines.find((l) => l.id === m.line);
    const [x, y] = frame(...(m.end === "start" ? line.places[0] : m.end === "end" ? line.places[line.places.length - 1] : along(line, m.here)));
    parts.push(el("path", { class: "flag", d: `M${x} ${y}v-14l9 4l-9 4` }));
  }
  const taken = [];
  for (const l of job.lines) parts.push(...nameOf(l, frame, taken));
  const [bar] = tapeDivisions(1 / frame.scale, 70);
  const y = frame.height - 14;
  parts.push(el("path", { class: "scalebar", d: `M16 ${y - 5}v5h${(bar * frame.scale).toFixed(1)}v-5` }), label(22 + bar * frame.scale, y + 1, round(bar), { class: "scaletext" }), el("path", { class: "north", d: `M${frame.width - 26} 44V14M${frame.width - 31} 22l5-9l5 9` }), label(frame.width - 26, 57, "N", { class: "northtext", "text-anchor": "middle" }));
  svg.replaceChildren(...parts);
}

// The place on a line at a station, along its drawn places.
function along(line, station) {
  let gone = 0;
  for (let k = 1; k < line.places.length; k++) {
    const [a, b] = [line.places[k - 1], line.places[k]];
    const leg = Math.hypot(b[0] - a[0], b[1] - a[1]);
    if (gone + leg >= station) return [0, 1].map((c) => a[c] + ((b[c] - a[c]) * (station - gone)) / (leg || 1));
    gone += leg;
  }
  return line.places[line.places.length - 1];
}

// A name beside its line, where nothing else is written: off the line by half its own width where that runs up or down.
function nameOf(l, frame, taken) {
  for (const share of [0.5, 0.3, 0.7, 0.15, 0.85]) {
    const [x, y] = frame(...along(l, l.length * share));
    const [ax, ay] = frame(...along(l, Math.max(0, l.length * share - 3)));
    const size = Math.hypot(x - ax, y - ay) || 1;
    const [nx, ny] = [(ay - y) / size, (x - ax) / size];
    const text = job.lines.length > 12 ? l.id : `${l.id} ${l.name}`;
    const wide = text.length * 6.8;
    for (const way of [-1, 1]) {
      const [dx, dy] = [nx * way * (wide / 2 + 8), ny * way * 13 + 4];
      const box = [x + dx - wide / 2, y + dy - 11, x + dx + wide / 2, y + dy + 3];
      if (box[0] < 3 || box[2] > frame.width - 3 || box[1] < 3 || box[3] > frame.height - 3 || taken.some((o) => box[0] < o[2] && box[2] > o[0] && box[1] < o[3] && box[3] > o[1])) continue;
      taken.push(box);
      return [label(x + dx, y + dy, text, { class: `linename${l.id === picked ? " picked" : ""}`, "text-anchor": "middle" })];
    }
  }
  return [];
}

const STANDS = { permanent: "built to stay", temporary: "for a time", there: "stands already" };

function joinsOf(l) {
  const ends = l.joins.map((j) => html("li", {}, `its ${j.end} stands on ${j.name}, `, length(j.at, "station"), " along ", html("button", { class: "link", onclick: () => edit({ do: "part_line", line: l.id, end: j.end }) }, "part them")));
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
  standing.addEventListener("change", stand);
  until.addEventListener("change", stand);
  const move = page.others.length ? [html("form", { class: "action", onsubmit: (event) => moveTo(event, l) }, html("span", {}, "Move it to"), html("select", { name: "to", class: "inplace", "aria-label": "Job it goes to" }, ...page.others.map((o) => html("option", { value: o.job }, o.name))), html("button", { class: "btn btn-quiet" }, "Move"))] : [];
  const joins = job.lines.length > 1 && !l.closed ? ["start", "end"].filter((end) => !l.joins.some((j) => j.end === end)).map((end) => joinForm(l, end)) : [];
  return html("details", { class: "change" }, html("summary", {}, "Change it"),
    html("p", { class: "action" }, html("span", {}, "It is"), standing, until),
    action("Call it", [["name", "Name of the line", l.name, 24]], ({ name }) => edit({ do: "rename_line", line: l.id, name }), "Rename"),
    ...joins,
    action("Split it at", [["where", "Station of the post", "", 9], ["name", "Name of the rest", `${l.name} 2`, 18, "the rest called"]], ({ where, name }) => edit({ do: "split_line", line: l.id, at_m: where, name }), "Split"),
    action("The same again, called", [["name", "Name of the copy", `${l.name} copy`, 20]], ({ name }) => edit({ do: "copy_line", line: l.id, name }), "Copy"),
    ...move,
    ...(job.lines.length > 1 ? [html("button", { class: "btn btn-quiet", onclick: () => edit({ do: "remove_line", line: l.id }) }, `Take ${l.name} out`)] : []));
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
  const f = page.figures[l.id];
  const counts = f ? [plural(f.posts, "post"), f.rolls ? plural(f.rolls, "roll") : "", f.coils ? plural(f.coils, "coil") : "", f.gates ? plural(f.gates, "gate") : ""].filter(Boolean).join(" · ") : "nothing is planned on it";
  const snags = f ? (f.snags ? html("span", { class: "flagtext" }, plural(f.snags, "snag")) : html("span", { class: "quiet" }, "no snags")) : "";
  const name = f ? html("a", { href: open(l.id) }, l.name) : html("span", {}, l.name);
  const until = l.standing === "temporary" ? ` ${l.until ? `until ${l.until}` : "for a time"}` : l.standing === "there" ? " stands already" : "";
  const head = html("div", { class: "linehead" }, html("b", { class: "letter" }, l.id), html("h3", {}, name), html("span", { class: "quiet" }, length(l.length, "station"), l.closed ? ", closed" : "", until));
  const body = html("p", { class: "linefacts" }, l.hung ? `${l.hung}: ` : "", counts, " ", snags);
  const row = html("li", { "data-line": l.id, class: l.id === picked ? "picked" : "" }, head, body, ...joinsOf(l), changes(l));
  row.addEventListener("pointerenter", () => pick(l.id, false));
  return row;
}

function meetingRow(m) {
  const where = m.end ? `The ${m.end} of ${m.name} lies ${length(m.off, "gap")} from ${m.other}.` : `${m.name} crosses ${m.other} at ${length(m.here, "station")}.`;
  const mend = m.end ? html("button", { class: "btn btn-quiet", onclick: () => edit({ do: "join_line", line: m.line, end: m.end, on: m.on, at_m: m.at }) }, "Join them") : html("a", { href: open(m.line) }, "see to it");
  return html("li", { class: "meeting" }, where, " ", mend);
}

function pick(id, scroll = true) {
  if (picked === id) return;
  picked = id;
  drawGround();
  for (const row of at("linelist").children) row.classList.toggle("picked", row.dataset.line === id);
  if (scroll) at("linelist").querySelector(`[data-line="${id}"]`)?.scrollIntoView({ block: "nearest" });
}

function showTakeOff() {
  const ids = job.lines.filter((l) => page.figures[l.id]).map((l) => l.id);
  const kind = (i) => ({ m: "station", m3: "volume" })[i.unit] ?? "count";
  const head = html("tr", {}, html("th", { scope: "col" }, "Item"), html("th", { scope: "col", class: "num" }, "All"), ...(ids.length > 1 ? ids.map((id) => html("th", { scope: "col", class: "num", title: job.lines.find((l) => l.id === id).name }, id)) : []));
  const rows = page.takeoff.map((i) => html("tr", {}, html("th", { scope: "row" }, say(i.name)), html("td", { class: "num all" }, quantity(i.count, kind(i))), ...(ids.length > 1 ? ids.map((id) => html("td", { class: "num" }, i.lines[id] ? quantity(i.lines[id], kind(i)) : "")) : [])));
  at("takeoff").replaceChildren(html("thead", {}, head), html("tbody", {}, ...rows));
  const cut = page.offcuts.length ? ` On hand: ${page.offcuts.map((o) => `${length(o.length, "station")} of ${o.label}`).join(", ")}.` : "";
  at("stock").textContent = `Rolls and coils are cut over all lines; a roll stands under the line it is opened on. A post that lines share is counted once.${cut}`;
}

function show() {
  at("jobname").textContent = page.name;
  at("undo").disabled = !job.undo;
  at("redo").disabled = !job.redo;
  at("units").textContent = units() === "us" ? "ft in" : "metres";
  const total = job.lines.reduce((sum, l) => sum + l.length, 0);
  at("count").textContent = `${plural(job.lines.length, "line")}, together ${length(total, "station")}`;
  at("printall").href = `/jobs/${job.job}/print-all?units=${units()}`;
  const opened = new Set([...document.querySelectorAll(".linelist details[open]")].map((d) => d.closest("li").dataset.line));
  at("linelist").replaceChildren(...page.meetings.map(meetingRow), ...job.lines.map(rowOf));
  for (const id of opened) at("linelist").querySelector(`[data-line="${id}"] details`)?.setAttribute("open", "");
  drawGround();
  showTakeOff();
}

job.addEventListener("changed", async (event) => {
  const answer = await job.call("lines");
  if (answer.ok) page = answer.body;
  show();
  tell(say(event.detail));
  document.body.dataset.version = job.version;
});
at("undo").addEventListener("click", () => job.step("undo"));
at("redo").addEventListener("click", () => job.step("redo"));
const toggleUnits = () => {
  setUnits(units() === "us" ? "metric" : "us");
  show();
};
at("units").addEventListener("click", toggleUnits);
document.addEventListener("keydown", (event) => {
  if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z") {
    event.preventDefault();
    job.step(event.shiftKey ? "redo" : "undo");
  } else if (event.key === "u" && !event.target.closest("input, select, textarea")) toggleUnits();
});
new ResizeObserver(drawGround).observe(at("ground"));
show();
document.body.dataset.ready = "yes";
