// The barrier looked at: to scale, against each demand, its tools, its schools, and the button that hangs it.
import { edits, el, html } from "../static/svg.js";
import { length, say } from "../static/units.js";
import { drawSection } from "./section.js";

const figure = (section) => el("svg", { class: "section", role: "img", "aria-label": `${section.title}, ${section.label}, to scale: ${length(section.clear + section.top, "cut")} high` });

function verdicts(rows, why) {
  if (!rows.length) return [];
  const list = rows.map((v) => {
    const [open, more] = why(v);
    return html("tr", { class: v.ok ? "" : "fails" }, html("td", { class: "does" }, v.ok ? "✓" : "✗", html("span", { class: "visually-hidden" }, v.ok ? "meets" : "fails")), html("th", { scope: "row" }, v.title, html("span", { class: "by" }, ` ${v.by}`)), html("td", {}, say(v.given), html("span", { class: "quiet" }, ` for ${say(v.wanted)} `), open, more));
  });
  return [html("table", { class: "plain-table verdicts" }, html("caption", {}, "Against each demand"), html("tbody", {}, ...list))];
}

function schools(page, system) {
  const { job, words, state } = page;
  return (words.schools[system] ?? []).map((school) => {
    const chosen = state.barrier.schools[school.key] ?? school.ways[0].key;
    const rows = school.ways.map((way, k) => {
      const input = html("input", { type: "radio", name: school.key, checked: way.key === chosen });
      edits(input, () => job.edit({ do: "choose_way", school: school.key, way: way.key }));
      return html("label", { class: "way" }, input, html("span", {}, say(way.title), k === 0 ? " (the usual)" : "", html("span", { class: "quiet" }, ` ${say(way.reason)}`)));
    });
    return html("fieldset", { class: "school" }, html("legend", {}, school.question), ...rows);
  });
}

// What can be added by hand, each with what it does to the plan.
function extras(page, system) {
  const { job, words, state } = page;
  const now = state.barrier.extras;
  const hung = job.drawing.fabric.strands.map((s) => s.key);
  const rows = (words.extras[system] ?? []).filter((e) => now.includes(e.key) || !hung.includes(e.strand) || e.strand === "barbed").map((e) => {
    const on = now.includes(e.key);
    const edit = { do: "hang_barrier", ...state.barrier, extras: on ? now.filter((k) => k !== e.key) : [...now, e.key] };
    const input = html("input", { type: "checkbox", name: e.key, checked: on });
    edits(input, () => ((page.follow = true), job.edit(edit)));
    const adds = html("span", { class: "price" }, "");
    job.call("weigh", { edit }).then((answer) => answer.ok && (adds.textContent = `${on ? "without" : "with"} it: ${say(answer.body.said)}`));
    return html("label", { class: "way" }, input, html("span", {}, say(e.title), html("span", { class: "quiet" }, ` ${say(e.reason)} `), adds));
  });
  return rows.length ? [html("fieldset", { class: "school extras" }, html("legend", {}, "Added to it"), ...rows)] : [];
}

// What the two indices go into.
function weighed(candidate) {
  const rows = (parts) => parts.map(([name, value]) => html("tr", {}, html("th", { scope: "row" }, name), html("td", { class: "num" }, value < 1 ? "under 1" : String(value))));
  const table = (title, parts, sum) => html("table", { class: "plain-table" }, html("caption", {}, `${title} ${sum}`), html("tbody", {}, ...rows(parts)));
  return html("details", { class: "weighed" }, html("summary", {}, `Why cost ${candidate.cost} and work ${candidate.labour}`), html("p", { class: "quiet" }, "A metre of it beside a metre of 9-49-6 woven fabric on the same ground, which is 100. Prices of items are indices of the catalog, minutes are in the rule book: they rank, they are no price. Its life is that of the first part to go."), html("div", { class: "two-tables" }, table("Cost", candidate.parts, candidate.cost), table("Work", candidate.work_parts, candidate.labour)));
}

function sides(page) {
  const { job, state } = page;
  const select = html("select", { class: "inplace", "aria-label": "Side of the posts it hangs on" });
  for (const [value, text] of [["", "not said"], ["left", "left of the line"], ["right", "right of the line"]]) select.append(html("option", { value, selected: value === state.barrier.side }, text));
  edits(select, () => job.edit({ do: "hang_barrier", ...state.barrier, side: select.value }));
  return html("fieldset", { class: "school" }, html("legend", {}, "Side of the posts it hangs on"), select);
}

function shared(page) {
  const { job, state } = page;
  if (state.closed || !state.others.length) return [];
  return [html("fieldset", { class: "school" }, html("legend", {}, "Ends that stand on another line’s post"), ...["start", "end"].map((end) => {
    const now = state.shared.find((s) => s.at === end)?.of ?? "";
    const select = html("select", { class: "inplace", "aria-label": `Post at the ${end}` }, html("option", { value: "" }, "its own post"));
    for (const name of new Set([...state.others, ...(now ? [now] : [])])) select.append(html("option", { value: name, selected: name === now }, name));
    edits(select, () => job.edit({ do: "share_post", at: end, of: select.value }));
    return html("label", { class: "way" }, html("span", {}, end === "start" ? "At the start: " : "At the end: ", select));
  }))];
}

export function showBarrier(panel, page, candidate, hung, why) {
  const { section } = candidate;
  const drawing = figure(section);
  const hang = html("button", { class: "btn btn-work", id: "hang", disabled: hung, edits: () => ((page.follow = true), page.job.edit({ side: page.state.barrier.side, ...candidate.edit })) }, hung ? "Hangs on this line" : "Hang this on the line");
  panel.replaceChildren(
    html("div", { class: "taghead" }, html("h2", {}, section.title), hang),
    html("p", { class: "quiet" }, [section.label, ...candidate.mends.map(say)].join(", ")),
    drawing,
    ...verdicts(candidate.verdicts, why),
    sides(page),
    ...(hung ? [...extras(page, section.system), ...shared(page), ...schools(page, section.system)] : []),
    weighed(candidate),
    ...candidate.notes.map((n) => html("p", { class: "note" }, say(n))),
    html("p", {}, html("b", {}, "Tools "), candidate.tools.map(say).join(", ")),
  );
  drawSection(drawing, section, { side: page.state.barrier.side });
}

// What hangs now, where it is not among those ranked.
export function showNow(panel, page, why) {
  const section = page.job.drawing.fabric;
  const drawing = figure(section);
  panel.replaceChildren(html("div", { class: "taghead" }, html("h2", {}, `${section.title}, as it hangs now`)), html("p", { class: "quiet" }, [section.label, ...section.extras.map(say)].join(", ")), drawing, ...verdicts(page.state.now, why), sides(page), ...extras(page, section.system), ...shared(page), ...schools(page, section.system));
  drawSection(drawing, section, { side: page.state.barrier.side });
}
