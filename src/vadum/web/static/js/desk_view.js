// What a desk shows: its parts as they come from the server, the readings this device holds, a place in words.
import { get } from "./ask.js";
import { feed } from "./chart.js";
import * as fields from "./fields.js";
import { boxOf, inputOf } from "./fields.js";
import { swap, whenReleased } from "./fragments.js";
import { keepParts } from "./kept.js";
import { inFlight } from "./readings.js";
import { held } from "./send.js";

export const desk = document.getElementById("desk");
export const { code } = desk.dataset;
export const base = `/runs/${code}`;
// Where this page stands: the step it has open, the reading entered last while the form stays with its step, and what is
// shown when the person moves on from there.
export const sight = { step: new URLSearchParams(location.search).get("step") || "", at: "", onward: null };

export const slip = (text) => (document.getElementById("slip").textContent = text);
export const query = (more) => {
  const asked = Object.entries({ step: sight.step, ...more }).filter(([, value]) => value);
  return asked.length ? `?${new URLSearchParams(asked)}` : "";
};

const words = JSON.parse(document.getElementById("words")?.textContent || '{"titles":{},"rows":{}}');

// A place as a person calls it: `trials[1].mass_wet_g` is "trial 2, tin + wet soil".
export function inWords(path) {
  const parts = path.split(".").map((part) => {
    const row = /^(\w+)\[(\d+)\]$/.exec(part);
    return row ? `${words.rows[row[1]] || words.titles[row[1]] || "row"} ${Number(row[2]) + 1}` : words.titles[part];
  });
  return parts.filter(Boolean).join(", ");
}

// What is shown anew after an entry. The form is merged around what is typed, and only once nothing of it is on its way:
// until then the page knows better than the answer what has been entered.
export function show(parts, { more = false } = {}) {
  if (!sight.step) keepParts(code, parts);
  sight.onward = parts.onward || null;
  if (!sight.onward) sight.at = "";
  const opened = desk.querySelector("[data-held]")?.open;
  const { fields: fresh, ...rest } = parts.fragments;
  swap(desk, rest);
  if (opened) showHeldRules(true);
  document.getElementById("calling").textContent = JSON.stringify(parts.calling ?? null);
  desk.dataset.seq = parts.seq;
  desk.dataset.tape = parts.tape;
  desk.dataset.asks = parts.asks;
  showCounter();
  showStep();
  document.dispatchEvent(new CustomEvent("vadum:shown")); // a call that begins takes the hands before the form does
  if (!more && fresh !== undefined) showForm(fresh);
  return feed(parts.chart);
}

// On a phone the steps are one line: it is moved to the step of now.
export function showStep() {
  const line = desk.querySelector(".stepcol");
  const now = line.querySelector("li.opened, li.now");
  if (now && line.scrollWidth > line.clientWidth) line.scrollLeft = now.offsetLeft - 14;
}

// The form is merged around what is typed; whoever leads the hands is told afterwards where they were.
export function showForm(html) {
  whenReleased(fields.form(), () => {
    const at = document.activeElement;
    fields.merge(html, slip);
    showHeld();
    document.dispatchEvent(new CustomEvent("vadum:form", { detail: at }));
  });
}

// A counter belongs to fields by name: it is there while one of them is asked for.
export const counted = () => desk.querySelector("[data-counts]")?.dataset.counts.split(" ") || [];
export const isCounted = (input) => counted().includes(input.dataset.path.replace(/^.*\./, ""));
export const counting = () => desk.dataset.asks.split(" ").some((name) => counted().includes(name));
export const showCounter = () => desk.querySelector("[data-counts]")?.classList.toggle("asked", counting());

// The rules that hold are folded into one line, opened by a key.
export function showHeldRules(open) {
  const held = desk.querySelector("[data-held]");
  if (held) held.open = open ?? !held.open;
}

// A reading that this device still holds is not asked for again.
export function showHeld() {
  showUnsent();
  for (const { path, value } of held(code)) {
    const box = boxOf(path);
    if (!box || fields.isSent(box)) continue;
    if (inputOf(box)) inputOf(box).value = value ?? "";
    fields.lock(box, "waits on this device");
  }
}

// What waits on this device stands in the strip too, so that it is corrected like any other: its strike goes after it.
export function showUnsent() {
  const strip = desk.querySelector('[data-fragment="strip"] ol');
  if (!strip) return;
  for (const old of strip.querySelectorAll(".unsent")) old.remove();
  const waiting = held(code);
  const struck = new Set(waiting.flatMap((entry) => entry.strikes || []));
  for (const button of strip.querySelectorAll("button[data-entry]"))
    button.closest("li").classList.toggle("struck", struck.has(button.dataset.entry));
  for (const { id, path, value } of waiting) {
    if (value === null || typeof value === "object") continue;
    const line = Object.assign(document.createElement("li"), {
      className: struck.has(id) ? "unsent struck" : "unsent",
    });
    const button = Object.assign(document.createElement("button"), { type: "button", title: "waits on this device" });
    Object.assign(button.dataset, { entry: id, path, value });
    button.append(`${inWords(path)} `, value, " …");
    line.append(button);
    strip.append(line);
  }
}

export async function refresh(asked = "") {
  const answer = await get(`${base}/parts${query({ at: sight.at, field: asked })}`);
  if (answer.status === 401) return document.dispatchEvent(new CustomEvent("vadum:signedout"));
  if (answer.status === 409) return cannotShow((await answer.json()).message); // the run is broken, by whoever's entry
  const parts = answer.ok ? await answer.json() : null;
  // A copy that the browser kept may be older than what is shown.
  if (parts && parts.seq >= Number(desk.dataset.seq)) await show(parts, { more: inFlight() });
}

// What was kept is kept, also when this desk cannot show what came of it: the run's own page says why.
export function shown(parts, more = false) {
  const words = "Saved, but the desk cannot show it.";
  return parts.broken ? cannotShow(`${words} ${parts.broken}`) : show(parts, { more });
}

function cannotShow(words) {
  if (document.querySelector("#slip a")) return; // said already, and perhaps with more
  slip(`${words} `);
  const link = Object.assign(document.createElement("a"), {
    href: base,
    textContent: "Open what is wrong",
    className: "quietgo",
  });
  document.getElementById("slip").append(link);
}
