// What the phone keeps: events written here and by others, plans taken along, photos.  Nothing counts as kept before the phone says so.
import { openDB } from "../static/vendor/idb/idb.js";

const FULL_AT = 0.9; // of the room the phone gives: said before it bites
const PHOTO_ROOM = 8e6;
const PHOTOS_KEPT = 60; // of those that are in the office
let base = null;
const opened = () =>
  (base ??= openDB("gnomonic-field", 1, {
    upgrade(made) {
      const events = made.createObjectStore("events", { keyPath: "id" });
      events.createIndex("job", "job");
      events.createIndex("sent", "sent");
      made.createObjectStore("packs", { keyPath: "job" });
      made.createObjectStore("photos", { keyPath: "digest" }).createIndex("sent", "sent");
      made.createObjectStore("state");
    },
  }));

// A change of what is kept: done when the phone has it on its store, not before.
async function change(stores, work) {
  const made = (await opened()).transaction(stores, "readwrite", { durability: "strict" });
  const result = await work(made);
  await made.done;
  return result;
}

export const state = async (key) => (await opened()).get("state", key);
export const forget = (key) => change(["state"], (t) => t.objectStore("state").delete(key));
export const remember = (key, value) => change(["state"], (t) => t.objectStore("state").put(value, key));

export async function device() {
  const known = await state("device");
  if (known) return known;
  const made = crypto.randomUUID();
  await remember("device", made);
  return made;
}

// Write events down (and a photo with them), all or none; they are returned as they were kept.
export async function write(job, author, rows, photo = null) {
  const own = await device();
  return change(["events", "state", "photos"], async (t) => {
    const places = t.objectStore("state");
    let seq = (await places.get("seq")) ?? 0;
    const made = rows.map((row) => ({ id: crypto.randomUUID(), device: own, seq: ++seq, clock: new Date().toISOString(), author, ...row }));
    await places.put(seq, "seq");
    const offset_s = (await places.get("offset_s")) ?? 0; // what this phone's clock was off when it last heard the office
    for (const event of made) await t.objectStore("events").put({ id: event.id, job, event, sent: "no", offset_s, by: "" });
    if (photo) await t.objectStore("photos").put(photo);
    return made;
  });
}

export const events = async (job) => (await opened()).getAllFromIndex("events", "job", job);
export const unsent = async () => (await opened()).getAllFromIndex("events", "sent", "no");
export const unsentPhotos = async () => (await opened()).getAllFromIndex("photos", "sent", "no");
export const notTaken = async () => (await opened()).getAllFromIndex("events", "sent", "refused");
export const notTakenPhotos = async () => (await opened()).getAllFromIndex("photos", "sent", "refused");
export const photo = async (digest) => (await opened()).get("photos", digest);
export const packs = async () => (await opened()).getAll("packs");
export const pack = async (job) => (await opened()).get("packs", job);
export const takeAlong = (row) => change(["packs"], (t) => t.objectStore("packs").put(row));

// What the office said of events that were sent: kept there (again), held for an owner, or why not.
export const settle = (took, offset_s) =>
  change(["events"], async (t) => {
    const store = t.objectStore("events");
    for (const [id, word] of Object.entries(took)) {
      const row = await store.get(id);
      if (!row) continue;
      const fine = ["kept", "again", "held"].includes(word);
      await store.put({ ...row, sent: fine ? (word === "held" ? "held" : "yes") : "refused", why: fine ? "" : word, offset_s });
    }
  });

// What the office did not take is tried once more.
export const tryAgain = () =>
  change(["events", "photos"], async (t) => {
    for (const store of ["events", "photos"].map((name) => t.objectStore(name))) for (const row of await store.index("sent").getAll("refused")) await store.put({ ...row, sent: "no", why: "" });
  });

// What others wrote; what this phone wrote comes back with the offset the office keeps it under.
export const receive = (job, rows, cursor) =>
  change(["events", "state"], async (t) => {
    for (const { event, offset_s, by } of rows) await t.objectStore("events").put({ id: event.id, job, event, sent: "yes", offset_s, by });
    await t.objectStore("state").put(cursor, `cursor ${job}`);
  });

export const photoSent = (digest) =>
  change(["photos"], async (t) => {
    const row = await t.objectStore("photos").get(digest);
    if (row) await sentOne(t, row);
  });
export const keepPhoto = (row) => change(["photos"], (t) => sentOne(t, row));

// A photo the office has too: the last of them stay here, so that a phone does not fill up with them.
async function sentOne(t, row) {
  const store = t.objectStore("photos");
  await store.put({ ...row, sent: "yes", at: Date.now() });
  const kept = await store.index("sent").getAll("yes");
  for (const old of kept.sort((a, b) => (b.at ?? 0) - (a.at ?? 0)).slice(PHOTOS_KEPT)) await store.delete(old.digest);
}

export const photoRefused = (digest, why) =>
  change(["photos"], async (t) => {
    const row = await t.objectStore("photos").get(digest);
    if (row) await t.objectStore("photos").put({ ...row, sent: "refused", why });
  });

// Plans, photos and what others wrote go when somebody signs out; what is not sent yet stays.  The office is told as soon as it hears.
export const leave = (token) =>
  change(["events", "packs", "photos", "state"], async (t) => {
    await t.objectStore("packs").clear();
    for (const key of await t.objectStore("photos").index("sent").getAllKeys("yes")) await t.objectStore("photos").delete(key);
    await t.objectStore("state").delete("me");
    await t.objectStore("state").put(token, "leaving");
    for (const row of await t.objectStore("events").getAll()) {
      if (row.sent === "yes") await t.objectStore("events").delete(row.id);
      await t.objectStore("state").delete(`cursor ${row.job}`);
    }
  });

// A copy of everything that is not in the office, as a file that can be carried there.
export async function copy() {
  const [events, photos, me] = [await unsent(), await unsentPhotos(), await state("me")];
  const pictures = await Promise.all(photos.map(async ({ digest, job, blob }) => ({ digest, job, base64: await inBase64(blob) })));
  const body = { form: "gnomonic-phone/1", device: await device(), now: new Date().toISOString(), workspace: me?.workspace ?? "", by: me?.name ?? "", events: [...events, ...(await notTaken())].map(({ job, event }) => ({ job, event })), photos: pictures };
  return new Blob([JSON.stringify(body)], { type: "application/json" });
}

const inBase64 = async (blob) => (await asPicture(blob)).split(",")[1];
export const asPicture = (blob) =>
  new Promise((done, failed) => {
    const reader = new FileReader();
    reader.onload = () => done(String(reader.result));
    reader.onerror = () => failed(reader.error);
    reader.readAsDataURL(blob);
  });

// How much room is left: "" where there is enough, else what to say.
export async function room() {
  const { quota = Infinity, usage = 0 } = (await navigator.storage?.estimate?.()) ?? {};
  const left = quota - usage;
  if (left > PHOTO_ROOM && usage < quota * FULL_AT) return "";
  return `This phone has room for ${Math.max(0, left / 1e6).toFixed(0)} MB more: send what waits, or save it to a file, before you take photos.`;
}
export const askToStay = () => navigator.storage?.persist?.().catch(() => false);
