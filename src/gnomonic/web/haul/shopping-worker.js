// Keeps the shopping list and what it is drawn with on the phone: asked for from the server first, from what was kept where there is no signal.
const KEPT = "gnomonic-shopping-1";
const LIST = /^\/jobs\/[^/]+\/shopping$/;
const pathOf = (address) => new URL(address).pathname;
const partsOf = (text) => [...text.matchAll(/(?:href|src)="(\/assets\/[^"]+)"/g)].map((m) => m[1]);

self.addEventListener("install", () => self.skipWaiting());
self.addEventListener("activate", (event) => event.waitUntil(self.clients.claim().then(keepOpenOnes)));

// A list that was open when this began is kept at once, with what it is drawn with.
async function keepOpenOnes() {
  const pages = await self.clients.matchAll({ type: "window" });
  const lists = pages.map((page) => page.url).filter((url) => LIST.test(pathOf(url)));
  await Promise.all(lists.map(async (url) => keep(url, await fetch(url))));
}

// One after another: what one is about to be drawn with is not in the way of the next.
let last = Promise.resolve();
const keep = (url, answer) => (last = last.catch(() => {}).then(() => keepWhole(url, answer)));

// A list is kept once all it is drawn with is: where a signal goes half way, what was kept before stays, whole.
async function keepWhole(url, answer) {
  if (!answer.ok || answer.redirected) return;
  const store = await caches.open(KEPT);
  const parts = partsOf(await answer.clone().text());
  await Promise.all(parts.map(async (part) => (await store.match(part)) ?? store.add(part)));
  await store.put(url, answer);
  await forget(store);
}

// What no list that is kept is drawn with goes.
async function forget(store) {
  const kept = await store.keys();
  const lists = kept.filter((one) => LIST.test(pathOf(one.url)));
  const wanted = (await Promise.all(lists.map(async (one) => partsOf(await (await store.match(one)).text())))).flat();
  const gone = kept.filter((one) => !lists.includes(one) && !wanted.includes(pathOf(one.url)));
  await Promise.all(gone.map((one) => store.delete(one)));
}

async function list(event) {
  const { url } = event.request;
  try {
    const answer = await fetch(event.request);
    event.waitUntil(keep(url, answer.clone()).catch(() => {}));
    return answer;
  } catch {
    return (await caches.match(url)) ?? (await caches.match(url, { ignoreSearch: true })) ?? Response.error();
  }
}

self.addEventListener("fetch", (event) => {
  const address = new URL(event.request.url);
  if (event.request.method !== "GET" || address.origin !== self.location.origin) return;
  if (LIST.test(address.pathname)) event.respondWith(list(event));
  else if (address.pathname.startsWith("/assets/")) event.respondWith(caches.match(address.href).then((kept) => kept ?? fetch(event.request)));
});
