// The legs as a table, and the chosen point with what can be done to it.
import { action } from "../set/tag.js";
import { html } from "../static/svg.js";
import { length, quantity, units } from "../static/units.js";

const MOST = 400;

const plus = (good) => (good === null ? "not said" : `± ${length(good, good < 0.3 ? "gap" : "station")}`);

function chosen(page) {
  const { walk, job } = page;
  const k = page.picked;
  if (k === null) return [];
  const [, , h, name] = walk.points[k];
  const here = job.drawing.ground[k][0];
  const last = walk.points.length - 1;
  const into = walk.legs.find((leg) => leg.to === k && leg.number !== last) ?? walk.legs.find((leg) => leg.to === k);
  const facts = [["Along the line", length(here, "station")], ["Height", length(h, "cut")]];
  if (into && k > 0) facts.push(["Leg to it", `${into.quadrant}, ${length(into.level_m, "station")}, rise ${length(into.rise_m, "cut")}`]);
  if (into?.how && k > 0) facts.push(["Got by", `${into.how} ${plus(into.good_m)}`]);
  const does = [action("Height", [["h", "Height of the point", length(h, "cut"), 10]], ({ h: typed }) => page.edit({ do: "set_heights", heights_m: [typed], first: k }), "Set")];
  if (k > 0) does.push(action("Split the leg before it at", [["at", "Station", length((job.drawing.ground[k - 1][0] + here) / 2, "station"), 11]], ({ at }) => page.edit({ do: "split_leg", at_m: at }), "Split"));
  const buttons = [html("button", { class: "btn btn-quiet", edits: () => page.edit({ do: "remove_point", index: k }) }, "Take out")];
  if (k < last) buttons.push(html("button", { class: "btn btn-quiet", edits: () => page.edit({ do: "join_points", index: k }) }, "Join with the next"));
  return [
    html("div", { class: "taghead" }, html("h2", {}, `Point ${k + 1}${name ? ` · ${name}` : ""}`)),
    html("dl", { class: "facts" }, ...facts.map(([n, v]) => html("div", {}, html("dt", {}, n), html("dd", {}, v)))),
    k > 0 ? html("p", { class: "quiet" }, "Type a leg above the plan to stand this point anew from the one before.") : "",
    ...does,
    html("p", { class: "action" }, ...buttons),
  ];
}

export function showLegs(pane, page) {
  const { walk, job } = page;
  const closed = job.drawing.closed;
  const first = page.picked === null ? 0 : Math.max(0, Math.min(page.picked - MOST / 2, walk.legs.length - MOST));
  const rows = walk.legs.slice(first, first + MOST).map((leg) => {
    const open = html("button", { title: `Choose point ${leg.to + 1}`, onclick: () => page.pick(leg.to) }, `${leg.number + 1}–${leg.to + 1}`);
    const cells = [[open], [leg.quadrant, "num"], [length(leg.level_m, "station"), "num"], [length(leg.rise_m, "cut"), "num"], [leg.how], [plus(leg.good_m), "num"]];
    const row = html("tr", { class: page.leg === leg.number || (page.picked !== null && leg.to === page.picked) ? "picked" : "" }, ...cells.map(([v, c]) => html("td", { class: c ?? "" }, ...[v].flat())));
    row.addEventListener("click", (event) => event.target.closest("button") || page.pick(null, leg.number));
    return row;
  });
  const head = ["Leg", "Bearing", "Level", "Rise", "Got by", "Good to"].map((h, k) => html("th", { scope: "col", class: k > 0 && k !== 4 ? "num" : "" }, h));
  const close = html("button", { class: "btn btn-quiet", edits: () => page.edit({ do: "close_line", closed: !closed }) }, closed ? "Open the line" : "Close the line");
  pane.replaceChildren(
    ...chosen(page),
    html("div", { class: "taghead" }, html("h2", {}, `${walk.legs.length} leg${walk.legs.length === 1 ? "" : "s"}, ${length(job.drawing.length, "station")}`), close),
    walk.legs.length > MOST ? html("p", { class: "quiet" }, `Shown: legs ${first + 1} to ${first + rows.length}. Choose a point to see those about it.`) : "",
    html("table", { class: "legs" }, html("thead", {}, html("tr", {}, ...head)), html("tbody", {}, ...rows)),
    html("p", { class: "quiet" }, `Bearings from grid north${units() === "us" ? "" : ""}; level distances; one standard uncertainty.`),
    html("details", {}, html("summary", {}, "Paste a column of heights"), column(page)),
  );
}

// Heights pasted from a spreadsheet or typed one a line.
function column(page) {
  const { walk } = page;
  const area = html("textarea", { class: "booktext", rows: 6, "aria-label": "Heights, one a line", spellcheck: "false" });
  const shown = walk.points.map((p) => length(p[2], "cut"));
  area.value = shown.join("\n");
  area.addEventListener("keydown", (event) => event.stopPropagation());
  const send = () => {
    const lines = area.value.split(/[\n\t;]/).map((v) => v.trim()).filter(Boolean);
    if (lines.length !== walk.points.length) return page.tell(`${lines.length} heights for ${walk.points.length} points: give one a point`, "wrong");
    // a height left as it was shown keeps the digits that were not
    return page.edit({ do: "set_heights", heights_m: lines.map((v, k) => (v === shown[k] ? walk.points[k][2] : v)) });
  };
  return html("div", {}, area, html("button", { class: "btn btn-work", edits: send }, "Set the heights"), html("span", { class: "quiet" }, ` ${quantity(walk.points.length, "count")} points`));
}
