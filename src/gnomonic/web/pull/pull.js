// Pull: the tension along every run, by season; from where each is pulled, in what order, with what.
import { head, showHead } from "../static/head.js";
import { JobState, speaking } from "../static/job.js";
import { el, html } from "../static/svg.js";
import { length, quantity, say, units } from "../static/units.js";
import { factRow } from "../set/tag.js";
import { Strip } from "../strip/strip.js";
import { nodesAt } from "../strip/tension.js";
import { barView, cutView, yearView } from "./drawings.js";

const at = (id) => document.getElementById(id);
const read = (id) => JSON.parse(at(id).textContent);
const job = new JobState(read("state"), read("drawing"));
const tell = speaking(at("said"), job);
const TABS = ["ways", "order", "figures", "gear", "year"];
const strip = new Strip(at("strip"));
strip.hide = ["found", "under", "posts"];
let pulls = read("pulls");
let chosen = 0;
let open = "ways";
let warm = pulls.climate.day;

const warmth = (t) => quantity(t, "temperature");
const hours = (minutes) => `${(Math.round(minutes / 15) / 4).toFixed(2).replace(/\.?0+$/, "")} h`;
const run = () => pulls.runs[chosen];

// What is drawn in the lane: the runs of the same thing as the chosen one.
function tension() {
  const alike = pulls.runs.filter((r) => r.what === run()?.what && r.fabric === run()?.fabric);
  return { runs: alike, t: warm, chosen: alike.indexOf(run()) };
}

// --- the day, and what pulls ---------------------------------------------------------------------------------------------
function ask() {
  const { climate, climates, pullers, ask: said } = pulls;
  const choice = (name, words, rows, now) => html("label", {}, words, html("select", { class: "form-select", name, edits: null }, ...rows.map(([value, text]) => html("option", { value, selected: String(value) === String(now) }, text))));
  const shown = units() === "us" ? Math.round(climate.day * 1.8 + 32) : Math.round(climate.day);
  const day = html("label", {}, `Temperature, ${units() === "us" ? "°F" : "°C"}`, html("input", { class: "form-control", name: "temp", edits: null, value: String(shown), size: 5, inputmode: "numeric", autocomplete: "off" }));
  const counts = [["", "as many as it takes"], ...Array.from({ length: pulls.most }, (_, k) => [k + 1, String(k + 1)])];
  const parts = [
    html("h2", { class: "standname" }, "Pull"),
    day,
    html("span", { class: "dayfrom" }, climate.said ? html("button", { type: "button", class: "link", edits: () => job.edit({ do: "set_pull", forget: ["temp_c"] }) }, "take the forecast") : climate.source),
    climate.thunder ? html("b", { class: "storm", role: "note" }, climate.thunder) : "",
    choice("climate", "Climate", climates.map((c) => [c.key, c.title]), climates.find((c) => c.title === climate.title)?.key),
    choice("puller", "What pulls", pullers.map((p) => [p.key, `${say(p.title)}, ${quantity(p.can, "force")}`]), said.puller),
    choice("pullers", "On the bar", counts, said.pullers ?? ""),
    html("a", { class: "tosheet", href: job.to("pull-sheet", { run: chosen, units: units() }) }, "Pull sheet"),
  ];
  at("pullask").replaceChildren(...parts);
}

at("pullask").addEventListener("change", ({ target }) => {
  const { name, value } = target;
  if (name === "climate") return job.edit({ do: "set_climate", climate: value });
  if (name === "puller") return job.edit({ do: "set_pull", puller: value });
  if (name === "pullers") return job.edit(value ? { do: "set_pull", pullers: Number(value) } : { do: "set_pull", forget: ["pullers"] });
  const typed = Number(value.replace("−", "-"));
  if (!value.trim() || !Number.isFinite(typed)) return tell(`“${value}” is not a temperature: write a number of degrees, like ${units() === "us" ? "55" : "12"}`, "wrong");
  return job.edit({ do: "set_pull", temp_c: units() === "us" ? (typed - 32) / 1.8 : typed });
});
at("pullask").addEventListener("submit", (event) => event.preventDefault());

// --- the season ----------------------------------------------------------------------------------------------------------
function season() {
  const { climate } = pulls;
  const slider = at("warm");
  [slider.min, slider.max] = [climate.coldest, climate.hottest];
  warm = Math.min(Math.max(warm, climate.coldest), climate.hottest);
  slider.value = warm;
  const [winter, summer] = [Math.min(...climate.night), Math.max(...climate.noon)];
  const stops = [["coldest on record", climate.coldest], ["usual winter night", winter], ["the day", climate.day], ["usual summer noon", summer], ["hottest on record", climate.hottest]];
  at("seasons").replaceChildren(...stops.map(([words, t]) => html("button", { type: "button", "aria-pressed": String(Math.abs(t - warm) < 0.01), onclick: () => setWarm(t) }, words)));
  said();
}

