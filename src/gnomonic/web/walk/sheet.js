// The walk sheet: the profile with what was found, in the sheet's own units.
import { Strip } from "../strip/strip.js";
import { printQuantities, setUnits } from "../static/units.js";

const source = document.getElementById("drawing");
setUnits(source.dataset.units, false);
printQuantities(document);
new Strip(document.getElementById("strip"), { still: true, only: ["ground", "found"] }).show(JSON.parse(source.textContent));
document.getElementById("print").addEventListener("click", () => print());
document.body.dataset.ready = "yes";
