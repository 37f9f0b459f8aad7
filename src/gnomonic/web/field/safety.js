// Safety where it bites: marks before a hole, what was seen near, standing off from storms, first aid, the toolbox signed.
import { length } from "../static/units.js";
import { alarm, called, note, trade } from "./hand.js";
import { now, when } from "./fold.js";
import * as keep from "./keep.js";
import { locate, onGround } from "./place.js";
import { h, press, sheet, svg, two } from "./ui.js";

const MARKS = { marked: "marks are in", clear: "nothing is buried there", "not asked": "nobody asked for marks yet", requested: "asked; the marks are not in", expired: "the marks have run out", elsewhere: "the line has left the ground that was asked about" };

// Whether a hole may be begun on a line: marks in date, or a named person's reason of today.
export function marksHold(own, folded) {
  const { state, until } = own.marks;
  const inDate = !until || new Date(`${until}T23:59:59`) >= now();
  if (["marked", "clear"].includes(state) && inDate) return true;
  const since = now() - trade.rules.override * 3_600_000;
  return folded.stand.some((row) => row.event.kind === "dig_anyway" && (!row.event.line || row.event.line === own.id) && when(row) >= since && when(row) <= now() + 120_000);
}

// What others saw within reach of a place, the nearest first.
export const nearHazards = (folded, east, north) =>
  folded.stand
    .filter(({ event: e }) => (e.kind === "hazard" || (e.kind === "found" && ["service", "wire", "junk", "nest"].includes(e.what))) && e.e_m !== undefined)
    .map(({ event }) => [Math.hypot(event.e_m - east, event.n_m - north), event])
    .filter(([far]) => far <= trade.rules.near)
    .sort((a, b) => a[0] - b[0])
    .slice(0, 3);

export async function overrideSheet({ own }) {
  const me = await keep.state("me");
  const who = h("input", { maxlength: 80, value: me?.name ?? "", autocomplete: "name" });
  const why = h("textarea", { rows: 3, maxlength: 400 });
  sheet("Dig without marks",
    h("p", { class: "caution stop" }, "Most places make it an offence to dig before the marking service has answered, and a cable or a gas pipe kills. The marks, local law and the owner come first."),
    h("label", { class: "typed" }, "Who decides it", who),
    h("label", { class: "typed" }, "Why it may be dug here today", why),
    press(`Take it on me, line ${own.id}, today`, () => {
      if (who.value.trim().length < 2 || why.value.trim().length < 8) return alarm("A name and a reason of some words: without both no hole is written down as done.");
      alarm("");
      note({ kind: "dig_anyway", line: own.id, note: `${who.value.trim()}: ${why.value.trim()}`.replace(/\s+/g, " ") }, { told: "Written down, with your name." });
    }, { kind: "dark" }));
}

export async function safetyView(it) {
  const { pack, folded } = it;
  const heard = Math.max(0, ...folded.stand.filter((r) => r.event.kind === "thunder").map(when));
  const left = heard + trade.rules.stand_off * 60_000 - now();
  const signed = folded.stand.filter((r) => r.event.kind === "brief" && new Date(when(r)).toDateString() === new Date(now()).toDateString());
  return [
    h("h1", {}, "Safety"),
    left > 0 ? h("p", { class: "caution stop big" }, h("b", {}, `Stand off until ${new Date(heard + trade.rules.stand_off * 60_000).toLocaleTimeString([], { hour: "2-digit", minute: "2-digit" })}.`), " Away from the fence, from trees and from the machine’s boom.") : "",
    press(left > 0 ? "Thunder again" : "Thunder heard", () => note({ kind: "thunder" }, { told: `Stand off ${trade.rules.stand_off} minutes from now.` }), { under: `everybody stands off ${trade.rules.stand_off} min after the last`, kind: left > 0 ? "" : "dark" }),
    two(press("Saw a hazard", () => hazardSheet(it)), press("Near miss", () => missSheet())),
    press("Toolbox talk", () => briefSheet(), { under: signed.length ? `signed today: ${signed.map((r) => r.event.names).join(", ")}` : "not signed today", kind: signed.length ? "done" : "" }),
    h("h2", {}, "First aid: what comes first"),
    h("p", { class: "hush" }, "No training’s place is taken by a card. In doubt, call for help."),
    ...Object.values(trade.cards).map((card) => h("details", { class: "aid" }, h("summary", {}, card.title), h("ol", {}, ...card.first.map((t) => h("li", {}, t))), h("p", { class: "caution stop" }, card.call))),
    h("h2", {}, "Marks"),
    ...states(pack).map(([state, until, names]) => h("p", { class: `caution ${["marked", "clear"].includes(state) ? "fine" : "stop"}` }, `${names.length > 1 ? `Lines ${names.join(", ")}` : `Line ${names[0]}`}: ${MARKS[state] ?? state}${until ? `, until ${until}` : ""}`)),
  ];
}

