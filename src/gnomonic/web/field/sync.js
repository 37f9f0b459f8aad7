// To the office and back: what waits is sent, once each however often; what others wrote comes in.  Asked for when something was
// written, when the signal comes back, when the page is looked at: never on a clock while nothing waits.
import { now } from "./fold.js";
import * as keep from "./keep.js";
import { inTurn } from "./turn.js";

const AT_ONCE = 200;
const MOST_SENT = 400_000; // characters of events in one call: signatures are long
const FINAL = [404, 413, 422]; // the office has read it and won't take it; all else is tried again
const PATIENCE_MS = 20_000;
const DAYS_MS = 30 * 60_000; // how old the days on the phone may be before they are asked for again
const AGAIN_MS = [15_000, 60_000, 300_000];
let gone = new AbortController(); // ends what is asked for when a signal comes back: what hangs in the old one would be waited for
let tries = 0;
let timer = 0;
export const status = { word: "", signIn: false, left: false, heard: null };
const listeners = new Set();
export const whenChanged = (listener) => listeners.add(listener);
const changed = () => listeners.forEach((listener) => listener());

class Refused extends Error {
  constructor(status, body) {
    super(body?.detail ?? `the office answers ${status}`);
    this.status = status;
    this.kind = body?.kind ?? "";
  }
}

const patience = () => AbortSignal.any?.([AbortSignal.timeout(PATIENCE_MS), gone.signal]) ?? AbortSignal.timeout(PATIENCE_MS);

async function ask(address, options = {}) {
  const answer = await fetch(address, { cache: "no-store", signal: patience(), ...options });
  const body = await answer.json().catch(() => null);
  if (!answer.ok) throw new Refused(answer.status, body);
  return body;
}

export async function me() {
  const found = await ask("/api/v1/me");
  await keep.remember("me", found);
  return found;
}

const json = (body, token) => ({ method: "POST", headers: { "Content-Type": "application/json", "X-Page-Token": token }, body: JSON.stringify(body) });

// Somebody signed out, perhaps where nobody heard it: the office is told before anything else is asked of it.
export async function leaving() {
  const token = await keep.state("leaving");
  if (token === undefined) return;
  const answer = await fetch("/sign-out", { method: "POST", headers: { "X-Page-Token": token }, redirect: "manual" }).catch(() => null);
  if (answer) await keep.forget("leaving");
}

// Send and fetch all there is.  Asked for while it is at it, it goes once more: what was written meanwhile, or a signal that came back,
// would wait otherwise.
export const sync = inTurn(() => whole().finally(changed));

async function whole() {
  clearTimeout(timer);
  try {
    await leaving();
    const found = await me();
    Object.assign(status, { signIn: false, left: found.role === "left" });
    const waiting = await keep.unsent();
    const jobs = new Set([...waiting.map((row) => row.job), ...(found.role === "left" ? [] : (await keep.packs()).map((row) => row.job))]);
    for (const job of jobs) await ofJob(job, found.token);
    await photos(found.token);
    Object.assign(status, { word: "", heard: new Date() });
    tries = 0;
  } catch (error) {
    status.signIn = error instanceof Refused && error.status === 401;
    status.word = status.signIn ? "Sign in to send." : error instanceof Refused ? `The office says: ${error.message}` : "No signal.";
    const waits = (await keep.unsent()).length + (await keep.unsentPhotos()).length;
    if (waits && !status.signIn && document.visibilityState === "visible") timer = setTimeout(sync, AGAIN_MS[Math.min(tries++, AGAIN_MS.length - 1)]);
  }
}

async function ofJob(job, token) {
  for (;;) {
    const waiting = (await keep.unsent()).filter((row) => row.job === job).sort((a, b) => a.event.seq - b.event.seq);
    const part = [];
    for (let size = 0; part.length < Math.min(AT_ONCE, waiting.length) && size < MOST_SENT; ) {
      part.push(waiting[part.length]);
      size += JSON.stringify(part.at(-1).event).length;
    }
    const cursor = (await keep.state(`cursor ${job}`)) ?? 0;
    let answer;
    try {
      answer = await ask(`/api/v1/jobs/${job}/log`, json({ now: new Date().toISOString(), after: cursor, events: part.map((row) => row.event) }, token));
    } catch (error) {
      if (!(error instanceof Refused && FINAL.includes(error.status))) throw error;
      await keep.settle(Object.fromEntries(part.map((row) => [row.id, error.message])), 0); // said by the office: kept here, in sight
      return;
    }
    await keep.settle(answer.took, answer.offset_s);
    await keep.remember("offset_s", answer.offset_s);
    if (answer.left) {
      if (waiting.length <= part.length) return;
      continue;
    }
    await keep.receive(job, answer.events, answer.n);
    const kept = await keep.pack(job);
    if (kept) await keep.takeAlong({ ...kept, offered: answer.issue, marks: answer.marks, days: await daysOf(job, kept.days) });
    changed();
    if (waiting.length <= part.length && !answer.more) return;
  }
}

async function photos(token) {
  for (const { digest, job, blob } of await keep.unsentPhotos()) {
    try {
      await ask(`/api/v1/jobs/${job}/photos/${digest}`, { method: "POST", headers: { "Content-Type": "image/jpeg", "X-Page-Token": token }, body: blob });
      await keep.photoSent(digest);
    } catch (error) {
      if (!(error instanceof Refused && FINAL.includes(error.status))) throw error;
      await keep.photoRefused(digest, error.message);
    }
    changed();
  }
}

// The days to come: those on the phone where they are new enough, or where the office can't say.
async function daysOf(job, kept) {
  if (kept && now() - Date.parse(kept.at) < DAYS_MS) return kept;
  return ask(`/api/v1/jobs/${job}/field/days`).catch(() => kept);
}

// A photo: from the phone, else from the office, and then it stays here.
export async function photoOf(job, digest) {
  const kept = await keep.photo(digest);
  if (kept) return kept.blob;
  const answer = await fetch(`/api/v1/jobs/${job}/photos/${digest}`, { signal: AbortSignal.timeout(PATIENCE_MS) });
  if (!answer.ok) throw new Refused(answer.status, null);
  const blob = await answer.blob();
  if (!(await keep.room())) await keep.keepPhoto({ digest, job, blob });
  return blob;
}

export const offered = () => ask("/api/v1/field");

export async function takeJob(job) {
  const { issue, pack } = await ask(`/api/v1/jobs/${job}/field`);
  await keep.takeAlong({ job, issue, offered: issue, pack, taken: new Date().toISOString(), days: await daysOf(job) });
  await keep.askToStay();
}

addEventListener("online", () => {
  gone.abort();
  gone = new AbortController();
  sync();
});
document.addEventListener("visibilitychange", () => document.visibilityState === "visible" && sync());
