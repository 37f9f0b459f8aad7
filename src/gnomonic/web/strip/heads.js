// What stands at the left of the lanes: names that fold them, handles that make them taller; how they were left is remembered.
import { el, label } from "../static/svg.js";

const KEPT = "lanes";
const LEAST = 24;
const MOST = 220;
const STEP = 12;

// Heights and folds of the lanes as they were left.
export class Lanes {
  constructor(usual, remember = true) {
    let [heights, folded] = [{}, []];
    try {
      if (remember) ({ heights, folded } = { heights, folded, ...JSON.parse(localStorage.getItem(KEPT)) });
      Object.assign(this, { usual, remember, heights: { ...heights }, folded: new Set(folded) });
    } catch {
      Object.assign(this, { usual, remember, heights: {}, folded: new Set() }); // what can't be read is forgotten
    }
  }

  high(key) {
    return Math.min(MOST, Math.max(LEAST, Number(this.heights[key]) || this.usual[key]));
  }

  make(key, high) {
    this.heights[key] = Math.round(Math.min(MOST, Math.max(LEAST, high)));
    this.keep();
  }

  fold(key) {
    if (!this.folded.delete(key)) this.folded.add(key);
    this.keep();
  }

  keep() {
    if (this.remember) localStorage.setItem(KEPT, JSON.stringify({ heights: this.heights, folded: [...this.folded] }));
  }
}

// A lane's name; a press folds the lane.
export function laneName(strip, key, name, high, folded) {
  if (strip.still) return label(12, 17, name, { class: "lanename" });
  const text = label(12, Math.min(high / 2 + 4, 17), `${folded ? "▸" : "▾"} ${name}`, { class: "lanename" });
  const hit = el("rect", { x: 0, y: 0, width: strip.left - 6, height: high, class: "hit" });
  const button = el("g", { class: "fold", role: "button", tabindex: 0, "aria-expanded": !folded, "aria-label": `${name} lane` }, hit, text);
  const toggle = () => {
    strip.lanesKept.fold(key);
    strip.draw();
    strip.svg.querySelector(`.lane.${key} .fold`)?.focus();
  };
  button.addEventListener("click", toggle);
  button.addEventListener("keydown", (event) => {
    if (event.key !== "Enter" && event.key !== " ") return;
    event.preventDefault();
    toggle();
  });
  return button;
}

// The upper edge of a lane: dragging it, or its arrow keys, makes the lane taller.
export function handle(strip, key, name, high) {
  const kept = strip.lanesKept;
  const edge = el("rect", { class: "handle", x: 0, y: -4, width: strip.width, height: 8, role: "separator", tabindex: 0, "aria-orientation": "horizontal", "aria-label": `Height of the ${name} lane`, "aria-valuemin": LEAST, "aria-valuemax": MOST, "aria-valuenow": Math.round(high) });
  const make = (to) => {
    kept.make(key, to);
    strip.draw();
  };
  edge.addEventListener("pointerdown", (event) => {
    event.stopPropagation();
    const from = event.clientY;
    const move = (moved) => make(high + from - moved.clientY);
    addEventListener("pointermove", move);
    addEventListener("pointerup", () => removeEventListener("pointermove", move), { once: true });
  });
  edge.addEventListener("keydown", (event) => {
    const way = { ArrowUp: 1, ArrowDown: -1 }[event.key];
    if (!way) return;
    event.preventDefault();
    event.stopPropagation();
    make(high + way * STEP);
    strip.svg.querySelector(`.lane.${key} .handle`)?.focus();
  });
  return edge;
}
