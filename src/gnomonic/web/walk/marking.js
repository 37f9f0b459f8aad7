// The request to the marking desk: ask, look, forget; and the line with what was marked.
import { JobState } from "../static/job.js";
import { el, fit, label } from "../static/svg.js";
import { printQuantities, say, setUnits } from "../static/units.js";

const read = (id) => JSON.parse(document.getElementById(id).textContent);
const job = new JobState(read("state"), read("drawing"));
setUnits(document.getElementById("drawing").dataset.units, false);

function tell(text, wrong = false) {
  const said = document.getElementById("said");
  said.className = wrong ? "dig" : "";
  said.textContent = text;
}

job.addEventListener("changed", () => location.reload());
job.addEventListener("refused", (event) => tell(event.detail.detail, true));
job.addEventListener("conflict", (event) => tell(`${event.detail.detail} Load the page again.`, true));

async function call(path, words) {
  tell(words);
  const answer = await job.call(path, { base: job.version });
  if (!answer.ok) return tell(answer.body.detail, true);
  if (answer.body.waiting) return tell("The marks are not in yet: wait, and look again.");
  tell(say(answer.body.said));
  location.reload();
}

document.getElementById("ask")?.addEventListener("click", () => call("marking/ask", "Asking…"));
document.getElementById("look")?.addEventListener("click", () => call("marking/look", "Looking…"));
document.getElementById("forget")?.addEventListener("click", () => job.edit({ do: "forget_marking" }));

function draw() {
  const { drawing } = job;
  const svg = document.getElementById("plan");
  const services = drawing.found.filter((f) => f.kind === "service");
  const places = drawing.ground.map((g) => [g[1], g[2]]);
  const frame = fit(svg, [...places, ...services.flatMap((f) => f.shape)], 40);
  const path = (points) => `M${points.map((p) => frame(p[0], p[1]).map((v) => v.toFixed(1)).join(" ")).join("L")}`;
  const parts = services.filter((f) => f.shape.length > 1).flatMap((f) => {
    const ends = [f.shape[0], f.shape[f.shape.length - 1]].map((p) => frame(p[0], p[1]));
    const [x, y] = ends[0][0] > ends[1][0] ? ends[0] : ends[1];
    return [el("path", { d: path(f.shape), fill: "none", stroke: "rgb(163 13 45 / .22)", "stroke-width": Math.max(6, 2 * f.zone * frame.scale) }), el("path", { d: path(f.shape), fill: "none", stroke: "#a30d2d", "stroke-width": 1.8 }), label(x + 7, y + 4, f.name, { class: "markname" })];
  });
  const posts = drawing.posts.map((p) => frame(p.e, p.n)).map(([x, y]) => `M${(x - 1).toFixed(1)} ${y.toFixed(1)}h2`).join("");
  svg.replaceChildren(el("path", { class: "fence", d: path(places) }), el("path", { d: posts, class: "wooddots" }), ...parts);
}

draw();
printQuantities(document);
document.body.dataset.ready = "yes";
