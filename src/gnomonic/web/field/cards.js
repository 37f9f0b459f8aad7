// The cards: a post, a brace, the wire.  Two presses put a post down, four a brace as measured.
import { length, quantity, say, units } from "../static/units.js";
import { alarm, called, go, note, of, trade } from "./hand.js";
import { strip } from "./draw.js";
import { photosOf, takePhoto } from "./photos.js";
import { locate, nearest, onGround } from "./place.js";
import { marksHold, nearHazards, overrideSheet } from "./safety.js";
import { h, lengths, press, sheet, steps, two } from "./ui.js";

const depthSteps = (post) => steps(post.deep + 0.1, 0.1, { us: 2, metric: 0.05 });

// The post that is looked at, or the first of its line that is not in.
function current({ own, post, known }) {
  const open = own.posts.findIndex((p) => !p.shared && known.get(own.id + p.name)?.reached_m === undefined);
  const asked = own.posts.findIndex((p) => p.name === post);
  return asked >= 0 ? asked : Math.max(open, 0);
}

export async function postView(it) {
  const { own, pack, known, job, folded } = it;
  const index = current(it);
  const post = own.posts[index];
  const is = known.get(own.id + post.name);
  const name = called(pack, own, post);
  const step = (by) => go(job, "posts", own.id, own.posts[(index + by + own.posts.length) % own.posts.length].name);
  const after = own.posts.find((p, k) => k > index && !p.shared && known.get(own.id + p.name)?.reached_m === undefined);
  const done = (event, told) => note(event, { told }).then((kept) => kept && after && go(job, "posts", own.id, after.name));
  const put = (values, told) => done(of(own, post, { kind: "depth", plumb: true, ...values }), told);
  const verb = post.dug ? "In" : "Driven";
  const held = marksHold(own, folded);
  const short = is?.reached_m === undefined ? "" : verdict(post, is.reached_m);
  const buttons = post.shared
    ? [h("p", { class: "caution" }, `It is a post of line ${post.shared}: write it down there.`), press(`Line ${post.shared}`, () => go(job, "posts", post.shared), {})]
    : !held && is?.reached_m === undefined
      ? [h("p", { class: "caution stop" }, h("b", {}, "No marks in date on this line: no hole here. "), "Hand-dig nothing, drive nothing, until the marking service’s marks are in."), press("Dig all the same…", () => overrideSheet(it), { under: "a named person, with a reason", kind: "light" })]
      : [
          press(`${verb}, ${length(post.deep, "depth")}, plumb`, () => put({ reached_m: post.deep }, `${name} ${verb.toLowerCase()}, ${length(post.deep, "depth")}.`), { under: post.by_hand ? "dug by hand: a service lies near" : post.fill ? `filled with ${post.fill}` : post.dug ? "tamped in layers" : "as planned", kind: "main" }),
          two(press("Hit rock", () => howDeep("Rock. How deep did it come?", post, (m) => put({ reached_m: m, met: "rock" }, `${name} on rock at ${length(m, "depth")}${verdict(post, m)}.`)), { kind: "dark" }), press("Not that deep", () => howDeep("How deep?", post, (m) => put({ reached_m: m }, `${name} ${verb.toLowerCase()}, ${length(m, "depth")}${verdict(post, m)}.`)), { kind: "dark" })),
        ];
  return [
    strip(own, index, known),
    h("div", { class: "posthead" },
      h("button", { type: "button", class: "step", "aria-label": "Post before", onclick: () => step(-1) }, "‹"),
      h("h1", {}, name),
      h("p", { class: "taped" }, h("b", {}, length(post.taped, "station")), ...tape(pack, own, post)),
      h("button", { type: "button", class: "step", "aria-label": "Next post", onclick: () => step(1) }, "›")),
    h("p", { class: "what" }, `${post.role}: ${post.kind}, ${length(post.long, "depth")}, ${length(post.across, "gap")} across; ${length(post.over, "depth")} out of the ground`),
    ...notices(it, post),
    is?.reached_m === undefined ? "" : h("p", { class: short.includes("too shallow") && !is.cut ? "isin short" : "isin" }, `${verb} ${length(is.reached_m, "depth")}${is.met && is.met !== "nothing" ? ` on ${is.met}` : ""}${is.plumb === false ? ", not plumb" : ""}${is.cut ? ", cut and capped" : ""}${is.by ? `, ${is.by}` : ""}`, is.cut || !short ? "" : h("small", {}, `${short[2].toUpperCase()}${short.slice(3)}`), ...besides(it, is)),
    ...buttons,
    two(press("Found…", () => foundSheet(own, post)), press("Photo", () => takePhoto(job, own, post))),
    photosOf(it, own, post, name),
    two(press("More…", () => moreSheet(own, post, name), { kind: "light" }), press("Where am I", () => whereAmI(it), { kind: "light" })),
    h("p", { class: "next" }, after ? `Next: ${called(pack, own, after)}, ${after.kind}, ${length(after.at - post.at, "station")} on, level` : "The last one of this line that was to set."),
    lines(it),
  ];
}

