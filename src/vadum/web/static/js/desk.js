// The desk: its keys and touches, what a colleague enters meanwhile, and how it begins.
import { get, streamed } from "./ask.js";
import { moment } from "./clock.js";
import { counter } from "./counter.js";
import { draw, drags } from "./chart.js";
import {
  base,
  code,
  counting,
  desk,
  inWords,
  isCounted,
  refresh,
  sight,
  show,
  showCounter,
  showStep,
  showHeld,
  showHeldRules,
  shown,
  slip,
} from "./desk_view.js";
import { askWhy } from "./dialogs.js";
import * as fields from "./fields.js";
import { boxOf, focusBox, inputs } from "./fields.js";
import { remember } from "./forms.js";
import { advance, focusWork, goOn, keep, nowInto, suggest, undoEvent } from "./hands.js";
import { listenToKeys } from "./keys.js";
import { keepDesk, keptParts } from "./kept.js";
import { idle } from "./readings.js";
import { post } from "./send.js";
import { saveAll, unsaved } from "./unsaved.js";

document.addEventListener("alpine:init", () => Alpine.data("counter", counter));

listenToKeys([
  {
    key: /^ $/,
    when: ({ empty, event }) => counting() && empty && !event.target.closest("button, summary, a"),
    does: () => document.dispatchEvent(new CustomEvent("vadum:space")),
  },
  {
    key: /^r$/i,
    when: ({ field, free }) => counting() && (field ? isCounted(field) : free),
    does: () => document.dispatchEvent(new CustomEvent("vadum:again")),
  },
  { key: /^v$/, when: ({ empty }) => empty && desk.querySelector("[data-held]"), does: () => showHeldRules() },
  // The digit must not land in the dialog's field.
  { key: /^[1-9]$/, when: ({ free }) => free && desk.dataset.pick, does: ({ key }) => leaveOut(Number(key) - 1) },
]);

document.addEventListener("vadum:count", (event) => {
  const input = inputs().find((one) => isCounted(one) && !one.readOnly);
  if (!input) return;
  input.value = event.detail;
  input.focus();
  document.dispatchEvent(new CustomEvent("vadum:queue"));
});

// A correction strikes the old entry, with a reason; the right value goes in its place.
function correct(button) {
  const dialog = document.getElementById("correct");
  const { entry, path, value } = button.dataset;
  dialog.querySelector("#correct-what").textContent = `${inWords(path)}: ${value}`;
  const typed = dialog.querySelector("#correct-value");
  const reason = dialog.querySelector("#correct-reason");
  typed.value = reason.value = "";
  dialog.onclose = () => {
    if (dialog.returnValue !== "keep") return;
    const right = /_at$/.test(path) && typed.value.trim() ? moment(typed.value) : typed.value.trim();
    keep({ path, value: right || null, strikes: [entry], reason: reason.value });
  };
  dialog.returnValue = "";
  dialog.showModal();
  typed.focus();
}

async function leaveOut(index) {
  const button = desk.querySelector(`[data-leave-out="${index}"]`);
  if (!button) return;
  const { rows: row, noun } = desk.dataset;
  const reason = await askWhy(
    `Exclude ${noun} ${index + 1}?`,
    "It stays on the tape and on the sheet, with your reason.",
    true,
    "Exclude",
  );
  if (!reason) return;
  await keep({ path: `${row}[${index}].excluded_because`, value: reason });
  focusWork();
}

// A remark on the run, from any step; a second one is added to the first.
async function remark({ remark: was, remarkEntry: entry }) {
  const said = await askWhy(
    was ? "Add to the remark" : "Add a remark",
    was ? `So far: ${was}` : "It is printed on the sheet.",
    true,
    "Add remark",
  );
  if (!said) return;
  const more = entry ? { strikes: [entry], reason: "added to" } : {};
  await keep({ path: "remarks", value: was ? `${was} ${said}` : said, ...more });
  focusWork();
}

// For a run started by mistake or on the wrong sample: it leaves the lists but keeps all its readings.
async function setAside() {
  const reason = await askWhy(
    "Set this run aside?",
    "All readings are kept. You can bring the run back from All runs.",
    true,
    "Set aside",
  );
  if (reason) send(`/api/v1/runs/${code}/aside`, { reason });
}

// Readings too old to be shown in the strip.
async function older() {
  const answer = await get(`${base}/readings`).catch(() => null);
  if (!answer?.ok) return slip("Older readings need the network.");
  const dialog = document.getElementById("older");
  dialog.querySelector("[data-older-list]").innerHTML = (await answer.json()).html;
  dialog.showModal();
  dialog.querySelector("li:last-child button")?.focus();
}
document.getElementById("older")?.addEventListener("click", (event) => {
  const button = event.target.closest("button[data-entry]");
  if (!button) return;
  document.getElementById("older").close();
  correct(button);
});

