// Every pattern with its states, by the same functions that draw the pages; the sample line is the data.
import { freeBody } from "../stand/body.js";
import { jobPlan } from "../lines/plan.js";
import { showDecisions } from "../set/decisions.js";
import { SiteMap } from "../set/map.js";
import { showRolls, showSteps } from "../set/rolls.js";
import { Snags } from "../set/snags.js";
import { Strip } from "../strip/strip.js";
import { showLoading, showTag } from "../set/tag.js";
import { el, fit, html } from "../static/svg.js";
import { say } from "../static/units.js";

const data = JSON.parse(document.getElementById("data").textContent);
const { drawing } = data;
const LONG = "the post that stands where the second brook comes in under the leaning alder";
const drawn = []; // what can only be drawn when it stands on the page
const nothing = async () => ({ ok: true, body: { said: "+1 post" } });
const still = { drawing, lines: data.lines, edit: nothing, call: nothing, to: () => "#" };

function pattern(title, ...states) {
  return html("section", { class: "pattern", "aria-label": title }, html("h2", {}, title), html("div", { class: "states" }, ...states));
}

const state = (name, node, kind = "") => html("figure", { class: kind }, html("figcaption", {}, name), node);

function strip(name, kind, options, then) {
  const svg = el("svg", { class: `strip ${kind}`, role: "group", tabindex: 0, "aria-label": `Strip: ${name}` });
  drawn.push(() => {
    const made = new Strip(svg, options);
    made.lanesKept.remember = false;
    made.show(then?.data ?? drawing);
    then?.run?.(made);
  });
  return state(name, svg, kind === "low" ? "" : "across");
}

function box(name, fill, kind = "framed") {
  const node = html("div", { class: kind });
  drawn.push(() => fill(node));
  return state(name, node);
}

function snagBox(name, snags, chosen = -1, waiting = false) {
  const list = html("ul", { id: `snags-${name.replace(/\W+/g, "-")}`, class: "snags" });
  const never = { ...still, call: () => new Promise(() => {}) };
  drawn.push(() => {
    const made = new Snags(list, html("span", {}), waiting ? never : still, () => {});
    made.show({ ...drawing, snags });
    if (chosen >= 0) made.open(chosen);
  });
  return state(name, html("div", { class: "framed snaglist" }, list));
}

const grave = { at: 3, grave: true, title: "Buried services have not been asked about", consequence: "do not dig: ask the marking service, wait for its marks, dig by hand beside them", go: "marking", remedies: [] };
const longSnag = { at: 5, grave: false, title: `${LONG} stands in old-wire-and-nail-boards-nobody-took-away`, consequence: `${LONG}: ${LONG}`, go: "", remedies: [{ label: "allow it", edit: {} }] };
const some = drawing.snags.length ? drawing.snags : [grave];
const facts = { ...data.tag, facts: data.tag.facts.slice(0, 3) };
const plain = { title: LONG, station_m: 1234.5, fittings: [], cautions: [LONG], facts: data.tag.facts.slice(0, 2).map((f) => ({ ...f, note: LONG })) };
const middle = drawing.bays[Math.floor(drawing.bays.length / 3)];

function plan(name, page, picked) {
  const svg = el("svg", { class: "plan", role: "img", "aria-label": `Plan: ${name}` });
  drawn.push(() => svg.replaceChildren(...jobPlan(fit(svg, data.lines.flatMap((l) => l.places), 40, 30), { lines: data.lines, page, picked, pick: () => {} })));
  return state(name, svg);
}

function freeEnd(name, end) {
  const svg = el("svg", { class: "freebody", role: "img", "aria-label": `Forces on an end: ${name}` });
  drawn.push(() => freeBody(svg, end, end.high));
  return state(name, svg);
}

function card(name, made, title) {
  const svg = el("svg", { viewBox: "0 0 340 150", "aria-hidden": "true" }, ...(made?.paths ?? []).map(([d, kind]) => el("path", { class: kind, d })));
  const words = made ? `${made.posts} posts` : "not counted yet";
  return state(name, html("ul", { class: "jobs" }, html("li", {}, html("a", { class: "job", href: "#" }, svg, html("strong", {}, title), html("span", { class: "cardfacts" }, words), html("span", { class: "cardhung" }, made?.hung ?? ""), html("span", { class: `cardsnags${made?.snags ? " flagtext" : ""}` }, made ? `${made.snags} snags` : "")))));
}

function table(name, rows) {
  const body = rows.length ? rows.map((r) => html("tr", {}, html("th", { scope: "row" }, say(r.name)), html("td", { class: "num" }, String(Math.round(r.count))), html("td", {}, say(r.where)))) : [html("tr", {}, html("td", { colspan: "3" }, "Nothing in this take-off has “gold” in it."))];
  return state(name, html("div", { class: "scroll", tabindex: "0", role: "region", "aria-label": name }, html("table", { class: "plain-table" }, html("thead", {}, html("tr", {}, ...["Item", "How many", "Where"].map((h) => html("th", { scope: "col" }, h)))), html("tbody", {}, ...body))));
}

