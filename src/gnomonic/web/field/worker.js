// Keeps the application on the phone, whole and of one version: it opens from here, with or without a signal.
const KEPT = "gnomonic-field-MARK";
const PARTS = "PARTS";

self.addEventListener("install", (event) => event.waitUntil(caches.open(KEPT).then((store) => store.addAll(PARTS.map((part) => new Request(part, { cache: "reload" })))).then(() => self.skipWaiting())));
self.addEventListener("activate", (event) => event.waitUntil(forget().then(() => self.clients.claim())));

async function forget() {
  const names = await caches.keys();
  await Promise.all(names.filter((name) => name.startsWith("gnomonic-field-") && name !== KEPT).map((name) => caches.delete(name)));
}

// The application from what is kept; everything else from the office, as if this were not here.
self.addEventListener("fetch", (event) => {
  const address = new URL(event.request.url);
  if (event.request.method !== "GET" || address.origin !== self.location.origin) return;
  const page = event.request.mode === "navigate" && address.pathname.startsWith("/field");
  const part = PARTS.includes(address.pathname);
  if (page || part) event.respondWith(caches.open(KEPT).then((store) => store.match(page ? "/field/" : address.pathname)).then((kept) => kept ?? fetch(event.request)));
});
