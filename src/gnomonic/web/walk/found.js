// What is on the line: a form to note it by stations or by its places on the plan, and the list with what it does.
import { edits, html } from "../static/svg.js";
import { length, say } from "../static/units.js";

const GROUPS = { hazard: "Hazards", service: "Services", ground: "Ground", structure: "Structures", side: "Beside it", figure: "Figures" };
const typed = { kind: "rock", name: "", from: "", to: "", zone: "", side: "", count: "" };

function field(id, words, ...inputs) {
  return [html("label", { for: id }, words), html("div", { class: "two-in" }, ...inputs)];
}

function input(id, key, words, size) {
  const made = html("input", { id, "aria-label": words, value: typed[key], autocomplete: "off", ...(size ? { size } : {}) });
  made.addEventListener("input", () => (typed[key] = made.value));
  made.addEventListener("keydown", (event) => event.stopPropagation());
  return made;
}

function chooser(page, again) {
  const select = html("select", { id: "find-kind" });
  for (const [group, title] of Object.entries(GROUPS)) {
    const options = Object.entries(page.kinds).filter(([, k]) => k.group === group);
    if (options.length) select.append(html("optgroup", { label: title }, ...options.map(([key, k]) => html("option", { value: key, selected: key === typed.kind }, k.title))));
  }
  select.addEventListener("change", () => {
    typed.kind = select.value;
    again();
  });
  return select;
}

export function showFound(pane, page) {
  const kind = page.kinds[typed.kind];
  const again = () => showFound(pane, page);
  const onPlan = page.shape.length;
  const side = html("select", { id: "find-side", "aria-label": "Side of the line" }, ...[["", "on the line"], ["left", "left of it"], ["right", "right of it"]].map(([v, w]) => html("option", { value: v, selected: v === typed.side }, w)));
  side.addEventListener("change", () => (typed.side = side.value));
  const add = async () => {
    const edit = { do: "add_found", kind: typed.kind, name: typed.name, side: typed.side };
    if (onPlan) edit.shape = page.shape;
    else Object.assign(edit, { from_m: typed.from || length(page.station ?? 0, "station"), to_m: typed.to || typed.from || length(page.station ?? 0, "station") });
    if (typed.zone) edit.zone_m = typed.zone;
    if (typed.count) edit.count = Number(typed.count);
    if (await page.edit(edit)) {
      Object.assign(typed, { name: "", from: "", to: "", zone: "", count: "" });
      page.shape = [];
      page.mode("mend");
      again();
    }
  };
  const places = onPlan
    ? [html("span", {}, `${onPlan} place${onPlan === 1 ? "" : "s"} on the plan `), html("button", { type: "button", class: "link", onclick: () => ((page.shape = []), page.mode("note")) }, "begin again")]
    : [input("find-from", "from", "From station", 9), "to", input("find-to", "to", "To station", 9), html("button", { type: "button", class: "link", onclick: () => page.mode("note") }, "or on the plan")];
  const form = html("form", { class: "findform" },
    ...field("find-kind", "Found", chooser(page, again)),
    ...field("find-name", "Called", input("find-name", "name", "Its name")),
    ...field("find-from", "Where", ...places),
    ...field("find-side", "Side", side),
    ...(kind.group === "side" || kind.group === "figure" ? [] : field("find-zone", "Keep clear by", input("find-zone", "zone", "No post within", 9), html("span", { class: "quiet" }, `${length(kind.zone, "cut")} unless you say`))),
    ...(typed.kind === "tree" ? field("find-count", "How many", input("find-count", "count", "Trees", 5)) : []),
    html("span", {}), html("button", { class: "btn btn-work" }, "Note it"));
  edits(form, add);
  const items = page.walk.list.map((f) => html("li", { class: f.group },
    html("b", {}, f.title), ` ${say(f.where)} `,
    f.id.startsWith("m") ? html("span", { class: "quiet" }, "as marked") : html("button", { class: "link", "aria-label": `Take back: ${f.title}`, edits: () => page.edit({ do: "remove_found", id: f.id }) }, "take back"),
    f.caution ? html("span", { class: "consequence" }, say(f.caution)) : ""));
  pane.replaceChildren(
    form,
    html("p", { class: "quiet" }, say(kind.reason).replace(/^./, (c) => c.toUpperCase()) + "."),
    html("h2", {}, items.length ? `${items.length} on the line` : "Nothing noted yet"),
    items.length ? html("ul", { class: "finds" }, ...items) : html("p", { class: "quiet" }, "Walk the line first: services, rock, roots, trees, water, wet ground, fences, what lies on each side, and what could hurt somebody."),
  );
}
