// The page when the database is away: looks whether it is back, and comes back by itself.
const EVERY_MS = 3000;
const back = document.getElementById("back");

async function look() {
  try {
    const answer = await fetch("/api/v1/health", { cache: "no-store" });
    if (answer.ok && !back) return location.reload();
    if (answer.ok) {
      const unknown = document.querySelector("[data-kind=unknown]");
      document.querySelector("h1").textContent = "The database answers again";
      document.querySelector(".parted .wires").setAttribute("d", "M0 44H600M0 62H600M0 80H600");
      if (!unknown) document.getElementById("what").textContent = "It did not when that was pressed: nothing was saved.";
      document.getElementById("looking").textContent = `Go back, and press the same button once more${unknown ? ": if it was saved already, it is not saved a second time" : ""}.`;
      return;
    }
  } catch {
    document.getElementById("looking").textContent = "Gnomonic itself does not answer now; this page goes on looking";
  }
  setTimeout(look, EVERY_MS);
}
setTimeout(look, EVERY_MS);
document.body.dataset.ready = "yes";
