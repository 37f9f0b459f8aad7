// What events come to, as core/log/facts.py has it: both go by one table of kinds, and a test holds the two to each other.
const KINDS = JSON.parse(document.getElementById("trade").textContent).kinds;

// What time it is by the office: this phone's clock, put right by what it was off when it last heard the office.
export const clock = { off_s: 0 };
export const now = () => Date.now() + clock.off_s * 1000;

export const when = (row) => Date.parse(row.event.clock) + row.offset_s * 1000;

function before(a, b) {
  const [x, y] = [when(a), when(b)];
  if (x !== y) return x - y;
  if (a.event.device !== b.event.device) return a.event.device < b.event.device ? -1 : 1;
  return a.event.seq - b.event.seq || (a.event.id < b.event.id ? -1 : 1);
}

// Of two events with the same subject the later stands.
const subject = (e) => {
  const kind = KINDS[e.kind];
  return JSON.stringify([e.line ?? "", e.post ?? "", e.kind, e.thing ?? "", ...(kind.told_by ?? []).map((k) => e[k]), ...(kind.beside ? [e.id] : [])]);
};

// Rows ({event, offset_s}) → the events that count, in order, and the earlier ones each replaces.  An event may end others: a new
// depth ends "cut".
export function fold(rows) {
  const once = new Map();
  for (const row of [...rows].sort(before)) if (!once.has(row.event.id)) once.set(row.event.id, row);
  const gone = new Set([...once.values()].filter((r) => r.event.kind === "void").map((r) => r.event.of));
  const [stand, earlier, ofPost] = [new Map(), new Map(), new Map()];
  const live = [...once.values()].filter(({ event: e }) => e.kind !== "void" && !gone.has(e.id));
  for (const row of live) {
    const e = row.event;
    const [key, post] = [subject(e), `${e.line ?? ""}|${e.post ?? ""}`];
    if (!ofPost.has(post)) ofPost.set(post, new Set());
    const beside = ofPost.get(post);
    const old = stand.get(key);
    if (old) {
      earlier.set(e.id, [...(earlier.get(old.event.id) ?? []), old.event.id]);
      earlier.delete(old.event.id);
      stand.delete(key);
    }
    for (const other of beside) {
      const ended = stand.get(other);
      if (!ended || !KINDS[e.kind].ends?.includes(ended.event.kind)) continue;
      earlier.delete(ended.event.id);
      stand.delete(other);
      beside.delete(other);
    }
    stand.set(key, row);
    beside.add(key);
  }
  return { stand: [...stand.values()], earlier, live };
}

// What is known of each post ("A5"), by the names of core/log/facts.py (`Built`): how deep it reached, what it met, whether it was cut …
export function posts(folded) {
  const found = new Map();
  for (const { event: e } of folded.stand) {
    if (!e.post) continue;
    const key = e.line + e.post;
    const of = found.get(key) ?? {};
    const kind = KINDS[e.kind];
    for (const [value, name] of Object.entries(kind.sets ?? {})) of[name] = e[value];
    if (kind.marks) of[kind.marks] = true;
    if (e.kind === "depth") Object.assign(of, { by: e.author, id: e.id });
    found.set(key, of);
  }
  return found;
}
