// Back to the page with what was typed on it, which a link to it would not bring back.
document.getElementById("back")?.addEventListener("click", (event) => {
  if (history.length < 2) return;
  event.preventDefault();
  history.back();
});
