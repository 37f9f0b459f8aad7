// Photos: taken and scaled down here, kept until they are sent; those of others come from the office when they are looked at.
import { alarm, note, of, trade } from "./hand.js";
import { when } from "./fold.js";
import * as keep from "./keep.js";
import { photoOf } from "./sync.js";
import { h, press, sheet } from "./ui.js";

export function takePhoto(job, own, post, thing = null) {
  const input = h("input", { type: "file", accept: "image/*", capture: "environment", class: "unseen", "aria-label": "Photo" });
  input.addEventListener("change", async () => {
    const file = input.files[0];
    input.remove();
    if (!file) return;
    const full = await keep.room();
    if (full) alarm(full);
    try {
      const blob = await scaled(file);
      const digest = [...new Uint8Array(await crypto.subtle.digest("SHA-256", await blob.arrayBuffer()))].map((b) => b.toString(16).padStart(2, "0")).join("");
      await note(of(own, post, { kind: "photo", photo: digest, ...(thing ? { thing } : {}) }), { told: "Photo kept on this phone.", photo: { digest, job, blob, sent: "no" } });
    } catch (error) {
      alarm(`No photo was kept: ${error.message}`);
    }
  });
  document.body.append(input);
  input.click();
}

async function scaled(file) {
  const picture = await createImageBitmap(file).catch(() => null);
  if (!picture) throw new Error("that file is no picture this phone can read.");
  const by = Math.min(1, trade.rules.photo_side / Math.max(picture.width, picture.height));
  const canvas = h("canvas", { width: Math.round(picture.width * by), height: Math.round(picture.height * by) });
  canvas.getContext("2d").drawImage(picture, 0, 0, canvas.width, canvas.height);
  const blob = await new Promise((done) => canvas.toBlob(done, "image/jpeg", 0.8));
  if (!blob) throw new Error("the phone could not scale it down.");
  return blob;
}

// The photos of a post, whoever took them: how many, and all of them when pressed.
export function photosOf({ folded, job }, own, post, name) {
  const rows = folded.live.filter(({ event: e }) => e.kind === "photo" && e.line === own.id && e.post === post.name);
  if (!rows.length) return "";
  return press(rows.length === 1 ? "Its photo" : `Its ${rows.length} photos`, () => sheet(`Photos of ${name}`, ...[...rows].reverse().map((row) => figure(job, row))), { kind: "light" });
}

function figure(job, row) {
  const { event: e } = row;
  const words = `${new Date(when(row)).toLocaleString()}${e.author ? `, ${e.author}` : ""}${e.note ? `: ${e.note}` : ""}`;
  const place = h("p", { class: "hush" }, "Looking for it…");
  photoOf(job, e.photo).then(
    async (blob) => place.replaceWith(h("img", { src: await keep.asPicture(blob), alt: words })),
    (error) => (place.textContent = error.status === 404 ? "It is still on the phone that took it." : "It is in the office: it comes when there is a signal."),
  );
  return h("figure", {}, place, h("figcaption", {}, words));
}
