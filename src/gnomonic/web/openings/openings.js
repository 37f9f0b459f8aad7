// Gates and crossings of a line: how each is built, where a gate hangs best, what guides the posts, what wind does.
import { head, showHead } from "../static/head.js";
import { JobState, speaking } from "../static/job.js";
import { html } from "../static/svg.js";
import { length, say, units } from "../static/units.js";
import { factRow } from "../set/tag.js";
import { gateFacts, gateForm, gateOrder, gateState, gateVerdict } from "./gates.js";
import { guidesPanel, windPanel } from "./guides.js";
import { above, front } from "./leaf.js";
import { Siting } from "./siting.js";
import { channel, verdict, waterForm, waterWhy } from "./water.js";

const at = (id) => document.getElementById(id);
const read = (id) => JSON.parse(at(id).textContent);
const job = new JobState(read("state"), read("drawing"));
const tell = speaking(at("said"), job);
const TABS = ["gates", "water", "guides", "wind"];
let made = read("openings");
let open = "gates";
const chosen = { gates: 0, water: 0 };

// Drawn as it would hang where it is being slid to.
function tried(gate, moved) {
  front(at("front"), gate);
  above(at("above"), gate);
  at("gatewords").replaceChildren(html("b", { class: gateState(gate) === "ok" ? "" : "bad" }, `${moved ? `At ${length(gate.at, "station")}: ` : ""}${gateVerdict(gate)}. `), `${gate.name}, ${gate.words}.`);
  at("gatefacts").replaceChildren(...gateFacts(gate));
}
const siting = new Siting(job, tell, tried);

function list(box, rows, name) {
  at(box).replaceChildren(...rows.map(([title, small, state], k) => html("button", { class: state, "aria-current": String(k === chosen[name]), onclick: () => choose(name, k) }, title, html("small", { class: state === "ok" ? "" : "wrong" }, small))));
}

function choose(name, k) {
  chosen[name] = k;
  show();
}

function gates() {
  list("gatelist", made.gates.map((g) => [`${g.name} · ${length(g.at, "station")}`, `${say(g.title)}: ${gateVerdict(g)}`, gateState(g)]), "gates");
  const gate = made.gates[chosen.gates];
  at("panel-gates").classList.toggle("bare", !gate);
  if (!gate) {
    const add = html("form", { class: "askbrace", edits: () => job.edit({ do: "add_gate", at_m: add.elements.at_m.value, leaf_m: add.elements.leaf_m.value, bare: "ft" }) }, html("label", {}, "Gate at", html("input", { class: "form-control", name: "at_m", value: length(made.length / 2, "station") })), html("label", {}, "Leaf", html("input", { class: "form-control", name: "leaf_m", value: length(3.6576, "station") })), html("button", { class: "btn btn-work" }, "Hang a gate"));
    at("gatelist").replaceChildren(html("p", { class: "quiet pad" }, "No gate hangs on this line."), add);
    for (const id of ["front", "above", "gatewords", "gateform", "gatefacts", "gateorder", "site", "places"]) at(id).replaceChildren();
    return;
  }
  tried(gate, false);
  at("gateform").replaceChildren(gateForm(gate, made, job));
  at("gateorder").replaceChildren(...gateOrder(gate, job));
  siting.of(gate, job.drawing.ground, made.length);
}

