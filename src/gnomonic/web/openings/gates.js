// One gate: what is asked of it, its facts, its hang order and what it takes.
import { edits, html, looks } from "../static/svg.js";
import { length, quantity, say, units } from "../static/units.js";
import { factRow } from "../set/tag.js";
import { options } from "./choose.js";

const bare = () => (units() === "us" ? "ft" : "m");
const HINGES = [["", "the better post"], ["first", "its first post"], ["last", "its last post"]];
const SIDES = [["", "the better side"], ["left", "the left of the line"], ["right", "the right of the line"]];
const LIES = [["", "level where it fits"], ["level", "level"], ["land", "with the land"]];

export const gateState = (g) => (!g.made || !g.turn.ok ? "bad" : g.fits < -0.005 ? "falls" : "ok");

export function gateVerdict(g) {
  if (!g.made) return "staked between centres: what leaf hangs there?";
  if (g.fits < -0.005) return `its leaf is ${length(-g.fits, "cut")} too long for ${length(g.clear, "cut")} clear`;
  if (!g.leaves) return `${length(g.clear, "cut")} clear`;
  if (!g.turn.ok) return `${quantity(g.turn.gap, "gap")} under it when shut; ${quantity(g.most, "gap")} is allowed`;
  return g.measured ? `clears the ground by ${quantity(g.turn.leaves[0].bottom, "gap")} at its hinge` : "measure its leaf before the posts are set";
}

// The form of one gate; what it has no use for is left out.
export function gateForm(g, made, job) {
  const kinds = html("select", { class: "form-select", name: "kind" }, ...options(made.kinds.map((k) => [k.key, say(k.title)]), g.kind));
  const leaf = html("input", { class: "form-control", name: "leaf_m", value: length(g.leaf, "cut"), autocomplete: "off" });
  const hinge = html("select", { class: "form-select", name: "hinge" }, ...options(HINGES, g.say.hinge));
  const side = html("select", { class: "form-select", name: "side" }, ...options(SIDES, g.say.side));
  const lie = html("select", { class: "form-select", name: "lie" }, ...options(LIES, g.say.lie));
  const open = html("input", { class: "form-control", name: "open_deg", type: "number", min: "10", max: "180", step: "5", value: String(g.say.open) });
  const way = g.turn.side === "left" ? 1 : -1;
  const rise = html("input", { class: "form-control", name: "rise", type: "number", min: "-200", max: "200", step: "1", value: g.known === "said" ? String(Math.round(g.across * way * 100)) : "", placeholder: g.known ? String(Math.round(g.across * way * 100)) : "level" });
  const use = html("select", { class: "form-select", name: "use" }, ...options([["", "for who passes …"], ...made.uses.map((u) => [u.key, say(u.title)])], ""));
  const wide = html("input", { class: "form-control", name: "wide_m", placeholder: "its width", autocomplete: "off", hidden: true, "aria-label": "Width of the implement" });
  use.addEventListener("change", () => (wide.hidden = use.value !== "implement"));
  const send = (edit) => job.edit({ do: "set_gate", id: g.id, bare: bare(), ...edit });
  const measured = html("input", { type: "checkbox", name: "measured", checked: g.measured });
  const form = html("form", { class: "askbrace", "aria-label": `How ${g.name} hangs` }, html("label", {}, "Kind", kinds), html("label", {}, g.leaves ? "Leaf, each" : "Clear", leaf));
  if (g.leaves) form.append(html("label", { class: "tick" }, measured, "measured"), html("label", {}, "Hangs on", g.leaves === 2 ? html("span", { class: "quiet" }, "both posts") : hinge), html("label", {}, "Opens to", side), html("label", {}, "Lies", lie), html("label", {}, "Opens, degrees", open), html("label", {}, "Ground that way rises, %", rise));
  form.append(html("button", { class: "btn btn-work" }, "Hang it so"));
  const pass = html("form", { class: "askbrace", "aria-label": "A leaf by who passes" }, html("label", {}, "Or a leaf", use), wide, html("button", { class: "btn btn-quiet" }, "Choose it"));
  edits(pass, () => {
    if (use.value) send({ use: use.value, measured: false, ...(use.value === "implement" && wide.value.trim() ? { wide_m: wide.value } : {}) });
  });
  edits(form, () => {
    const kind = made.kinds.find((k) => k.key === kinds.value);
    const edit = { kind: kinds.value, leaf_m: leaf.value };
    if (kinds.value !== g.kind && leaf.value === length(g.leaf, "cut") && !kind.sold.some((m) => Math.abs(m - g.leaf) < 0.01)) edit.leaf_m = kind.sold.reduce((a, b) => (Math.abs(b - g.leaf) < Math.abs(a - g.leaf) ? b : a));
    if (g.leaves) {
      Object.assign(edit, { measured: measured.checked, side: side.value, lie: lie.value, open_deg: Number(open.value) });
      if (g.leaves === 1) edit.hinge = hinge.value;
      if (rise.value.trim()) edit.rise_left = (Number(rise.value) / 100) * (side.value ? (side.value === "left" ? 1 : -1) : way);
      else if (g.known === "said") edit.forget = ["rise_left"];
    }
    send(edit);
  });
  return html("div", {}, form, pass, turns(g, send));
}

const WORDS = { first: "first post", last: "last post", both: "both posts", left: "left", right: "right", level: "level", land: "with the land" };

// Every way round it could hang, the one taken first; press one to take it.
function turns(g, send) {
  if (g.turns.length < 2) return html("span");
  const rows = g.turns.map((t, k) => {
    const take = () => send({ hinge: t.hinge === "both" ? "" : t.hinge, side: t.side, lie: t.lie });
    const words = `${WORDS[t.hinge]}, ${WORDS[t.side]}, ${WORDS[t.lie]}`;
    return html("tr", k ? {} : { class: "now" }, html("th", { scope: "row" }, k && !looks ? html("button", { edits: take, "aria-label": `Hang it so: ${words}` }, words) : words), html("td", { class: `num${t.ok ? "" : " no"}` }, quantity(t.gap, "gap")), html("td", { class: "num" }, quantity(Math.max(...t.leaves.map((l) => l.bottom)), "gap")), html("td", { class: "num" }, `${quantity(Math.max(...t.leaves.map((l) => l.highest)), "gap")}`));
  });
  const head = html("thead", {}, html("tr", {}, ...["Hung on, opening to, lying", "Under it", "At hinge", "Ground rises"].map((t, k) => html("th", { scope: "col", class: k ? "num" : "" }, t))));
  return html("div", { class: "waystable" }, html("p", { class: "waywords" }, html("b", {}, looks ? "Ways round." : "Ways round; press one to take it.")), html("table", { class: "plain-table" }, head, html("tbody", {}, ...rows)));
}

export const gateFacts = (g) => g.facts.map(factRow);

export function gateOrder(g, job) {
  const sheet = html("a", { href: job.to("gate", { id: g.id, units: units() }) }, "Sheet to print or carry");
  return [html("h2", {}, "How it is hung"), html("ol", { class: "worksteps" }, ...g.order.map((s) => html("li", {}, say(s)))), ...(g.leaves ? [html("p", { class: "caution" }, "A leaf falls: blocks under it and two people until both pins carry it.")] : []), html("h2", {}, "To the last bolt"), html("ul", { class: "parts" }, ...g.hardware.map((h) => html("li", {}, html("b", {}, `${h.count} × ${say(h.title)}`), ` ${say(h.way)}`))), html("p", {}, sheet)];
}
