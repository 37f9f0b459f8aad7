// Posts and braces of a line: how each end is held, in what soil, what holes, lows and dips take.
import { head, showHead } from "../static/head.js";
import { JobState, speaking } from "../static/job.js";
import { html } from "../static/svg.js";
import { quantity, say } from "../static/units.js";
import { factRow } from "../set/tag.js";
import { freeBody } from "./body.js";
import { bendsPanel, dipsPanel, groundPanel, holesPanel, soilPanel } from "./panels.js";
import { askForm, waysTable } from "./ways.js";

const at = (id) => document.getElementById(id);
const read = (id) => JSON.parse(at(id).textContent);
const job = new JobState(read("state"), read("drawing"));
const tell = speaking(at("said"), job);
const TABS = ["braces", "soil", "holes", "ground", "bends", "dips"];
let stand = read("stand");
let chosen = 0;
let open = "braces";

const state = (end) => (end.because ? "falls" : !end.held ? "ok" : end.held.holds ? "ok" : end.held.stands ? "bad" : "falls");

function verdict(end) {
  const h = end.held;
  if (end.because) return `does not stand: ${say(end.because)}`;
  if (!h) return "nothing to speak of is asked of it";
  const parts = [];
  if (!h.sideOk) parts.push(`${quantity(h.asked, "force")} push: it should hold ${quantity(h.asked * (h.method === "code" ? 1 : h.times), "force")}, it holds ${quantity(h.method === "code" ? h.code : h.has, "force")}`);
  if (!h.liftOk) parts.push(`${quantity(h.lift, "force")} lift: ${quantity(h.lift * h.times, "force")} should hold it down, ${quantity(h.grip, "force")} do`);
  if (h.leans) parts.push(`leans ${quantity(h.lean, "gap")}`);
  return parts.join("; ") || "stays put";
}

function showEnds() {
  at("ends").replaceChildren(
    ...stand.ends.map((end, k) => html("button", { class: state(end), "aria-current": String(k === chosen), onclick: () => choose(k) }, `${end.name} · ${quantity(end.at, "station")}`, html("small", {}, `${end.role}, run ${end.ahead ? "ahead" : "behind"}: ${say(end.words)}`), html("small", { class: state(end) === "ok" ? "" : "wrong" }, verdict(end)))),
  );
  if (!stand.ends.length) at("ends").replaceChildren(html("p", { class: "quiet" }, "Nothing on this line pulls hard enough to need a brace."));
}

function words(end) {
  const h = end.held;
  const way = `Seen with the fence running to the right. On the coldest day the fabric pulls ${quantity(end.pull, "force")}.`;
  const ground = h ? ` ${say({ t: "The post stands {deep} deep in " + h.soil + (h.wet ? ", wet" : "") + ": ", v: { deep: [h.deep, "depth"] } })}` : " ";
  const all = h && h.asked > Math.abs(end.shear[0] ?? 0) + 50 ? ` The drawing is of this run; with all that end on the post ${quantity(h.asked, "force")} push and ${quantity(Math.max(0, h.lift), "force")} lift it.` : "";
  return [way + all + ground, html("b", { class: state(end) === "ok" ? "" : "bad" }, `${verdict(end)}.`), end.panels?.length || end.kind === "strut" ? "" : " Nothing but what is drawn holds it."];
}

function showEnd() {
  const end = stand.ends[chosen];
  if (!end) {
    at("body").replaceChildren();
    for (const id of ["bodywords", "endfacts", "ask", "ways"]) at(id).replaceChildren();
    return;
  }
  at("body").setAttribute("aria-label", `Forces on ${end.name}: ${verdict(end)}`);
  at("bodywords").replaceChildren(...words(end));
  at("endfacts").replaceChildren(...end.facts.map(factRow));
  freeBody(at("body"), end, stand.high);
  at("ask").replaceChildren(askForm(end, job, stand));
  compare(end);
}

let asked = 0;
async function compare(end) {
  const mine = (asked += 1);
  at("ways").replaceChildren(html("tbody", {}, html("tr", {}, html("td", { class: "quiet" }, "Working out the other ways…"))));
  const answer = await job.call(`compare?at=${end.at}&ahead=${end.ahead}`);
  if (mine === asked && answer.ok) waysTable(at("ways"), answer.body, end, job);
}

function choose(k) {
  chosen = k;
  showEnds();
  showEnd();
  at("ends").children[k]?.scrollIntoView({ block: "nearest", inline: "nearest" });
}

function show() {
  showHead(job);
  chosen = Math.min(chosen, Math.max(0, stand.ends.length - 1));
  showEnds();
  for (const name of TABS) {
    at(`tab-${name}`).setAttribute("aria-selected", String(name === open));
    at(`panel-${name}`).hidden = name !== open;
  }
  if (open === "braces") showEnd();
  if (open === "soil") soilPanel(at("panel-soil"), stand, job);
  if (open === "holes") holesPanel(at("panel-holes"), stand, job, tell);
  if (open === "ground") groundPanel(at("panel-ground"), stand, job);
  if (open === "bends") bendsPanel(at("panel-bends"), stand, job);
  if (open === "dips") dipsPanel(at("panel-dips"), stand, job);
}

for (const name of TABS) {
  at(`tab-${name}`).addEventListener("click", () => {
    open = name;
    history.replaceState(null, "", `#${name}`);
    show();
  });
}

job.follow("stand", tell, (now) => {
  stand = now ?? stand;
  show();
});
head(job, {
  units: show,
  own: ({ key }) => {
    if (open !== "braces" || !["ArrowLeft", "ArrowRight"].includes(key) || !stand.ends.length) return false;
    choose((chosen + (key === "ArrowLeft" ? stand.ends.length - 1 : 1)) % stand.ends.length);
    return true;
  },
});
addEventListener("resize", () => open === "braces" && show());
const [place, where] = location.hash.slice(1).split("=");
if (place === "at") chosen = Math.max(0, stand.ends.findIndex((e) => Math.abs(e.at - Number(where)) < 0.05));
else if (TABS.includes(place)) open = place;
else chosen = Math.max(0, stand.ends.findIndex((e) => state(e) !== "ok"));
show();
document.body.dataset.ready = "yes";
