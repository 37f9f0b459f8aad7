// A crossing to scale: bed, banks, posts, the rope, what hangs from it, the flood.
import { edits, el, html, label } from "../static/svg.js";
import { length, quantity, say, units } from "../static/units.js";
import { options } from "./choose.js";

const path = (d, name) => el("path", { d, class: name });

export function channel(svg, c) {
  const { width, height } = svg.getBoundingClientRect();
  svg.setAttribute("viewBox", `0 0 ${width} ${height}`);
  const all = [...c.banks[0], ...c.bed, ...c.banks[1]];
  const [x0, x1] = [all[0][0], all[all.length - 1][0]];
  const heads = c.posts.map((p) => p.ground + p.above);
  const [z0, z1] = [Math.min(...all.map((p) => p[1])) - 0.5, Math.max(...heads, c.level) + 0.1];
  const scale = Math.min((width - 40) / (x1 - x0), (height - 84) / (z1 - z0));
  const shift = (width - (x1 - x0) * scale) / 2;
  const base = height - 34 - (height - 84 - (z1 - z0) * scale) / 2;
  const x = (s) => shift + (s - x0) * scale;
  const y = (z) => base - (z - z0) * scale;
  const line = (points) => points.map(([s, z], k) => `${k ? "L" : "M"}${x(s).toFixed(1)} ${y(z).toFixed(1)}`).join("");
  const bedAt = (s) => {
    const k = Math.max(1, c.bed.findIndex(([a]) => a >= s));
    const [[a, za], [b, zb]] = [c.bed[k - 1], c.bed[k] ?? c.bed[k - 1]];
    return b === a ? za : za + ((zb - za) * (s - a)) / (b - a);
  };
  const wet = all.filter(([, z]) => z <= c.level);
  const parts = [];
  if (wet.length > 1) parts.push(path(`${line([...wet])}L${x(wet[wet.length - 1][0]).toFixed(1)} ${y(c.level).toFixed(1)}L${x(wet[0][0]).toFixed(1)} ${y(c.level).toFixed(1)}Z`, "floodfill"));
  parts.push(path(`${line(all)}L${x(x1).toFixed(1)} ${height}L${x(x0).toFixed(1)} ${height}Z`, "soilfill"));
  for (const p of c.posts) parts.push(path(`M${x(p.at - p.wide / 2).toFixed(1)} ${y(p.ground + p.above).toFixed(1)}H${x(p.at + p.wide / 2).toFixed(1)}V${y(p.ground - Math.min(p.depth, 0.45)).toFixed(1)}H${x(p.at - p.wide / 2).toFixed(1)}Z`, "bodypost"));
  parts.push(path(line(all), "soilline"));
  const [first, last] = [c.rope[0], c.rope[c.rope.length - 1]];
  let hung = "";
  const step = Math.max(c.pitch, 4 / scale);
  for (let s = first[0] + c.posts[0].wide; s < last[0] - c.posts[1].wide; s += step) {
    const at = c.rope.find(([a]) => a >= s);
    const foot = bedAt(s) + c.under;
    if (at && at[1] > foot) hung += `M${x(s).toFixed(1)} ${y(at[1]).toFixed(1)}V${y(foot).toFixed(1)}`;
  }
  parts.push(path(hung, c.flap === "timber" ? "hungboard" : "hungpipe"), path(line(c.rope), "ropeline"));
  if (wet.length > 1) parts.push(path(`M${x(wet[0][0]).toFixed(1)} ${y(c.level).toFixed(1)}H${x(wet[wet.length - 1][0]).toFixed(1)}`, "floodline"));
  const narrow = width < 620;
  const flood = `flood, ${length(c.flood, "depth")} over the bed${c.said ? "" : ": taken, not known"}`;
  const sags = `the rope sags ${length(c.sag * (c.to - c.at), "cut")}`;
  if (narrow) parts.push(label(14, 34, `${flood}; ${sags}`, { class: "leafdim" }));
  else parts.push(label(x(wet[0]?.[0] ?? x0) - 8, y(c.level) + 4, flood, { class: "leafdim under", "text-anchor": "end" }), label(x(c.to) + 12, y(c.posts[1].ground + c.posts[1].above) + 4, sags, { class: "leafdim" }));
  const dim = height - 16;
  parts.push(path(`M${x(c.at).toFixed(1)} ${dim - 4}v8M${x(c.to).toFixed(1)} ${dim - 4}v8M${x(c.at).toFixed(1)} ${dim}H${x(c.to).toFixed(1)}`, "dimline"), label((x(c.at) + x(c.to)) / 2, dim - 5, `${length(c.to - c.at, "cut")} between post centres`, { class: "leafdim under", "text-anchor": "middle" }));
  parts.push(label(14, 18, "To scale: nothing stands in the channel", { class: "leafname" }));
  svg.replaceChildren(...parts);
}

export function waterForm(c, made, job) {
  const bare = () => (units() === "us" ? "ft" : "m");
  const flood = html("input", { class: "form-control", name: "flood_m", value: c.said ? length(c.flood, "depth") : "", placeholder: length(c.flood, "depth"), autocomplete: "off" });
  const speed = html("input", { class: "form-control", name: "speed", type: "number", min: "0", max: "10", step: "0.1", value: String(c.speed) });
  const flap = html("select", { class: "form-select" }, ...options([["", "the lightest that does"], ...made.flaps.map((f) => [f.key, say(f.title)])], c.ask?.flap ?? ""));
  const cable = html("select", { class: "form-select" }, ...options([["", "the thinnest that does"], ...made.cables.map((k) => [k.key, say(k.title)])], c.ask?.cable ?? ""));
  const sag = html("input", { class: "form-control", type: "number", min: "2", max: "30", step: "1", value: String(Math.round(c.sag * 100)) });
  const form = html(
    "form",
    { class: "askbrace", "aria-label": `How ${c.name} is crossed` },
    html("label", {}, "Flood over the bed", flood),
    html("label", {}, "It runs, m/s", speed),
    html("label", {}, "Rope sags, % of the span", sag),
    html("label", {}, "Hangs from it", flap),
    html("label", {}, "Rope", cable),
    html("button", { class: "btn btn-work" }, "Cross it so"),
    html("button", { class: "btn btn-quiet", type: "button", edits: () => job.edit({ do: "say_crossing", at_m: c.middle, how: "over" }) }, "Carry the fabric over it"),
  );
  return edits(form, () => {
    const edit = { do: "say_crossing", at_m: c.middle, how: "hung", bare: bare(), flap: flap.value, cable: cable.value, speed_m_s: Number(speed.value), sag: Number(sag.value) / 100 };
    if (flood.value.trim()) edit.flood_m = flood.value;
    job.edit(edit);
  });
}

const WHY = { narrow: "so narrow that the fabric goes over it", over: "the fabric goes over it, as was asked: a culvert, or water that never rises", along: "it runs along the line: no rope spans that", gate: "a gate hangs in it or beside it", corner: "the line turns in it", end: "the line ends in it", join: "another line stands in it", near: "too near the water before it: no fence stands between, and no rope spans both" };

export const waterWhy = (w) => `${length(w.from, "station")} to ${length(w.to, "station")}: ${WHY[w.why]}${w.why === "along" ? ` (${length(w.most, "station")} at most)` : ""}`;
export const verdict = (c) => (!c.ok ? "does not hold as it is" : !c.heavy ? "holds; stock can lean through" : c.said ? "gives way where it should" : `holds; its flood of ${quantity(c.flood, "depth")} is only taken`);
