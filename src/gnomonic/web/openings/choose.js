// Options of a choice.
import { html } from "../static/svg.js";

export const options = (rows, value) => rows.map(([key, words]) => html("option", { value: key, selected: key === value }, words));
