// The decisions as sentences with the numbers in place; changing one re-plans the line.
import { edits, html, looks } from "../static/svg.js";
import { parseLength, quantity, say, units } from "../static/units.js";

const SENTENCES = {
  set: ["Bays up to ", "longest_bay_m", ", bottom edge ", "clearance_m", " off the ground at posts and ", "gap_min_m", " to ", "gap_max_m", " between them.", ["firm", " Wood every ", "wood_every", " posts."], ["battens", " Battens every ", "batten_m", "."], " End a run at turns beyond ", "corner_angle_deg", ["pulls", " and after ", "longest_run_m"], ".", ["braced", " Brace posts ", "brace_spacing_m", " in, panels ", "brace_panels", "."]],
  hang: ["Hang ", "@label", ["rolled", " from rolls of ", "roll_m", ", also sold in ", "@also", ", ", "tie_off_m", " for each tie-off. Splices lap ", "overlap_m", " and keep ", "splice_clear_m", " clear of posts; no piece under ", "piece_min_m", "; a splice counts as ", "@splice",  " of fabric, and none is made in ", "@whole", ". Offcuts on hand: ", "@offcuts", ", worn ones for temporary lines: ", "@worn"], "."],
};

// Parts of a sentence that only some barriers have.
const HAS = {
  firm: (d) => d.uses.firm,
  braced: (d) => d.uses.brace === "h",
  battens: (d) => d.uses.battens,
  pulls: (d) => d.decisions.longest_run_m > 0 || !d.fabric.layers.length,
  rolled: (d) => d.fabric.layers.length > 0,
};
const spoken = (sentence, drawing) => sentence.flatMap((part) => (Array.isArray(part) ? (HAS[part[0]](drawing) ? part.slice(1) : []) : [part]));

const bareUnit = (kind) => (units() === "metric" ? (kind === "gap" ? "mm" : "m") : kind === "gap" ? "in" : "ft");
const shown = (value, kind) => (kind === "count" || kind === "angle" ? quantity(value, kind).replace("°", "") : quantity(value, kind));

function field(key, words, job) {
  const { label, kind } = words.decisions[key];
  const reason = job.drawing.reasons[key];
  const value = shown(job.drawing.decisions[key], kind);
  const input = html("input", { id: `d-${key}`, class: "inplace", value, title: `${label}: ${say(reason)}`, "aria-label": label, size: Math.max(2, value.length), autocomplete: "off" });
  const send = async () => {
    if (input.value.trim() === value) return;
    input.classList.remove("wrong");
    let edit = { do: "decide", key, value: input.value, bare: bareUnit(kind) };
    if (kind === "count" || kind === "angle") {
      const typed = Number(input.value.replace("°", "").trim());
      edit = { do: "decide", key, value: Number.isFinite(typed) && input.value.trim() ? typed : input.value };
    }
    if (!(await job.edit(edit))) input.classList.add("wrong");
  };
  edits(input, send);
  input.addEventListener("keydown", (event) => {
    if (event.key === "Escape") {
      input.value = value;
      input.blur();
    }
    event.stopPropagation();
  });
  return kind === "angle" ? [input, "°"] : [input];
}

function fabricChoice(words, job) {
  const select = html("select", { class: "inplace", "aria-label": "Fabric, by its roll label" });
  for (const name of new Set([...words.fabrics[job.drawing.fabric.system], job.drawing.label])) select.append(html("option", { value: name, selected: name === job.drawing.label }, name));
  edits(select, () => job.edit({ do: "hang_fabric", label: select.value }));
  return [select];
}

// Lengths that are no decision of the list: typed parted by commas, or “none”.
function lengths(job, values, aria, edit) {
  const value = values.map((m) => quantity(m, "station")).join(", ") || "none";
  const input = html("input", { class: "inplace", value, size: Math.max(5, value.length), "aria-label": aria, autocomplete: "off" });
  input.addEventListener("keydown", (event) => event.stopPropagation());
  edits(input, async () => {
    const parts = ["none", ""].includes(input.value.trim()) ? [] : input.value.split(",").map((p) => p.trim()).filter(Boolean);
    const good = await job.edit({ ...edit(parts), bare: bareUnit("station") });
    input.classList.toggle("wrong", !good);
  });
  return [input];
}

// Stretches without a splice: “120 ft to 180 ft”, parted by commas, or “none”.
function stretches(job) {
  const value = job.drawing.whole.map(([a, b]) => `${quantity(a, "station")} to ${quantity(b, "station")}`).join(", ") || "none";
  const input = html("input", { class: "inplace", value, size: Math.max(5, value.length), "aria-label": "Stretches in which no splice is made, like 120 ft to 180 ft, parted by commas", autocomplete: "off" });
  input.addEventListener("keydown", (event) => event.stopPropagation());
  edits(input, async () => {
    const parts = ["none", ""].includes(input.value.trim()) ? [] : input.value.split(",").map((p) => p.split(/ to |–/).map((m) => parseLength(m, bareUnit("station"))));
    const read = parts.every((p) => p.length === 2 && p.every((m) => m !== null));
    const good = read && (await job.edit({ do: "say_rolls", whole: parts.map(([a, b]) => ({ from_m: a, to_m: b })) }));
    if (!read) job.dispatchEvent(new CustomEvent("refused", { detail: { detail: `“${input.value}” is not a stretch: write it like 120 ft to 180 ft` } }));
    input.classList.toggle("wrong", !good);
  });
  return [input];
}

const OWN = {
  "@whole": stretches,
  "@offcuts": (job) => lengths(job, job.drawing.offcuts, "Offcuts on hand, parted by commas", (parts) => ({ do: "own_offcuts", offcuts_m: parts })),
  "@worn": (job) => lengths(job, job.drawing.worn, "Worn offcuts, for temporary lines, parted by commas", (parts) => ({ do: "own_offcuts", worn_m: parts })),
  "@also": (job) => lengths(job, job.drawing.also, "Other lengths its rolls are sold in, parted by commas", (parts) => ({ do: "say_rolls", also_m: parts })),
  "@splice": (job) => lengths(job, job.drawing.spliceWorth ? [job.drawing.spliceWorth] : [], "What a splice is worth, as a length of fabric", (parts) => ({ do: "say_rolls", splice_worth_m: parts[0] ?? "0 m" })),
};

export function showDecisions(paragraph, verb, words, job) {
  const sentence = SENTENCES[verb] ?? SENTENCES.set;
  const parts = spoken(sentence, job.drawing).flatMap((part) => {
    if (part === "@label") return fabricChoice(words, job);
    if (part in OWN) return OWN[part](job);
    return part in words.decisions ? field(part, words, job) : [part];
  });
  paragraph.replaceChildren(...(looks ? parts.map((part) => (part.tagName ? html("b", {}, part.value) : part)) : parts));
}
