// The hands at a desk: what is typed is saved and they go on at once, whatever the network does.
import { frozen, iso, moment, now } from "./clock.js";
import {
  base,
  code,
  desk,
  inWords,
  showCounter,
  showForm,
  shown,
  showUnsent,
  sight,
  slip,
  query,
} from "./desk_view.js";
import { askWhy } from "./dialogs.js";
import * as fields from "./fields.js";
import { focusBox, form, inputOf, label } from "./fields.js";
import { swap } from "./fragments.js";
import { deliver, heldTexts, hold, isHolding, writeDown } from "./desk_ahead.js";
import { say } from "./notice.js";
import * as questions from "./questions.js";
import { enter, idle, inFlight, isRefusal, isWaiting, pump } from "./readings.js";
import { claim } from "./send.js";
import { guard } from "./unsaved.js";

let goingOn = false; // the person moved on before the answer was there

// Where the hands go when a form has come: on, where they were waiting for it; nowhere, where they are in a field.
document.addEventListener("vadum:form", ({ detail: was }) => {
  suggest();
  const waited = !was || was === document.body || was.matches("[data-onward]") || isHolding() || !was.isConnected;
  if (heldTexts()) deliver();
  if (document.querySelector("dialog[open]")) return;
  if (goingOn && sight.onward && !inFlight()) {
    goingOn = false;
    return goOn();
  }
  goingOn = false;
  const lost = !document.activeElement || document.activeElement === document.body;
  if (isHolding() ? !heldTexts() : lost || (waited && !heldTexts())) focusWork();
});

// Where the work is: the first open reading, else a question, the next step, the sheet when all is done.
export function focusWork() {
  if (desk.dataset.calling) return document.dispatchEvent(new CustomEvent("vadum:read"));
  const next = fields.nextOf(null) || fields.questions()[0] || fields.openChoice();
  if (next) return focusBox(next);
  if (sight.onward) return focusOnward();
  const done = desk.querySelector('[data-sign="ready"]');
  if (done) return done.focus();
  const first = fields.boxes().find(fields.isOpen);
  const button = form().querySelector("button:not([hidden])");
  if (first) focusBox(first);
  else (button || desk.querySelector(".hands")).focus({ preventScroll: true });
}

function focusOnward() {
  const line = form().querySelector("[data-onward-line]");
  if (!line) return false;
  line.hidden = false;
  line.querySelector("button").focus();
  return true;
}

// The hands go on from a box: to the next reading, a question, the decision to move on, or the next piece of work.
export function advance(box) {
  const next = fields.nextOf(box);
  if (next) return focusBox(next);
  if (heldTexts()) return deliver();
  const asked = fields.questions()[0];
  if (asked && asked !== box) return focusBox(asked);
  const choice = fields.openChoice();
  if (choice && choice !== box) return focusBox(choice);
  if (sight.step) return inFlight() ? hold() : focusWork();
  if ((sight.onward || fields.besideOpen().length) && focusOnward()) return;
  goOn();
}

// The person moves on: what was offered and stands in the fields is saved with it.
export function goOn() {
  saveSuggested();
  const asked = fields.questions()[0];
  if (asked) return focusBox(asked);
  if (sight.onward && !inFlight()) {
    const next = sight.onward;
    Object.assign(sight, { at: "", onward: null });
    const { fields: fresh, ...rest } = next.fragments;
    swap(desk, rest);
    document.getElementById("calling").textContent = JSON.stringify(next.calling ?? null);
    desk.dataset.asks = next.asks;
    document.activeElement?.blur();
    showCounter();
    document.dispatchEvent(new CustomEvent("vadum:shown"));
    showForm(fresh);
    return;
  }
  const line = form().querySelector("[data-onward-line]");
  if (line) line.hidden = true;
  const later = fields.reveal();
  if (later) return focusBox(fields.nextOf(null) || later);
  if (inFlight()) {
    goingOn = true; // what comes next is shown as soon as the answer is there
    return hold();
  }
  stillNeeded();
}

// Nothing follows by itself: what was passed by is still needed, and is said.
function stillNeeded() {
  const open = fields
    .boxes()
    .filter(
      (box) => fields.isOpen(box) && box.dataset.stands !== "closed" && box.querySelector("[aria-required], .need"),
    );
  if (!open.length) return focusWork();
  slip(
    `Still needed: ${open.map((box) => box.querySelector("label, .label").textContent.replace("●, required", "").trim()).join(" · ")}`,
  );
  focusBox(open[0]);
}

