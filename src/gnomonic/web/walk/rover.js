// A walk as it happens: fix quality, the trail, marks by a key or a big button.
import { call } from "../static/send.js";
import { el, fit, html, label } from "../static/svg.js";
import { length } from "../static/units.js";

const at = (id) => document.getElementById(id);
const walk = document.querySelector("[data-walk]").dataset.walk;
const EARTH = 6371000;
const trail = [];
let marks = [];
let here = null;
let last = -1;
let titles = {};
for (const button of document.querySelectorAll("[data-kind]")) titles = { ...titles, [button.dataset.kind]: button.firstChild.textContent };

const metres = ([lon, lat]) => {
  const [lon0, lat0] = trail.length ? [trail[0][1], trail[0][2]] : [here?.lon ?? lon, here?.lat ?? lat];
  return [((lon - lon0) * Math.PI * EARTH * Math.cos((lat0 * Math.PI) / 180)) / 180, ((lat - lat0) * Math.PI * EARTH) / 180];
};

function drawTrail() {
  const svg = at("trail");
  const places = trail.map((t) => metres([t[1], t[2]]));
  const now = here && here.code ? metres([here.lon, here.lat]) : null;
  const all = [...places, ...(now ? [now] : [])];
  if (!all.length) return svg.replaceChildren(label(16, 28, "Waiting for the first fix…"));
  const frame = fit(svg, all.length > 1 ? all : [[-5, -5], [5, 5]], 34);
  const parts = [el("path", { class: "trail", d: all.length > 1 ? `M${all.map((p) => frame(...p).map((v) => v.toFixed(1)).join(" ")).join("L")}` : "" })];
  for (const m of marks) {
    const [x, y] = frame(...metres([m.lon, m.lat]));
    parts.push(el("circle", { class: "markdot", cx: x, cy: y, r: 5 }), label(x + 8, y + 4, m.name || titles[m.kind] || m.kind));
  }
  if (now) parts.push(el("circle", { class: "here", cx: frame(...now)[0], cy: frame(...now)[1], r: 7 }));
  svg.replaceChildren(...parts);
}

const STATES = { connecting: "Connecting…", lost: "Receiver lost", ended: "Paused" };

function show(data) {
  const fix = data.fix ?? null;
  here = fix ?? here;
  const walking = data.state === "walking" && fix;
  at("lamp").className = `lamp ${walking && fix.code === 4 ? "good" : walking && fix.code ? "fair" : "bad"}`;
  at("quality").textContent = walking ? fix.quality[0].toUpperCase() + fix.quality.slice(1) : STATES[data.state] ?? data.state;
  at("pm").textContent = walking && fix.code ? `± ${length(fix.good, fix.good < 0.3 ? "gap" : "station")}, ${fix.satellites} satellites` : "";
  at("place").textContent = walking && fix.code ? `${fix.lat.toFixed(6)}, ${fix.lon.toFixed(6)}, ${length(fix.h, "station")} high` : "";
  const c = data.counts;
  const said = [`${c.good} fixes kept`, `${c.jump} jump${c.jump === 1 ? "" : "s"} left out`, `${c.nofix} without a position`];
  if (c.bad) said.push(`${c.bad} garbled sentence${c.bad === 1 ? "" : "s"} dropped`);
  if (data.reconnects) said.push(`${data.reconnects} time${data.reconnects === 1 ? "" : "s"} lost and found again`);
  at("counts").replaceChildren(...said.map((s) => html("span", {}, s)));
  at("standing").hidden = !data.stopping;
  if (data.stopping) {
    at("standtext").textContent = `Stand still: averaging the ${titles[data.stopping.kind] ?? data.stopping.kind}, ${data.stopping.left.toFixed(0)} s`;
    at("standbar").value = 1 - data.stopping.left / data.stopping.of;
  }
  for (const button of document.querySelectorAll("[data-kind]")) button.disabled = !walking || Boolean(data.stopping);
  if (data.said) at("said").textContent = data.said;
  for (const t of data.trail ?? []) {
    if (t[0] > last) {
      trail.push(t);
      last = t[0];
    }
  }
  if (JSON.stringify(data.marks) !== JSON.stringify(marks)) {
    if (data.marks.length > marks.length) at("said").textContent = "";
    marks = data.marks;
    showMarks();
  }
  drawTrail();
  document.body.dataset.ready = "yes";
}

function showMarks() {
  const rows = marks.map((m, k) => html("tr", {}, html("td", {}, `${k + 1} ${m.name || titles[m.kind] || m.kind}`), html("td", { class: "num" }, `± ${length(m.good_m, "gap")}`), html("td", { class: "num" }, `${m.used} fixes${m.left_out ? `, ${m.left_out} left out` : ""}`), html("td", {}, html("button", { class: "link", "aria-label": `Take back mark ${k + 1}`, onclick: () => ask(`marks/${m.id}`, null, "DELETE") }, "take back"))));
  at("marks").replaceChildren(rows.length ? html("table", { class: "plain-table" }, html("caption", {}, "Marked"), html("tbody", {}, ...rows)) : "");
}

async function ask(path, body, method = "POST") {
  const answer = await call(`/api/v1/walks/${walk}/${path}`, body, { method });
  at("said").className = answer.ok ? "" : "dig";
  at("said").textContent = answer.ok ? "" : answer.status ? answer.body.detail : "Gnomonic does not answer: the walk goes on there; try again.";
}

function mark(kind) {
  const seconds = Number(at("seconds").value);
  ask("marks", { kind, name: at("name").value.trim(), seconds: Number.isFinite(seconds) ? seconds : 0 });
  at("name").value = "";
}

const buttons = [...document.querySelectorAll("[data-kind]")];
for (const button of buttons) button.addEventListener("click", () => mark(button.dataset.kind));
document.addEventListener("keydown", (event) => {
  if (event.target.closest("input") || event.ctrlKey || event.metaKey) return;
  const button = buttons[Number(event.key) - 1];
  if (button && !button.disabled) mark(button.dataset.kind);
});

const source = new EventSource(`/api/v1/walks/${walk}/live`);
source.addEventListener("message", (event) => {
  const data = JSON.parse(event.data);
  show(data);
  if (data.state === "ended") source.close();
});
source.addEventListener("away", (event) => {
  at("quality").textContent = "The database does not answer";
  at("said").textContent = "Fixes that come now wait in Gnomonic until it does; this page goes on by itself.";
});
source.addEventListener("error", () => {
  if (source.readyState !== EventSource.CLOSED) at("quality").textContent = "Page cut off: trying again";
});
drawTrail();
