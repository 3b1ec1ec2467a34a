// The rack: counts the next call down, takes reading and temperature, and goes to the next cylinder by itself.
import { swap } from "./fragments.js";
import { call, ranOut } from "./calls.js";
import { countdown, frozen, iso, moment, now } from "./clock.js";
import { get } from "./ask.js";
import { typedAhead } from "./holding.js";
import { claim, postEntry, Refusal, Troubled, Waiting, write } from "./send.js";
import { guard } from "./unsaved.js";

const rack = document.getElementById("rack");
const title = document.body.dataset.title;
let pick = rack.dataset.pick;
let chain = Promise.resolve();
let lastKeyAt = 0;
document.addEventListener("keydown", () => (lastKeyAt = performance.now()), true);

const inputs = () => [...rack.querySelectorAll(".callfields input")];
const isOpen = (input) => !input.value && !input.dataset.sent;
const hasText = (input) => Boolean(input.value.trim()) && !input.dataset.sent;
const slip = (text) => (document.getElementById("slip").textContent = text);
const { deliver, heldTexts, hold, isHolding, writeDown } = typedAhead(rack, "rack", {
  next: () => inputs().find((input) => isOpen(input) && input.dataset.kind !== "moment") || null,
});

// The call in hand stays while anything of it is typed or on its way, so that no figure can land under another vessel.
const isBusy = () => inputs().some((input) => input.value && !input.dataset.saved);
const TYPING_MS = 3000; // a hand that has typed so lately is still in its field

async function refresh(onward = false) {
  let answer;
  try {
    answer = await get(`/rack/live?pick=${encodeURIComponent(pick)}`);
  } catch {
    return; // no network: the clock goes on, the next refresh tells more
  }
  if (!answer.ok) return;
  const { call: next, ...rest } = (await answer.json()).fragments;
  swap(rack, rest);
  const inField = inputs().includes(document.activeElement);
  const typing = !onward && inField && performance.now() - lastKeyAt < TYPING_MS;
  if (!isBusy() && !typing) showCall(next, { onward, hands: onward || inField || isHolding() });
  beat();
}

function showCall(html, { onward, hands }) {
  const before = rack.querySelector(".callfields");
  const was = before?.querySelector("label b")?.textContent;
  if (inputs().some((input) => input.dataset.sent)) delete rack.querySelector('[data-fragment="call"]').dataset.shown;
  swap(rack, { call: html });
  const form = rack.querySelector(".callfields");
  // Whoever was about to type for another vessel is asked before the figure is saved.
  if (!onward && hands && before && form && form.dataset.pick !== before.dataset.pick)
    Object.assign(form.dataset, { was, changed: performance.now() });
  if (heldTexts()) deliver();
  else if (hands) (inputs()[0] || rack.querySelector(".go"))?.focus();
}

function beat() {
  const big = rack.querySelector(".big[data-counts-to]");
  if (big) {
    const left = Number(big.dataset.countsTo) - now();
    big.textContent = left < -1000 ? `+${countdown(-left)}` : countdown(left);
    big.classList.toggle("late", left < -1000);
    big.classList.toggle("wide", big.textContent.length > 5);
    document.title = `${big.textContent} · ${title}`;
    call(big.dataset.countsTo, left, rack.querySelector(".act")?.textContent);
    if (ranOut(big.dataset.countsTo, left)) refresh();
  } else document.title = title;
  for (const line of rack.querySelectorAll("[data-in]")) {
    const left = Number(line.dataset.in) - now();
    if (left > 0) line.textContent = left < 36000000 ? `in ${countdown(left)}` : "";
  }
}

// Readings go one after the other, and the hands never wait for them. A reading's own time is that of its first key, when
// the eye had just left the stem.
function keep(run, entry, { insist = false, input = null } = {}) {
  const release = claim(run, entry);
  if (!release) return;
  const words = input?.labels?.[0]?.textContent.trim();
  const letter = write(`/runs/${run}/entries`, entry, { insist, words });
  const began = performance.now();
  const picked = pick;
  slip("");
  if (input) {
    input.dataset.sent = "1";
    input.readOnly = true;
    input.value ||= "now";
    goOn();
  }
  const kept = chain.then(async () => {
    try {
      const parts = await postEntry(letter);
      if (parts.broken) slip(`Saved. ${parts.broken}`);
      await landed(input, picked);
    } catch (error) {
      if (error instanceof Waiting || error instanceof Troubled) {
        slip(error.message);
        await landed(input, picked);
      } else if (error instanceof Refusal) refused(error, input, words, began);
      else throw error;
    }
  });
  chain = kept.finally(release);
}

// To the next field of the same vessel; what follows is known when the answer is there.
function goOn() {
  const next = inputs().find(isOpen);
  if (next) next.focus();
  else hold();
}

