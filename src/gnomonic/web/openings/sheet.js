// The drawings of a gate's sheet, in the units it was asked in.
import { setUnits } from "../static/units.js";
import { above, front } from "./leaf.js";

const gate = JSON.parse(document.getElementById("shown").textContent);
setUnits(new URLSearchParams(location.search).get("units") === "metric" ? "metric" : "us");
const draw = () => {
  front(document.getElementById("front"), gate);
  above(document.getElementById("above"), gate);
};
draw();
addEventListener("resize", draw);
document.body.dataset.ready = "yes";
