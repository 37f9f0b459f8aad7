// Days: while a worker is at it the page looks for its answer; a key moves from task to task.
const looking = document.getElementById("looking");
const job = location.pathname.split("/")[2];
const FIRST_MS = 1200, MOST_MS = 6000;
let begun = false; // something is typed on this page, or one is on the way to another: it is not taken away by itself
document.addEventListener("input", () => (begun = true));
addEventListener("beforeunload", () => (begun = true));

async function look(wait) {
  await new Promise((done) => setTimeout(done, wait));
  const answer = await fetch(location.href, { headers: { "X-Look": "1" } }).catch(() => null);
  const text = answer?.ok ? await answer.text() : "";
  if (!text || text.includes('id="looking"')) look(Math.min(MOST_MS, wait * 1.4));
  else if (!begun) location.reload();
  else {
    const show = Object.assign(document.createElement("a"), { href: location.pathname + location.search, textContent: "show it" });
    looking.replaceChildren("What was waited for is there: ", show, ".");
  }
}
if (looking && job) look(FIRST_MS);

const strokes = [...document.querySelectorAll("#daysview a.task")];
document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || event.target.closest("input, textarea, select, dialog")) return;
  if (event.key === "ArrowLeft" || event.key === "ArrowRight") {
    const step = document.querySelectorAll(".boardhead .step")[event.key === "ArrowLeft" ? 0 : 1];
    if (step && !event.target.closest("#daysview")) step.click();
    else if (strokes.length) {
      const at = strokes.indexOf(document.activeElement);
      strokes[(at + (event.key === "ArrowLeft" ? -1 : 1) + strokes.length) % strokes.length].focus();
    }
    event.preventDefault();
  }
  if (event.key === "Escape") document.querySelector(".tasktag .close a")?.click();
});

// The cursor: where along which line, said over the tape.
const across = document.getElementById("across");
const view = document.getElementById("daysview");
const FOOT_M = 0.3048;
if (across && view) {
  const { units, high, columns } = JSON.parse(across.textContent);
  const make = (name, given) => {
    const node = document.createElementNS("http://www.w3.org/2000/svg", name);
    for (const [key, value] of Object.entries(given)) node.setAttribute(key, value);
    return view.appendChild(node);
  };
  const line = make("line", { class: "cursorline", y1: 28, y2: high, visibility: "hidden" });
  const words = make("text", { class: "cursortext", y: 41, "text-anchor": "middle" });
  view.addEventListener("pointermove", (event) => {
    const x = new DOMPoint(event.clientX, event.clientY).matrixTransform(view.getScreenCTM().inverse()).x;
    const column = columns.find(([, from, wide]) => x >= from && x <= from + wide);
    line.setAttribute("visibility", column ? "visible" : "hidden");
    words.textContent = "";
    if (!column) return;
    const [name, from, wide, long] = column;
    const station = ((x - from) / wide) * long;
    for (const key of ["x1", "x2"]) line.setAttribute(key, x);
    words.setAttribute("x", Math.max(140, Math.min(x, 1040)));
    words.textContent = `${name} ${units === "us" ? `${Math.round(station / FOOT_M)} ft` : `${station.toFixed(1)} m`}`;
  });
  view.addEventListener("pointerleave", () => {
    line.setAttribute("visibility", "hidden");
    words.textContent = "";
  });
}
