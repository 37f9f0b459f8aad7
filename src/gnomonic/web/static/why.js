// The "why?" beside a value: a button, and what it opens, whole, in place.
import { html } from "./svg.js";

export function why(name, ...paragraphs) {
  const more = html("div", { class: "because", hidden: true }, ...paragraphs);
  const open = html("button", { class: "why", "aria-expanded": "false", "aria-label": `Why: ${name}` }, "why?");
  open.addEventListener("click", () => {
    more.hidden = !more.hidden;
    open.setAttribute("aria-expanded", String(!more.hidden));
    if (!more.hidden) more.scrollIntoView({ block: "nearest" });
  });
  return [open, more];
}
