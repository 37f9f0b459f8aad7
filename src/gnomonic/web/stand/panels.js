// Soil, holes, lows and humps, dips: each a table with what can be said or chosen in its rows.
import { edits, html, looks } from "../static/svg.js";
import { quantity, say, units } from "../static/units.js";

const bare = () => (units() === "us" ? "ft" : "m");
const small = () => (units() === "us" ? "in" : "m");
const num = (value, kind) => html("td", { class: "num" }, value === null ? "" : quantity(value, kind));
const table = (caption, heads, rows, none) =>
  html("table", { class: "plain-table" }, html("caption", {}, caption), html("thead", {}, html("tr", {}, ...heads.map(([text, kind]) => html("th", { scope: "col", class: kind ?? "" }, text)))), html("tbody", {}, ...(rows.length ? rows : [html("tr", {}, html("td", { colspan: String(heads.length) }, none))])));
const options = (list, now) => list.map(([key, words]) => html("option", { value: key, selected: key === now }, words));

export function soilPanel(panel, stand, job) {
  const kinds = stand.soils.map((s) => [s.key, say(s.title)]);
  const title = (key) => kinds.find(([k]) => k === key)?.[1] ?? key;
  const pick = html("select", { class: "form-select", name: "soil" }, ...options(kinds, stand.soil.soil));
  const wet = html("input", { type: "checkbox", checked: stand.soil.wet });
  const from = html("input", { class: "form-control", placeholder: "whole line", autocomplete: "off" });
  const to = html("input", { class: "form-control", placeholder: "whole line", autocomplete: "off" });
  const form = html("form", { class: "soilform", "aria-label": "Say the soil" }, html("label", {}, "Soil", pick), html("label", { class: "tick" }, wet, "wet in winter"), html("label", {}, "From station", from), html("label", {}, "to", to), html("button", { class: "btn btn-work" }, "Say so"));
  edits(form, () => {
    const stretch = from.value.trim() || to.value.trim() ? { from_m: from.value, to_m: to.value } : {};
    job.edit({ do: "say_soil", bare: bare(), soil: pick.value, wet: wet.checked, ...stretch });
  });
  const method = html("select", { class: "form-select" }, ...options([["ultimate", "what it holds at last, with a factor on the pull"], ["code", "what the building code allows"]], stand.soil.method));
  const frost = html("input", { class: "form-control", value: stand.soil.frost_m ? quantity(stand.soil.frost_m, "depth") : "", placeholder: "not said", autocomplete: "off" });
  const factor = html("input", { class: "form-control", type: "number", min: "1", max: "4", step: "0.1", value: String(stand.factor) });
  const ground = html("form", { class: "soilform", "aria-label": "How posts are passed" }, html("label", {}, "Posts are passed by", method), html("label", {}, "Factor on the pull", factor), html("label", {}, "Frost goes down to", frost), html("button", { class: "btn btn-quiet" }, "Take these"));
  if (looks) ground.querySelectorAll("select, input, button").forEach((control) => edits(control));
  ground.addEventListener("submit", async (event) => {
    event.preventDefault();
    if (Number(factor.value) !== stand.factor) await job.edit({ do: "decide", key: "hold_factor", value: Number(factor.value) });
    job.edit({ do: "say_ground", bare: small(), method: method.value, ...(frost.value.trim() ? { frost_m: frost.value } : { frost_m: 0 }) });
  });
  const rows = [html("tr", {}, html("th", { scope: "row" }, stand.soil.stretches.length ? "the whole line, but for" : "the whole line"), html("td", {}, title(stand.soil.soil) + (stand.soil.wet ? ", wet in winter" : "")), html("td")), ...stand.soil.stretches.map((s) => html("tr", {}, html("th", { scope: "row" }, `${quantity(s.from_m, "station")} to ${quantity(s.to_m, "station")}`), html("td", {}, title(s.soil) + (s.wet ? ", wet in winter" : "")), html("td", {}, html("button", { class: "asks", edits: () => job.edit({ do: "say_soil", soil: "", from_m: s.from_m, to_m: s.to_m }) }, "forget"))))];
  const stretches = new Map();
  for (const h of stand.holes) {
    const key = say(h.soil) + (h.wet ? ", wet" : "");
    const what = `${say(h.kind)}, ${quantity(h.long, "depth")}`;
    const counts = stretches.get(key) ?? stretches.set(key, new Map()).get(key);
    counts.set(what, (counts.get(what) ?? 0) + 1);
  }
  const lengths = [...stretches].map(([soil, counts]) => html("tr", {}, html("th", { scope: "row" }, soil), html("td", {}, [...counts].map(([what, n]) => `${n} × ${what}`).join("; "))));
  const reasons = html("dl", { class: "facts" }, ...stand.soils.map((s) => html("div", {}, html("dt", {}, say(s.title)), html("dd", { class: "note" }, say(s.reason)))));
  panel.replaceChildren(html("p", {}, "Everything a post holds, leans and is lifted out of hangs on its soil. Where nothing is said it is taken as loose sand, the weakest a post is likely to stand in."), form, table("Soil along the line", [["Where"], ["Soil"], ["Taken back"]], rows, ""), table("Posts by the soil they stand in", [["Soil"], ["Posts"]], lengths, "Every post of this line stands already."), html("h2", {}, "Frost, and how strict"), html("p", { class: "quiet" }, "The building code's clause is made for poles whose head may not move: fence posts seldom pass it. What a post holds at last is divided by the factor among the line's decisions; an inch of lean at the ground is where one stops pulling."), ground, html("h2", {}, "Soils, by hand"), reasons);
}

