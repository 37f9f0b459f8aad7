// In the field: which job, which post, what waits to be sent.  Everything is read from the phone; the office is spoken to beside it.
import { openIn, printQuantities } from "../static/units.js";
import * as keep from "./keep.js";
import { clock, fold, posts } from "./fold.js";
import { leaving, offered, status, sync, takeJob, whenChanged } from "./sync.js";
import { alarm, drawnBy, go, it, quiet, SAYS, unitsAndSun } from "./hand.js";
import { inTurn } from "./turn.js";
import { h, press, sheet } from "./ui.js";
import { dayAsked, dayView, today } from "./day.js";
import { braceView, postView, wireView } from "./cards.js";
import { safetyView } from "./safety.js";
import { moreView, spell } from "./more.js";

const at = (id) => document.getElementById(id);
const OFF_S = 120; // a clock that is off by less is no matter
const TABS = { posts: ["Posts", postView], braces: ["Braces", braceView], wire: ["Wire", wireView], day: ["Day", dayView], safety: ["Safety", safetyView], more: ["More", moreView] };
let [shown, place] = ["", ""];

// The address says what is looked at: #job/ID/tab/line/post.
function read() {
  const [what, job = "", tab = "posts", line = "", post = ""] = location.hash.slice(1).split("/").map(decodeURIComponent);
  return { what: what || "jobs", job, tab: TABS[tab] ? tab : "posts", line, post };
}

async function load(job) {
  it.pack = await keep.pack(job);
  for (const line of it.pack?.pack.lines ?? []) line.marks = it.pack.marks?.[line.id] ?? line.marks; // news, whatever issue this is
  it.rows = it.pack ? await keep.events(job) : [];
  it.folded = fold(it.rows.filter((row) => row.sent !== "refused"));
  it.known = posts(it.folded);
}

async function counts() {
  const [waiting, photos, refused, pictures] = await Promise.all([keep.unsent(), keep.unsentPhotos(), keep.notTaken(), keep.notTakenPhotos()]);
  Object.assign(it, { waiting: waiting.length, photos: photos.length, refused: refused.length + pictures.length });
  const words = it.refused ? `${it.refused} not taken` : it.waiting + it.photos ? `${it.waiting + it.photos} not sent` : "all sent";
  at("waiting").textContent = words;
  at("waiting").className = it.refused ? "bad" : it.waiting + it.photos ? "some" : "";
}

// A page that is being drawn when another is asked for is not left standing over it.
const show = inTurn(draw);

async function draw() {
  const { what, job, tab, line, post } = read();
  document.body.dataset.ready = "";
  clock.off_s = (await keep.state("offset_s")) ?? 0;
  await counts();
  if (what === "job") await load(job);
  const view = what === "job" && it.pack ? jobPage : what === "waiting" ? waitingPage : jobsPage;
  Object.assign(it, { job: what === "job" ? job : it.job, tab, line, post });
  const page = await view();
  at("main").replaceChildren(...[].concat(page));
  printQuantities(at("main"));
  const key = `${what} ${job} ${tab} ${line} ${post}`;
  if (key !== shown) {
    scrollTo(0, 0);
    quiet();
  }
  if (`${what} ${job} ${tab}` !== place) at("told").replaceChildren(); // what was kept last stays in sight from post to post
  [shown, place] = [key, `${what} ${job} ${tab}`];
  document.body.dataset.ready = "yes";
}

