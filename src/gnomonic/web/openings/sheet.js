// The drawings of a gate's or a crossing's sheet, in the units it was asked in.
import { setUnits } from "../static/units.js";
import { above, front } from "./leaf.js";
import { channel } from "./water.js";

const at = (id) => document.getElementById(id);
const shown = JSON.parse(at("shown").textContent);
setUnits(new URLSearchParams(location.search).get("units") === "metric" ? "metric" : "us");
const draw = () => {
  if (at("channel")) return channel(at("channel"), shown);
  front(at("front"), shown);
  return above(at("above"), shown);
};
draw();
addEventListener("resize", draw);
document.body.dataset.ready = "yes";