function said(name, text, tone, ...buttons) {
  return state(name, html("p", { class: `said ${tone}` }, text, ...buttons));
}

const button = (text, kind) => html("button", { class: `btn ${kind}` }, text);

document.getElementById("patterns").replaceChildren(
  pattern("Strip",
    strip("whole line", "wide", {}, {}),
    strip("at a snag: to scale, dimensions at the cursor", "near", {}, { run: (s) => { s.lookAt(middle.from + 1); s.select({ from: middle.from }, some[0]); s.setCursor((middle.from + middle.to) / 2); } }),
    strip("low, as a band", "low", { only: ["ground", "posts"], built: true }, {}),
    strip("ground alone, as measured", "low", { only: ["ground"] }, {}),
    strip("still, for print", "low", { still: true, only: ["ground", "posts"], built: true }, {})),
  pattern("Snags", snagBox("none", []), snagBox("worst first", [grave, ...some].slice(0, 4)), snagBox("chosen, prices shown", [longSnag], 0), snagBox("chosen, prices on their way", [longSnag, grave], 0, true)),
  pattern("Tag",
    box("a post with what is put on it", (node) => showTag(node, facts, [], { ...drawing.posts[5], material: drawing.materials[drawing.posts[5].kind] }, drawing.fabric)),
    box("a why opened", (node) => { showTag(node, { ...facts, fittings: [] }, []); node.querySelector(".why").click(); }),
    box("loading", (node) => showLoading(node, "Post A12")),
    box("refused", (node) => node.replaceChildren(html("p", { class: "refusal" }, "Gnomonic does not answer: is it still running? Nothing was lost here; try again."))),
    box("long words", (node) => showTag(node, plain, []))),
  pattern("Decisions", box("in a sentence", (node) => { const p = html("p", { class: "sentence" }); node.append(p); showDecisions(p, "set", data.words, still); for (const input of p.querySelectorAll("[id]")) input.removeAttribute("id"); }), box("one that was refused", (node) => { const p = html("p", { class: "sentence" }); node.append(p); showDecisions(p, "hang", data.words, still); for (const input of p.querySelectorAll("[id]")) input.removeAttribute("id"); p.querySelector("input")?.classList.add("wrong"); })),
  pattern("What an edit did", said("done", "+1 post, −1 splice", ""), said("nothing changed, and why", "18 ft is shorter than the shortest piece you allow, 20 ft", ""), said("refused", "“12,5 m”: write decimals with a point", "wrong"), said("changed elsewhere", "This job was changed in another window; nothing of yours was saved over it. ", "wrong", button("Show it as it is now, and do mine again", "btn-work"), " ", button("Show it, leave mine", "btn-quiet"))),
  pattern("Rolls and steps", box("rolls with their cuts", (node) => showRolls(node, drawing, () => {}), "rolls"), box("strands, no rolls", (node) => showRolls(node, { ...drawing, fabric: { ...drawing.fabric, layers: [], strands: [{}, {}] }, stocks: [], splices: [] }, () => {}), "rolls"), box("steps with their cautions", (node) => showSteps(node, { ok: true, body: { steps: data.steps.slice(0, 3) } })), box("steps refused", (node) => showSteps(node, { ok: false, body: { detail: "Gnomonic could not do that; the job stands as it was." } }))),
  pattern("Map", (() => { const svg = el("svg", { class: "plan sitemap", role: "img", "aria-label": "Map of the line" }); drawn.push(() => new SiteMap(svg).show(drawing, [])); return state("one line", svg); })(), plan("the job, its counts on their way", null, null), plan("the job, a line picked", { things: [], figures: {}, snags: some.slice(0, 2).map((s) => ({ ...s, line: data.lines[0].id })), meetings: [] }, data.lines[0].id)),
  pattern("Free body of an end", ...[["h", "H-brace"], ["strut", "strut and tie"], ["deadman", "wire to a buried log"], ["none", "its post alone"]].map(([kind, name]) => freeEnd(name, data.ends[kind]))),
  pattern("Cards of jobs", card("counted", data.card, "Sample line"), card("not counted yet", null, "Just brought in"), card("long words", { ...data.card, hung: LONG }, LONG)),
  pattern("Tables", table("rows", data.needs.slice(0, 5)), table("nothing found", []), table("long words", [{ name: LONG, count: 123456, where: LONG }])),
);
for (const draw of drawn) draw();
scrollTo(0, 0); // opening a why moves the page
document.body.dataset.ready = "yes";
