// A leg typed on a plan, read by the same reader as the field book: where it leads from one of the points, and its rise.
import { call } from "../static/send.js";
import { units } from "../static/units.js";
import { bearingOf } from "./plan.js";

// Enter takes what is typed, one leg after another: pressed twice it is one leg.  What is given back takes what still stands there,
// and ends when nothing is being read.  It is selected while it is read, so that the next one written takes its place.
export function oneByOne(input, take) {
  let last = Promise.resolve();
  const taken = () => (last = last.then(async () => {
    const text = input.value.trim();
    if (text && (await take(text)) && input.value.trim() === text) input.value = "";
  }));
  input.addEventListener("keydown", (event) => {
    if (event.key !== "Enter") return;
    event.preventDefault();
    input.select();
    taken();
  });
  return taken;
}

export async function typedLeg(points, from, text) {
  const [here, before] = [points[from], points[from - 1]];
  // the leg before is said first, so that a turn has something to turn from
  const lead = before ? `${bearingOf(before, here).toFixed(6)}  ${Math.hypot(here[0] - before[0], here[1] - before[1]).toFixed(4)} m\n` : "";
  const body = { text: lead + text, unit: units() === "metric" ? "m" : "ft" };
  const answer = await call("/api/v1/book", body);
  const read = answer.body;
  if (!answer.ok) return { refused: read.detail.replace(/^line \d+: /, "") };
  const [a, b] = read.points.slice(-2);
  return { to: [here[0] + b.e - a.e, here[1] + b.n - a.n], rise: b.h - a.h };
}