async function landed(input, picked) {
  if (input) {
    input.dataset.saved = "1";
    // What is still open in the form belongs to the same vessel and comes next, unless another was chosen meanwhile.
    if (pick === picked) pick = inputs().some((one) => !one.dataset.sent) ? input.form?.dataset.pick || "" : "";
  }
  await refresh(true);
}

function refused(error, input, words, began) {
  slip(`${words ? `${words}: ` : ""}${error.message}${error.slip ? ". Enter again saves it as typed." : ""}`);
  if (!input) return;
  delete input.dataset.sent;
  input.readOnly = false;
  input.dataset.insist = error.slip ? input.value : "";
  const untouched = lastKeyAt <= began || !document.activeElement.value;
  if (untouched) {
    input.focus();
    input.select();
  }
}

function step(input, by) {
  const size = Number(input.dataset.step);
  if (!size || !input.dataset.last || input.dataset.sent) return;
  const digits = (input.dataset.step.split(".")[1] || "").length;
  const from = input.value ? Number(input.value.replace(",", ".")) + by * size : Number(input.dataset.last);
  input.value = from.toFixed(digits);
  input.dataset.touched ||= String(now());
}

rack.addEventListener("input", (event) => {
  if (!event.target.matches(".callfields input")) return;
  event.target.dataset.touched ||= String(now());
  event.target.dataset.begun ||= String(performance.now());
});

rack.addEventListener("keydown", (event) => {
  const input = event.target.closest(".callfields input");
  if (!input) return;
  if (event.key === "ArrowUp" || event.key === "ArrowDown") {
    event.preventDefault();
    step(input, event.key === "ArrowUp" ? 1 : -1);
  } else if (event.key === "Enter") {
    event.preventDefault();
    save(input);
  }
});

// A figure that was begun just as the call changed is asked about: it may have been read at the vessel before.
const SOON_MS = 1500;
function isForAnother(input) {
  const { was, changed } = input.form.dataset;
  if (!changed || Number(input.dataset.begun) - Number(changed) > SOON_MS) return false;
  delete input.form.dataset.changed;
  const name = input.labels[0].querySelector("b").textContent;
  slip(`The call changed from ${was} to ${name} as you typed. Enter again saves ${input.value} for ${name}.`);
  return true;
}

// An event is recorded by its own key, never by an Enter carried over.
function save(input) {
  if (!hasText(input) || isForAnother(input)) return;
  const value = input.dataset.kind === "moment" ? moment(input.value) : input.value.trim();
  const entry = { path: input.dataset.path, value };
  if (input.dataset.touched && !frozen) entry.read_at = iso(Number(input.dataset.touched));
  keep(input.form.dataset.run, entry, { insist: input.dataset.insist === input.value, input });
}
const saveAll = () => inputs().filter(hasText).forEach(save);
guard({
  count: () => inputs().filter(hasText).length + heldTexts(),
  save: saveAll,
  writeDown: () => {
    writeDown();
    saveAll();
  },
});
// Leaving a field saves what stands in it; a window that is only looked away from is not left.
rack.addEventListener("focusout", ({ target, relatedTarget }) => {
  if (!target.matches(".callfields input") || !document.hasFocus() || target.dataset.insist) return;
  if (!relatedTarget?.closest?.(".nowkey")) save(target);
});
rack.addEventListener("submit", (event) => event.target.matches(".callfields") && event.preventDefault());

const nowInto = (field) =>
  keep(field.form.dataset.run, { path: field.dataset.path, value: iso(now()) }, { input: field });

function isIn() {
  const button = document.getElementById("insert");
  if (!button) return;
  pick = rack.querySelector(".callfields")?.dataset.pick || "";
  keep(button.dataset.run, { path: button.dataset.path, value: iso(now()) });
}

document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || document.querySelector("dialog[open]")) return;
  const field = event.target.closest(".callfields input");
  if (event.key === "n" && field?.dataset.kind === "moment" && !field.value) {
    event.preventDefault();
    nowInto(field);
  } else if (event.key === "i" && (!field || !field.value)) {
    event.preventDefault();
    isIn();
  } else if (!event.target.matches("input, select, textarea") && /^[1-9]$/.test(event.key)) {
    const glass = rack.querySelectorAll(".glasses a")[Number(event.key) - 1];
    if (glass) choose(glass.dataset.pick);
  }
});

function choose(code) {
  saveAll();
  pick = code;
  refresh(true);
}

rack.addEventListener("click", (event) => {
  if (event.target.closest("#insert")) isIn();
  const stamp = event.target.closest("button[data-now]");
  if (stamp) nowInto(stamp.closest(".fld").querySelector("input"));
});
document.addEventListener("vadum:sent", () => refresh(true));

beat();
if (!frozen) setInterval(beat, 250);
setInterval(refresh, 10000);
inputs()[0]?.focus({ preventScroll: true });
document.body.dataset.ready = "1";
