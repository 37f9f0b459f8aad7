// Hold: who is on each side, what that demands, and the barriers that do it.
import { head, showHead } from "../static/head.js";
import { JobState, speaking } from "../static/job.js";
import { edits, el, html, looks } from "../static/svg.js";
import { quantity, say } from "../static/units.js";
import { why } from "../static/why.js";
import { showBarrier, showNow } from "./barrier.js";
import { drawSection } from "./section.js";

const at = (id) => document.getElementById(id);
const read = (id) => JSON.parse(at(id).textContent);
const words = read("words");
const job = new JobState(read("state"), read("drawing"));
const tell = speaking(at("said"), job);
const page = { job, words, state: read("hold"), looked: 0, tell };
const GROUPS = { stock: "stock", yard: "yard and house", wild: "wild", fauna: "small fauna" };

const sayHold = (changes) => job.edit({ do: "say_hold", hold: { ...page.state.hold, ...changes } });

function presence(p, k) {
  const { animals, behaviours } = words;
  const kind = animals[p.animal];
  const change = (next) => sayHold({ animals: page.state.hold.animals.map((a, n) => (n === k ? next : a)) });
  const learnt = html("select", { class: "also", "aria-label": `What the ${kind?.title ?? p.animal} also do` }, html("option", { value: "" }, p.also.length ? "and…" : "that also…"));
  for (const [key, title] of Object.entries(behaviours)) if (!p.also.includes(key)) learnt.append(html("option", { value: key }, title));
  edits(learnt, () => change({ ...p, also: [...p.also, learnt.value] }));
  const also = p.also.map((key) => looks ? html("span", { class: "alsoword" }, behaviours[key] ?? key) : html("button", { class: "alsoword", title: "Take this back", "aria-label": `Take back: ${behaviours[key]}`, edits: () => change({ ...p, also: p.also.filter((a) => a !== key) }) }, behaviours[key] ?? key));
  const away = html("button", { class: "away", "aria-label": `Take ${kind?.title ?? p.animal} away`, edits: () => sayHold({ animals: page.state.hold.animals.filter((_, n) => n !== k) }) }, "×");
  return html("li", {}, html("b", {}, kind?.title ?? p.animal), ...also, ...(looks ? [] : [learnt, away]));
}

function side(name) {
  const here = page.state.hold.animals.map((p, k) => [p, k]).filter(([p]) => p.side === name);
  const add = html("select", { class: "add", "aria-label": `Add who is on the ${name}` }, html("option", { value: "" }, here.length ? "add…" : "who is here?"));
  for (const [group, title] of Object.entries(GROUPS)) {
    const options = Object.entries(words.animals).filter(([, a]) => a.group === group);
    add.append(html("optgroup", { label: title }, ...options.map(([key, a]) => html("option", { value: key }, a.title))));
  }
  edits(add, () => sayHold({ animals: [...page.state.hold.animals, { animal: add.value, side: name, also: [] }] }));
  return html("div", { class: `side ${name}` }, html("h3", {}, name === "left" ? "On the left of the line" : "On the right"), html("ul", {}, ...here.map(([p, k]) => presence(p, k)), ...(looks ? [] : [html("li", { class: "adder" }, add)])));
}

function terms() {
  const { hold } = page.state;
  const years = html("input", { class: "inplace", size: 3, value: hold.years ? String(hold.years) : "—", "aria-label": "Years it must last", autocomplete: "off" });
  edits(years, () => {
    const typed = Number(years.value.trim());
    sayHold({ years: Number.isFinite(typed) && typed >= 0 ? typed : 0 });
  });
  const tick = (on, text, change) => {
    const input = html("input", { type: "checkbox", checked: on });
    edits(input, () => change(input.checked));
    return html("label", { class: "tick" }, input, text);
  };
  const never = (what) => tick(hold.never.includes(what), `no ${what}`, (on) => sayHold({ never: on ? [...hold.never, what] : hold.never.filter((n) => n !== what) }));
  const only = html("select", { class: "inplace", "aria-label": "Sort of barrier" });
  for (const [value, text] of [["", "any sort"], ["mesh", "mesh only"], ["wires", "plain wires only"], ["barbs", "barbed wire only"]]) only.append(html("option", { value, selected: value === hold.only }, text));
  edits(only, () => sayHold({ only: only.value }));
  at("terms").replaceChildren("For ", years, " years, ", only, ". ", tick(hold.visible, "easily seen", (on) => sayHold({ visible: on })), never("barbs"), never("plastic"));
}

const whyOf = (row) => why(row.title, html("p", {}, say(row.reason)), html("p", { class: "source" }, say(row.source)));

function demands() {
  const { demands: rows, refused } = page.state;
  if (refused) return at("demands").replaceChildren(html("p", { class: "refusal", role: "alert" }, refused));
  if (!rows.length) return at("demands").replaceChildren(html("p", { class: "quiet" }, "Nothing is demanded yet. Say who is on either side, and the demands stand here, each with who set it."));
  const list = rows.map((row) => {
    const [open, more] = whyOf(row);
    return html("div", { class: "fact" }, html("dt", {}, row.title), html("dd", {}, say(row.text), html("span", { class: "by" }, ` ${row.by}`), " ", open), html("dd", { class: "whole" }, more));
  });
  at("demands").replaceChildren(html("dl", { class: "facts" }, ...list));
}

const hangs = (c) => {
  const { barrier } = page.state;
  const same = (a, b) => JSON.stringify([...a].sort()) === JSON.stringify([...b].sort());
  return c.edit.system === barrier.system && c.edit.label === barrier.label && same(c.edit.extras, barrier.extras) && same(c.edit.strands_m ?? [], barrier.strands_m);
};

