// The strip on the printed sheet: the same drawing as the work surface, still.
import { setUnits } from "../static/units.js";
import { Strip } from "../set/strip.js";

const data = document.getElementById("drawing");
setUnits(data.dataset.units, false);
const strip = new Strip(document.getElementById("strip"), { still: true });
strip.show(JSON.parse(data.textContent));
document.getElementById("print").addEventListener("click", () => window.print());
