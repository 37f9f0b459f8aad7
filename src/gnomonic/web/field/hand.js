// What every view of the field pages has at hand: the job that is looked at, going somewhere, writing something down, saying it.
import { quantity, setUnits, units } from "../static/units.js";
import { fold } from "./fold.js";
import * as keep from "./keep.js";
import { sync } from "./sync.js";
import { h, press } from "./ui.js";

const at = (id) => document.getElementById(id);
export const trade = JSON.parse(at("trade").textContent);
export const it = { job: "", tab: "posts", line: "", post: "", pack: null, rows: [], folded: fold([]), known: new Map(), waiting: 0, photos: 0, refused: 0 };
let show = async () => {};
export const drawnBy = (run) => (show = run); // what draws the page anew

export const of = (own, post, more) => ({ line: own.id, post: post.name, at_m: post.at, e_m: post.e, n_m: post.n, ...more });
// A post as it is called: with its line's letter where the job has several lines.
export const called = (pack, own, { name }) => `${pack.lines.length > 1 ? own.id : ""}${name}`;

// Where to look next; the address says it, so that back goes back.
export const go = (job, tab = "posts", line = "", post = "") => {
  const to = `#job/${[job, tab, line, post].map(encodeURIComponent).join("/")}`;
  if (location.hash === to) show();
  else location.hash = to;
};

// What the office would refuse is not written down: the first number that lies beyond its bounds, in words; the empty word for none.
function beyond(events) {
  for (const event of events) for (const [key, { meaning, over, least, most }] of Object.entries(trade.bounds)) {
    if (event[key] === undefined || ((over ? event[key] > least : event[key] >= least) && event[key] <= most)) continue;
    const kind = { m: "depth", n: "force", c: "temperature" }[key.match(/_([a-z])$/)?.[1]] ?? "share";
    const [low, high] = [least, most].map((value) => (key === "count" ? value : quantity(value, kind)));
    return `The ${meaning.replace(", °C", "")} lies between ${low} and ${high}: nothing was kept.`;
  }
  return "";
}

// Write something down; said as kept when the phone has it.
export async function note(event, { told = "Kept on this phone.", photo = null } = {}) {
  const odd = beyond([].concat(event));
  if (odd) {
    alarm(odd);
    return null;
  }
  const me = await keep.state("me");
  let made;
  try {
    made = await keep.write(it.job, me?.name ?? "", [].concat(event), photo);
  } catch (error) {
    alarm(error?.name === "QuotaExceededError" ? "NOT KEPT: this phone has no room left. Save what waits to a file, make room, then do it again." : `NOT KEPT: ${error?.message ?? "the phone’s store does not answer"}. Do it again.`);
    return null;
  }
  sync();
  navigator.vibrate?.(30);
  alarm("");
  document.querySelectorAll("dialog.sheet").forEach((dialog) => dialog.close());
  await show();
  tell(told, made);
  return true;
}

// What was just kept, with the way to take it back.
function tell(words, made) {
  const back = h("button", { type: "button", class: "back", onclick: () => takeBack(made) }, "take back");
  at("told").replaceChildren(words, " ", made[0].kind === "void" ? "" : back);
}

async function takeBack(made) {
  const [first] = made;
  const kept = await note(made.map((e) => ({ kind: "void", line: e.line, post: e.post, at_m: e.at_m, of: e.id })), { told: "Taken back." });
  if (kept && first.post && it.tab === "posts") go(it.job, "posts", first.line, first.post);
}

// Said at the top of the page, and in the question that lies over it.
export function alarm(words) {
  at("alarm").hidden = !words;
  at("alarm").textContent = words;
  document.querySelectorAll(".alarmhere").forEach((node) => node.remove());
  const head = words && document.querySelector("dialog[open] .sheethead");
  if (!head) return;
  head.after(h("p", { class: "alarmhere" }, words));
  head.closest("dialog").scrollTop = 0; // it stands at the top of the sheet, and the thumb was at its foot
}

// A refusal is over with the question it was about; what was not kept is said until something is.
export const quiet = () => !at("alarm").textContent.startsWith("NOT KEPT") && alarm("");
addEventListener("sheetclosed", quiet);

export const unitsAndSun = () =>
  h("div", { class: "two" },
    press(units() === "us" ? "Feet and inches" : "Metres", () => { setUnits(units() === "us" ? "metric" : "us"); show(); }, { under: "change", kind: "light" }),
    press(document.documentElement.dataset.theme === "sun" ? "Full sun" : "Paper", () => { sun(); show(); }, { under: "change", kind: "light" }));

function sun() {
  const root = document.documentElement;
  if (root.dataset.theme === "sun") delete root.dataset.theme;
  else root.dataset.theme = "sun";
  localStorage.setItem("theme", root.dataset.theme ?? "paper");
}

export const SAYS = { depth: "in", found: "found", moved: "moved", clear: "brace measured", gap: "gap", pulled: "pulled", photo: "photo", note: "note", void: "taken back", gate: "gate hung", crossing: "crossing hung", hazard: "hazard", thunder: "thunder", brief: "toolbox signed", miss: "near miss", dig_anyway: "dug without marks", repair: "repair", round: "round", settled: "settled", cut: "cut and capped", proud: "stands proud", pilot: "pilot hole", redug: "dug again" };