// Which distance that is, and what a tape laid on the ground reads where the ground is not level.
const SAME_M = 0.005;
const tape = (pack, own, post) =>
  !post.from || post.from === post.name
    ? [h("small", {}, "where the tape starts")]
    : [h("small", {}, `level, from post ${called(pack, own, { name: post.from })}`), post.along - post.taped > SAME_M ? h("small", {}, `${length(post.along, "station")} along the ground`) : ""];

// Of two phones on one post the later stands; the earlier one is beside it.
function besides({ folded, rows }, is) {
  const earlier = folded.earlier.get(is.id) ?? [];
  const said = rows.filter((row) => earlier.includes(row.event.id)).map(({ event: e }) => `${e.author || "somebody"}: ${length(e.reached_m, "depth")}${e.met && e.met !== "nothing" ? ` on ${e.met}` : ""}`);
  return said.length ? [h("small", {}, `said before: ${said.join("; ")}`)] : [];
}

const lines = ({ pack, own, job, known }) =>
  pack.lines.length < 2
    ? ""
    : h("details", { class: "lines" }, h("summary", {}, "Other lines"), ...pack.lines.filter((l) => l !== own).map((l) => {
        const [to, inn] = [l.posts.filter((p) => !p.shared), l.posts.filter((p) => !p.shared && known.get(l.id + p.name)?.reached_m !== undefined)];
        return press(`${l.id} · ${l.name}`, () => go(job, "posts", l.id), { under: `${inn.length} of ${to.length} posts in`, kind: "light" });
      }));

// What bites here: a service, wet ground, what others saw within reach.
function notices(it, post) {
  const { own } = it;
  const rows = [];
  if (post.by_hand) rows.push(["stop", "A buried service lies here: dig by hand, no auger, no driver."]);
  if (post.because) rows.push(["", `Deeper than the others: ${post.because}.`]);
  if (post.board) rows.push(["", "A breast board goes against it."]);
  for (const t of own.things) {
    const far = post.at < t.from ? t.from - post.at : post.at > t.to ? t.to - post.at : 0;
    if (Math.abs(far) <= trade.rules.near) rows.push([t.group === "service" || t.group === "hazard" ? "stop" : "", `${t.name[0].toUpperCase()}${t.name.slice(1)} ${far === 0 ? "here" : `${length(Math.abs(far), "station")} ${far > 0 ? "on" : "back"}`}: ${t.caution}`]);
  }
  for (const s of own.snags ?? []) if (Math.abs(s.at - post.at) < 0.05) rows.push([s.grave ? "stop" : "", `Snag: ${say(s.title)}; ${say(s.why)}.`]);
  for (const [far, event] of nearHazards(it.folded, post.e, post.n)) rows.push(["stop", `${HAZARDS[event.what] ?? "Something"} seen ${length(far, "station")} away${event.author ? ` by ${event.author}` : ""}${event.note ? `: ${event.note}` : ""}`]);
  return rows.map(([kind, words]) => h("p", { class: `caution ${kind}` }, words));
}
export const HAZARDS = { rock: "Rock", root: "Roots", water: "Water", wire: "Old wire", service: "A buried service", junk: "Buried junk", nest: "A nest", overhead: "A power line", hole: "A hole", other: "A hazard" };

// Whether a post that stopped short does all the same, by what it keeps of its hold.
const verdict = (post, m) => (m >= post.deep - trade.rules.same_depth ? "" : m >= post.pass - 1e-4 ? ": usually let pass" : ": too shallow to be let pass, the planner sees it");

const howDeep = (title, post, run) => sheet(title, h("p", { class: "hush" }, `planned ${length(post.deep, "depth")}${post.pass < post.deep ? `; from ${length(post.pass, "depth")} on usually let pass` : ""}`), lengths(depthSteps(post), run, { planned: post.deep, name: "Depth" }));

