// What events come to, as core/log/facts.py has it (a test holds the two to each other): the later on one thing stands.
const MANY = new Set(["found", "photo", "note", "repair", "hazard", "miss", "thunder", "brief", "dig_anyway", "round"]);

// What time it is by the office: this phone's clock, put right by what it was off when it last heard the office.
export const clock = { off_s: 0 };
export const now = () => Date.now() + clock.off_s * 1000;

export const when = (row) => Date.parse(row.event.clock) + row.offset_s * 1000;

function before(a, b) {
  const [x, y] = [when(a), when(b)];
  if (x !== y) return x - y;
  if (a.event.device !== b.event.device) return a.event.device < b.event.device ? -1 : 1;
  return a.event.seq - b.event.seq;
}

const subject = ({ line = "", post = "", kind, thing = "", ahead, id }) => [line, post, kind, thing, kind === "clear" ? ahead : "", MANY.has(kind) ? id : ""].join("|");

// Of a hole that was given up and dug again nothing is a fact of its post any more.
const GIVEN_UP = ["accept", "cut", "depth", "pilot", "proud"];

// Rows ({event, offset_s}) → what stands, in the order it happened, and which earlier ones each stands over.
export function fold(rows) {
  const once = new Map();
  for (const row of [...rows].sort(before)) if (!once.has(row.event.id)) once.set(row.event.id, row);
  const gone = new Set([...once.values()].filter((r) => r.event.kind === "void").map((r) => r.event.of));
  const [stand, earlier] = [new Map(), new Map()];
  const live = [...once.values()].filter((r) => r.event.kind !== "void" && !gone.has(r.event.id));
  for (const row of live) {
    const key = subject(row.event);
    const over = row.event.kind === "redug" ? GIVEN_UP.map((kind) => subject({ ...row.event, kind })) : [];
    for (const one of [key, ...over]) {
      const old = stand.get(one);
      if (!old) continue;
      earlier.set(row.event.id, [...(earlier.get(row.event.id) ?? []), ...(earlier.get(old.event.id) ?? []), old.event.id]);
      earlier.delete(old.event.id);
      stand.delete(one);
    }
    stand.set(key, row);
  }
  return { stand: [...stand.values()], earlier, live };
}

// What is known of each post ("A5"): how deep it reached, what it met, whether it is in.
export function posts(folded) {
  const found = new Map();
  for (const { event: e } of folded.live) {
    if (!e.post) continue;
    const key = e.line + e.post;
    const of = found.get(key) ?? { along: 0, found: [], photos: 0 };
    if (e.kind === "depth") Object.assign(of, { deep: e.reached_m, met: e.met ?? "", plumb: e.plumb ?? null, accepted: false, cut: false, by: e.author, id: e.id });
    else if (e.kind === "redug") Object.assign(of, { deep: undefined, met: "", along: e.along_m, id: undefined });
    else if (e.kind === "moved") of.along = e.along_m;
    else if (e.kind === "cut") of.cut = true;
    else if (e.kind === "accept") of.accepted = true;
    else if (e.kind === "settled") of.down = e.down_m;
    else if (e.kind === "found") of.found.push(e.what);
    else if (e.kind === "photo") of.photos += 1;
    found.set(key, of);
  }
  return found;
}
