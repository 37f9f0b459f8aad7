// Prints quantities as core/units.py does (a test holds the two to each other); the choice of units is remembered.

const INCH = 0.0254;
const POUND = 4.4482216152605;
const KINDS = { station: [2, 10], cut: [8, 5], gap: [8, 5], depth: [1, 10] };
const EIGHTHS = { 1: "⅛", 2: "¼", 3: "⅜", 4: "½", 5: "⅝", 6: "¾", 7: "⅞" };
let system = localStorage.getItem("units") === "metric" ? "metric" : "us";

export const units = () => system;

export function setUnits(next, remember = true) {
  system = next;
  if (remember) localStorage.setItem("units", next);
}

const parts = (value, n) => Math.floor(Math.abs(value) * n + 0.5 + 1e-9);

export function length(metres, kind = "station") {
  const [denominator, step] = KINDS[kind];
  if (system === "metric") {
    const steps = parts((metres * 1000) / step, 1);
    const sign = metres < 0 && steps ? "−" : "";
    const mm = steps * step;
    return kind === "gap" && mm < 1000 ? `${sign}${mm} mm` : `${sign}${(mm / 1000).toFixed(step >= 10 ? 2 : 3)} m`;
  }
  const count = parts(metres / INCH, denominator);
  const sign = metres < 0 && count ? "−" : "";
  let inches = Math.floor(count / denominator);
  const rest = count % denominator;
  let feet = 0;
  if (!(kind === "gap" && inches < 24)) [feet, inches] = [Math.floor(inches / 12), inches % 12];
  const fraction = rest ? EIGHTHS[(rest * 8) / denominator] : "";
  const inchText = `${inches || !fraction ? inches : ""}${fraction} in`;
  if (!feet) return kind === "station" && inchText === "0 in" ? "0 ft" : sign + inchText;
  return inchText === "0 in" ? `${sign}${feet} ft` : `${sign}${feet} ft ${inchText}`;
}

// Rounds half to even as Python's format does closely enough for the digits shown.
const whole = (value) => String(Math.round(value)).replace("-", "−");

export function quantity(value, kind) {
  if (kind in KINDS) return length(value, kind);
  if (kind === "area") return system === "us" ? `${(value / 0.09290304).toFixed(1)} sq ft` : `${value.toFixed(2)} m²`;
  if (kind === "land") return system === "us" ? `${(value / 4046.8564224).toFixed(2)} acres` : `${(value / 10000).toFixed(3)} ha`;
  if (kind === "volume") return system === "us" ? `${(value / 0.028316846592).toFixed(1)} cu ft` : `${value.toFixed(2)} m³`;
  if (kind === "force") {
    if (system === "us") return `${Math.round(value / POUND / 10) * 10} lb`;
    return value >= 995 ? `${(value / 1000).toFixed(1)} kN` : `${Math.round(value / 10) * 10} N`;
  }
  if (kind === "grade" || kind === "share") return `${whole(value * 100)} %`;
  if (kind === "angle") return `${whole(value)}°`;
  return whole(value);
}

export const say = (sentence) =>
  sentence.t.replace(/\{(\w+)\}/g, (_, key) => {
    const value = sentence.v[key] ?? `{${key}}`;
    return typeof value === "string" ? value : quantity(value[0], value[1]);
  });

export function printQuantities(root) {
  for (const node of root.querySelectorAll("[data-q]")) node.textContent = quantity(Number(node.dataset.q), node.dataset.kind);
}

// A round figure on a tape or a scale bar: 200 ft, 6 in, 100 m, 0.5 m.
export function round(metres) {
  if (system === "us") return metres === 0 ? "0" : length(metres, "station");
  return metres === 0 ? "0" : `${Number(metres.toFixed(2))} m`;
}

// Round divisions of a tape for a stretch of this many metres on this many pixels: [division, minor], in metres.
export function tapeDivisions(metresPerPixel, room = 88) {
  const unit = system === "us" ? 0.3048 : 1;
  const small = system === "us" ? [1 / 12, 0.25, 0.5] : [0.05, 0.1, 0.2, 0.5];
  const steps = [...small, 1, 2, 5, 10, 20, 25, 50, 100, 200, 250, 500, 1000, 2000, 5000, 10000];
  const major = steps.find((s) => (s * unit) / metresPerPixel >= room) ?? 20000;
  const minor = steps.filter((s) => s < major && Math.abs(major / s - Math.round(major / s)) < 1e-6 && (s * unit) / metresPerPixel >= 9)[0] ?? major;
  return [major * unit, minor * unit];
}