const FOUND = [["rock", "Rock"], ["root", "Root"], ["water", "Water"], ["wire", "Wire"], ["service", "Pipe or cable"], ["junk", "Junk"]];
const foundSheet = (own, post) =>
  sheet("What is there?", h("div", { class: "grid" }, ...FOUND.map(([what, words]) => press(words, () => note(of(own, post, { kind: "found", what }), { told: `${words} written down.` }).then((kept) => kept && what === "service" && alarm("Stop. No auger, no driver here: hand-dig round it and ask the marking service what it is.")), { kind: "dark" }))));

function moreSheet(own, post, name) {
  const shifts = steps(0, 0.3, { us: 2, metric: 0.05 }).filter((v) => v > 0);
  const sub = (title, values, run, kind = "depth") => () => sheet(title, lengths(values, run, { kind, name: title }));
  const words = h("textarea", { rows: 3, maxlength: 1000, "aria-label": "Note" });
  sheet(name,
    two(press("Stands on", sub("On along the line by", shifts, (m) => note(of(own, post, { kind: "moved", along_m: m }), { told: `${name} stands ${length(m, "gap")} on.` }))), press("Stands back", sub("Back along the line by", shifts, (m) => note(of(own, post, { kind: "moved", along_m: -m }), { told: `${name} stands ${length(m, "gap")} back.` })))),
    two(press("Not plumb", () => howDeep("Not plumb; how deep is it?", post, (m) => note(of(own, post, { kind: "depth", reached_m: m, plumb: false }), { told: `${name}: not plumb.` }))), press("Backfill sank", sub("It sank by", steps(0.025, 0.25, { us: 1, metric: 0.02 }), (m) => note(of(own, post, { kind: "settled", down_m: m }), { told: `${name}: sank ${length(m, "gap")}.` })))),
    two(press("Stands proud", sub("Its head is too high by", steps(0.025, 0.4, { us: 1, metric: 0.02 }), (m) => note(of(own, post, { kind: "proud", proud_m: m }), { told: `${name}: ${length(m, "gap")} proud.` }))), press("Cut and capped", () => note(of(own, post, { kind: "cut" }), { told: `${name}: cut and capped.` }))),
    two(press("Pilot: clear", () => howDeep("How deep went the pilot?", post, (m) => note(of(own, post, { kind: "pilot", reached_m: m, met: "nothing" }), { told: "Pilot hole written down." }))), press("Pilot: rock", () => howDeep("At what depth?", post, (m) => note(of(own, post, { kind: "pilot", reached_m: m, met: "rock" }), { told: "Pilot hole on rock." })))),
    h("label", { class: "typed" }, "A note (the phone’s keyboard takes it by voice)", words),
    press("Keep the note", () => words.value.trim() && note(of(own, post, { kind: "note", note: words.value.trim().replace(/\s+/g, " ") }), { told: "Note kept." }), { kind: "main" }),
  );
}

async function whereAmI({ pack, job }) {
  if (!pack.origin) return alarm("This job is measured in metres of its own: a satellite can’t say where on it you are.");
  alarm("");
  const box = sheet("Where am I", h("p", { class: "hush" }, "Asking the phone…"));
  try {
    const { coords } = await locate();
    const [e, n] = onGround(pack.origin, coords.longitude, coords.latitude);
    const found = nearest(pack.lines, e, n);
    const near = found.far <= Math.max(coords.accuracy, 2);
    box.lastChild.replaceWith(h("div", {},
      h("p", {}, `The phone’s place is good to about ${length(coords.accuracy, "station")}. The nearest post is ${called(pack, found.line, found.post)}, ${length(found.far, "station")} away${near ? "" : "; that is more than the place is good to"}.`),
      h("p", { class: "hush" }, "Good enough to find the post, never to set it by."),
      press(`Go to ${called(pack, found.line, found.post)}`, () => { box.close(); go(job, "posts", found.line.id, found.post.name); }, { kind: "main" })));
  } catch (error) {
    box.lastChild.replaceWith(h("p", {}, error.message));
  }
}

