// The keys of the work surface.

export function listen({ strip, snags, job, at, setVerb, verbs, choose, stepPost, toggleUnits }) {
  const go = (id) => at(id).click();
  const plain = {
    1: () => go("to-walk"),
    2: () => go("to-hold"),
    6: () => go("to-haul"),
    u: toggleUnits,
    "?": () => at("help").showModal(),
    "/": () => at("station").focus(),
    "+": () => strip.zoom(0.5, strip.cursor ?? undefined),
    "=": () => strip.zoom(0.5, strip.cursor ?? undefined),
    "-": () => strip.zoom(2, strip.cursor ?? undefined),
    0: () => strip.look(0, job.drawing.length),
    Escape: () => choose({}),
  };
  document.addEventListener("keydown", (event) => {
    if (event.target.closest("input, select, textarea, dialog")) return;
    const arrow = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    const bare = !event.ctrlKey && !event.metaKey && !event.altKey;
    if (!bare && event.key.toLowerCase() === "z") job.step(event.shiftKey ? "redo" : "undo");
    else if (!bare) return;
    else if (arrow) event.shiftKey ? snags.step(arrow) : stepPost(arrow);
    else if (verbs[event.key]) setVerb(verbs[event.key]);
    else if (plain[event.key]) plain[event.key]();
    else return;
    event.preventDefault();
  });
}
