// The strips on the printed sheets: the same drawings as the work surface, still; and the plan of all lines.
import { drawSection } from "../hold/section.js";
import { jobPlan } from "../lines/plan.js";
import { fit } from "../static/svg.js";
import { setUnits } from "../static/units.js";
import { Strip } from "../strip/strip.js";

setUnits(document.getElementById("printed").dataset.units, false);
for (const sheet of document.querySelectorAll(".linesheet")) {
  const drawing = JSON.parse(sheet.querySelector(".drawing").textContent);
  new Strip(sheet.querySelector(".strip"), { still: true }).show(drawing);
  drawSection(sheet.querySelector(".section"), drawing.fabric);
}
const ground = document.getElementById("ground");
if (ground) {
  const lines = JSON.parse(document.getElementById("alllines").textContent);
  ground.replaceChildren(...jobPlan(fit(ground, lines.flatMap((l) => l.places), 54, 40), { lines, page: null, picked: null, pick: () => {} }));
}
// What goes to paper is remembered: the take-off says what changed since.
const { job, version } = document.getElementById("printed").dataset;
addEventListener("beforeprint", () => fetch(`/api/v1/jobs/${job}/printed`, { method: "POST", headers: { "Content-Type": "application/json", "X-Page-Token": document.querySelector("meta[name=page-token]")?.content ?? "" }, body: JSON.stringify({ version: Number(version) }), keepalive: true }).catch(() => {}));
document.getElementById("print").addEventListener("click", () => window.print());
