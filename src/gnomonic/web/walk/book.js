// The field book: written as in the field, read as it is written, with its closure and what would explain it.
import { call } from "../static/send.js";
import { html } from "../static/svg.js";
import { length, quantity, units } from "../static/units.js";

const EXAMPLE = `# a leg a line: bearing, distance, rise
N 4 30 E    96' 6"   +1' 2"   @ yard corner
S 86 30 E   slope 148 ft at 3°
square right  98' 2"  -1' 1"
N 86 W  149' 4"
close
`;
let draft = null;
let asked = 0;

function closing(reduced) {
  const c = reduced.closure;
  if (!c) return [html("p", { class: "quiet" }, "The line does not come back to its start: nothing says how well it closes. Write close where it should.")];
  const ratio = c.ratio === null ? "exactly" : `1:${Math.round(c.ratio)}`;
  const rows = [["misses by", length(c.miss, "gap")], ["ratio", ratio], ["in height", length(c.miss_h, "gap")], ["measuring explains", length(c.expected, "gap")]];
  const parts = [html("p", { class: "closing" }, ...rows.map(([n, v]) => html("span", {}, `${n} `, html("b", {}, v))))];
  if (reduced.wants_looking_at) {
    const named = reduced.suspects.slice(0, 4).map((s) => {
      const change = s.kind === "distance" ? `${s.change > 0 ? "+" : ""}${length(s.change, "station")}` : `${s.change > 0 ? "+" : ""}${quantity(s.change, "angle")}`;
      return html("li", {}, html("b", {}, `Leg ${s.leg + 1}, line ${s.line_no}`), `: its ${s.kind} ${change} explains ${quantity(s.explains, "share")} of it${s.likely ? `; ${s.likely}?` : ""}`);
    });
    parts.push(html("div", { class: "suspect" }, named.length ? "More than measuring explains. One leg alone would do it:" : "More than measuring explains, and no one leg alone would do it.", html("ul", { class: "plainlist" }, ...named)));
  }
  return parts;
}

function understood(reduced) {
  const adjusted = reduced.closure?.adjusted;
  const shifts = adjusted && reduced.points.map((p, k) => Math.hypot(adjusted[k][0] - p.e, adjusted[k][1] - p.n));
  const rows = reduced.points.map((p, k) => html("tr", {}, html("td", {}, p.line_no ? `line ${p.line_no}` : ""), html("td", {}, `${k + 1}${p.name ? ` ${p.name}` : ""}`), html("td", { class: "num" }, length(p.e, "station")), html("td", { class: "num" }, length(p.n, "station")), html("td", { class: "num" }, length(p.h, "cut")), html("td", {}, p.how ? `${p.how} ± ${length(p.good, "gap")}` : ""), ...(shifts ? [html("td", { class: "num" }, length(shifts[k], "gap"))] : [])));
  const head = ["", "Point", "East", "North", "Height", "Got by", ...(shifts ? ["Spreading moves it"] : [])].map((h, k) => html("th", { scope: "col", class: k > 1 && k < 5 ? "num" : "" }, h));
  return html("table", { class: "legs" }, html("thead", {}, html("tr", {}, ...head)), html("tbody", {}, ...rows));
}

function levels(reduced) {
  const page = reduced.levels;
  if (!page) return "";
  const cell = (v) => html("td", { class: "num" }, v === null ? "" : length(v, "cut"));
  const rows = page.rows.map((r) => html("tr", {}, cell(r.back_m), cell(r.inter_m), cell(r.fore_m), cell(r.rise_m), cell(r.fall_m), cell(r.instrument_m), cell(r.rl_m)));
  const head = ["Back", "Inter", "Fore", "Rise", "Fall", "Instrument", "Height"].map((h) => html("th", { scope: "col", class: "num" }, h));
  const check = `Σ back ${length(page.back, "cut")} − Σ fore ${length(page.fore, "cut")} = last − first ${length(page.difference, "cut")}: ${page.agree ? "the page agrees" : "the page does not agree"}.`;
  return html("div", {}, html("h2", {}, "Staff readings"), html("table", { class: "legs" }, html("thead", {}, html("tr", {}, ...head)), html("tbody", {}, ...rows)), html("p", { class: "quiet" }, check));
}

export function showBook(pane, page) {
  const saved = page.walk.book;
  draft ??= saved?.text ?? EXAMPLE;
  const area = html("textarea", { class: "booktext", id: "booktext", rows: 11, spellcheck: "false", "aria-label": "The field book, a measurement a line" });
  area.value = draft;
  const out = html("div", { id: "understood" });
  const adjust = html("input", { type: "checkbox", id: "adjust", checked: saved?.adjust === "compass" });
  const unit = saved?.unit || (units() === "us" ? "ft" : "m");
  const read = async () => {
    draft = area.value;
    const turn = (asked += 1);
    const answer = await call("/api/v1/book", { text: draft, unit });
    const body = answer.body;
    if (turn !== asked) return;
    if (!answer.ok) return out.replaceChildren(html("p", { class: "refusal", role: "alert" }, body.detail));
    const bare = body.bare ? html("p", { class: "quiet" }, `Numbers without a unit are read as ${unit === "ft" ? "feet" : "metres"}.`) : "";
    out.replaceChildren(...closing(body), bare, understood(body), levels(body));
  };
  let waiting = 0;
  area.addEventListener("input", () => {
    clearTimeout(waiting);
    waiting = setTimeout(read, 200);
  });
  area.addEventListener("keydown", (event) => event.stopPropagation());
  const save = async () => {
    draft = area.value;
    if (await page.edit({ do: "write_book", text: draft, unit, adjust: adjust.checked ? "compass" : "none" })) draft = null;
  };
  const warn = !saved
    ? html("p", { class: "quiet" }, "This line did not come from a book. Reading one replaces the whole line; undo brings it back.")
    : saved.mended
      ? html("p", { class: "caution" }, "Points were moved by hand since this book was read: reading it again undoes that.")
      : "";
  const help = html("details", {}, html("summary", {}, "How a line is written"), document.getElementById("book-help").content.cloneNode(true));
  pane.replaceChildren(
    warn,
    html("div", { class: "bookgrid" }, area, html("p", { class: "action" }, html("label", { class: "choice" }, adjust, "Spread the misclosure (compass rule)"), html("button", { class: "btn btn-work", edits: save }, saved ? "Read it into the line" : "Replace the line by it")), help),
    out,
  );
  read();
}
