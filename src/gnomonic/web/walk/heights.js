// The ground: areas, the swath, heights from a grid, where the line came from and how it goes out.
import { action } from "../set/tag.js";
import { send } from "../static/send.js";
import { html, looks } from "../static/svg.js";
import { length, quantity, units } from "../static/units.js";

const OUT = [["kml", "KML"], ["kmz", "KMZ"], ["gpx", "GPX"], ["dxf", "DXF"], ["shp.zip", "Shapefile"], ["csv", "CSV"], ["legs", "Field book"]];
let question = null;
const answers = {};
let epsg = "";

function gridForm(page) {
  const file = html("input", { type: "file", id: "gridfile", accept: ".asc,.tif,.tiff,.txt", class: "form-control", "aria-label": "Height grid, Esri ASCII or GeoTIFF" });
  const crs = html("input", { class: "inplace", id: "gridcrs", "aria-label": "EPSG code, or local", placeholder: question?.typed ?? "", size: 22 });
  crs.addEventListener("keydown", (event) => event.stopPropagation());
  const feet = html("input", { type: "checkbox", id: "gridfeet" });
  const lay = async (choice) => {
    const picked = document.getElementById("gridfile")?.files[0] ?? page.gridFile;
    if (!picked) return page.tell("Choose a height grid first.", "wrong");
    page.gridFile = picked;
    const form = new FormData();
    if (question) answers[question.key] = choice ?? crs.value;
    else if (feet.checked) answers.heights = "ft";
    else delete answers.heights; // not asked yet: taken as metres where nothing speaks against it
    for (const [k, v] of Object.entries({ base: page.job.version, file: picked, ...answers })) form.append(k, v);
    page.tell("Laying the heights under the line…");
    const { ok, body } = await send(`/api/v1${page.job.to("grid")}`, form, (detail) => page.tell(detail, "wrong"));
    if (!ok) return page.tell(body.detail, "wrong");
    question = body.question ?? null;
    if (question) {
      page.tell(question.text);
      return showGround(document.getElementById("pane"), page);
    }
    for (const key of Object.keys(answers)) delete answers[key];
    return page.job.take(body);
  };
  const forget = () => {
    question = page.gridFile = null;
    for (const key of Object.keys(answers)) delete answers[key];
    page.tell("Nothing was laid under the line.");
    showGround(document.getElementById("pane"), page);
  };
  const ask = question
    ? html("div", { class: "question" }, html("p", {}, question.text), html("p", { class: "action" }, ...(question.typed ? [crs, html("button", { class: "btn btn-work", edits: () => lay() }, "Use that")] : []), ...question.choices.map(([value, words]) => html("button", { class: "btn btn-quiet", edits: () => lay(value) }, words)), html("button", { class: "btn btn-quiet", onclick: () => forget() }, "take another grid")))
    : html("p", { class: "action" }, html("label", { class: "choice" }, feet, "its heights are feet"), html("button", { class: "btn btn-work", edits: () => lay() }, "Lay it under the line"));
  return [question ? "" : file, ask];
}

export function showGround(pane, page) {
  const { walk, job } = page;
  const f = walk.figures;
  const rows = [["Length, level", length(f.line, "station")], ["Over the ground", length(f.ground, "station")]];
  if (f.area !== null) rows.push(["Encloses", quantity(f.area, "land")]);
  f.parts.forEach((p, k) => rows.push([`Part ${String.fromCharCode(65 + k)}`, `${quantity(p.area, "land")}, round ${length(p.perimeter, "station")}`]));
  rows.push(["Swath to clear", `${quantity(f.swath_area, "land")}, ${length(f.swath, "station")} each side`], ["Trees to fell", quantity(f.fell, "count")]);
  const grid = walk.grid
    ? html("p", { class: "caution" }, `Heights come from ${walk.grid.file || "a grid"} with cells of ${length(walk.grid.cell_m, "station")}: it can't see ditches and ruts narrower than ${length(2 * walk.grid.cell_m, "station")}. Walk the gaps before cutting posts.`)
    : walk.level
      ? html("p", { class: "caution" }, "No heights were measured: the ground is taken as level, and nothing is known about gaps under the wire.")
      : "";
  const code = html("input", { class: "inplace", size: 9, value: epsg, "aria-label": "EPSG code of the coordinates", placeholder: "EPSG" });
  code.addEventListener("keydown", (event) => event.stopPropagation());
  code.addEventListener("change", () => {
    epsg = code.value.trim();
    showGround(pane, page);
  });
  const local = walk.frame === "local";
  const links = OUT.filter(([form]) => !local || !["kml", "kmz", "gpx"].includes(form)).map(([form, words]) => html("a", { href: job.to(`out/${form}`, epsg && ["dxf", "shp.zip", "csv"].includes(form) ? { epsg } : {}) }, words));
  pane.replaceChildren(
    html("h2", {}, "Figures"),
    html("dl", { class: "facts" }, ...rows.map(([n, v]) => html("div", {}, html("dt", {}, n), html("dd", {}, v)))),
    f.area !== null && !f.parts.length ? html("p", { class: "quiet" }, "Note an internal line across the ground to have the area each side of it.") : "",
    action("Clear", [["m", "Each side of the line", length(f.swath, "station"), 9]], ({ m }) => page.edit({ do: "swath", swath_m: m }), "each side"),
    html("h2", {}, "Heights from a grid"),
    grid,
    html("p", { class: "quiet" }, "Esri ASCII or GeoTIFF. Every height of the line is replaced, and the breaks between points come in; undo brings the old ones back."),
    ...(looks ? [] : gridForm(page)),
    html("h2", {}, "Out again"),
    html("p", { class: "exports" }, ...links, local ? "" : html("a", { href: job.to("line.geojson") }, "GeoJSON")),
    local ? html("p", { class: "quiet" }, "In local metres of its own: KML, GPX and GeoJSON mean longitude and latitude, and are left out.") : html("p", { class: "action" }, "DXF, shapefile and CSV in ", code, html("span", { class: "quiet" }, epsg ? "" : " (left empty: local metres)")),
    html("h2", {}, "Where it came from"),
    html("p", { class: "quiet" }, `${walk.source}`),
    html("ul", { class: "notes" }, ...walk.notes.map((n) => html("li", {}, n))),
    html("p", { class: "exports" }, html("a", { href: job.to("walk-sheet", { units: units() }) }, "Walk sheet"), html("a", { href: "/walk-sheet" }, "Blank walk sheet")),
  );
}