function said() {
  const now = run();
  if (!now || now.hand) return (at("warmsaid").textContent = warmth(warm));
  const nodes = nodesAt(now, warm);
  const [least, most] = [Math.min(...nodes.map((n) => n[1])), Math.max(...nodes.map((n) => n[1]))];
  const out = Math.max(...nodes.map((n) => n[2] ?? -1));
  const shares = out < 0 ? "" : `, at most ${quantity(out, "share")} of the curve out`;
  return (at("warmsaid").textContent = `${warmth(warm)}: ${now.name} ${most <= 0 ? "hangs slack" : `${quantity(least, "force")} to ${quantity(most, "force")}${shares}`}`);
}

function setWarm(t) {
  warm = t;
  at("warm").value = t;
  for (const b of at("seasons").children) b.setAttribute("aria-pressed", "false");
  if (strip.data) strip.data.tension = tension();
  strip.redraw("tension");
  said();
  if (open === "year" && run()) yearView(at("yearview"), run(), pulls.climate, warm);
}
at("warm").addEventListener("input", () => setWarm(Number(at("warm").value)));

// --- runs and what is known of them --------------------------------------------------------------------------------------
function showRuns() {
  at("runs").replaceChildren(...pulls.runs.map((r, k) => html("button", { class: r.ok ? "ok" : "bad", "aria-current": String(k === chosen), onclick: () => choose(k) }, `${r.name} · ${length(r.from, "station")} to ${length(r.to, "station")}`, html("small", { class: r.ok ? "" : "wrong" }, say(r.verdict)))));
  if (!pulls.runs.length) at("runs").replaceChildren(html("p", { class: "quiet pad" }, "Nothing is stretched on this line."));
}

async function take(way) {
  for (const edit of way.edits) if (!(await job.edit(edit))) return;
}

function wayRow(way) {
  const cost = [hours(way.minutes), way.splices && `${way.splices} splice${way.splices > 1 ? "s" : ""} more`, way.recut && "rolls cut anew", way.ends && `${way.ends} braced post${way.ends > 1 ? "s" : ""} more`].filter(Boolean).join(", ");
  const verb = way.ends ? "End it there" : "Pull it so";
  const act = way.taken ? html("b", {}, way.said ? "as you said" : "taken") : html("button", { class: "link", edits: () => take(way) }, verb);
  return html("tr", { class: way.taken ? "now" : "" }, html("th", { scope: "row" }, say(way.words)), html("td", { class: `num ${way.enough ? "yes" : "no"}` }, `${quantity(way.keeps, "share")}`), html("td", { class: "num" }, quantity(way.least, "force"), ...(way.left ? [html("small", {}, `curve left ${quantity(way.left[0], "share").replace(" %", "")} to ${quantity(way.left[1], "share")}`)] : [])), html("td", {}, cost), html("td", {}, act));
}

function waysPanel(r) {
  if (r.hand) return [html("p", {}, say(r.verdict), ".")];
  const heads = [...["Pulled", "Kept", "Least", "Takes"].map((t) => html("th", { scope: "col" }, t)), html("td", {})];
  const rows = [...r.ways].sort((a, b) => b.taken - a.taken || b.keeps - a.keeps).map(wayRow);
  const said_ = r.ways.find((w) => w.said);
  const forget = said_ ? [html("p", {}, html("button", { class: "link", edits: () => job.edit({ do: "pull_from", at_m: r.about, way: "" }) }, "Take the best again"))] : [];
  const bends = r.bends.length ? [html("p", { class: "quiet" }, "Drawn round ", r.bends.map((b) => `${quantity(b.deg, "angle")} at ${length(b.at, "station")}`).join(", "), ". Behind each bend and high some of the pull is gone.")] : [];
  return [
    html("div", { class: "tablebox" }, html("table", { class: "plain-table waystable" }, html("caption", {}, "Every way, once it is tied and let go"), html("thead", {}, html("tr", {}, ...heads)), html("tbody", {}, ...rows))),
    html("p", { class: "quiet" }, "Hours are from memory: some of an hour a pull, four for a braced post, minutes a wire for ends and splices."),
    ...forget,
    ...bends,
    ...r.advice.map((a) => html("p", { class: "advice" }, say(a))),
    ...(r.ok ? [] : [html("p", { class: "caution" }, !r.carries ? "The pullers are loaded beyond what they may carry: more of them, or stronger ones." : r.bends.length ? "Pulled so it leaves a part of the run slack. End the run at a bend, or splice it in the straight beyond." : "So short a run loses much of its pull as it is tied: end clips, or a splice in its middle, keep more of it.")]),
  ];
}

