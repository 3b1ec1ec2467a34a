// The desk: keeps each reading as it is entered, shows it land, and puts the hands at the next field.
import { frozen, iso, moment, now } from "./clock.js";
import { counter } from "./counter.js";
import { draw, drags, feed } from "./chart.js";
import { focusNext, focusWork, form, holdField, inputs, label, nextAfter, putBack } from "./fields.js";
import { swap } from "./fragments.js";
import { listenToKeys } from "./keys.js";
import { keepDesk, keepParts, keptParts } from "./kept.js";
import { claim, held, post, postEntry, Refusal, Troubled, Waiting } from "./send.js";

const desk = document.getElementById("desk");
const code = desk.dataset.code;
const base = `/runs/${code}`;
let step = new URLSearchParams(location.search).get("step") || "";
let chain = Promise.resolve();

document.addEventListener("alpine:init", () => Alpine.data("counter", counter));

const slip = (text) => (document.getElementById("slip").textContent = text);
const url = (tail) => `${base}${tail}${step ? `?step=${encodeURIComponent(step)}` : ""}`;

// What is shown anew after an entry; `mine` when it was this page's own. What a colleague entered never takes the field
// from under the hands: it stays where it was, with what is typed in it.
function show(parts, mine = true) {
  if (!step) keepParts(code, parts);
  const input = form().contains(document.activeElement) ? document.activeElement : null;
  const under = !mine && input?.matches("input") ? holdField(input) : null;
  const active = input?.dataset.path || "";
  const lingered = Boolean(input && "lingers" in input.dataset);
  const typed = Object.fromEntries(
    inputs()
      .filter((i) => i.value && !i.dataset.sent)
      .map((i) => [i.dataset.path, i.value]),
  );
  const opened = desk.querySelector("[data-held]")?.open;
  swap(desk, parts.fragments);
  if (opened) showHeldRules(true);
  document.getElementById("calling").textContent = JSON.stringify(parts.calling ?? null);
  desk.dataset.seq = parts.seq;
  desk.dataset.tape = parts.tape;
  desk.dataset.asks = parts.asks;
  for (const one of inputs()) if (typed[one.dataset.path]) one.value = typed[one.dataset.path];
  showHeld();
  showCounter();
  if (under) putBack(under, slip);
  else focusNext(active, lingered);
  document.dispatchEvent(new CustomEvent("vadum:shown"));
  return feed(parts.chart);
}

// A counter belongs to fields by name: it is there while one of them is asked for.
const counted = () => desk.querySelector("[data-counts]")?.dataset.counts.split(" ") || [];
const isCounted = (input) => counted().includes(input.dataset.path.replace(/^.*\./, ""));
const counting = () => desk.dataset.asks.split(" ").some((name) => counted().includes(name));
const showCounter = () => desk.querySelector("[data-counts]")?.classList.toggle("asked", counting());

// The rules that hold are folded into one line, opened by a key.
function showHeldRules(open) {
  const held = desk.querySelector("[data-held]");
  if (held) held.open = open ?? !held.open;
}

// A reading that this device still holds is not asked for again.
function showHeld() {
  showUnsent();
  for (const { path, value } of held(code)) {
    const input = inputs().find((i) => i.dataset.path === path);
    if (!input || input.dataset.sent) continue;
    input.value = value ?? "";
    input.dataset.sent = "1";
  }
}