const MET = [["", "met nothing"], ["rock", "on rock"], ["root", "on a root"], ["water", "in water"], ["soft", "in soft ground"], ["pipe", "met something buried"]];

const TOLD = [["depth", "reached"], ["proud", "stands proud by"], ["on", "moved on by"], ["back", "moved back by"], ["pilot", "pilot met it at"]];

// What the hole told: a depth reached and what it met, a shift, what the pilot hole met; kept as an event of the post.
function logCell(hole, job) {
  const deep = html("input", { class: "form-control", "aria-label": `Depth reached at ${hole.name}`, placeholder: quantity(hole.planned || hole.depth, "depth"), autocomplete: "off" });
  const met = html("select", { class: "form-select", "aria-label": `What the hole of ${hole.name} met` }, ...options(MET, ""));
  const what = html("select", { class: "form-select", "aria-label": `What is noted of ${hole.name}` }, ...options(TOLD, "depth"));
  const form = html("form", { class: "logform" }, what, deep, met, html("button", { class: "btn btn-quiet" }, "Note"));
  form.addEventListener("submit", (event) => {
    event.preventDefault();
    const far = deep.value.trim();
    if (what.value === "on" || what.value === "back") return far && job.log(hole, { kind: "moved", along: what.value === "on" ? far : `-${far}`, bare: small() });
    if (what.value === "proud") return far && job.log(hole, { kind: "proud", proud: far, bare: small() });
    if (!far && !met.value) return null;
    const reached = far || quantity(hole.planned || hole.depth, "depth");
    return job.log(hole, what.value === "pilot" ? { kind: "pilot", reached, met: met.value || "nothing", bare: small() } : { kind: "depth", reached, met: met.value || null, bare: small() });
  });
  return html("td", {}, form);
}

function builtWords(hole) {
  const b = hole.built;
  if (!b) return hole.hand ? html("td", { class: "wrong" }, "DIG BY HAND") : html("td", {}, hole.frost ? html("span", { class: "wrong" }, "less deep than the frost") : "");
  const parts = [];
  if (b.pilot) parts.push(`pilot met ${b.pilot}`);
  if (b.proud !== null) parts.push(`proud by ${quantity(b.proud, "gap")}`);
  if (b.reached !== null) parts.push(`reached ${quantity(b.reached, "depth")}`);
  if (b.met && b.met !== "nothing") parts.push(MET.find(([k]) => k === b.met)?.[1] ?? b.met);
  if (b.accepted) parts.push("let pass");
  if (b.cut) parts.push("head cut and capped");
  if (b.along) parts.push(`moved ${quantity(Math.abs(b.along), "cut")} ${b.along > 0 ? "on" : "back"}`);
  if (b.earlier) parts.push(`${b.earlier} said before`);
  return html("td", {}, parts.join(", "));
}

