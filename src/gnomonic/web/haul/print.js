// The strip on the printed sheet: the same drawing as the work surface, still.
import { drawSection } from "../hold/section.js";
import { setUnits } from "../static/units.js";
import { Strip } from "../set/strip.js";

const data = document.getElementById("drawing");
setUnits(data.dataset.units, false);
const strip = new Strip(document.getElementById("strip"), { still: true });
const drawing = JSON.parse(data.textContent);
strip.show(drawing);
drawSection(document.getElementById("section"), drawing.fabric);
document.getElementById("print").addEventListener("click", () => window.print());
