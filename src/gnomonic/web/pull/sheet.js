// The drawings of a pull sheet, in the units it was asked in.
import { setUnits } from "../static/units.js";
import { barView, cutView, yearView } from "./drawings.js";

const shown = JSON.parse(document.getElementById("shown").textContent);
setUnits(new URLSearchParams(location.search).get("units") === "metric" ? "metric" : "us", false);
const draw = () => {
  barView(document.getElementById("bar"), shown);
  cutView(document.getElementById("cut"), shown);
  yearView(document.getElementById("year"), shown, shown.climate, shown.climate.day);
};
draw();
addEventListener("resize", draw);
document.body.dataset.ready = "yes";