// Save the fields and wait for readings in flight before signing, skipping or setting aside.
async function send(tail, body) {
  saveAll();
  await idle();
  const open = unsaved();
  if (open) return slip(`${open > 1 ? `${open} figures are` : "One figure is"} not saved yet: save or clear first.`);
  try {
    const parts = await post(tail, body);
    if (parts.said) remember(parts);
    if (parts.go && !parts.broken) location.href = parts.go;
    else await shown(parts);
  } catch (error) {
    slip(error.message || "No network: try again.");
  }
}

function openStep(key) {
  Object.assign(sight, { step: key, at: "", onward: null });
  history.replaceState(null, "", key ? `${base}?step=${key}` : base);
}

async function doStep({ doStep: key, state }) {
  let reason = "";
  if (state === "skipped") {
    reason = await askWhy("Skip this step?", "It is noted, not forbidden.", true, "Skip");
    if (reason === null) return;
  }
  openStep("");
  send(`${base}/steps`, { key, state, reason });
}

async function sign({ sign: state }) {
  const ready = state === "ready";
  saveAll();
  await idle();
  const seen = desk.dataset.tape; // what the person saw when deciding
  const words = ready
    ? "You sign for the readings as recorded. Another person checks."
    : "The run is not finished. Say why it is signed as it is; the sheet shows it.";
  const reason = await askWhy("Sign the sheet?", words, !ready, "Sign");
  if (reason !== null) send(`/api/v1/runs/${code}/sign`, { tape: seen, reason });
}

// A choice is a reading: it is saved, and the hands go on to the next reading of the work.
function choose({ path, choose: value }, button) {
  const box = button.closest("[data-fields] [data-box]");
  keep({ path, value }, { box });
  if (box) advance(box);
}

// A reading that is still needed opens its own field, in whatever step it lives.
async function goTo({ goto: path }) {
  const here = boxOf(path);
  if (here && !here.hidden) return focusBox(here);
  if (here?.dataset.folded !== undefined) {
    fields.unfold();
    return focusBox(here);
  }
  saveAll();
  await idle();
  openStep("");
  await refresh(path).catch(() => slip("This field needs the network."));
  if (boxOf(path)) focusBox(boxOf(path));
}

// What a touch does, by what is written on the button; the first that fits is taken.
const TOUCHED = [
  ["choose", choose],
  ["now", (data, button) => nowInto(button.closest("[data-box]"))],
  ["onward", () => goOn()],
  ["more", () => fields.unfold()],
  ["goto", goTo],
  ["undo", ({ undo }) => undoEvent(undo)],
  ["entry", (data, button) => correct(button)],
  ["leaveOut", ({ leaveOut: row }) => leaveOut(Number(row))],
  ["remark", remark],
  ["older", older],
  ["aside", setAside],
  ["back", () => send(`/api/v1/runs/${code}/back`, {})],
  ["doStep", doStep],
  ["sign", sign],
];
desk.addEventListener("click", (event) => {
  const at = event.target.closest("button, a");
  if (!at) return;
  if ("step" in at.dataset) {
    event.preventDefault();
    saveAll();
    openStep(at.dataset.step);
    idle().then(() => refresh());
    return;
  }
  const found = TOUCHED.find(([name]) => name in at.dataset);
  if (!found) return;
  if (at.matches("a")) event.preventDefault();
  found[1](at.dataset, at);
});
document.addEventListener("vadum:correct", ({ detail: button }) => correct(button));

document.addEventListener("vadum:refresh", () => refresh().catch(() => {}));
document.addEventListener("vadum:sent", () => refresh().catch(() => {}));
// A browser keeps six connections to one address: a hidden desk gives its own back, and catches up when seen again.
let ear = null;
function listen() {
  ear?.close();
  ear = null;
  if (document.hidden) return;
  ear = streamed(`${base}/events`);
  // What this page sent itself is shown from its own answer: only what came from elsewhere is asked for.
  ear.addEventListener("grown", (event) => {
    idle()
      .then(() => Number(event.data) > Number(desk.dataset.seq) && refresh())
      .catch(() => {});
  });
  ear.addEventListener("ended", () => {
    ear.close();
    document.dispatchEvent(new CustomEvent("vadum:signedout"));
    slip("Signed out. What you type is saved on this device until you sign in again.");
  });
  for (const name of ["live", "line"])
    ear.addEventListener(name, (event) =>
      document.dispatchEvent(new CustomEvent(`vadum:${name}`, { detail: JSON.parse(event.data) })),
    );
}
document.addEventListener("visibilitychange", () => {
  listen();
  if (!document.hidden) refresh().catch(() => {});
});
listen();

draw((index) => leaveOut(index)).then(async () => {
  // A page that was kept for a time without a network is as old as its opening; its parts are newer.
  const newer = await keptParts(code, Number(desk.dataset.seq));
  if (newer) await show(newer);
  showHeld();
  showCounter();
  showStep();
  suggest();
  const asked = boxOf(desk.dataset.focus);
  if (!desk.dataset.calling) {
    if (asked) focusBox(asked);
    else focusWork();
  }
  drags((drawn) => document.dispatchEvent(new CustomEvent("vadum:dragged", { detail: drawn })));
  document.body.dataset.ready = "1";
  keepDesk();
});
