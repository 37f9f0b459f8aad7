// Small helpers for drawing.

export function el(name, attributes = {}, ...children) {
  const node = document.createElementNS("http://www.w3.org/2000/svg", name);
  for (const [key, value] of Object.entries(attributes)) node.setAttribute(key, value);
  node.append(...children);
  return node;
}

export function label(x, y, text, attributes = {}) {
  return el("text", { x: x.toFixed(1), y: y.toFixed(1), ...attributes }, text);
}

// Fits points [[east, north], …] into an svg; returns the map from (east, north) to (x, y), with its scale.
export function fit(svg, points, margin, above = margin) {
  const box = svg.getBoundingClientRect();
  svg.setAttribute("viewBox", `0 0 ${box.width} ${box.height}`);
  const es = points.map((p) => p[0]);
  const ns = points.map((p) => p[1]);
  const [e0, e1, n0, n1] = [Math.min(...es), Math.max(...es), Math.min(...ns), Math.max(...ns)];
  const scale = Math.min((box.width - 2 * margin) / Math.max(e1 - e0, 1e-3), (box.height - 2 * above) / Math.max(n1 - n0, 1e-3));
  const frame = (e, n) => [box.width / 2 + (e - (e0 + e1) / 2) * scale, box.height / 2 - (n - (n0 + n1) / 2) * scale];
  return Object.assign(frame, { scale, width: box.width, height: box.height });
}

// Whether whoever reads this page only looks: the plan is a planner's to change.
export const looks = document.documentElement.hasAttribute("data-looks");

// Has a control change the plan when it is pressed, chosen or sent: the one door for all of them.  To one who only looks a button and a
// form are not there, and what is chosen stands as it is.
export function edits(node, run) {
  const { tagName: kind } = node;
  if (looks) return Object.assign(node, ["BUTTON", "FORM", "DETAILS"].includes(kind) ? { hidden: true } : { disabled: true });
  const heard = kind === "BUTTON" ? "click" : kind === "FORM" ? "submit" : "change";
  if (run) node.addEventListener(heard, (event) => {
    if (kind === "FORM") event.preventDefault();
    run(event);
  });
  return node;
}

export function html(name, attributes = {}, ...children) {
  const node = document.createElement(name);
  for (const [key, value] of Object.entries(attributes)) {
    if (key === "class") node.className = value;
    else if (key === "edits") edits(node, value);
    else if (key.startsWith("on")) node.addEventListener(key.slice(2), value);
    else if (value !== false && value !== null) node.setAttribute(key, value === true ? "" : value);
  }
  node.append(...children);
  return node;
}