function orderPanel(r) {
  const rows = r.order.map((s) => html("li", {}, say(s.text), ...(s.caution ? [html("p", { class: "caution" }, say(s.caution))] : [])));
  const lay = r.laying.length ? [html("h2", {}, "Laid out before"), html("ul", { class: "parts" }, ...r.laying.map((s) => html("li", {}, say(s))))] : [];
  return [...lay, html("h2", {}, "In this order"), html("ol", { class: "worksteps" }, ...rows), html("p", {}, html("a", { href: job.to("pull-sheet", { run: chosen, units: units() }) }, "Sheet to print or carry"))];
}

function wireTable(r) {
  if (!r.wires.length) return [];
  const share = (v) => (v === null ? "straight" : quantity(v, "share"));
  const rows = r.wires.map((w) => html("tr", {}, html("th", { scope: "row" }, `${w.count} × ${(w.d * 1000).toFixed(2)} mm`), html("td", { class: "num" }, quantity(w.today, "force")), html("td", { class: "num" }, quantity(w.cold, "force")), html("td", { class: "num" }, quantity(w.hot, "force")), html("td", { class: "num" }, share(w.out[0])), html("td", { class: "num" }, share(w.out[1]))));
  return [html("table", { class: "plain-table" }, html("caption", {}, "A wire of each gauge, where it is pulled"), html("thead", {}, html("tr", {}, ...["Wire", "Today", "Coldest", "Hottest", "Curve out", "coldest"].map((t) => html("th", { scope: "col" }, t)))), html("tbody", {}, ...rows))];
}

function gearPanel(r) {
  const supports = r.supports.map((s) => html("tr", {}, html("th", { scope: "row" }, `Post ${s.name}`), html("td", { class: "num" }, length(s.at, "station")), html("td", { class: "num" }, length(s.travel, "gap")), html("td", { class: "num" }, String(s.moves))));
  return [
    ...(r.dummy.length ? [html("h2", {}, "The dummy brace, to scale"), html("p", { class: "quiet" }, `A loose post ${length(r.dummy[0].long, "station")} long, a cross member cut ${length(r.dummy[0].cut, "cut")}, shims; reused from pull to pull. At its foot it pushes ${quantity(r.dummy[0].foot, "force")} against its hole.`)] : [html("p", { class: "quiet" }, r.fabric && !r.hand ? "Drawn together in the middle: no dummy brace, both terminals carry it from the start." : "No dummy brace: drawn from the post itself.")]),
    html("p", { class: "quiet" }, `Tools: ${r.tools.join(", ")}.`),
    ...(pulls.moves.length > 1 ? [html("h2", {}, "One dummy brace, moved from pull to pull"), html("ol", { class: "parts" }, ...pulls.moves.map((m) => html("li", {}, `${m.name}, beyond the post at ${length(m.at, "station")}${m.carried ? `, carried ${length(m.carried, "station")}` : ""}`)))] : []),
    ...(supports.length ? [html("h2", {}, "Temporary supports"), html("p", { class: "quiet" }, "How far the fabric moves past each while it is drawn: what the wires take up between there and the fixed end."), html("table", { class: "plain-table" }, html("thead", {}, html("tr", {}, ...["At", "Station", "Travels", "Knots pass"].map((t) => html("th", { scope: "col" }, t)))), html("tbody", {}, ...supports))] : []),
  ];
}

