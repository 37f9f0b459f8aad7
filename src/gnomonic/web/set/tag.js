// The side panel: the tag of what is selected with its whys, or the rolls, or what to take out.
import { el, html } from "../static/svg.js";
import { length, quantity, say, units } from "../static/units.js";
import { drawFittings } from "../hold/section.js";
import { why } from "../static/why.js";
import { stockName } from "./lanes.js";

function factRow(fact) {
  const { rule, working, other, source } = fact.why;
  const also = other ? [html("p", { class: "other" }, say(other))] : [];
  const [open, more] = why(fact.name, html("p", {}, html("b", {}, say(rule))), html("p", {}, say(working)), ...also, html("p", { class: "source" }, say(source)));
  return html("div", { class: "fact" }, html("dt", {}, fact.name), html("dd", {}, say(fact.value), " ", open), ...(fact.note ? [html("dd", { class: "note" }, say(fact.note))] : []), more);
}

const hours = (minutes) => (minutes < 50 ? `${Math.max(5, Math.round(minutes / 5) * 5)} min` : `${(Math.round(minutes / 30) / 2).toFixed(1).replace(".0", "").replace(".5", "½").replace(/^0½/, "½")} h`);

// How long a step takes one person on easy ground, and who it wants.
function takes(step) {
  if (!step.minutes[1]) return "";
  const [least, usual, most] = step.minutes.map(hours);
  const crew = step.crew > 1 ? ", never alone" : "";
  const wait = step.wait ? ` Then ${step.wait.days} days: ${say(step.wait.why)}.` : "";
  return html("span", { class: "quiet takes", title: `${say(step.reason)} (${step.source})` }, ` One person’s work: about ${usual}, ${least} to ${most}${crew}.${wait}`);
}

// The work in order, with this job's numbers.
export function stepsList(steps) {
  const rows = steps.map((s) => html("li", {}, say(s.text), takes(s), ...(s.caution ? [html("p", { class: "caution" }, say(s.caution))] : [])));
  return html("ol", { class: "worksteps" }, ...rows);
}

function fittingsFigure(tag, post, section) {
  const node = el("svg", { class: "fitfigure", role: "img", "aria-label": `${tag.title} with what is put on it, in order; the list says the same` });
  return [node, () => drawFittings(node, post, tag.fittings, section)];
}

export function showTag(panel, tag, actions, post, section) {
  const head = html("div", { class: "taghead" }, html("h2", {}, tag.title));
  if (tag.station_m !== null) head.append(html("p", { class: "station" }, length(tag.station_m, "station")));
  const facts = html("dl", { class: "facts" }, ...tag.facts.map(factRow));
  const [figure, draw] = post && tag.fittings.length ? fittingsFigure(tag, post, section) : [null, null];
  panel.replaceChildren(head, ...(figure ? [figure] : []), facts, ...tag.cautions.map((c) => html("p", { class: "caution" }, say(c))), ...actions);
  draw?.();
}

export function showLoading(panel, title) {
  panel.replaceChildren(html("div", { class: "taghead" }, html("h2", {}, title)), html("p", { class: "quiet" }, "Looking it up…"));
}

// A small form of one to three typed values and a button.
export function action(words, fields, run, verb) {
  const form = html("form", { class: "action" }, html("span", {}, words));
  const inputs = {};
  for (const [name, aria, value, size, lead] of fields) {
    if (lead) form.append(html("span", {}, lead));
    inputs[name] = html("input", { class: "inplace", "aria-label": aria, value, size: size ?? Math.max(6, value.length), autocomplete: "off" });
    inputs[name].addEventListener("keydown", (event) => event.stopPropagation());
    form.append(inputs[name]);
  }
  form.append(html("button", { class: "btn btn-quiet" }, verb));
  form.addEventListener("submit", (event) => {
    event.preventDefault();
    run(Object.fromEntries(Object.entries(inputs).map(([k, v]) => [k, v.value])));
  });
  return form;
}

export function showRolls(panel, data, choose) {
  const order = [html("h3", { class: "nextpart" }, "The work in order"), stepsList(data.steps)];
  if (!data.fabric.layers.length) return panel.replaceChildren(html("div", { class: "taghead" }, html("h2", {}, `${data.fabric.strands.length} strands, no rolls`)), ...order);
  const rows = data.pieces.map((p) => html("tr", {}, html("td", {}, stockName(p.stock), html("span", { class: "quiet" }, p.opened ? ` opened on ${p.opened}` : "", p.rest ? ` its rest to ${p.rest}` : "")), html("td", {}, `run ${p.run + 1}`), html("td", { class: "num" }, length(p.length, "station")), html("td", { class: "num" }, length(p.from, "station"))));
  const splices = data.splices.map((s, k) => html("li", {}, html("button", { class: "link", onclick: () => choose({ splice: k }) }, `Splice ${k + 1} at ${length(s.at, "station")}`), `, ${length(s.clear, "cut")} clear of the nearest post`));
  panel.replaceChildren(
    html("div", { class: "taghead" }, html("h2", {}, `${data.rolls.new} roll${data.rolls.new === 1 ? "" : "s"}, ${data.splices.length} splice${data.splices.length === 1 ? "" : "s"}`)),
    html("p", { class: "quiet" }, data.rolls.proven.new_rolls && data.rolls.proven.splices ? "No layout does with fewer of either." : "The best found in the time allowed; see the whole line’s tag for the bounds.", ` Longest offcut kept ${length(data.rolls.longest, "station")}.`),
    ...(data.rolls.over.length > 1 ? [html("p", { class: "quiet" }, `Cut together with ${data.rolls.over.filter((n) => n !== data.name).join(", ")}: ${data.rolls.whole} rolls in all; ${data.rolls.new} of them opened here.`)] : []),
    html("ul", { class: "plainlist" }, ...splices),
    html("table", { class: "plain-table" }, html("thead", {}, html("tr", {}, ...["Piece of", "In", "Cut", "From"].map((h, k) => html("th", { scope: "col", class: k > 1 ? "num" : "" }, h)))), html("tbody", {}, ...rows)),
    ...order,
  );
}

export function showHaul(panel, data, job) {
  const system = units();
  const files = [["print", "Sheet to print"], ["stake-out.csv", "Stake-out, CSV"], ["take-off.csv", "Take-off, CSV"], ["job.json", "The Job, JSON"], ["line.geojson", "Line and posts, GeoJSON"], ["posts.gpx", "Posts, GPX"]];
  const rows = data.takeoff.map((i) => html("tr", {}, html("td", {}, say(i.name), html("span", { class: "quiet" }, ` ${say(i.where)}`)), html("td", { class: "num" }, quantity(i.count, { m: "station", m3: "volume" }[i.unit] ?? "count"))));
  panel.replaceChildren(
    html("div", { class: "taghead" }, html("h2", {}, "Take-off")),
    html("p", { class: "files" }, ...files.map(([path, words]) => html("a", { href: job.to(path, { units: system }) }, words))),
    html("table", { class: "plain-table" }, html("tbody", {}, ...rows)),
  );
}
