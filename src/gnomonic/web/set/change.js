// What can be changed at the place that is chosen: small forms of typed values.
import { html } from "../static/svg.js";
import { length, units } from "../static/units.js";
import { action } from "./tag.js";

const NEAR_M = 4;
const bareName = (name) => name.replace(/^[A-Z]+/, "");
const quiet = (text, run) => html("button", { class: "btn btn-quiet", edits: run }, text);

// The forms for a post, a bay, a splice or the whole line; ``cursor`` is the station they start from.
export function changes(job, { kind, number, cursor }) {
  const { drawing } = job;
  const post = kind === "post" ? drawing.posts[number] : null;
  const edit = (change) => job.edit({ ...change, bare: units() === "metric" ? "m" : "ft" });
  const here = length(post ? post.s : (cursor ?? drawing.length / 2), "station");
  const made = [...ofPost(job, edit, post, number, here), ...ofGate(job, edit, post), ...(kind === "job" ? ofJob(job) : [])];
  made.push(action("One more post, its centre at", [["to", "Station of the new post", post ? length(post.s + 1, "station") : here]], ({ to }) => edit({ do: "place_post", at_m: to }), "Add a post"));
  made.push(action("Gate from", [["at", "Station of its first post’s centre", here, 11], ["leaf", "Length of its leaf", length(3.6576, "station"), 8, "for a leaf of"], ["name", "Name", "gate", 8, "called"]], ({ at, leaf, name }) => edit({ do: "add_gate", at_m: at, leaf_m: leaf, name }), "Hang"));
  made.push(action("No post from", [["low", "From station", here, 11], ["high", "To station", length((post ? post.s : (cursor ?? 0)) + 1.5, "station"), 11, "to"], ["why", "What is there", "rock", 8, "for"]], ({ low, high, why }) => edit({ do: "forbid", from_m: low, to_m: high, reason: why }), "Forbid"));
  for (const f of drawing.forbidden.filter((f) => post && f.from - NEAR_M < post.s && post.s < f.to + NEAR_M)) made.push(quiet(`Allow posts again: ${f.reason || "forbidden stretch"}`, () => job.edit({ do: "allow", from_m: f.from, to_m: f.to })));
  return html("details", { class: "change", edits: null }, html("summary", {}, "Change the line here"), ...made);
}

function ofPost(job, edit, post, number, here) {
  if (!post) return [];
  const { drawing } = job;
  const made = [];
  if (!post.fixed) {
    made.push(action(`Move post ${post.name}, its centre to`, [["to", `New station of post ${post.name}`, here]], ({ to }) => edit({ do: "move_post", from_m: post.s, to_m: to }), `Move post ${post.name}`));
    if (post.forced) made.push(quiet("Let this post go where it costs least", () => job.edit({ do: "release_post", at_m: post.s })));
  }
  made.push(action(`Write down at post ${post.name}`, [["text", "What is known of it", "", 28]], ({ text }) => job.edit({ do: "hang_fact", post: bareName(post.name), at_m: post.s, text }), "Keep"));
  for (const f of drawing.facts.filter((f) => f.post === post.name)) made.push(quiet(`Take back: ${f.text}`, () => job.edit({ do: "drop_fact", post: bareName(f.post), text: f.text })));
  if (number > 0 && number < drawing.posts.length - 1) made.push(action(`Split the line at post ${post.name}, the rest called`, [["name", "Name of the new line", `${drawing.name} 2`, 20]], ({ name }) => job.edit({ do: "split_line", at_m: post.s, name }), "Split"));
  return made;
}

function ofGate(job, edit, post) {
  const gate = post && job.drawing.gates.find((g) => Math.abs(g.at - post.s) < 0.5 || Math.abs(g.at + g.opening - post.s) < 0.5);
  if (!gate) return [];
  return [
    action(`Move ${gate.name} to`, [["to", "Station of the gate", length(gate.at, "station")]], ({ to }) => edit({ do: "move_gate", id: gate.id, at_m: to }), "Move"),
    html("a", { class: "btn btn-quiet", href: job.to(`openings#at=${gate.at}`) }, `${gate.name}: how it hangs, where it would hang better`),
    quiet(`Close ${gate.name} up`, () => job.edit({ do: "remove_gate", id: gate.id })),
  ];
}

function ofJob(job) {
  const { drawing } = job;
  const rename = (what, word, value, change) => action(`Call this ${what}`, [["name", `Name of the ${word}`, value, 26]], ({ name }) => job.edit({ do: change, name }), "Rename");
  return [rename("job", "job", drawing.job, "rename"), ...(job.lines.length > 1 ? [rename("line", "line", drawing.name, "rename_line")] : [])];
}
