// The page when the database is away: looks whether it is back, and comes back by itself.
const EVERY_MS = 3000;
const back = document.getElementById("back");
back?.addEventListener("click", () => history.back());

async function look() {
  try {
    const answer = await fetch("/api/v1/health", { cache: "no-store" });
    if (answer.ok && !back) return location.reload();
    if (answer.ok) document.getElementById("looking").textContent = "It answers again: go back, and press the same button once more. What was saved already is not saved a second time.";
  } catch {
    document.getElementById("looking").textContent = "Gnomonic itself does not answer now; this page goes on looking";
  }
  setTimeout(look, EVERY_MS);
}
setTimeout(look, EVERY_MS);
document.body.dataset.ready = "yes";