export async function braceView(it) {
  const { own, pack, folded, job } = it;
  const all = pack.lines.flatMap((line) => line.braces.map((brace) => ({ line, brace })));
  const known = ({ line, brace }) => folded.stand.find(({ event: e }) => e.kind === "clear" && e.line === line.id && e.post === brace.post && e.ahead === brace.ahead)?.event;
  if (!all.length) return [h("h1", {}, "No braced ends"), h("p", { class: "hush" }, "Nothing of this job is braced by a rail that is cut to measure.")];
  const asked = all.find(({ line, brace }) => line === own && `${brace.post}${brace.ahead ? "+" : "-"}` === it.post);
  const now = asked ?? all.find((row) => !known(row)) ?? all[0];
  const { line, brace } = now;
  const post = line.posts.find((p) => p.name === brace.post);
  const tag = (row) => `${called(pack, row.line, { name: row.brace.post })}, ${row.brace.ahead ? "ahead" : "behind"}`;
  const name = tag(now);
  const rows = brace.cuts[units()];
  const nearTo = rows.reduce((a, b) => (Math.abs(b[0] - brace.clear) < Math.abs(a[0] - brace.clear) ? b : a));
  const before = known(now);
  const cut = h("div", { class: "cut", role: "status" });
  const choose = (clear) => {
    const [, rail, wire] = rows.find(([c]) => c === clear);
    chips.querySelectorAll(".chip").forEach((chip) => chip.setAttribute("aria-pressed", String(Number(chip.dataset.m) === clear)));
    cut.replaceChildren(
      h("p", {}, "Cut the rail ", h("b", {}, length(rail, "cut")), wire ? [", brace wire ", h("b", {}, length(wire, "station"))] : ""),
      press(`Keep ${length(clear, "cut")}`, () => note(of(line, post, { kind: "clear", clear_m: clear, ahead: brace.ahead }), { told: `${name}: clear ${length(clear, "cut")}, rail ${length(rail, "cut")}.` }), { under: "as measured, with the post", kind: "main" }));
  };
  const chips = lengths(rows.map(([c]) => c), choose, { kind: "cut", planned: brace.clear, name: "Clear between the faces" });
  requestAnimationFrame(() => chips.querySelector(".planned")?.scrollIntoView({ block: "nearest", inline: "center" }));
  return [
    h("h1", {}, `Brace at ${name}`),
    h("p", { class: "what" }, `Tape clear between the posts’ faces, level, at the rail’s marks. As drawn: ${length(nearTo[0], "cut")}, rail ${length(nearTo[1], "cut")}.`),
    h("p", { class: "what" }, `Marks below a level string ${length(brace.string, "cut")} over the end post’s ground: outer ${length(brace.marks[0][0], "cut")}, inner ${length(brace.marks[0][1], "cut")}.`),
    before ? h("p", { class: "isin" }, `Measured ${length(before.clear_m, "cut")}${before.author ? `, ${before.author}` : ""}`) : "",
    chips, cut,
    h("p", { class: "hush" }, `Posts ${length(brace.outer, "gap")} and ${length(brace.inner, "gap")} across: where yours are others, the brace sheet in the office cuts from all three.`),
    h("p", { class: "caution" }, "A brace wire under twist can snap back: stand clear of it and out of its line; staple the stick."),
    h("details", { class: "lines" }, h("summary", {}, `All ${all.length} ends`), ...all.map((row) => press(tag(row), () => go(job, "braces", row.line.id, `${row.brace.post}${row.brace.ahead ? "+" : "-"}`), { under: known(row) ? `measured ${length(known(row).clear_m, "cut")}` : "not measured", kind: "light" }))),
  ];
}

const SHARES = [0, 0.25, 0.5, 0.75, 1];
export async function wireView(it) {
  const { own, folded, job, pack } = it;
  const tag = (name) => called(pack, own, { name });
  const runs = own.runs.filter((run) => run.posts.length);
  const reading = (run) => folded.stand.find(({ event: e }) => e.kind === "pulled" && e.line === own.id && e.post === run.posts[0])?.event;
  const index = Math.max(0, own.posts.findIndex((p) => p.name === it.post && p.gap));
  const post = own.posts[index]?.gap ? own.posts[index] : own.posts.find((p) => p.gap);
  const gap = post && folded.stand.find(({ event: e }) => e.kind === "gap" && e.line === own.id && e.post === post.name)?.event;
  const says = (e) => [e.left_top === undefined ? "" : `${quantity(e.left_top, "share")} of the curve left at the top`, e.left_bottom === undefined ? "" : `${quantity(e.left_bottom, "share")} at the bottom`, e.force_n === undefined ? "" : quantity(e.force_n, "force"), e.temp_c === undefined ? "" : `at ${quantity(e.temp_c, "temperature")}`].filter(Boolean).join(", ");
  return [
    h("h1", {}, "The pull"),
    h("p", { class: "caution" }, "Look down the line before every click; nobody in line with it or in the bight. The lower puller is let go first."),
    ...runs.map((run) => press(`${tag(run.posts[0])} to ${tag(run.posts[1] ?? run.posts[0])}`, () => pullSheet(own, run, tag), { under: reading(run) ? says(reading(run)) : `${length(run.to - run.from, "station")} level${run.along - (run.to - run.from) > SAME_M ? `, ${length(run.along, "station")} along the ground` : ""}; not pulled yet`, kind: reading(run) ? "done" : "" })),
    post ? h("h2", {}, `Under the wire, ${tag(post.name)} to ${tag(post.gap.to)}`) : "",
    post ? h("p", { class: "what" }, `Planned at most ${length(post.gap.m, "gap")}${gap ? `; measured ${length(gap.gap_m, "gap")}` : ""}. A boot’s toe is about ${length(trade.rules.boot_toe, "gap")}.`) : "",
    post ? lengths(steps(0, Math.max(0.3, post.gap.m + 0.1), { us: 1, metric: 0.02 }), (m) => note(of(own, post, { kind: "gap", gap_m: m }), { told: m > post.gap.m + trade.rules.more_gap ? `${length(m, "gap")}: ${length(m - post.gap.m, "gap")} more than planned.` : `${length(m, "gap")}: as planned or less.` }), { kind: "gap", planned: post.gap.m, name: "Gap under the wire" }) : "",
    post ? two(press("Bay before", () => go(job, "wire", own.id, own.posts[(own.posts.indexOf(post) - 1 + own.posts.length) % own.posts.length].name), { kind: "light" }), press("Next bay", () => go(job, "wire", own.id, post.gap.to), { kind: "light" })) : "",
    ...[...own.gates.map((g) => ["gate", g]), ...own.crossings.map((c) => ["crossing", c])].map(([kind, thing]) => opening(it, kind, thing)),
    lines(it),
  ];
}

