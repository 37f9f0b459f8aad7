// A form pressed twice is sent once: the second press, while the first is on its way, does nothing.
{
  const MEANT_ANEW_MS = 15_000;
  const sent = new WeakMap();

  document.addEventListener("submit", (event) => {
    const { target: form, defaultPrevented } = event;
    if (defaultPrevented || form.method !== "post") return;
    const now = performance.now();
    if (now - (sent.get(form) ?? -Infinity) < MEANT_ANEW_MS) event.preventDefault();
    else sent.set(form, now);
  });
  addEventListener("pageshow", ({ persisted }) => persisted && document.querySelectorAll("form").forEach((form) => sent.delete(form)));
}