let lastKeyAt = 0;
document.addEventListener("keydown", (event) => (lastKeyAt = event.timeStamp), true);
const SOON_MS = 1000; // an answer that comes so soon may still take the hands back to its own field

// Saves an entry: written down at once, sent in order. `box` is the field that it was typed in.
export function keep(entry, { insist = false, box = null, takenFrom = "", call = false } = {}) {
  const release = claim(code, entry);
  if (!release) return Promise.resolve({});
  const words = label(inputOf(box)) || inWords(entry.path);
  const began = performance.now();
  slip("");
  return new Promise((done) => {
    enter(`${base}/entries`, entry, { insist, takenFrom, words }, (error) => {
      release();
      done(landed(error, { entry, box, takenFrom, words, began, call }));
    });
    if (box) {
      fields.lock(box, "on its way");
      fields.closeOthers(box);
    }
    document.dispatchEvent(new CustomEvent("vadum:queue"));
    pump(
      () => query(),
      (parts, more) => shown(parts, more),
    );
  });
}

// What became of an entry: said at its field, where that is still there.
function landed(error, sent) {
  const here = sent.box?.isConnected ? sent.box : null;
  if (!error) return landedWell(sent, here);
  if (isWaiting(error)) return landedInOutbox(error, here);
  if (!isRefusal(error)) throw error;
  return refusedAt(error, sent, here);
}

function landedWell({ entry, words }, here) {
  if (here) {
    here.dataset.saved = "1";
    fields.state(here, "saved", "saved");
  }
  sight.at = entry.path;
  document.dispatchEvent(new CustomEvent("vadum:kept"));
  if (/_at$/.test(entry.path) && entry.value && !entry.strikes) offerUndo(entry, words);
  return {};
}

function landedInOutbox(error, here) {
  slip(error.message);
  if (here) fields.state(here, "waits on this device", "waits");
  showUnsent();
  if (isHolding() && !heldTexts()) goOn();
  return { waiting: error.message };
}

function refusedAt(error, { entry, takenFrom, words, began, call }, here) {
  const untouched = lastKeyAt <= began && performance.now() - began < SOON_MS;
  if (here) {
    fields.unlock(here);
    fields.openOthers(here);
  }
  if (error.asksWhy && (untouched || !here)) useAnyway(entry, error, { box: here, takenFrom });
  else if (here) {
    const asks = error.slip || error.asksWhy;
    // A moment that was taken by its key is asked about with the moment itself in the field.
    if (asks && inputOf(here)?.dataset.kind === "moment") inputOf(here).value ||= entryTime(entry.value);
    if (asks && inputOf(here)) questions.ask(here, sentence(error.message), error.asksWhy);
    else fields.state(here, `Not saved: ${error.message}`, "wrong");
    if (untouched) handsBack(here);
  }
  const how = error.slip && here ? ". Enter again saves it as typed." : "";
  if (!call) slip(`${words && `${words}: `}${error.message}${how}`);
  return { refused: error.message };
}

const entryTime = (value) => /T(\d\d:\d\d:\d\d)/.exec(String(value))?.[1] || "";
const sentence = (text) => `${text[0].toUpperCase()}${text.slice(1)}${/[.?!]$/.test(text) ? "" : "."}`;

// An answer never takes the hands from a field in which they are: only from an empty one, and only at once.
function handsBack(box) {
  const active = document.activeElement;
  const typing = active?.matches("input, textarea, select") && active.value;
  if (!typing && !document.querySelector("dialog[open]") && !heldTexts()) focusBox(box);
}

function offerUndo(entry, words) {
  const time = /T(\d\d:\d\d)/.exec(String(entry.value))?.[1] || "";
  const undo = () => undoEvent(entry.path);
  say(`${words}: ${time} recorded.`, undo, "Undo");
}

// An event recorded by mistake is struck in one stroke; the strike has its own line on the tape.
export async function undoEvent(path) {
  await idle();
  const button = [...desk.querySelectorAll(`button[data-entry][data-path="${CSS.escape(path)}"]`)].pop();
  if (!button) return slip("Too many readings since then: strike it out under “further back…”.");
  await keep({ path, value: null, strikes: [button.dataset.entry], reason: "recorded by mistake" });
  say("Undone. The time is struck out and stays on the tape.");
}