// What waits on this device stands in the strip too, so that it is corrected like any other: its strike goes after it.
function showUnsent() {
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

async function refresh() {
  const answer = await fetch(url("/parts"));
  if (answer.status === 409) return cannotShow((await answer.json()).message); // the run is broken, by whoever's entry
  const parts = answer.ok ? await answer.json() : null;
  // A copy that the browser kept may be older than what is shown.
  if (parts && parts.seq >= Number(desk.dataset.seq)) await show(parts, false);
}

// What was kept is kept, also when this desk cannot show what came of it: the run's own page says why.
function shown(parts) {
  return parts.broken ? cannotShow(`Kept, but the desk cannot show it. ${parts.broken}`) : show(parts);
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

// Readings go one after the other, in the order they were typed.
function keep(entry, { insist = false, input = null, takenFrom = "" } = {}) {
  const release = claim(code, entry);
  if (!release) return Promise.resolve({});
  const typedMs = now();
  const kept = chain.then(async () => {
    try {
      slip("");
      const called = label(input) || inWords(entry.path);
      const parts = await postEntry(url("/entries"), entry, insist, typedMs, takenFrom, called);
      if (input) input.dataset.sent = "1";
      document.dispatchEvent(new CustomEvent("vadum:kept"));
      await shown(parts);
      return {};
    } catch (error) {
      if (error instanceof Waiting || error instanceof Troubled) {
        slip(error.message);
        if (input) input.dataset.sent = "1";
        showUnsent();
        nextAfter(input)?.focus();
        return { waiting: error.message };
      }
      if (error instanceof Refusal && error.asksWhy) {
        takeAllTheSame(entry, error, { input, takenFrom });
        return { refused: error.message };
      }
      if (error instanceof Refusal) {
        const called = label(input) || inWords(entry.path);
        slip(
          error.slip
            ? `${error.message}. Enter again keeps it as it is.`
            : `${called && `${called}: `}${error.message}`,
        );
        if (input && input.isConnected) {
          input.dataset.insist = error.slip ? input.value : "";
          input.focus();
          input.select();
        }
        return { refused: error.message };
      }
      throw error;
    }
  });
  chain = kept.catch(() => {}).finally(release);
  return kept;
}

// A tin or a mould that holds another soil is taken with a reason, or not at all.
async function takeAllTheSame(entry, error, { input, takenFrom }) {
  const reason = await ask("Take it all the same?", `${error.message}. Look at the number first.`, true);
  if (reason) return keep({ ...entry, reason }, { insist: true, input, takenFrom });
  slip(error.message);
  if (input?.isConnected) {
    input.focus();
    input.select();
  }
}

// Parts of a desk with an entry of their own (the call panel) hand their readings in here: one chain keeps the order.
document.addEventListener("vadum:keep", ({ detail: { entry, done } }) => keep(entry, { insist: true }).then(done));
document.addEventListener("vadum:refresh", () => refresh().catch(() => {}));

function valueOf(input) {
  return input.dataset.kind === "moment" ? moment(input.value) : input.value.trim();
}

desk.addEventListener("keydown", (event) => {
  const input = event.target.closest("[data-fields] input");
  if (!input) return;
  if (event.key === "Enter") {
    event.preventDefault();
    if (!input.value.trim() && input.dataset.kind !== "moment") {
      nextAfter(input)?.focus();
      return;
    }
    const insist = Boolean(input.value) && input.dataset.insist === input.value;
    const entry = { path: input.dataset.path, value: valueOf(input) };
    const takenFrom = input.dataset.taken === input.value ? input.dataset.instrument : "";
    // A reading by the clock was read when its first key was pressed, not when it was sent.
    if (input.dataset.touched && !frozen && "timed" in input.dataset)
      entry.read_at = iso(Number(input.dataset.touched));
    keep(entry, { insist, input, takenFrom });
  } else if (event.key === "Escape") {
    event.preventDefault();
    input.blur();
  } else if (event.key === "Backspace" && !input.value) {
    event.preventDefault();
    const last = [...desk.querySelectorAll('[data-fragment="strip"] li:not(.struck) button[data-entry]')].pop();
    if (last) correct(last);
  }
});
desk.addEventListener("input", (event) => {
  if (event.target.matches("[data-fields] input")) event.target.dataset.touched ||= String(now());
});
desk.addEventListener("submit", (event) => event.target.matches("[data-fields]") && event.preventDefault());

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
  const input = inputs().find(isCounted);
  if (!input) return;
  input.value = event.detail;
  input.focus();
});

const words = JSON.parse(document.getElementById("words")?.textContent || '{"titles":{},"rows":{}}');

// A place as a person calls it: `trials[1].mass_wet_g` is "trial 2, tin + wet soil".
function inWords(path) {
  const parts = path.split(".").map((part) => {
    const row = /^(\w+)\[(\d+)\]$/.exec(part);
    return row ? `${words.rows[row[1]] || words.titles[row[1]] || "row"} ${Number(row[2]) + 1}` : words.titles[part];
  });
  return parts.filter(Boolean).join(", ");
}

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

