// Small parts of the field pages: elements without markup in strings, thumbs' buttons, lengths to choose from.
import { length, units } from "../static/units.js";

export function h(tag, given = {}, ...inside) {
  const node = document.createElement(tag);
  for (const [key, value] of Object.entries(given)) {
    if (value === null || value === undefined || value === false) continue;
    if (key.startsWith("on")) node.addEventListener(key.slice(2), value);
    else node.setAttribute(key, value === true ? "" : value);
  }
  node.append(...inside.flat(Infinity).filter((part) => part !== null && part !== undefined && part !== false && part !== ""));
  return node;
}

export function svg(tag, given = {}, ...inside) {
  const node = document.createElementNS("http://www.w3.org/2000/svg", tag);
  for (const [key, value] of Object.entries(given)) node.setAttribute(key, value);
  node.append(...inside.flat());
  return node;
}

// A button for a gloved thumb: what it does, and a line under it.
export const press = (words, run, { under = "", kind = "" } = {}) => h("button", { type: "button", class: `press ${kind}`, onclick: run }, h("b", {}, words), under && h("small", {}, under));
export const two = (...buttons) => h("div", { class: "two" }, ...buttons);

// Lengths to choose from, one press each; the planned one is marked.
export function lengths(values, run, { kind = "depth", planned = null, name = "How much" } = {}) {
  const near = planned === null ? null : values.reduce((a, b) => (Math.abs(b - planned) < Math.abs(a - planned) ? b : a));
  const row = h("div", { class: "chips", role: "group", "aria-label": name }, ...values.map((v) => h("button", { type: "button", class: v === near ? "chip planned" : "chip", "data-m": v, onclick: () => run(v) }, length(v, kind))));
  return row;
}

// Steps of a tape from one length to another: inches or centimetres.
export function steps(from, to, { us, metric }) {
  const step = units() === "us" ? us * 0.0254 : metric;
  const [low, high] = [Math.round(Math.min(from, to) / step), Math.round(Math.max(from, to) / step)];
  const made = Array.from({ length: high - low + 1 }, (_, k) => Number(((low + k) * step).toFixed(4))).filter((v) => v >= 0);
  return from > to ? made.reverse() : made;
}

// A question over the page; it is done with a press, or left with the way back.
export function sheet(title, ...inside) {
  const dialog = h("dialog", { class: "sheet", "aria-label": title }, h("div", { class: "sheethead" }, h("h2", {}, title), h("button", { type: "button", class: "close", onclick: () => dialog.close() }, "Back")), ...inside);
  dialog.addEventListener("close", () => {
    dialog.remove();
    dispatchEvent(new Event("sheetclosed"));
  });
  document.body.append(dialog);
  dialog.showModal();
  return dialog;
}

export const byNumber = (value, digits = 0) => Number(value).toFixed(digits);
