// Puts the quantities of the list in the reader's own units.
import { printQuantities } from "../static/units.js";

printQuantities(document);