function pullSheet(own, run, tag) {
  const values = {};
  const post = own.posts.find((p) => p.name === run.posts[0]);
  const choose = (key, words) => h("div", {}, h("p", { class: "what" }, words), h("div", { class: "chips", role: "group", "aria-label": words }, ...SHARES.map((share) => h("button", { type: "button", class: "chip", onclick: (event) => { values[key] = share; event.currentTarget.parentNode.querySelectorAll(".chip").forEach((c) => c.setAttribute("aria-pressed", String(c === event.currentTarget))); } }, quantity(share, "share")))));
  const us = units() === "us";
  const temp = h("input", { type: "number", inputmode: "decimal", "aria-label": us ? "Temperature, °F" : "Temperature, °C" });
  const force = h("input", { type: "number", inputmode: "decimal", min: 0, "aria-label": us ? "Tension read, lb" : "Tension read, N" });
  sheet(`Pulled, from ${tag(run.posts[0])}`,
    choose("left_top", "Curve left, top wires"), choose("left_bottom", "Curve left, bottom wires"),
    h("label", { class: "typed" }, us ? "Or tension read, lb (plain wire)" : "Or tension read, N (plain wire)", force),
    h("label", { class: "typed" }, us ? "Air, °F" : "Air, °C", temp),
    press("Fabric hung, not pulled yet", () => note(of(own, post, { kind: "hung" }), { told: "Hung." }), { kind: "light" }),
    press("Keep the reading", () => {
      const [f, t] = [Number(force.value), temp.value === "" ? NaN : Number(temp.value)];
      if (f > 0) values.force_n = us ? f * 4.4482216152605 : f;
      if (Number.isFinite(t)) values.temp_c = Number((us ? (t - 32) / 1.8 : t).toFixed(1));
      if (!["left_top", "left_bottom", "force_n"].some((key) => key in values)) return alarm("Say what was read: the curve left, or a tension.");
      alarm("");
      note(of(own, post, { kind: "pulled", ...values }), { told: "Reading kept." });
    }, { kind: "main" }));
}

function opening({ own, folded, pack }, kind, thing) {
  const post = own.posts.find((p) => p.name === thing.posts[0]);
  const known = folded.stand.find(({ event: e }) => e.kind === kind && e.line === own.id && e.thing === thing.id)?.event;
  if (!post) return "";
  const planned = thing.gap_m ?? null;
  const words = kind === "gate" ? `${thing.name || "Gate"}: hung` : `${thing.name || "Crossing"}: hung`;
  return press(words, () => sheet(`${thing.name || kind}: under it, shut`, planned === null ? "" : h("p", { class: "hush" }, `planned at most ${length(planned, "gap")}`), lengths(steps(0, 0.4, { us: 1, metric: 0.02 }), (m) => note(of(own, post, { kind, thing: thing.id, gap_m: m }), { told: `${thing.name || kind} hung, ${length(m, "gap")} under it.` }), { kind: "gap", planned, name: "Gap under it" })), { under: known ? `hung${known.gap_m === undefined ? "" : `, ${length(known.gap_m, "gap")} under it`}` : `at ${called(pack, own, post)}, not hung yet`, kind: known ? "done" : "" });
}
