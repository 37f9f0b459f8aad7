// A new line on empty ground: clicks and typed legs, saved as a job.
import { call, newKey, send } from "../static/send.js";
import { length, units } from "../static/units.js";
import { HandPlan } from "./hand.js";
import { oneByOne, typedLeg } from "./typed.js";

const at = (id) => document.getElementById(id);
const plan = new HandPlan(at("plan"));
const onto = JSON.parse(at("onto").textContent);
const joins = { start: null, end: null };
let points = [];
let closed = false;

function tell(text, wrong = false) {
  at("said").className = wrong ? "dig" : "quiet";
  at("said").textContent = text;
}

function show(refit = false) {
  if (refit) plan.view = null;
  plan.show({ points, closed, others: onto.lines });
  at("close").setAttribute("aria-pressed", String(closed));
  at("back").disabled = !points.length;
  const run = points.slice(1).reduce((sum, p, k) => sum + Math.hypot(p[0] - points[k][0], p[1] - points[k][1]), 0);
  if (points.length > 1) tell(`${points.length} points, ${length(run, "station")}${closed ? " and the leg that closes it" : ""}.`);
}

// The first place and the last may lie on another line: they are joined to it.
function add(to, own, join) {
  if (own === 0 && points.length > 2) closed = true;
  else if (own === undefined) {
    points.push([...to, 0, ""]);
    if (points.length === 1) joins.start = join ?? null;
    joins.end = points.length > 1 && join ? join : null;
  }
  show();
}

plan.addEventListener("add", ({ detail }) => add(detail.to, detail.onto, detail.join));
const typed = oneByOne(at("typed"), async (text) => {
  if (!points.length) points.push([0, 0, 0, ""]);
  const { refused, to } = await typedLeg(points, points.length - 1, text);
  if (refused) return tell(refused, true);
  points.push([...to, 0, ""]);
  show(true);
  return true;
});
at("back").addEventListener("click", () => {
  if (closed) closed = false;
  else points = points.slice(0, -1);
  show();
});
at("close").addEventListener("click", () => {
  if (points.length < 3) return tell("A closed line needs three points.", true);
  closed = !closed;
  show();
});
at("fit").addEventListener("click", () => plan.fit());
// A square-cornered plot: its pegs, the diagonal to tape and the largest 3-4-5 that fits, by the pocket sum.
at("rectangle").addEventListener("submit", async (event) => {
  event.preventDefault();
  const { ok, body: read } = await call("/api/v1/book", { text: `E ${at("side-a").value}\nN 0 E ${at("side-b").value}`, unit: units() === "metric" ? "m" : "ft" });
  if (!ok) return tell(read.detail.replace(/^line \d+: /, ""), true);
  const [a, b] = [read.points[1].e, read.points[2].n];
  const { ok: square, body: plot } = await call("/api/v1/calc/square", { a_m: a, b_m: b });
  if (!square) return tell(plot.detail, true);
  points = plot.pegs.map(([e, n]) => [e, n, 0, ""]);
  closed = true;
  show(true);
  const fits = plot.multiples[units() === "metric" ? "m" : "ft"].pop();
  at("diagonal").textContent = `Both diagonals tape ${length(plot.diagonal_m, "cut")}${fits ? `; square the corners by ${fits.join(", ")} ${units() === "metric" ? "m" : "ft"}` : ""}.`;
});
const key = newKey(); // of the one line this page saves
at("save").addEventListener("submit", async (event) => {
  event.preventDefault();
  await typed();
  const left = at("typed").value.trim();
  if (left) return tell(`“${left}” is no leg of the line yet: mend it or clear it, then save.`, true);
  if (points.length < 2) return tell("Draw two points at least.", true);
  const round = (p) => [Number(p[0].toFixed(4)), Number(p[1].toFixed(4))];
  const ends = closed ? [] : Object.entries(joins).filter(([, on]) => on).map(([end, on]) => {
    const [e, n] = round(end === "start" ? points[0] : points[points.length - 1]);
    return { end, on: on.id, e_m: e, n_m: n };
  });
  const body = { name: at("name").value, points: points.map(round), closed, ...(onto.job ? { base: onto.version, joins: ends } : {}) };
  const { ok, body: made } = await send(onto.job ? `/api/v1/jobs/${onto.job}/drawn` : "/api/v1/jobs", body, (detail) => tell(detail, true), key);
  if (!ok) return tell(made.detail, true);
  location.assign(`/jobs/${made.job}/walk${made.line ? `?line=${made.line}` : ""}`);
});
plan.mode = "draw";
show();
document.body.dataset.ready = "yes";