async function jobPage() {
  const { pack } = it.pack;
  openIn(it.job, pack.units);
  const line = pack.lines.find((l) => l.id === it.line) ?? pack.lines.find((l) => l.posts.some((p) => !p.shared && it.known.get(l.id + p.name)?.reached_m === undefined)) ?? pack.lines[0];
  at("where").textContent = `${pack.name}${line && pack.lines.length > 1 ? ` · ${line.name}` : ""}`;
  at("where").href = "#jobs";
  at("foot").hidden = false;
  at("foot").replaceChildren(...Object.entries(TABS).map(([key, [words]]) => h("a", { href: `#job/${it.job}/${key}/${line?.id ?? ""}/${key === "posts" || key === "wire" ? it.post : ""}`, "aria-current": key === it.tab ? "page" : null }, h("b", {}, words), h("small", {}, line ? tally(key, line) : ""))));
  const old = it.pack.offered > it.pack.issue;
  const issue = old
    ? h("p", { class: "issue old" }, `Issue ${it.pack.offered} of the plan is out; this phone has ${it.pack.issue ? `issue ${it.pack.issue}` : "a plan that was never given out"}. `, h("button", { type: "button", onclick: () => takeJob(it.job).then(show, () => alarm("No signal: the new issue comes when there is one.")) }, "Take it"))
    : it.pack.issue ? "" : h("p", { class: "issue" }, "This plan was not given out yet: it may change under your hands.");
  if (!line) return [issue, h("p", { class: "hush" }, "Nothing is to be built on this job’s lines.")];
  return [issue, ...[].concat(await TABS[it.tab][1]({ ...it, issue: it.pack.issue, days: it.pack.days, pack, own: line }))];
}

// How much of a line is done, under the tab it is done in.
function tally(tab, line) {
  const count = (kind) => it.folded.stand.filter((r) => r.event.kind === kind && r.event.line === line.id).length;
  const own = line.posts.filter((p) => !p.shared);
  if (tab === "posts") return `${own.filter((p) => it.known.get(line.id + p.name)?.reached_m !== undefined).length} / ${own.length}`;
  if (tab === "braces") return `${count("clear")} / ${line.braces.length}`;
  if (tab === "wire") return `${count("pulled")} / ${line.runs.length}`;
  const [days, index] = tab === "day" ? dayAsked(it.pack.days) : [[], 0];
  return days[index]?.day === today() ? `${days[index].rows.filter((r) => r.done < 1).length} to do` : "";
}

async function jobsPage() {
  at("where").textContent = "Gnomonic · in the field";
  at("where").href = "#jobs";
  at("foot").hidden = true;
  const here = await keep.packs();
  const me = await keep.state("me");
  const list = h("div", { class: "joblist" }, h("p", { class: "hush" }, "Looking what the office has…"));
  const own = here.map(({ job, issue, pack, taken }) => press(pack.name, () => go(job), { under: `${issue ? `issue ${issue}` : "not given out yet"}, taken along ${new Date(taken).toLocaleDateString()}`, kind: "job" }));
  offered().then(
    ({ jobs, people }) => {
      keep.remember("people", people);
      const rest = jobs.filter((j) => !here.some((p) => p.job === j.id));
      list.replaceChildren(...(rest.length ? [h("h2", {}, "In the office"), ...rest.map((j) => press(j.name, (event) => take(j.id, event.currentTarget), { under: `${j.issue ? `issue ${j.issue}` : "not given out yet"} · take it along`, kind: "job other" }))] : [h("p", { class: "hush" }, here.length ? "Every job is on this phone." : "There is no job in the office yet.")]));
    },
    () => list.replaceChildren(h("p", { class: "hush" }, status.signIn ? "" : here.length ? "No signal: these are on the phone, whole." : "No signal, and no job on this phone yet: take one along where there is one.")),
  );
  const signIn = status.signIn || (!me && !here.length) ? h("a", { class: "press", href: "/sign-in?next=/field/" }, h("b", {}, "Sign in"), h("small", {}, "to take jobs along and to send")) : "";
  return [h("h1", {}, "Jobs on this phone"), ...own, signIn, list, unitsAndSun()];
}

async function take(job, button) {
  button.disabled = true;
  try {
    await takeJob(job);
    await sync();
    go(job);
  } catch (error) {
    button.disabled = false;
    alarm(`It could not be taken along: ${error.message}`);
  }
}