// A tin or a mould that holds another soil is used with a reason, or not at all.
async function useAnyway(entry, error, { box, takenFrom }) {
  const reason = await askWhy(
    "Use it anyway?",
    `${sentence(error.message)} Check the number first.`,
    true,
    "Use it anyway",
  );
  if (reason) return keep({ ...entry, reason }, { insist: true, box, takenFrom });
  slip(error.message);
  if (box?.isConnected) {
    focusBox(box);
    inputOf(box)?.select();
  }
}

// Parts of a desk with an entry of their own (the call panel) hand their readings in here: one queue keeps the order.
document.addEventListener("vadum:keep", ({ detail: { entry, done } }) =>
  keep(entry, { insist: true, call: true }).then(done),
);
document.addEventListener("vadum:goon", () => goOn());

const valueOf = (input) => (input.dataset.kind === "moment" ? moment(input.value) : input.value.trim());

// Saves the text of a field. Returns false if it cannot be saved, or if a question must be answered first.
function commit(box, { asks = true } = {}) {
  const input = inputOf(box);
  if (!input?.value.trim() || fields.isSent(box)) return false;
  const problem = asks && questions.cannotBe(input);
  if (problem) {
    fields.state(box, `Not saved: ${problem}`, "wrong");
    return false;
  }
  // Nobody can answer a question on a page that is closing: the text goes into the outbox, which asks later.
  const insist = asks && questions.insists(box);
  if (insist && box.dataset.asksWhy) {
    const entry = { path: input.dataset.path, value: valueOf(input) };
    useAnyway(entry, { message: box.dataset.asksWhy }, { box, takenFrom: takenFrom(input) });
    return false;
  }
  const words = insist || !asks ? "" : questions.question(input);
  if (words) {
    questions.ask(box, words);
    return false;
  }
  questions.answered(box);
  const entry = { path: input.dataset.path, value: valueOf(input) };
  // A timed reading was taken when its first key was pressed, not when it was sent.
  if (input.dataset.touched && !frozen && "timed" in input.dataset) entry.read_at = iso(Number(input.dataset.touched));
  remember(input);
  awaitBrought(box, input);
  keep(entry, { insist, box, takenFrom: takenFrom(input) });
  return true;
}
const takenFrom = (input) => (input.dataset.taken === input.value ? input.dataset.instrument : "");

// Fields that the equipment register fills in wait for its figures.
function awaitBrought(box, input) {
  const { kit } = input.dataset;
  const piece =
    kit && [...(document.getElementById(`kit-${kit}`)?.options || [])].find((o) => o.value === input.value.trim());
  if (!piece?.dataset.brings) return;
  const row = box.dataset.box.replace(/\w+$/, "");
  for (const name of piece.dataset.brings.split(" ")) {
    const other = fields.boxOf(row + name);
    if (other && fields.isOpen(other))
      fields.awaitRegister(other, `from the register of ${label(input)} ${piece.value}`);
  }
}

// The balance or device that was used last on this device is offered again, where it is registered; so is the only one.
const lastUsed = (kind) => `vadum-last-${kind}`;
const isVessel = (kind) => document.getElementById(`kit-${kind}`)?.hasAttribute("data-vessels");
function remember(input) {
  if (input.dataset.kit && !isVessel(input.dataset.kit))
    localStorage.setItem(lastUsed(input.dataset.kit), input.value.trim());
}
export function suggest() {
  for (const box of fields.boxes()) {
    const input = inputOf(box);
    if (!input?.dataset.kit || input.value || fields.isSent(box) || isVessel(input.dataset.kit)) continue;
    const known = [...(document.getElementById(`kit-${input.dataset.kit}`)?.options || [])].map((o) => o.value);
    const last = localStorage.getItem(lastUsed(input.dataset.kit));
    const offered = known.length === 1 ? known[0] : known.includes(last) ? last : "";
    if (!offered || input === document.activeElement) continue;
    input.value = input.dataset.suggested = offered;
    fields.state(box, known.length === 1 ? "the only one registered" : "used last on this device", "offered");
  }
}
function saveSuggested() {
  for (const box of fields.boxes()) {
    const input = inputOf(box);
    if (input?.dataset.suggested && input.value === input.dataset.suggested && !box.hidden) commit(box);
  }
}

