// Keys of the pages of money: 1 … 8 to the verbs, u for the other units.
document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || event.target.closest("input, textarea, select, dialog")) return;
  const link = event.key === "u" ? document.querySelector(".unitlink") : document.querySelector(`.verbs [data-key="${CSS.escape(event.key)}"]`);
  link?.click();
});
