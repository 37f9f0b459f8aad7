// Keeps the shopping list and what it is drawn with on the phone: asked for from the server first, from what was kept where there is no signal.
const KEPT = "gnomonic-shopping-1";
const LIST = /^\/jobs\/[^/]+\/shopping$/;

self.addEventListener("install", () => self.skipWaiting());
self.addEventListener("activate", (event) => event.waitUntil(self.clients.claim().then(keepOpenOnes)));

// A list that was open when this began is kept at once, with what it is drawn with.
async function keepOpenOnes() {
  const pages = await self.clients.matchAll({ type: "window" });
  await Promise.all(pages.filter((page) => LIST.test(new URL(page.url).pathname)).map((page) => keep(new Request(page.url))));
}

async function keep(request) {
  const answer = await fetch(request);
  if (!answer.ok) return answer;
  const store = await caches.open(KEPT);
  await store.put(request.url, answer.clone());
  if (LIST.test(new URL(request.url).pathname)) {
    const text = await answer.clone().text();
    const parts = [...text.matchAll(/(?:href|src)="(\/assets\/[^"]+)"/g)].map((m) => m[1]);
    const gone = (await store.keys()).filter((kept) => kept.url.includes("/assets/") && !parts.includes(new URL(kept.url).pathname));
    await Promise.all(gone.map((kept) => store.delete(kept)));
    await Promise.all(parts.map(async (part) => (await store.match(part)) ?? store.add(part).catch(() => {})));
  }
  return answer;
}

self.addEventListener("fetch", (event) => {
  const address = new URL(event.request.url);
  const ours = event.request.method === "GET" && address.origin === self.location.origin;
  const from = event.request.referrer && LIST.test(new URL(event.request.referrer).pathname);
  if (ours && LIST.test(address.pathname)) event.respondWith(keep(event.request).catch(async () => (await caches.match(event.request.url, { ignoreSearch: true })) ?? Response.error()));
  else if (ours && address.pathname.startsWith("/assets/")) event.respondWith(caches.match(address.href).then((kept) => kept ?? (from ? keep(event.request) : fetch(event.request))));
});
