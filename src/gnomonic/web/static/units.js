// Prints quantities as core/units.py does (a test holds the two to each other); the choice of units is remembered.

const INCH = 0.0254;
const POUND = 4.4482216152605;
const KINDS = { station: [2, 10], cut: [8, 5], gap: [8, 5], depth: [2, 10] };
const EIGHTHS = { 1: "⅛", 2: "¼", 3: "⅜", 4: "½", 5: "⅝", 6: "¾", 7: "⅞" };
let system = localStorage.getItem("units") === "metric" ? "metric" : "us";

export const units = () => system;

let opened = "";

// A job opens in what it was read in last, or else in what it was measured in.
export function openIn(job, measured) {
  opened = `units:${job}`;
  const own = localStorage.getItem(opened) ?? { m: "metric", ft: "us" }[measured];
  if (own) system = own;
}

export function setUnits(next, remember = true) {
  system = next;
  if (remember) for (const key of ["units", ...(opened ? [opened] : [])]) localStorage.setItem(key, next);
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

// A number to so many digits, halves away from zero.
function rounded(value, digits = 0) {
  const count = parts(value, 10 ** digits);
  return `${value < 0 && count ? "−" : ""}${(count / 10 ** digits).toFixed(digits)}`;
}

function tens(value) {
  const count = parts(value / 10, 1);
  return `${value < 0 && count ? "−" : ""}${count * 10}`;
}

export function quantity(value, kind) {
  if (kind in KINDS) return length(value, kind);
  const us = system === "us";
  if (kind === "area") return us ? `${rounded(value / 0.09290304, 1)} sq ft` : `${rounded(value, 2)} m²`;
  if (kind === "land") return us ? `${rounded(value / 4046.8564224, 2)} acres` : `${rounded(value / 10000, 3)} ha`;
  if (kind === "volume") return us ? `${rounded(value / 0.028316846592, 1)} cu ft` : `${rounded(value, 2)} m³`;
  if (kind === "force") {
    if (us) return `${tens(value / POUND)} lb`;
    return Math.abs(value) >= 995 ? `${rounded(value / 1000, 1)} kN` : `${tens(value)} N`;
  }
  if (kind === "strain") return `${rounded(value * 100, 2)} %`;
  if (kind === "grade" || kind === "share") return `${rounded(value * 100)} %`;
  if (kind === "speed") return us ? `${rounded(value / 0.44704)} mph` : `${rounded(value)} m/s`;
  if (kind === "load") return us ? `${rounded((value / POUND) * 0.3048)} lb/ft` : `${rounded(value)} N/m`;
  if (kind === "mass") return us ? `${rounded(value / 0.45359237)} lb` : `${rounded(value)} kg`;
  if (kind === "moment") return us ? `${tens(value / POUND / 0.3048)} ft·lb` : `${tens(value)} N·m`;
  if (kind === "torque") return us ? `${rounded(value / POUND / 0.3048)} ft·lb` : `${rounded(value)} N·m`;
  if (kind === "times") return `${rounded(value, 1)} ×`;
  if (kind === "angle") return `${rounded(value)}°`;
  if (kind === "warmth") return us ? `${rounded(value * 1.8)} °F` : `${rounded(value)} °C`;
  if (kind === "temperature") return us ? `${rounded(value * 1.8 + 32)} °F` : `${rounded(value)} °C`;
  return rounded(value);
}

// A length as typed or as printed here (164 ft ½ in, 383' 4", 12½ ft, 36.5 m), in metres; null when it is none.
// ``bare`` is the unit of a number without one.
const UNITS = { mm: 0.001, cm: 0.01, m: 1, in: INCH, '"': INCH, "″": INCH, "”": INCH, ft: 0.3048, "'": 0.3048, "′": 0.3048, "’": 0.3048, yd: 0.9144 };
const VULGAR = { "½": "1/2", "¼": "1/4", "¾": "3/4", "⅛": "1/8", "⅜": "3/8", "⅝": "5/8", "⅞": "7/8" };
const TERM = /\s*(\d+\s+\d+\/\d+|\d+\/\d+|\d+(?:\.\d+)?|\.\d+)\s*(mm|cm|m|inch(?:es)?|in|ft|feet|foot|yd|["″”'′’])?(?![A-Za-z])\.?\s*/iy;

export function parseLength(text, bare) {
  let body = text.trim();
  for (const [sign, fraction] of Object.entries(VULGAR)) body = body.replaceAll(sign, ` ${fraction}`);
  let [total, last] = [0, Infinity];
  TERM.lastIndex = 0;
  while (TERM.lastIndex < body.length) {
    const match = TERM.exec(body);
    if (!match || (!match[2] && last !== Infinity)) return null;
    const named = (match[2] ?? bare).toLowerCase().replace(/^inch(es)?$/, "in").replace(/^(feet|foot)$/, "ft");
    if (UNITS[named] >= last) return null;
    last = UNITS[named];
    total += match[1].split(/\s+/).reduce((sum, part) => sum + part.split("/").map(Number).reduce((a, b) => a / b), 0) * last;
  }
  return last === Infinity || !Number.isFinite(total) ? null : total;
}

// A sentence with its values in the reader's units; plain text is said as it stands.
export const say = (sentence) =>
  typeof sentence === "string"
    ? sentence
    : sentence.t.replace(/\{(~?\w+)\}/g, (_, key) => {
        const value = sentence.v[key] ?? `{${key}}`;
        if (typeof value === "string") return value;
        return Array.isArray(value) ? quantity(value[0], value[1]) : value[system];
      });

export function printQuantities(root) {
  for (const node of root.querySelectorAll("[data-us]")) node.textContent = node.dataset[system];
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