async function waitingPage() {
  at("where").textContent = "What is not sent yet";
  at("where").href = it.job ? `#job/${it.job}` : "#jobs";
  at("foot").hidden = true;
  const [waiting, photos, refused, pictures, room, me] = [await keep.unsent(), await keep.unsentPhotos(), await keep.notTaken(), await keep.notTakenPhotos(), await keep.room(), await keep.state("me")];
  const words = (row) => `${row.event.line}${row.event.post} ${SAYS[row.event.kind] ?? row.event.kind}, ${new Date(row.event.clock).toLocaleString()}`;
  return [
    h("h1", {}, waiting.length + photos.length ? `${waiting.length} written down${photos.length ? `, ${photos.length} photo${photos.length === 1 ? "" : "s"}` : ""}: not sent yet` : "Everything is in the office"),
    h("p", {}, status.word ? `${status.word} What waits is kept on this phone.` : status.heard ? `The office last heard this phone ${status.heard.toLocaleTimeString()}.` : ""),
    status.left ? h("p", { class: "caution" }, "Your role was taken away: what you deliver is kept, marked as yours, and an owner decides.") : "",
    room ? h("p", { class: "caution" }, room) : "",
    Math.abs(clock.off_s) > OFF_S ? h("p", { class: "caution" }, `This phone’s clock is ${spell(Math.abs(clock.off_s) / 60)} ${clock.off_s > 0 ? "behind" : "ahead of"} the office’s. What is written is put right by that; set the clock all the same.`) : "",
    press("Send now", () => sync().then(show), { kind: "main" }),
    status.signIn ? h("a", { class: "press", href: "/sign-in?next=/field/" }, h("b", {}, "Sign in to send")) : "",
    press("Save to a file", save, { under: "for the office to read, if this phone can’t send", kind: "light" }),
    refused.length + pictures.length ? [h("h2", {}, "Not taken by the office"), press("Try those again", () => keep.tryAgain().then(sync).then(show), { kind: "light" }), h("ul", { class: "rows bad" }, ...refused.map((row) => h("li", {}, words(row), h("small", {}, row.why === "other" ? "another event has its number already" : row.why))), ...pictures.map((row) => h("li", {}, "a photo", h("small", {}, row.why))))] : "",
    waiting.length ? [h("h2", {}, "Waiting"), h("ul", { class: "rows" }, ...waiting.slice(0, 60).map((row) => h("li", {}, words(row))), waiting.length > 60 && h("li", {}, `and ${waiting.length - 60} more`))] : "",
    me?.person ? press("Sign out on this phone", () => leave(me), { under: "plans go from it; what is not sent stays", kind: "light" }) : "",
  ].flat();
}

async function leave(me) {
  const sure = sheet("Sign out?", h("p", {}, "The plans go from this phone. What is not sent yet stays and is sent when you sign in here again."), press("Sign out", async () => {
    await keep.leave(me.token);
    await leaving();
    sure.close();
    location.hash = "#jobs";
    location.reload();
  }, { kind: "main" }));
}

async function save() {
  const link = h("a", { href: URL.createObjectURL(await keep.copy()), download: `gnomonic-phone-${new Date().toISOString().slice(0, 10)}.json` });
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}

addEventListener("hashchange", show);
addEventListener("unhandledrejection", (event) => alarm(`Something went wrong on this phone: ${event.reason?.message ?? event.reason}. What is kept is kept.`));
// What came from the office is drawn where it changes what is shown, and never under a thumb that is choosing.
const seen = async () => JSON.stringify([it.job && (await keep.events(it.job)).map((row) => row.id + row.sent).join(), it.job && (({ offered, marks, days } = {}) => [offered, marks, days?.at])((await keep.pack(it.job)) ?? {}), status.word, status.left]);
let drawn = "";
whenChanged(async () => {
  await counts();
  const now = await seen();
  const busy = document.querySelector("dialog[open], .cut:not(:empty)") || document.activeElement?.matches("input, textarea");
  if (now !== drawn && !busy) await show();
  drawn = now;
});
if ("serviceWorker" in navigator) navigator.serviceWorker.register("/field/worker.js", { scope: "/field/" }).catch(() => alarm("This browser does not keep the page itself: without a signal it will not open again."));
drawnBy(show);
show().then(sync);
