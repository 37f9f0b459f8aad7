// How an end is to be braced: the choice, and the ways side by side.
import { edits, html, looks } from "../static/svg.js";
import { quantity, units } from "../static/units.js";

const KINDS = [["", "as usual here"], ["h", "H-brace"], ["strut", "diagonal strut"], ["box", "box stay, long top rail"], ["welded", "welded pipe"], ["deadman", "wire to a buried log"], ["boards", "breast boards"], ["none", "its post alone"]];
const TIES = [["", "as usual"], ["mid", "to mid-strut"], ["foot", "to its foot"], ["none", "none"]];
const LAYS = [["", "level where it fits"], ["level", "level"], ["ground", "along the ground"]];
const BARE = () => (units() === "us" ? "ft" : "m");
const PANELLED = ["h", "box", "welded"];

const pick = (name, value, options) => html("select", { class: "form-select", name }, ...options.map(([key, words]) => html("option", { value: key, selected: key === (value ?? "") }, words)));

// The form of one end; fields that its kind does not have are left out.
export function askForm(end, job, stand) {
  const ask = end.ask;
  const form = html("form", { class: "askbrace", "aria-label": `How ${end.name} is braced` });
  const field = (words, control) => form.append(html("label", {}, words, control));
  field("Brace", pick("kind", ask.kind, KINDS));
  const kind = () => form.elements.kind.value || end.kind;
  if (PANELLED.includes(end.kind)) {
    field("Panels", pick("panels", ask.panels ? String(ask.panels) : "", [["", "as decided"], ["1", "1"], ["2", "2"], ["3", "3"]]));
    field("Post centres", html("input", { class: "form-control", name: "spacing_m", value: ask.spacing_m ? quantity(ask.spacing_m, "station") : "", placeholder: quantity(end.panels?.[0]?.level ?? 2.44, "station"), autocomplete: "off" }));
    field("Rail lies", pick("lay", ask.lay, LAYS));
  }
  if (end.kind === "strut") {
    field("Angle, 30 to 60°", html("input", { class: "form-control", name: "angle_deg", value: ask.angle_deg ?? "", placeholder: Math.round(end.angle), inputmode: "numeric" }));
    field("Tie", pick("tie", ask.tie, TIES));
    field("Struts on the", pick("side", ask.side, [["", "line"], ["left", "left"], ["right", "right"]]));
  }
  const take = (everywhere) => {
    const edit = { do: "brace_end", bare: BARE(), kind: form.elements.kind.value };
    if (!everywhere) Object.assign(edit, { at_m: end.at, ahead: end.ahead });
    for (const name of ["lay", "tie", "side", "spacing_m"]) if (form.elements[name]?.value) edit[name] = form.elements[name].value;
    if (!PANELLED.includes(kind())) delete edit.spacing_m;
    if (form.elements.panels?.value && PANELLED.includes(kind())) edit.panels = Number(form.elements.panels.value);
    if (form.elements.angle_deg?.value && kind() === "strut") edit.angle_deg = Number(form.elements.angle_deg.value);
    return job.edit(edit);
  };
  form.append(html("button", { class: "btn btn-work" }, "Brace this end so"), html("button", { class: "btn btn-quiet", type: "button", onclick: () => take(true) }, "Every end of the line"));
  if (looks) form.querySelectorAll("select, input, button").forEach((control) => edits(control));
  form.addEventListener("submit", (event) => {
    event.preventDefault();
    take(false);
  });
  if (end.panels?.length) form.append(html("a", { class: "btn btn-quiet", href: job.to("brace", { at: end.at, ahead: end.ahead, units: units() }) }, "Brace sheet"));
  if (end.held && !end.held.holds) form.append(html("a", { href: job.to(`#at=${end.at}`) }, "what would mend it: see the snags"));
  return form;
}

const same = (row, end) => row.ask.kind === (end.kind === "strut" ? "strut" : "h") && (end.kind === "strut" ? Math.abs(row.ask.angle_deg - end.angle) < 1 && row.ask.tie === end.tie : row.ask.panels === end.panels?.length && Math.abs(row.ask.spacing_m - end.panels[0].level) < 0.05 && Math.abs(row.ask.rail_share - 0.775) < 0.01);
const called = (ask) => (ask.kind === "strut" ? `strut ${Math.round(ask.angle_deg)}°, ${ask.tie === "mid" ? "tied mid" : ask.tie === "foot" ? "tied at foot" : "no tie"}` : `${ask.panels} × ${quantity(ask.spacing_m, "station")} at ${Math.round(ask.rail_share * 100)} %`);

export function waysTable(table, rows, end, job) {
  const cells = (row) => {
    if (row.because) return [html("td", { colspan: "5", class: "quiet" }, row.because)];
    const soil = row.holds === null ? "" : row.holds ? "holds" : row.side > 1 && row.lift > 1 ? "drags, lifts" : row.lift > 1 ? "lifts" : "drags";
    return [html("td", { class: "num" }, quantity(row.uplift, "force")), html("td", { class: "num" }, quantity(row.rail, "force")), html("td", { class: "num" }, quantity(row.wire, "force")), html("td", { class: "num" }, quantity(row.shear, "force")), html("td", { class: row.holds ? "yes" : "no" }, soil)];
  };
  const line = (row) => html("tr", { class: same(row, end) ? "now" : "" }, html("th", { scope: "row" }, looks ? called(row.ask) : html("button", { type: "button", edits: () => job.edit({ do: "brace_end", at_m: end.at, ahead: end.ahead, ...row.ask }) }, called(row.ask))), ...cells(row), html("td", { class: "num" }, row.cost.toFixed(1)));
  const heads = [["Way", ""], ["lifts", "num"], ["rail", "num"], ["wire", "num"], ["foot", "num"], ["soil", ""], ["cost", "num"]];
  table.replaceChildren(
    html("caption", { class: "visually-hidden" }, "Ways to hold this end"),
    html("thead", {}, html("tr", {}, ...heads.map(([text, kind]) => html("th", { scope: "col", class: kind }, text)))),
    html("tbody", {}, ...rows.map(line)),
  );
}