export function holesPanel(panel, stand, job) {
  const heads = [["Post"], ["Station", "num"], ["Kind"], ["Deep", "num"], ["Long", "num"], ["Auger", "num"], ["Pilot", "num"], ["Soil"], ["Filled with"], ["Goes in", "num"], ["As built"], ["What the hole told"]];
  const rows = stand.holes.map((h) => {
    const bags = h.bags ? `, ${h.bags.toFixed(1)} bags` : h.cement ? `, ${h.cement.toFixed(0)} kg cement` : "";
    const lifts = h.lifts > 1 ? `${say(h.fill)}, ${h.lifts} lifts` : say(h.fill);
    return html("tr", {}, html("th", { scope: "row" }, h.name), num(h.at, "station"), html("td", {}, say(h.kind)), num(h.depth, "depth"), num(h.long, "depth"), html("td", { class: "num" }, h.auger ? quantity(h.auger, "gap") : "driven"), html("td", { class: "num" }, h.pilot ? quantity(h.pilot, "gap") : ""), html("td", {}, say(h.soil) + (h.wet ? ", wet" : "")), html("td", {}, lifts), html("td", { class: "num" }, h.round ? quantity(h.round, "volume") + bags : ""), builtWords(h), logCell(h, job));
  });
  const dug = stand.holes.reduce((sum, h) => sum + h.spoil, 0);
  const bags = stand.holes.reduce((sum, h) => sum + h.bags, 0);
  const water = stand.holes.reduce((sum, h) => sum + h.water, 0);
  const mix = bags ? ` ${Math.ceil(bags - 1e-6)} bags of mix and ${water.toFixed(0)} litres of water, kept apart till it is poured.` : "";
  panel.replaceChildren(html("p", { class: "caution" }, "No hole before the marks: ask the utility-marking service, hand-dig in the tolerance zone. A pilot hole shows rock early. Auger: idle speed, small bites, up at resistance; sleeves tight."), table(`Holes in the order they are dug: ends, brace posts, then along the line. ${quantity(dug, "volume")} dug as it lies, a fifth to a quarter more when loose.${mix}`, heads, rows, "Every post of this line stands already."));
  const listed = panel.querySelector("table");
  listed.classList.add("holes");
  for (const row of listed.tBodies[0].rows) for (const [k, cell] of [...row.cells].entries()) if (heads[k][1]) cell.dataset.of = heads[k][0]; // said on a phone, where no head stands over it
}

export function groundPanel(panel, stand, job) {
  const fills = [["", "soil, or as found"], ...stand.fillers.map((f) => [f.key, say(f.title)])];
  const amount = (p) => (p.pieces ? `${p.pieces} piece${p.pieces > 1 ? "s" : ""}, ${quantity(p.length, "station")}` : p.strands ? `${p.strands} strand${p.strands > 1 ? "s" : ""}, ${quantity(p.length, "station")}` : quantity(p.volume, "volume"));
  const rows = stand.patches.map((p) => {
    const pick = html("select", { class: "form-select", "aria-label": "What fills it", edits: () => job.edit({ do: "fill_low", at_m: p.at, what: pick.value }) }, ...options(fills, p.what));
    return html("tr", {}, html("th", { scope: "row" }, p.low ? "low" : "hump"), html("td", { class: "num" }, `${quantity(p.from, "station")} to ${quantity(p.to, "station")}`), num(p.at, "station"), num(p.gap, "gap"), num(p.beyond, "gap"), num(p.area, "area"), html("td", {}, p.low ? pick : `shave ${quantity(p.beyond, "gap")} at most, ${quantity(stand.shave, "station")} wide`), html("td", { class: "num" }, amount(p)));
  });
  const schools = [["", "by the ground: fewest posts, fills and cuts together"], ["even", "evenly between ends"], ["rule", "a full bay at a time, the odd one last"]];
  const spacing = html("select", { class: "form-select", edits: () => job.edit({ do: "choose_spacing", spacing: spacing.value }) }, ...options(schools, stand.spacing));
  const lays = [["", "straight where that fits"], ["straight", "straight, whatever it leaves"], ["first", "straight, its first end raised"], ["last", "straight, its last end raised"], ["trench", "at the least height, humps dug"], ["raked", "raked at posts"]];
  const rail = html("select", { class: "form-select", edits: () => job.edit({ do: "lay_rail", rail: rail.value }) }, ...options(lays, stand.rail));
  const wide = html("input", { class: "form-control", value: quantity(stand.shave, "station"), autocomplete: "off", edits: () => job.edit({ do: "decide", key: "shave_m", value: wide.value, bare: bare() }) });
  const choices = html("div", { class: "soilform" }, html("label", {}, "Humps are shaved, lows filled", wide), html("label", {}, "Posts are spaced", spacing), ...(stand.railed ? [html("label", {}, "The top rail lies", rail)] : []), html("p", { class: "quiet" }, `In posts, fill and cut: ${stand.cost.own.toFixed(1)} as planned, ${stand.cost.even.toFixed(1)} evenly spaced.`));
  const parts = [choices, table("Lows to fill and humps to shave", [["What"], ["From, to", "num"], ["Worst at", "num"], ["Gap there", "num"], ["Beyond what is allowed", "num"], ["Side-on", "num"], ["How"], ["How much", "num"]], rows, "Nothing lies beyond the gaps allowed: nothing to fill or shave.")];
  if (stand.railed) parts.push(railTable(stand));
  parts.push(html("p", { class: "quiet" }, say(stand.blade)));
  panel.replaceChildren(...parts);
}