export function nowInto(box) {
  const input = inputOf(box);
  if (fields.isSent(box)) return;
  input.value = "";
  const entry = { path: input.dataset.path, value: iso(now()) };
  keep(entry, { box });
  advance(box);
}

function enterPressed(box, input) {
  if (!input.value.trim()) return passBy(box, input);
  if (commit(box)) advance(box);
}

// An empty Enter passes a field by, and it stays passed by; it never records an event.
function passBy(box, input) {
  const asked = fields.questions().find((one) => one !== box);
  if (asked) return focusBox(asked);
  fields.skip(input.dataset.path);
  if (
    !fields.nextOf(box) &&
    !inFlight() &&
    !sight.onward &&
    !fields.besideOpen().length &&
    input.matches("[aria-required]")
  ) {
    fields.state(
      box,
      input.dataset.kind === "moment" ? "Press n, or Now, when it happens." : "Still needed.",
      "needed",
    );
    return;
  }
  advance(box);
}

desk.addEventListener("keydown", (event) => {
  const box = event.target.closest("[data-fields] [data-box]");
  const input = box && event.target.matches("input") ? event.target : null;
  if (!input || event.ctrlKey || event.metaKey) return;
  if (event.key === "Enter") {
    event.preventDefault();
    enterPressed(box, input);
  } else if (event.key === "n" && input.dataset.kind === "moment" && !input.value) {
    event.preventDefault();
    nowInto(box);
  } else if (event.key === "Escape") {
    event.preventDefault();
    input.blur();
  } else if (event.key === "Backspace" && !input.value) {
    event.preventDefault();
    const last = [...desk.querySelectorAll('[data-fragment="strip"] li:not(.struck) button[data-entry]')].pop();
    if (last) document.dispatchEvent(new CustomEvent("vadum:correct", { detail: last }));
  } else if (questions.insists(box)) questions.typedAtQuestion(event, box);
  else if (box.dataset.stands === "ahead" && event.key.length === 1) hold();
});
// Keys that come where no text is taken, at a choice or at the decision to move on, go to the reading that follows.
desk.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || !/^[\d.,+-]$/.test(event.key)) return;
  if (event.target.matches("[data-onward]")) {
    goOn();
    if (!document.activeElement.matches("input")) hold();
  } else if (event.target.matches("[data-fields] .choices, [data-fields] .choices button")) hold();
  else return;
  event.stopPropagation();
});
desk.addEventListener("keydown", (event) => {
  if (!event.target.matches(".choices")) return;
  const box = event.target.closest("[data-box]");
  if (event.key === "Enter") {
    event.preventDefault();
    fields.skip(box.dataset.box);
    advance(box);
  } else if (/^Arrow/.test(event.key)) {
    event.preventDefault();
    event.target.querySelector("button").focus();
  }
});
desk.addEventListener("input", (event) => {
  const input = event.target;
  if (!input.matches("[data-fields] input")) return;
  input.dataset.touched ||= String(now());
  delete input.dataset.suggested; // once typed, a value is saved like any other, even if it equals the suggestion
  const box = input.closest("[data-box]");
  if (box.dataset.question !== undefined && !questions.insists(box)) questions.answered(box);
  if (box.dataset.stands) fields.state(box, "");
});
desk.addEventListener("submit", (event) => event.target.matches("[data-fields]") && event.preventDefault());
desk.addEventListener("focusin", ({ target }) => {
  if (target.dataset.suggested && target.value === target.dataset.suggested) target.select();
});
// Leaving a field saves its text. Switching to another window does not count as leaving.
desk.addEventListener("focusout", (event) => {
  const box = event.target.closest?.("[data-fields] [data-box]");
  if (!box || !event.target.matches("input") || fields.isArranging() || !document.hasFocus()) return;
  if (box.contains(event.relatedTarget) || questions.insists(box) || box.dataset.stands === "ahead") return;
  if (fields.hasText(box)) commit(box);
});

// A form with unsent text stays visible while a call panel is open.
document.addEventListener("vadum:queue", () =>
  form().parentElement.classList.toggle("holds", fields.withText().length > 0),
);

// What stands unsaved in the fields, and what was typed ahead of them.
guard({
  count: () => fields.withText().length + heldTexts(),
  save: () => {
    for (const box of fields.withText()) commit(box);
  },
  writeDown: () => {
    writeDown();
    for (const box of fields.withText()) commit(box, { asks: false });
  },
});