function show() {
  showHead(job);
  chosen = Math.min(chosen, Math.max(0, pulls.runs.length - 1));
  ask();
  showRuns();
  strip.show({ ...job.drawing, tension: run() ? tension() : null });
  season();
  for (const name of TABS) {
    at(`tab-${name}`).setAttribute("aria-selected", String(name === open));
    at(`panel-${name}`).hidden = name !== open;
  }
  const r = run();
  const panel = at(`panel-${open}`);
  if (!r) return panel.replaceChildren();
  if (open === "ways") panel.replaceChildren(...waysPanel(r));
  if (open === "order") panel.replaceChildren(...orderPanel(r));
  if (open === "figures") panel.replaceChildren(html("dl", { class: "facts gatefacts" }, ...r.facts.map(factRow)), ...wireTable(r));
  if (open === "gear") {
    const [bar, cut] = [el("svg", { class: "barview", role: "img", "aria-label": "The end the bar is drawn from, to scale" }), el("svg", { class: "cutview", role: "img", "aria-label": "The end of the fabric: stays that are cut away for the tie, line wires that are not" })];
    panel.replaceChildren(bar, ...gearPanel(r), ...(r.rows.length > 2 ? [html("h2", {}, "Cut marks at an end"), cut, html("p", { class: "quiet" }, "Cut wrong? A line wire that was cut is spliced at once, with a piece of the same wire and two sleeves, before the bar is on.")] : []));
    barView(bar, r);
    cutView(cut, r);
  }
  if (open === "year") {
    const node = el("svg", { id: "yearview", class: "yearview", role: "img", "aria-label": "Least pull through the year" });
    panel.replaceChildren(html("h2", {}, "The least pull of the run, month by month"), node, html("p", { class: "quiet" }, "Pale: from the coldest night to the hottest day on record; dark: from a usual night to a usual noon. The line is the season you slid to."), ...(r.hand ? [] : [html("p", {}, `The first year takes about ${quantity(r.relax, "share")} of it besides: knots bed in, posts settle. Go round it before the first winter and after it.`)]));
    yearView(node, r, pulls.climate, warm);
  }
  return null;
}

function choose(k) {
  chosen = k;
  show();
  at("runs").children[k]?.scrollIntoView({ block: "nearest" });
  const r = run();
  if (r) strip.reveal((r.from + r.to) / 2);
}

function showTable() {
  const rows = pulls.runs.map((r) => html("tr", {}, html("th", { scope: "row" }, r.name), html("td", { class: "num" }, length(r.from, "station")), html("td", { class: "num" }, length(r.to, "station")), html("td", { class: "num" }, r.hand ? "by hand" : quantity(r.pull, "force")), html("td", { class: "num" }, r.hand ? "" : quantity(Math.min(...nodesAt(r, warm).map((n) => n[1])), "force"))));
  at("table").replaceChildren(html("table", { class: "plain-table" }, html("thead", {}, html("tr", {}, ...["Pull", "From", "To", "Pulled to", `Least at ${warmth(warm)}`].map((t) => html("th", { scope: "col" }, t)))), html("tbody", {}, ...rows)));
}

for (const name of TABS) {
  at(`tab-${name}`).addEventListener("click", () => {
    open = name;
    history.replaceState(null, "", `#${name}`);
    show();
  });
}
for (const button of document.querySelectorAll("[data-zoom]")) button.addEventListener("click", () => (button.dataset.zoom === "all" ? strip.look(0, job.drawing.length) : strip.zoom(button.dataset.zoom === "in" ? 0.5 : 2, strip.cursor ?? undefined)));
at("scale").addEventListener("click", () => {
  strip.exaggerate = !strip.exaggerate;
  strip.draw();
});
strip.addEventListener("drawn", () => (at("scale").textContent = strip.scaleWords));
strip.addEventListener("cursor", (event) => strip.setCursor(event.detail));
strip.addEventListener("choose", ({ detail }) => {
  const s = detail.post !== undefined ? job.drawing.posts[detail.post].s : detail.bay !== undefined ? job.drawing.bays[detail.bay].from + 0.01 : null;
  const k = s === null ? -1 : pulls.runs.findIndex((r) => r.what === run()?.what && r.from - 1e-6 <= s && s <= r.to + 1e-6);
  if (k >= 0) choose(k);
});
document.querySelector(".same").addEventListener("toggle", (event) => event.target.open && showTable());

job.follow("pulls", tell, (now) => {
  if (now) [pulls, warm] = [now, now.climate.day];
  show();
});
head(job, {
  units: show,
  own: ({ key }) => {
    const keys = { ArrowLeft: () => choose(Math.max(0, chosen - 1)), ArrowRight: () => choose(Math.min(pulls.runs.length - 1, chosen + 1)), "+": () => strip.zoom(0.5), "-": () => strip.zoom(2), 0: () => strip.look(0, job.drawing.length) };
    keys[key]?.();
    return key in keys;
  },
});
addEventListener("resize", () => ["gear", "year"].includes(open) && show());
const [place, where] = location.hash.slice(1).split("=");
if (TABS.includes(place)) open = place;
if (place === "at") chosen = Math.max(0, pulls.runs.findIndex((r) => r.from - 0.5 <= Number(where) && Number(where) <= r.to + 0.5));
else chosen = Math.max(0, [(r) => !r.ok && r.fabric, (r) => !r.ok, (r) => !r.hand, () => true].map((is) => pulls.runs.findIndex(is)).find((k) => k >= 0) ?? 0);
show();
document.body.dataset.ready = "yes";
