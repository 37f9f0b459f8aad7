// Passkeys on the pages of the gate: made, used to sign in, used to show once more who one is.  A browser that has none sees no button.
import { call } from "../static/send.js";

const able = Boolean(window.isSecureContext && window.PublicKeyCredential?.parseRequestOptionsFromJSON);
const WHY = {
  NotAllowedError: "That was broken off, or no passkey here is for this site; nothing was done.",
  InvalidStateError: "This device has a passkey of yours already.",
  SecurityError: "This browser makes no passkey for this address.",
};

function say(words) {
  const line = document.querySelector("[data-keysay]");
  line.textContent = words;
  line.hidden = !words;
}

async function asked(address, body = {}) {
  const answer = await call(address, body);
  if (!answer.ok) throw new Error(answer.body.detail);
  return answer.body;
}

// What the device signs of what was asked.
async function signed(address) {
  const publicKey = PublicKeyCredential.parseRequestOptionsFromJSON(await asked(address));
  return (await navigator.credentials.get({ publicKey })).toJSON();
}

const DO = {
  "sign-in": async (button) => {
    await asked("/api/v1/passkeys/sign-in", { credential: await signed("/api/v1/passkeys/sign-in/ask") });
    location.assign(button.form.elements.to.value);
  },
  prove: async (button) => {
    const { form } = button;
    form.elements.again_key.value = JSON.stringify(await signed("/api/v1/passkeys/prove"));
    form.elements.again.required = false;
    form.requestSubmit();
  },
  add: async (button) => {
    const password = button.form.elements.again.value;
    const publicKey = PublicKeyCredential.parseCreationOptionsFromJSON(await asked("/api/v1/passkeys/ask", { password }));
    await asked("/api/v1/passkeys", { credential: (await navigator.credentials.create({ publicKey })).toJSON() });
    location.reload();
  },
};

async function press(button) {
  say("");
  button.disabled = true;
  try {
    await DO[button.dataset.passkey](button);
  } catch (error) {
    const words = WHY[error.name] ?? error.message;
    say(`${words[0].toUpperCase()}${words.slice(1)}`.replace(/([^.])$/, "$1."));
  }
  button.disabled = false;
}

for (const button of document.querySelectorAll("[data-passkey]")) {
  button.hidden = !able;
  if (button.type === "button") button.addEventListener("click", () => press(button));
}
// On one's own page the form says what it is for, or that this browser has none.
for (const form of document.querySelectorAll("form[data-keys]")) {
  form.hidden = !able;
  document.querySelector("[data-nokeys]").hidden = able;
  form.addEventListener("submit", (event) => {
    event.preventDefault();
    press(form.querySelector("[data-passkey]"));
  });
}