const named = (c) => JSON.stringify([c.edit.system, c.edit.label, c.edit.extras, c.edit.strands_m ?? []]);

// What a barrier has to spare over each demand, or what it lacks: a line each.
function spare(c, meets) {
  if (!meets) return html("span", { class: "spare flagtext" }, ...c.verdicts.filter((v) => !v.ok).map((v) => html("span", {}, `${v.title}: ${say(v.given)}, wanted ${say(v.wanted)}`)));
  const rows = c.verdicts.filter((v) => v.ok && v.margin !== null);
  return html("span", { class: "spare" }, ...rows.map((v) => html("span", {}, html("span", { class: "quiet" }, v.title.toLowerCase()), " ", quantity(Math.max(0, v.margin), "gap"))));
}

function row(c, k, meets) {
  const drawing = el("svg", { class: "little-section", "aria-hidden": "true" });
  const what = html("span", { class: "what" }, html("strong", {}, c.section.label + c.mends.map((m) => `, ${say(m)}`).join("")), html("span", { class: "sort" }, c.section.title));
  const figure = (value, unit, words) => html("span", { class: "figure" }, html("b", {}, String(value)), html("span", { class: unit ? "quiet" : "visually-hidden" }, unit ? ` ${unit}` : ` ${words}`));
  const button = html("button", { class: `barrier-row${meets ? "" : " near"}`, "data-row": String(k), onclick: () => look(k) }, drawing, what, figure(c.cost, "", "cost"), figure(c.labour, "", "work"), figure(c.life, "years"), spare(c, meets));
  if (hangs(c)) button.classList.add("hung");
  return [html("li", {}, button), () => drawSection(drawing, c.section, { small: true })];
}

// How the list is ordered, as rank.py orders it.
function order() {
  const { years } = page.state;
  const first = years ? `First is what costs and takes least, counted alike, over the ${years} years asked; what is done before is built again.` : "First is what costs and takes least to build once, counted alike; say for how many years, and what is done before is built again.";
  return page.state.near.length ? `${first} Near misses stand nearest first: how far each demand is missed, and how hard that is to mend.` : first;
}

page.all = () => [...page.state.meets, ...page.state.near];

function ranking() {
  const { meets, near, refused, meets_count: count, others_count: others, demands: rows } = page.state;
  if (refused) return at("ranking").replaceChildren(html("h2", {}, "Nothing can do both"), html("p", { class: "quiet" }, "Take one of them back, and what does it stands here."));
  const says = rows.length ? `${count} barrier${count === 1 ? " does" : "s do"} it` : `${count} barriers: nothing is asked of them yet`;
  const column = (text, unit, title) => html("span", { class: "figure", title }, text, html("span", { class: "quiet" }, unit));
  const head = html("div", { class: "rankhead" }, html("h2", {}, says), column("Cost", "9-49-6 = 100", "Material a metre"), column("Work", "9-49-6 = 100", "Work a metre"), column("Life", "of the first part to go", "Years"), html("span", { class: "spare" }, "To spare"));
  const draws = [];
  const list = (candidates, from, good) => html("ol", { class: "barriers" }, ...candidates.map((c, k) => {
    const [item, draw] = row(c, from + k, good);
    draws.push(draw);
    return item;
  }));
  const parts = [head, list(meets, 0, true)];
  if (!meets.length) parts.push(html("p", { class: "quiet" }, "No barrier on file does all of it. The nearest stand below with what they lack."));
  if (near.length) parts.push(html("h2", { class: "nextpart" }, "Near misses"), list(near, meets.length, false));
  if (others) parts.push(html("p", { class: "quiet" }, `${others} more fail more than three demands, or are of another sort.`));
  parts.push(html("p", { class: "quiet" }, `Cost and work are indices a metre on this ground: 100 is a 9-49-6 woven line. ${order()}`));
  at("ranking").replaceChildren(...parts);
  for (const draw of draws) draw();
}

function look(k, scroll = true) {
  const all = page.all();
  page.looked = k === null ? null : Math.min(Math.max(k, 0), all.length - 1);
  for (const node of document.querySelectorAll("[data-row]")) node.setAttribute("aria-current", String(Number(node.dataset.row) === page.looked));
  const c = page.looked === null ? null : all[page.looked];
  page.name = c ? named(c) : "";
  if (c) showBarrier(at("barrier"), page, c, hangs(c), whyOf);
  else showNow(at("barrier"), page, whyOf);
  if (scroll) document.querySelector(`[data-row="${page.looked}"]`)?.scrollIntoView({ block: "nearest" });
}
page.look = look;

function show(first = false) {
  showHead(job);
  at("sides").replaceChildren(side("left"), html("div", { class: "theline", "aria-hidden": "true" }), side("right"));
  terms();
  demands();
  ranking();
  const own = page.all().findIndex(hangs);
  const same = page.all().findIndex((c) => named(c) === page.name);
  look(!first && !page.follow && same >= 0 ? same : own >= 0 ? own : null, !first || innerWidth > 700); // on a phone the page opens at its top
  page.follow = false;
}

job.follow("hold", tell, (state) => {
  page.state = state ?? page.state;
  show();
});
job.addEventListener("refused", () => show());

head(job, {
  units: () => show(),
  own: (event) => {
    const way = { ArrowDown: (page.looked ?? -1) + 1, ArrowUp: (page.looked ?? 1) - 1 }[event.key];
    if (way !== undefined) look(way);
    return way !== undefined;
  },
});
show(true);
document.body.dataset.ready = "yes";
