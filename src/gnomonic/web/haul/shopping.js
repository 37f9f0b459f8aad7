// The shopping list: ticks are written down on the phone first, then sent when there is a signal; the later of two ticks of an item stands.
const source = document.getElementById("shopping");
const job = source.dataset.job;
const place = `shopping:${job}`;
const sent = JSON.parse(source.textContent);
const kept = () => JSON.parse(localStorage.getItem(place) ?? "{}");
const rows = [...document.querySelectorAll("[data-item]")];
const dialog = document.getElementById("else");
let asked = null;

// What stands of an item: what this phone said where that is later than what the server knows.
function state(item) {
  const [mine, theirs] = [kept()[item], sent[item]];
  return (mine && (!theirs || mine.at > theirs.at) ? mine : theirs) ?? { got: "" };
}

function show() {
  for (const row of rows) {
    const { got, much } = state(row.dataset.item);
    row.classList.toggle("done", got !== "");
    row.querySelector(".tick").setAttribute("aria-pressed", String(got !== ""));
    const other = got && much && much !== row.dataset.much ? `ticked when it was ${much}` : "";
    row.classList.toggle("other-now", Boolean(other));
    row.querySelector(".got").textContent = [got && got !== "yes" ? `got: ${got}` : "", other].filter(Boolean).join("; ");
  }
  for (const counter of document.querySelectorAll(".counter")) {
    const left = counter.querySelectorAll("[data-item]:not(.done)").length;
    counter.querySelector("[data-left]").textContent = left ? `${left} to get` : "all got";
  }
  const waiting = Object.keys(kept()).length;
  const note = document.getElementById("unsent");
  note.hidden = !waiting;
  note.textContent = `${waiting} tick${waiting === 1 ? " is" : "s are"} on this phone only: sent when there is a signal.`;
}

function say(item, got) {
  const { much } = rows.find((row) => row.dataset.item === item).dataset;
  try {
    localStorage.setItem(place, JSON.stringify({ ...kept(), [item]: { got, much, at: new Date().toISOString() } }));
  } catch {
    document.getElementById("kept").textContent = "This phone has no room left: that tick was NOT kept.";
    return;
  }
  show();
  send();
}

let sending = false;
const AT_ONCE = 200;

// The server is there and does not take them: said as it is, and not asked again until something else is ticked.
function refused({ detail }) {
  sending = false;
  show();
  document.getElementById("kept").textContent = `Not taken by the server, kept on this phone: ${detail ?? "it says no"}.`;
}

async function send() {
  const waiting = kept();
  if (sending || !Object.keys(waiting).length) return;
  sending = true;
  try {
    const ticks = Object.entries(waiting).slice(0, AT_ONCE).map(([item, tick]) => ({ item, ...tick }));
    const answer = await fetch(`/api/v1/jobs/${job}/shopping`, { method: "POST", headers: { "Content-Type": "application/json", "X-Page-Token": document.querySelector("meta[name=page-token]")?.content ?? "" }, body: JSON.stringify({ ticks }) });
    if (answer.status >= 400 && answer.status < 500) return refused(await answer.json());
    if (!answer.ok) throw new Error(String(answer.status));
    const { ticks: known } = await answer.json();
    Object.assign(sent, known);
    const now = kept();
    for (const { item, at } of ticks) if (now[item]?.at === at) delete now[item];
    localStorage.setItem(place, JSON.stringify(now));
    document.getElementById("kept").textContent = "Everything ticked is kept.";
  } catch {
    document.getElementById("kept").textContent = "No signal: ticks stay on this phone until there is one.";
  }
  sending = false;
  show();
  if (navigator.onLine && Object.keys(kept()).length && document.getElementById("kept").textContent.startsWith("Everything")) send();
}

for (const row of rows) {
  row.querySelector(".tick").addEventListener("click", () => say(row.dataset.item, state(row.dataset.item).got ? "" : "yes"));
  row.querySelector(".other").addEventListener("click", () => {
    asked = row.dataset.item;
    document.getElementById("got").value = "";
    dialog.returnValue = "";
    dialog.showModal();
  });
}
dialog.addEventListener("close", () => {
  const got = document.getElementById("got").value.trim();
  if (dialog.returnValue === "yes" && got) say(asked, got);
});
addEventListener("online", send);
if ("serviceWorker" in navigator) navigator.serviceWorker.register("/shopping-worker.js", { scope: "/jobs/" }).catch(() => {});
show();
send();
document.body.dataset.ready = "yes";