// Lines with the same marks together.
function states(pack) {
  const found = new Map();
  for (const { id, marks } of pack.lines) {
    const key = `${marks.state}|${marks.until}`;
    found.set(key, [...(found.get(key) ?? []), id]);
  }
  return [...found].map(([key, names]) => [...key.split("|"), names]);
}

const SEEN = [["nest", "Nest"], ["overhead", "Power line"], ["service", "Buried service"], ["wire", "Old wire"], ["hole", "Hole, bank"], ["other", "Other"]];
function hazardSheet({ pack, own, post }) {
  const words = h("textarea", { rows: 2, maxlength: 400, "aria-label": "What others should know" });
  const here = own.posts.find((p) => p.name === post) ?? own.posts[0];
  const put = async (what) => {
    let [e, n, how] = [here.e, here.n, `at ${called(pack, own, here)}`];
    if (pack.origin)
      try {
        const { coords } = await locate();
        [e, n] = onGround(pack.origin, coords.longitude, coords.latitude);
        how = `where you stand, to about ${length(coords.accuracy, "station")}`;
      } catch {
        // the post that is looked at stands for the place, and is said
      }
    await note({ kind: "hazard", what, e_m: Number(e.toFixed(2)), n_m: Number(n.toFixed(2)), note: words.value.trim().replace(/\s+/g, " ") }, { told: `Written down ${how}; it comes up within ${length(trade.rules.near, "station")}.` });
  };
  sheet("What did you see?", h("label", { class: "typed" }, "What others should know", words), h("div", { class: "grid" }, ...SEEN.map(([what, text]) => press(text, () => put(what), { kind: "dark" }))));
}

function missSheet() {
  const words = h("textarea", { rows: 4, maxlength: 1000 });
  sheet("What nearly happened?", h("p", { class: "hush" }, "No blame: what was seen once hurts nobody the next time."), h("label", { class: "typed" }, "In a sentence", words), press("Keep it", () => words.value.trim() && note({ kind: "miss", note: words.value.trim().replace(/\s+/g, " ") }, { told: "Written down." }), { kind: "main" }));
}

// The toolbox talk: what is said, and everybody's sign by touch.
async function briefSheet() {
  const people = (await keep.state("people")) ?? [];
  const name = h("input", { maxlength: 80, list: "people", autocomplete: "off" });
  const pad = svg("svg", { viewBox: "0 0 320 120", class: "pad", role: "img", "aria-label": "Sign here" });
  const path = svg("path", {});
  pad.append(path);
  let strokes = "";
  let down = false;
  const point = (event, letter) => {
    const box = pad.getBoundingClientRect();
    strokes += `${letter}${Math.round(((event.clientX - box.left) / box.width) * 320)} ${Math.round(((event.clientY - box.top) / box.height) * 120)}`;
    path.setAttribute("d", strokes);
  };
  pad.addEventListener("pointerdown", (event) => { down = true; pad.setPointerCapture(event.pointerId); point(event, "M"); event.preventDefault(); });
  pad.addEventListener("pointermove", (event) => down && strokes.length < 7900 && point(event, "L"));
  pad.addEventListener("pointerup", () => { down = false; });
  sheet("Toolbox talk", h("ul", {}, ...trade.toolbox.map((t) => h("li", {}, t))),
    h("label", { class: "typed" }, "Who was told", name), h("datalist", { id: "people" }, ...people.map((p) => h("option", { value: p }))),
    h("p", { class: "what" }, "Signs with a finger"), pad,
    press("Keep the sign", () => {
      if (name.value.trim().length < 2 || strokes.length < 12) return alarm("A name and a sign: both are wanted.");
      alarm("");
      note({ kind: "brief", names: name.value.trim(), strokes }, { told: `${name.value.trim()} has signed.` });
    }, { kind: "main" }));
}
