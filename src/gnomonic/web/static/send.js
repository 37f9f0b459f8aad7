// Calls to Gnomonic.  A change carries a key of its own: asked for again under the same key it is not done twice, so a page that
// does not know what became of a change asks again until it does.
export const WAITS = [1, 2, 3, 5, 5, 10, 10, 20];

// What a page shows to be ours; empty where nobody signed in.
export const pageToken = () => document.querySelector("meta[name=page-token]")?.content ?? "";
export const newKey = () => crypto.randomUUID();

export async function call(address, body, { key, method = "POST" } = {}) {
  const form = body instanceof FormData;
  const headers = { ...(form ? {} : { "Content-Type": "application/json" }), ...(key ? { "Idempotency-Key": key } : {}), "X-Page-Token": pageToken() };
  const options = body ? { method, headers, body: form ? body : JSON.stringify(body) } : method === "POST" ? {} : { method };
  let answer, text;
  try {
    answer = await fetch(address, options);
    text = await answer.text(); // a line may break in the middle of an answer
  } catch {
    const lost = body ? "Gnomonic does not answer: it is not known yet whether that was saved." : "Gnomonic does not answer: is it still running? Nothing was lost here; try again.";
    return { ok: false, status: 0, body: { detail: lost, kind: body ? "unknown" : "away" } };
  }
  let data;
  try {
    data = text ? JSON.parse(text) : {};
  } catch {
    const between = answer.status === 502 || answer.status === 504;
    data = { detail: between ? "What stands before Gnomonic had no answer from it: it is not known yet whether that was saved." : "Gnomonic could not do that; look whether it was done before you do it again.", kind: between ? "unknown" : "ours" };
  }
  return { ok: answer.ok, status: answer.status, body: data };
}

// A change, asked for under one key until its fate is known; `unsure` is told each time it is not.
export async function send(address, body, unsure = () => {}, key = newKey()) {
  for (const wait of [...WAITS, 0]) {
    const answer = await call(address, body, { key });
    if (answer.body.kind !== "unknown" || !wait) return answer;
    unsure(`${answer.body.detail} Asking again by itself…`);
    await new Promise((done) => setTimeout(done, wait * 1000));
  }
  return null;
}
