// The day on the phone: what is done when, by whom, what to load; as the office last had it, with or without a signal.
import { units } from "../static/units.js";
import { go } from "./hand.js";
import { now } from "./fold.js";
import * as keep from "./keep.js";
import { h } from "./ui.js";

const OLD_H = 20; // a plan of days is of yesterday then
export const today = () => new Date(now()).toLocaleDateString("sv"); // the year first, in the phone's own zone

// The day that is asked for, or today, or the next on which something is planned.
export function dayAsked(days, asked) {
  const all = days?.[units()] ?? [];
  const at = all.findIndex((d) => d.day === asked);
  const next = all.findIndex((d) => d.day >= today());
  return [all, at >= 0 ? at : Math.max(next, 0)];
}

export async function dayView({ days, own, job, post }) {
  if (!days) return [h("h1", {}, "The day"), h("p", { class: "hush" }, "The plan of days is not on this phone yet: it comes with the next signal.")];
  const [all, index] = dayAsked(days, post);
  const heard = new Date(days.at);
  const old = now() - heard > OLD_H * 3.6e6;
  const asof = h("p", { class: old ? "caution" : "hush" }, `As the office had it ${heard.toLocaleString([], { weekday: "short", day: "numeric", month: "short", hour: "2-digit", minute: "2-digit" })}${old ? ": it may have changed since" : ""}.`);
  if (!all.length) return [h("h1", {}, "The day"), h("p", { class: "what" }, days.refused || (days.planned ? "Nothing is planned from today on." : "There is no plan of days: a planner says when the job begins.")), asof];
  const [it, me] = [all[index], await keep.state("me")];
  const to = (by) => h("button", { type: "button", class: "step", "aria-label": by < 0 ? "The working day before" : "The next working day", disabled: !all[index + by], onclick: () => go(job, "day", own.id, all[index + by].day) }, by < 0 ? "‹" : "›");
  const sky = [it.sun, it.weather && `${it.weather}${days.practice ? " (practice weather, made up)" : ""}`].filter(Boolean).join("; ");
  return [
    h("div", { class: "posthead dayhead" }, to(-1), h("h1", {}, it.title), to(1)),
    sky ? h("p", { class: "hush" }, `${sky[0].toUpperCase()}${sky.slice(1)}`) : "",
    ...it.cautions.map((words) => h("p", { class: "caution" }, words)),
    ...it.wearing.map((words) => h("p", { class: "caution" }, `${words[0].toUpperCase()}${words.slice(1)} today: bring a new one.`)),
    it.load.length ? h("details", { class: "lines" }, h("summary", {}, "Load the night before"), h("ul", { class: "rows" }, ...it.load.map((words) => h("li", {}, words)))) : "",
    h("ol", { class: "rows dayrows" }, ...it.rows.map((r) => row(r, me?.name ?? ""))),
    it.rows.length ? "" : h("p", { class: "hush" }, "Nothing is planned on this day."),
    asof,
    h("a", { class: "press light", href: `/jobs/${job}/day?day=${it.day}&units=${units()}` }, h("b", {}, "Tick off in the office’s sheet"), h("small", {}, "where there is a signal; posts, braces, pulls and gates written down here tick themselves")),
  ];
}

// One thing that is done; pressed, it says how.  What falls to whoever holds the phone is marked.
function row(r, name) {
  const mine = r.who.includes(name);
  const who = [r.who.map((w) => (w === name ? "you" : w)).join(", "), r.long, ...r.plant, r.part, r.alone ? "one person trails it" : ""].filter(Boolean).join(" · ");
  const done = r.done >= 1 ? "Done. " : r.done > 0 ? `${Math.round(r.done * 100)} % done. ` : "";
  const what = [h("span", { class: "at" }, r.at), h("span", {}, h("b", {}, `${r.what[0].toUpperCase()}${r.what.slice(1)}`), ` ${r.line} ${r.line_name}${r.side ? `, side ${r.side}` : ""}; ${r.amount}`, h("small", {}, done, who))];
  return h("li", { class: `${r.done >= 1 ? "gone" : ""}${mine ? " mine" : ""}` }, r.text ? h("details", {}, h("summary", {}, ...what), h("p", {}, r.text)) : h("div", { class: "told" }, ...what));
}