function railTable(stand) {
  const rows = stand.rails.map((r) => html("tr", {}, html("th", { scope: "row" }, `run ${r.run}`), html("td", {}, r.straight ? "straight" : `raked at ${r.kinks.map((k) => quantity(k, "station")).join(", ")}`), num(r.a, "cut"), num(r.b, "cut"), num(r.worst, "gap"), num(r.at, "station"), html("td", {}, r.hump === null ? "no hump stands over the string" : `hump at ${quantity(r.hump, "station")}: raise both ends ${quantity(r.both, "gap")}, or the first ${quantity(r.left, "gap")}, or the last ${quantity(r.right, "gap")}, or dig ${quantity(r.trench, "gap")} there`)));
  return table("The top rail, run by run: heights over the ground at both ends, and what a straight one leaves under the fabric", [["Run"], ["Lies"], ["First end", "num"], ["Last end", "num"], ["Worst gap, straight", "num"], ["at", "num"], ["What controls it"]], rows, "");
}

export function bendsPanel(panel, stand, job) {
  const ways = [["carry", "carried round its post"], ["boards", "breast boards against it"], ["end", "the run ends there"]];
  const choose = (b, how) => {
    if (how === "end") return job.edit({ do: "end_run", at_m: b.at });
    if (b.how === "end") return job.edit({ do: "end_run", at_m: b.at, end: false });
    return job.edit({ do: "ask_post", at_m: b.at, block: how === "boards" });
  };
  const rows = stand.bends.map((b) => {
    const pick = html("select", { class: "form-select", "aria-label": `How the bend at ${quantity(b.at, "station")} is taken`, edits: () => choose(b, pick.value) }, ...options(ways, b.how));
    const h = b.held;
    const verdict = b.how === "end" ? "held like any end" : !h ? "less than is worth a word" : h.holds ? `holds ${quantity(h.has, "force")}, leans ${quantity(h.lean, "gap")}` : `should hold ${quantity(h.asked * h.times, "force")}, holds ${quantity(h.has, "force")}, leans ${quantity(h.lean, "gap")}`;
    const post = b.post ? `${b.post}, ${say(b.kind)}, ${quantity(b.depth, "depth")} deep${b.auger ? `, ${quantity(b.auger, "gap")} hole` : ""}` : "no post stands on it";
    return html("tr", {}, html("th", { scope: "row" }, quantity(b.at, "station")), html("td", { class: "num" }, `${quantity(b.turn, "angle")} ${b.way}`), num(b.side, "force"), html("td", {}, post), html("td", { class: h && !h.holds && b.how !== "end" ? "wrong" : "" }, verdict), html("td", {}, `on its ${b.outside}, the outside`), html("td", {}, pick));
  });
  const heads = [["At"], ["Turns", "num"], ["Pulls sideways, cold", "num"], ["Post and hole"], ["That"], ["Fabric goes"], ["Taken"]];
  panel.replaceChildren(html("p", {}, "Fabric never slides round a post freely: every bend keeps less tension behind it, and pulls its post to the inside. One bend on a run is hard, several on one pull do not work: end the run there, or splice in the straight beyond. The fabric goes on the outside, so that it draws against the post and not off its staples."), table("Bends between the ends; turns beyond the line’s own angle are corners", heads, rows, "The line has no bend between its ends."));
}

export function dipsPanel(panel, stand, job) {
  const rows = stand.dips.map((d) => html("tr", {}, html("th", { scope: "row" }, d.name), num(d.at, "station"), num(d.hangs, "depth"), html("td", { class: "num" }, `${quantity(d.from, "station")}, ${quantity(d.to, "station")}`), num(d.start, "force"), html("td", { class: `num${d.force > stand.press ? " wrong" : ""}` }, quantity(d.force, "force")), html("td", { class: "num" }, d.curved ? quantity(d.out, "share") : "straight wire"), html("td", { class: d.ok ? "" : "wrong" }, `${quantity(d.lift, "force")} lift, ${quantity(d.grip, "force")} hold`), html("td", {}, `bars on ${d.bars} or more of the ${d.wires} wires, within 2 ft of the post; tie ${d.ties.join(", ")} first${d.force > stand.press ? ". More than two people press: draw it down with a puller wire by wire, or end the run there" : ""}`)));
  const heads = [["Post"], ["Station", "num"], ["Hangs over it", "num"], ["Between highs at", "num"], ["Press, at first", "num"], ["at the end", "num"], ["Curve out there", "num"], ["Then, cold"], ["How"]];
  panel.replaceChildren(html("p", {}, "Fasten at the highs first, the puller still on; then draw the fabric down into the lows, the bottom wire first, and keep the bar on until every wire is tied here and on three posts each way. Over a hump lift it, the top wire first. Never with forks in the mesh."), table("Where fabric hangs over a low", heads, rows, "No post of this line is lifted enough to speak of."), html("p", { class: "caution" }, "What is pressed down springs up when the bar slips: nobody astride the wire, nobody in its bight. Ends that let go whip."));
}
