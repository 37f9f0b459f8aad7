// Days: while a worker is at it the page looks for its answer; a key moves from task to task.
const looking = document.getElementById("looking");
const job = location.pathname.split("/")[2];
const FIRST_MS = 1200, MOST_MS = 6000;

async function look(wait) {
  await new Promise((done) => setTimeout(done, wait));
  const answer = await fetch(location.href, { headers: { "X-Look": "1" } }).catch(() => null);
  const text = answer?.ok ? await answer.text() : "";
  if (text && !text.includes('id="looking"')) location.reload();
  else look(Math.min(MOST_MS, wait * 1.4));
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
