// Lengths in the reader's own units.
import { printQuantities } from "../static/units.js";

printQuantities(document);
document.body.dataset.ready = "yes";
