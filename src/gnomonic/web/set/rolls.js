// Hang: every roll and offcut as a drawn bar, to one scale, with its cuts in the order they are laid; then the steps of the work.
import { el, html, label } from "../static/svg.js";
import { length, round, say, tapeDivisions } from "../static/units.js";
import { stockName } from "../strip/lanes.js";

const LEFT = 78;
const RIGHT = 16;
const AXIS = 20;
const LETTER = 6.4;

// What the rolls come to, in a sentence.
export function rollsSaid(data) {
  const { rolls, splices, fabric } = data;
  if (!fabric.layers.length) return [`${fabric.strands.length} strands, no rolls`, "Wires come in coils; the take-off counts them."];
  const plural = (n, word) => `${n} ${word}${n === 1 ? "" : "s"}`;
  const together = rolls.over.length > 1 ? ` Cut together with ${rolls.over.filter((n) => n !== data.name).join(", ")}: ${plural(rolls.whole, "roll")} in all, ${rolls.new} opened here.` : "";
  const proof = rolls.proven.new_rolls && rolls.proven.splices ? "No layout does with fewer of either." : "The best found in the time allowed; the whole line’s tag has the bounds.";
  return [`${plural(rolls.new, "roll")}, ${plural(splices.length, "splice")}`, `${proof} Longest offcut kept ${length(rolls.longest, "station")}.${together}`];
}

// The cuts of a stock: those on this line know where they hang.
function cutsOf(data, stock) {
  const own = data.pieces.filter((p) => p.stock === stock.stock);
  return stock.cuts.map((cut) => ({ ...cut, piece: cut.on === data.name ? own.shift() : null }));
}

const cutWords = (cut, k, data) => (cut.piece ? `${length(cut.length, "station")} for run ${cut.piece.run + 1}, from ${length(cut.piece.from, "station")} to ${length(cut.piece.to, "station")}` : `${length(cut.length, "station")} for ${cut.on}`);

// The bars, in a box so wide and high: [nodes, height].
export function rollBars(data, wide, most) {
  const longest = Math.max(...data.stocks.map((s) => s.length));
  const per = (wide - LEFT - RIGHT) / longest;
  const row = Math.min(26, Math.max(18, (most - AXIS) / data.stocks.length));
  const parts = [];
  const [major] = tapeDivisions(1 / per, 80);
  for (let k = 0; k * major <= longest + 1e-6; k++) parts.push(el("path", { class: "rollscale", d: `M${(LEFT + k * major * per).toFixed(1)} ${AXIS - 5}v5` }), label(LEFT + k * major * per, AXIS - 8, round(k * major), { class: "axis", "text-anchor": "middle" }));
  data.stocks.forEach((stock, n) => {
    const y = AXIS + n * row;
    const high = row - 3;
    parts.push(label(LEFT - 8, y + high / 2 + 4, stockName(stock.stock), { class: "rollname", "text-anchor": "end" }));
    let x = LEFT;
    cutsOf(data, stock).forEach((cut, k) => {
      const across = cut.length * per;
      const tone = stock.stock.startsWith("new") ? `tone${Number(stock.stock.slice(3)) % 3}` : "offcut";
      parts.push(el("rect", { class: `piece ${tone}${cut.piece ? "" : " elsewhere"}`, x: x.toFixed(1), y, width: across.toFixed(1), height: high }, el("title", {}, cutWords(cut, k, data))));
      const where = cut.piece ? `run ${cut.piece.run + 1} at ${length(cut.piece.from, "station")}` : cut.on;
      for (const text of [`${k + 1}. ${length(cut.length, "station")}, ${where}`, `${k + 1}. ${length(cut.length, "station")}`, `${k + 1}`]) {
        if (text.length * LETTER + 8 > across) continue;
        parts.push(label(x + across / 2, y + high / 2 + 4, text, { class: "piecename", "text-anchor": "middle" }));
        break;
      }
      x += across;
      parts.push(el("path", { class: "cutmark", d: `M${x.toFixed(1)} ${y - 2}v${high + 4}` }));
    });
    if (stock.kept * per > 1) parts.push(el("rect", { class: "restpiece", x: x.toFixed(1), y, width: (stock.kept * per).toFixed(1), height: high }));
    const rest = `${length(stock.kept, "station")} left`;
    if (stock.kept > 0.01 && rest.length * LETTER + 8 < stock.kept * per) parts.push(label(x + (stock.kept * per) / 2, y + high / 2 + 4, rest, { class: "piecename left", "text-anchor": "middle" }));
  });
  return [parts, AXIS + data.stocks.length * row];
}

// The rolls' box under the strip; a splice is chosen by its button.
export function showRolls(box, data, choose) {
  const [head, more] = rollsSaid(data);
  const splices = data.splices.map((s, k) => html("button", { class: "link", onclick: () => choose({ splice: k }), title: `${length(s.clear, "cut")} clear of the nearest post` }, `Splice ${k + 1} at ${length(s.at, "station")}`));
  const words = html("p", { class: "rollwords" }, html("b", {}, head), " ", ...splices.flatMap((s) => [s, " "]));
  const proof = html("p", { class: "quiet rollproof" }, more);
  if (!data.stocks.length) return box.replaceChildren(words, proof);
  const svg = el("svg", { class: "rollbars", role: "img", "aria-label": "Rolls and offcuts to one scale, with their cuts in laying order; the list says the same" });
  const list = html("ol", { class: "visually-hidden" }, ...data.stocks.map((s) => html("li", {}, `${stockName(s.stock)}, ${length(s.length, "station")}: ${cutsOf(data, s).map((c, k) => cutWords(c, k, data)).join("; ")}${s.kept > 0.01 ? `; ${length(s.kept, "station")} left` : ""}`)));
  box.replaceChildren(words, svg, list, proof);
  const [nodes, high] = rollBars(data, box.clientWidth || 600, 150);
  svg.setAttribute("viewBox", `0 0 ${box.clientWidth || 600} ${high}`);
  svg.style.height = `${high}px`;
  svg.replaceChildren(...nodes);
  return null;
}

const hours = (minutes) => (minutes < 50 ? `${Math.max(5, Math.round(minutes / 5) * 5)} min` : `${(Math.round(minutes / 30) / 2).toFixed(1).replace(".0", "").replace(".5", "½").replace(/^0½/, "½")} h`);

// How long a step takes one person on easy ground, and who it wants.
function takes(step) {
  if (!step.minutes[1]) return "";
  const [least, usual, most] = step.minutes.map(hours);
  const crew = step.crew > 1 ? ", never alone" : "";
  const wait = step.wait ? ` Then ${step.wait.days} days: ${say(step.wait.why)}.` : "";
  return html("span", { class: "quiet takes", title: `${say(step.reason)} (${step.source})` }, ` One person’s work: about ${usual}, ${least} to ${most}${crew}.${wait}`);
}

// The work in order, with this job's numbers.
export function stepsList(steps) {
  const rows = steps.map((s) => html("li", {}, say(s.text), takes(s), ...(s.caution ? [html("p", { class: "caution" }, say(s.caution))] : [])));
  return html("ol", { class: "worksteps" }, ...rows);
}

export function showSteps(box, answer, laying = []) {
  if (!answer.ok) return box.replaceChildren(html("p", { class: "refusal", role: "alert" }, answer.body.detail));
  const down = laying.length ? [html("details", { class: "laying" }, html("summary", {}, "Where each roll is set down, and which way it unrolls"), html("ul", {}, ...laying.map((s) => html("li", {}, say(s)))))] : [];
  return box.replaceChildren(html("h2", {}, "The work in order"), ...down, stepsList(answer.body.steps));
}
