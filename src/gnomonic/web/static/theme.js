// The theme that was chosen last, set before anything is painted; the switch for it.
(() => {
  const root = document.documentElement;
  const kept = localStorage.getItem("theme");
  if (kept === "sun") root.dataset.theme = "sun";
  addEventListener("DOMContentLoaded", () => {
    for (const button of document.querySelectorAll("[data-sun]")) {
      const show = () => button.setAttribute("aria-pressed", String(root.dataset.theme === "sun"));
      button.addEventListener("click", () => {
        if (root.dataset.theme === "sun") delete root.dataset.theme;
        else root.dataset.theme = "sun";
        localStorage.setItem("theme", root.dataset.theme ?? "paper");
        show();
        dispatchEvent(new Event("theme"));
      });
      show();
    }
  });
})();
