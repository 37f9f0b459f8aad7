// Upkeep on the phone: rounds, small repairs with their steps; what was written lately.
import { length, say } from "../static/units.js";
import { alarm, called, go, note, of, SAYS, trade, unitsAndSun } from "./hand.js";
import { when } from "./fold.js";
import { h, lengths, press, sheet, steps } from "./ui.js";

export const spell = (minutes) => (minutes < 100 ? `${Math.round(minutes)} min` : `${Number((minutes / 60).toFixed(1))} h`);

export async function moreView(it) {
  const { own, folded, job } = it;
  const wet = own.crossings.length > 0;
  const last = (key) => folded.stand.filter((r) => r.event.kind === "round" && r.event.line === own.id && r.event.way === key).map(when).sort((a, b) => b - a)[0];
  const lately = [...folded.live].reverse().slice(0, 12);
  return [
    h("h1", {}, `Upkeep of ${own.name}`),
    h("h2", {}, "Small repairs"),
    ...Object.entries(trade.repairs).map(([key, repair]) => press(repair.title, () => repairSheet(it, key), { under: `about ${spell(repair.minutes[1])}, ${repair.hands === 1 ? "one person" : `${repair.hands} people`}` })),
    h("h2", {}, "Rounds"),
    ...Object.entries(trade.rounds).filter(([, round]) => wet || !round.water).map(([key, round]) => press(round.title, () => roundSheet(it, key), { under: last(key) ? `last walked ${new Date(last(key)).toLocaleDateString()}` : "not walked yet", kind: "light" })),
    own.snags?.length ? h("details", { class: "lines" }, h("summary", {}, `Snags of this line: ${own.snags.length}`), h("ul", { class: "rows" }, ...own.snags.map((s) => h("li", {}, `${s.grave ? "Grave: " : ""}${say(s.title)}`, h("small", {}, say(s.why)))))) : "",
    h("h2", {}, "Written lately"),
    lately.length ? h("ul", { class: "rows" }, ...lately.map((row) => h("li", {}, h("button", { type: "button", class: "back", onclick: () => rowSheet(it, row) }, `${of_(it, row.event)} ${SAYS[row.event.kind] ?? row.event.kind}`), h("small", {}, `${new Date(when(row)).toLocaleString()}${row.event.author ? `, ${row.event.author}` : ""}`)))) : h("p", { class: "hush" }, "Nothing is written of this job yet."),
    unitsAndSun(),
  ];
}

const of_ = ({ pack }, e) => (e.post ? called(pack, { id: e.line }, { name: e.post }) : (e.line ?? ""));

function rowSheet(it, { event: e }) {
  const { job } = it;
  const box = sheet(`${of_(it, e)} ${SAYS[e.kind] ?? e.kind}`,
    h("p", {}, `${new Date(e.clock).toLocaleString()}${e.author ? `, ${e.author}` : ""}${e.note ? `: ${e.note}` : ""}`),
    e.post ? press("Go to the post", () => { box.close(); go(job, "posts", e.line, e.post); }, { kind: "light" }) : "",
    press("Take it back", () => note({ kind: "void", ...(e.line ? { line: e.line } : {}), ...(e.post ? { post: e.post, at_m: e.at_m } : {}), of: e.id }, { told: "Taken back." }), { under: "it stays in the log as taken back", kind: "dark" }));
}

function whichPost(own, given, pack) {
  const pick = h("select", {}, ...own.posts.map((p) => h("option", { value: p.name, selected: p.name === given }, `${called(pack, own, p)}, ${length(p.at, "station")}`)));
  return [h("label", { class: "typed" }, "At or after post", pick), () => own.posts.find((p) => p.name === pick.value)];
}

function repairSheet({ own, post, pack }, key) {
  const repair = trade.repairs[key];
  const [pick, chosen] = whichPost(own, post, pack);
  const words = h("input", { maxlength: 200, "aria-label": "Anything else" });
  const values = {};
  const wants = [];
  if (repair.needs.includes("long_m")) wants.push(h("p", { class: "what" }, "Piece let in"), lengths(steps(0, 3, { us: 6, metric: 0.25 }), (m) => { values.long_m = m; alarm(""); pressed(wants[1], m); }, { kind: "depth", name: "Piece let in" }));
  if (repair.needs.includes("count")) wants.push(h("p", { class: "what" }, "How many"), h("div", { class: "chips" }, ...[1, 2, 3, 4, 5, 6, 8, 10].map((n) => h("button", { type: "button", class: "chip", "data-m": n, onclick: (event) => { values.count = n; pressed(event.currentTarget.parentNode, n); } }, String(n)))));
  sheet(repair.title,
    h("p", { class: "caution" }, repair.caution),
    h("ol", {}, ...repair.steps.map((step) => h("li", {}, step))),
    h("p", { class: "what" }, `Takes ${spell(repair.minutes[0])} to ${spell(repair.minutes[2])}. Take: ${repair.material.join("; ")}.`),
    pick, ...wants, h("label", { class: "typed" }, "Anything else", words),
    press("It is mended", () => note(of(own, chosen(), { kind: "repair", way: key, ...values, note: words.value.trim() }), { told: `${repair.title}: mended, in the fence’s book.` }), { kind: "main" }));
}

const pressed = (row, value) => row.querySelectorAll(".chip").forEach((c) => c.setAttribute("aria-pressed", String(Number(c.dataset.m) === value)));

function roundSheet({ own }, key) {
  const round = trade.rounds[key];
  const words = h("textarea", { rows: 3, maxlength: 1000, "aria-label": "What was seen" });
  sheet(round.title,
    h("ul", {}, ...round.look.map((t) => h("li", {}, t))),
    h("label", { class: "typed" }, "What was seen; each fault goes to its post", words),
    press("Walked it, all is well or written down", () => note({ kind: "round", line: own.id, way: key, note: words.value.trim().replace(/\s+/g, " ") }, { told: `Round kept; the next one comes due by date.` }), { kind: "main" }));
}
