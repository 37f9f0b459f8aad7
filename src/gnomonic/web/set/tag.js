// The tag of what is selected: its drawing, its values with their whys, its cautions.
import { edits, el, html } from "../static/svg.js";
import { length, say } from "../static/units.js";
import { drawFittings } from "../hold/section.js";
import { why } from "../static/why.js";

export function factRow(fact) {
  const { rule, working, other, source } = fact.why;
  const also = other ? [html("p", { class: "other" }, say(other))] : [];
  const [open, more] = why(fact.name, html("p", {}, html("b", {}, say(rule))), html("p", {}, say(working)), ...also, html("p", { class: "source" }, say(source)));
  return html("div", { class: "fact" }, html("dt", {}, fact.name), html("dd", {}, say(fact.value), " ", open), ...(fact.note ? [html("dd", { class: "note" }, say(fact.note))] : []), html("dd", { class: "whole" }, more));
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
  return edits(form, () => run(Object.fromEntries(Object.entries(inputs).map(([k, v]) => [k, v.value]))));
}
