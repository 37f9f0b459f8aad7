// Puts the quantities of the list in the reader's own units; jobs that changed since they were counted are counted one after the other.
import { el, html } from "../static/svg.js";
import { printQuantities } from "../static/units.js";

printQuantities(document);

function fill(row, made) {
  const plural = (n, word) => `${n} ${word}${n === 1 ? "" : "s"}`;
  row.querySelector("svg").replaceChildren(...made.paths.map(([d, standing]) => el("path", { class: standing, d })));
  const long = html("span", { "data-q": made.length_m, "data-kind": "station" });
  const what = made.lines > 1 ? `${made.lines} lines, ` : made.closed ? "closed line, " : "open line, ";
  row.querySelector(".cardfacts").replaceChildren(what, long, ` · ${plural(made.posts, "post")}${made.gates ? ` · ${plural(made.gates, "gate")}` : ""}`);
  row.querySelector(".cardhung").textContent = made.hung;
  const snags = row.querySelector(".cardsnags");
  snags.textContent = made.snags ? `${plural(made.snags, "snag")}${made.grave ? `, ${made.grave} grave` : ""}` : "no snags";
  snags.classList.toggle("flagtext", made.snags > 0);
  printQuantities(row);
  row.removeAttribute("data-stale");
}

for (const row of document.querySelectorAll("[data-stale]")) {
  try {
    const answer = await fetch(`/api/v1/jobs/${row.dataset.job}/summary`);
    if (answer.ok) fill(row, await answer.json());
    else row.querySelector(".cardfacts").textContent = (await answer.json()).detail;
  } catch {
    break; // no server: the list stays as it came
  }
}
document.body.dataset.ready = "yes";
