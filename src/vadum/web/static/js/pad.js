// Keys of the page's own for a touch screen: large, with everything that the work needs, so that nothing depends on a key
// that a phone's keypad lacks. They type into whatever field has the focus, as a keyboard would.
import { whenReleased } from "./fragments.js";

const FIELDS = "[data-fields] input, .callfields input, [data-tin] input, #call-div, #call-beside, #holding";
const STOPS = `${FIELDS}, [data-fields] .choices, [data-onward]`;
const touched = matchMedia("(max-width: 600px), (pointer: coarse)");
const sign = document.body.dataset.decimal || ".";

const isFigure = (at) => at.matches("input") && /^(decimal|numeric|none)$/.test(at.inputMode || at.dataset.mode || "");
const isMoment = (at) => at.matches("input") && at.dataset.kind === "moment";
const takesPad = (at) => Boolean(at?.matches?.(STOPS)) && (!at.matches("input") || isFigure(at) || isMoment(at));

const pad = document.createElement("div");
pad.id = "pad";
pad.hidden = true;
pad.setAttribute("role", "region");
pad.setAttribute("aria-label", "Keys");
const KEYS = ["7", "8", "9", "back", "4", "5", "6", "up", "1", "2", "3", "save", "0", sign, "now"];
const FACES = { back: "⌫", up: "↑ back", save: "Save", now: "Now" };
const NAMES = { back: "Delete the last digit", up: "Back to the field before" };
for (const key of KEYS) {
  const button = document.createElement("button");
  Object.assign(button, { type: "button", textContent: FACES[key] || key });
  button.dataset.key = key;
  if (NAMES[key]) button.setAttribute("aria-label", NAMES[key]);
  if (key === "save") button.className = "go";
  pad.append(button);
}
document.body.append(pad);
const face = (key) => pad.querySelector(`[data-key="${key}"]`);

const label = (input) => {
  const words = input.labels?.[0]?.cloneNode(true);
  words?.querySelector(".need")?.remove();
  return (
    words?.textContent
      .trim()
      .replace(/\s+/g, " ")
      .replace(/,[^,]*$/, "") || ""
  );
};
function following(at) {
  const all = [...document.querySelectorAll(FIELDS)].filter((one) => one.offsetParent && !one.readOnly && !one.value);
  return all.find((one) => at.compareDocumentPosition(one) & Node.DOCUMENT_POSITION_FOLLOWING);
}

// What the large key does now, in words.
function draw() {
  const at = document.activeElement;
  if (pad.hidden || !at) return;
  const empty = !at.value;
  const asked = at.closest("[data-box]")?.dataset.question !== undefined;
  const next = at.matches("input") && following(at);
  const then = next && label(next) ? `, then ${label(next).toLowerCase()}` : "";
  face("save").textContent = asked ? "Save as typed" : empty || !at.matches("input") ? "Next" : `Save${then}`;
  face("now").textContent = isMoment(at) ? "Now" : "−";
  face(sign).textContent = isMoment(at) ? ":" : sign;
}

const wanted = (at) => touched.matches && takesPad(at) && !document.querySelector("dialog[open]");

// An answer may move the focus to a field without keys while a finger is on its way to one of them. The keys stay for a
// moment, so that the tap does not land on whatever lies beneath; meanwhile they only type.
const LEAVING_MS = 400;
let leaving = 0;
function show(at) {
  clearTimeout(leaving);
  leaving = 0;
  if (wanted(at) || pad.hidden) return place(at);
  leaving = setTimeout(
    () =>
      whenReleased(document.body, () => {
        leaving = 0;
        place(document.activeElement);
      }),
    LEAVING_MS,
  );
}

function place(at) {
  const on = wanted(at);
  pad.hidden = !on;
  document.body.classList.toggle("padded", on);
  if (!on) return;
  if (at.matches("input")) {
    at.dataset.mode ||= at.inputMode;
    at.inputMode = "none"; // the phone's own keypad stays away
  }
  draw();
  at.closest("[data-box], .fld, .callin")?.scrollIntoView({ block: "nearest" });
}

const press = (at, key) => at.dispatchEvent(new KeyboardEvent("keydown", { key, bubbles: true, cancelable: true }));

function type(text) {
  let at = document.activeElement;
  if (!at.matches("input")) {
    press(at, text);
    at = document.activeElement;
  } else if (!press(at, text))
    return; // a key with a meaning of its own
  else at = document.activeElement;
  if (!at.matches("input") || at.readOnly) return;
  const from = at.selectionStart ?? at.value.length;
  at.setRangeText(text, from, at.selectionEnd ?? from, "end");
  at.dispatchEvent(new Event("input", { bubbles: true }));
}

function erase(at) {
  if (!at.matches("input") || !at.value) return press(at, "Backspace");
  const to = at.selectionEnd ?? at.value.length;
  const from = at.selectionStart === to ? Math.max(0, to - 1) : at.selectionStart;
  at.setRangeText("", from, to, "end");
  at.dispatchEvent(new Event("input", { bubbles: true }));
}

function back(at) {
  const all = [...document.querySelectorAll(FIELDS)].filter((one) => one.offsetParent && !one.readOnly);
  all[all.indexOf(at) - 1]?.focus();
}

const DOES = {
  back: erase,
  up: back,
  save: (at) => (at.matches("button") ? at.click() : press(at, "Enter")),
  now: (at) => (isMoment(at) && !at.value ? press(at, "n") : type("-")),
};

pad.addEventListener("pointerdown", (event) => {
  event.preventDefault(); // the field keeps the focus
  const key = event.target.closest("[data-key]")?.dataset.key;
  if (!key) return;
  const at = document.activeElement;
  if (leaving && (DOES[key] || !at.matches("input"))) return;
  if (DOES[key]) DOES[key](at);
  else type(key === sign && isMoment(at) ? ":" : key);
  draw();
});
// The keys come and go, and with them the page below: never while something is pressed, or it would slide from under
// the finger and the press would be lost.
const showSoon = () => whenReleased(document.body, () => show(document.activeElement));
document.addEventListener("focusin", showSoon);
document.addEventListener("focusout", () => setTimeout(showSoon, 0));
document.addEventListener("input", draw);
document.addEventListener("vadum:queue", draw);
touched.addEventListener("change", () => show(document.activeElement));
show(document.activeElement);