function water() {
  const rows = [...made.crossings.map((c) => [`${c.name} · ${length(c.at, "station")}`, verdict(c), !c.ok ? "falls" : c.heavy && c.said ? "ok" : "bad"]), ...made.waters.map((w) => [`${w.name} · ${length(w.from, "station")}`, waterWhy(w), w.why === "over" || w.why === "narrow" ? "ok" : "falls"])];
  list("waterlist", rows, "water");
  if (!rows.length) at("waterlist").replaceChildren(html("p", { class: "quiet pad" }, "No running water was found on this line. Walk puts it there: what is on the line, running water."));
  const c = made.crossings[chosen.water];
  const other = made.waters[chosen.water - made.crossings.length];
  for (const id of ["channel", "waterwords", "waterorder", "waterform", "waterfacts"]) at(id).replaceChildren();
  if (c) {
    channel(at("channel"), c);
    at("waterwords").replaceChildren(html("b", { class: c.ok ? "" : "bad" }, `${c.name} ${verdict(c)}.`), " Nothing solid stands in the channel; what hangs there swings, and lets go before posts and rope do.");
    at("waterform").replaceChildren(waterForm(c, made, job));
    at("waterfacts").replaceChildren(...c.facts.map(factRow));
    at("waterorder").replaceChildren(html("p", {}, html("a", { href: job.to("crossing", { at: c.middle, units: units() }) }, "Sheet to print or carry")), html("h2", {}, "How it is built"), html("ol", { class: "worksteps" }, ...c.order.map((s) => html("li", {}, say(s)))), html("p", { class: "caution" }, "Never work in the channel with water coming. A rope under load whips: stand out of its line. Rules on watercourses are local: ask before anything is set on a bank."));
  } else if (other) {
    at("waterwords").replaceChildren(waterWhy(other));
    if (["over", "narrow"].includes(other.why)) at("waterform").replaceChildren(html("button", { class: "btn btn-work", edits: () => job.edit({ do: "say_crossing", at_m: other.at, how: "hung" }) }, "Cross it by a rope"));
  }
}

function asks() {
  const box = at("asknow");
  box.hidden = !made.staked;
  if (!made.staked) return;
  const n = made.staked === 1 ? "One gate of this job was" : `${made.staked} gates of this job were`;
  const mend = (how, words) => html("button", { class: "btn btn-work", edits: () => job.edit({ do: "mend_gates", how }) }, words);
  box.replaceChildren(`${n} staked between post centres, before a leaf was chosen: between real posts no such leaf fits. `, mend("widen", "Leaves as sold, posts moved apart"), " ", mend("made", "Leave the posts, leaves made to measure"));
}

function show() {
  showHead(job);
  asks();
  for (const name of TABS) {
    at(`tab-${name}`).setAttribute("aria-selected", String(name === open));
    at(`panel-${name}`).hidden = name !== open;
  }
  chosen.gates = Math.min(chosen.gates, Math.max(0, made.gates.length - 1));
  chosen.water = Math.min(chosen.water, Math.max(0, made.crossings.length + made.waters.length - 1));
  if (open === "gates") gates();
  if (open === "water") water();
  if (open === "guides") guidesPanel(at("panel-guides"), made.guides, job.drawing.ground);
  if (open === "wind") windPanel(at("panel-wind"), made.wind, job);
}

for (const name of TABS) {
  at(`tab-${name}`).addEventListener("click", () => {
    open = name;
    history.replaceState(null, "", `#${name}`);
    show();
  });
}

job.follow("openings", tell, (now) => {
  made = now ?? made;
  show();
});
head(job, {
  units: show,
  own: ({ key }) => {
    const rows = open === "gates" ? made.gates.length : open === "water" ? made.crossings.length + made.waters.length : 0;
    if (!rows || !["ArrowLeft", "ArrowRight"].includes(key)) return false;
    choose(open, (chosen[open] + (key === "ArrowLeft" ? rows - 1 : 1)) % rows);
    return true;
  },
});
addEventListener("resize", show);
const [place, where] = location.hash.slice(1).split("=");
if (place === "at") {
  const s = Number(where);
  const near = (rows, a, b) => rows.findIndex((g) => g[a] - 0.5 <= s && s <= g[b] + 0.5);
  const wet = near([...made.crossings.map((c) => ({ a: c.at, b: c.to })), ...made.waters.map((w) => ({ a: w.from, b: w.to }))], "a", "b");
  chosen.gates = Math.max(0, near(made.gates, "at", "end"));
  if (near(made.gates, "at", "end") < 0) open = wet >= 0 ? "water" : "wind";
  chosen.water = Math.max(0, wet);
} else if (TABS.includes(place)) open = place;
else if (!made.gates.length && made.crossings.length + made.waters.length) open = "water";
else chosen.gates = Math.max(0, made.gates.findIndex((g) => gateState(g) !== "ok"));
show();
document.body.dataset.ready = "yes";
