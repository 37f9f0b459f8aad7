// The column beside the strip: the map, which folds away, and under it one panel with its tabs.
// Each tab is reached by Tab: the arrow keys are the strip's, everywhere on this page.

const MAP = "map:folded";

export class Column {
  constructor(root) {
    this.tabs = [...root.querySelectorAll(".tabs [role=tab]")];
    for (const tab of this.tabs) tab.addEventListener("click", () => this.open(name(tab)));
    this.foldMap(root);
  }

  open(which) {
    this.now = which;
    for (const tab of this.tabs) {
      const on = name(tab) === which;
      tab.setAttribute("aria-selected", String(on));
      document.getElementById(tab.getAttribute("aria-controls")).hidden = !on;
    }
  }

  call(which, text) {
    this.tabs.find((tab) => name(tab) === which).textContent = text;
  }

  offer(which, there) {
    this.tabs.find((tab) => name(tab) === which).hidden = !there;
  }

  foldMap(root) {
    const box = root.querySelector(".mapbox");
    const button = root.querySelector("#foldmap");
    const fold = (away) => {
      box.classList.toggle("folded", away);
      button.setAttribute("aria-expanded", String(!away));
      button.textContent = away ? "show" : "fold";
    };
    fold(localStorage.getItem(MAP) === "yes");
    button.addEventListener("click", () => {
      fold(!box.classList.contains("folded"));
      localStorage.setItem(MAP, box.classList.contains("folded") ? "yes" : "no");
    });
  }
}

const name = (tab) => tab.id.replace("tab-", "");
