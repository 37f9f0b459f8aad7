// The head of every page of a job: where it is, undo and redo, units, verbs and keys.
import { setUnits, units } from "./units.js";
import { showWhere } from "./job.js";
import { edits } from "./svg.js";

const VERBS = { 1: "walk", 2: "hold", 3: "set", 4: "hang", 5: "pull", 6: "haul", 7: "days", 8: "log" };
const at = (id) => document.getElementById(id);

// What the head says of the job as it stands.
export function showHead(job) {
  if (at("lines")) showWhere(job);
  at("undo").disabled = !job.undo;
  at("redo").disabled = !job.redo;
  at("units").textContent = units() === "us" ? "ft in" : "metres";
}

// Listens at the head and to the keyboard; ``own`` is asked first for a key and says whether it took it.
export function head(job, { units: changed, own = () => false }) {
  const toggle = () => {
    setUnits(units() === "us" ? "metric" : "us");
    changed();
  };
  for (const way of ["undo", "redo"]) edits(at(way), () => job.step(way));
  at("units").addEventListener("click", toggle);
  at("keys")?.addEventListener("click", () => at("help").showModal());
  const verb = (name) => at(`to-${name}`) ?? document.querySelector(`[data-verb="${name}"]`);
  const common = (key) => (key === "u" ? toggle : key === "?" && at("keys") ? () => at("keys").click() : VERBS[key] && verb(VERBS[key]) ? () => verb(VERBS[key]).click() : null);
  document.addEventListener("keydown", (event) => {
    if (event.target.closest("input, select, textarea, dialog") || event.altKey) return;
    const bare = !event.ctrlKey && !event.metaKey;
    if (!bare && event.key.toLowerCase() === "z") job.step(event.shiftKey ? "redo" : "undo");
    else if (!bare || !(own(event) || press(common(event.key)))) return;
    event.preventDefault();
  });
}

function press(run) {
  if (!run) return false;
  run();
  return true;
}