function ask(title, what, required) {
  const dialog = document.getElementById("why");
  dialog.querySelector("h2").textContent = title;
  dialog.querySelector("#why-what").textContent = what;
  const reason = dialog.querySelector("#why-reason");
  reason.value = "";
  reason.required = required;
  dialog.returnValue = "";
  dialog.showModal();
  reason.focus();
  return new Promise((done) => {
    dialog.onclose = () => done(dialog.returnValue === "keep" ? reason.value : null);
  });
}

async function leaveOut(index) {
  const button = desk.querySelector(`[data-leave-out="${index}"]`);
  if (!button) return;
  const { rows: row, noun } = desk.dataset;
  const reason = await ask(
    `Leave ${noun} ${index + 1} out?`,
    "It stays on the tape and on the sheet, with your reason.",
    true,
  );
  if (!reason) return;
  await keep({ path: `${row}[${index}].excluded_because`, value: reason });
  focusWork();
}

// A remark on the run, from any step; a second one is added to the first.
async function remark({ remark: was, remarkEntry: entry }) {
  const said = await ask("Remark", was ? `So far: ${was}` : "It stands on the sheet.", true);
  if (!said) return;
  const more = entry ? { strikes: [entry], reason: "added to" } : {};
  await keep({ path: "remarks", value: was ? `${was} ${said}` : said, ...more });
  focusWork();
}

// A run that was begun in vain, or on the wrong bag: kept whole, out of sight.
async function setAside() {
  const reason = await ask("Set this run aside?", "It is kept whole, out of sight, and can be brought back.", true);
  if (reason) send(`/api/v1/runs/${code}/aside`, { reason });
}

// Older readings than the strip holds.
async function older() {
  const answer = await fetch(`${base}/readings`).catch(() => null);
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

async function send(tail, body) {
  try {
    const parts = await post(tail, body);
    if (parts.said) sessionStorage.setItem("vadum-said", parts.said);
    if (parts.go && !parts.broken) location.href = parts.go;
    else await shown(parts);
  } catch (error) {
    slip(error.message || "No network: try again.");
  }
}

function openStep(key) {
  step = key;
  history.replaceState(null, "", step ? `${base}?step=${step}` : base);
}

async function doStep({ doStep: key, state }) {
  let reason = "";
  if (state === "skipped") {
    reason = await ask("Skip this step?", "It is noted, not forbidden.", true);
    if (reason === null) return;
  }
  openStep("");
  send(`${base}/steps`, { key, state, reason });
}

async function sign({ sign: state }) {
  const ready = state === "ready";
  const seen = desk.dataset.tape; // what the person had before their eyes when they decided
  const words = ready
    ? "You sign for the readings as they stand. Another person checks."
    : "The run is not finished. Say why it is signed as it is; the sheet shows it.";
  const reason = await ask("Sign the sheet", words, !ready);
  if (reason !== null) send(`/api/v1/runs/${code}/sign`, { tape: seen, reason });
}

// What a touch does, by what is written on the button; the first that fits is taken.
const TOUCHED = [
  ["choose", ({ path, choose }) => keep({ path, value: choose })],
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
    openStep(at.dataset.step);
    refresh();
    return;
  }
  const found = TOUCHED.find(([name]) => name in at.dataset);
  if (found) found[1](at.dataset, at);
});

document.addEventListener("vadum:sent", () => refresh().catch(() => {}));
// A browser keeps six connections to one address: a hidden desk gives its own back, and catches up when seen again.
let ear = null;
function listen() {
  ear?.close();
  ear = null;
  if (document.hidden) return;
  ear = new EventSource(`${base}/events`);
  // What this page sent itself is shown from its own answer: only what came from elsewhere is asked for.
  ear.addEventListener("grown", (event) => {
    chain.then(() => Number(event.data) > Number(desk.dataset.seq) && refresh()).catch(() => {});
  });
  ear.addEventListener("ended", () => {
    ear.close();
    slip("Signed out: what is typed now waits on this device until you sign in again.");
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
  const asked = desk.dataset.focus;
  if (!desk.dataset.calling)
    (inputs().find((i) => i.dataset.path === asked) || inputs()[0] || desk.querySelector('[data-sign="ready"]'))?.focus(
      { preventScroll: true },
    );
  drags((drawn) => document.dispatchEvent(new CustomEvent("vadum:dragged", { detail: drawn })));
  document.body.dataset.ready = "1";
  keepDesk();
});
