// What a travel calls: the next call, one number and Enter; it goes on calling without a network.
import { button } from "./button.js";
import { frozen, iso, now } from "./clock.js";
import { held } from "./send.js";
import { play, speak } from "./sounds.js";
import { guard } from "./unsaved.js";

const desk = document.getElementById("desk");
const panel = document.getElementById("call");
const input = document.getElementById("call-div");
const second = document.getElementById("call-beside"); // a gauge that is read at the same call
const pick = (name) => panel.querySelector(`[data-call-${name}]`);
const NUMBER = /^[+]?\d+([.,]\d+)?$/;
const SIGNED = /^[+-]?\d+([.,]\d+)?$/;
const AWAITED = 5;

let series = null; // what the program last said of the series
let local = new Map(); // row -> what was typed and not yet told back
let at = 0; // the row that is called
let back = null; // the row that is being corrected
let lastStroke = 0;
let sounded = -1;
let alarmed = "";

const slip = (text) => (document.getElementById("call-slip").textContent = text);

function take() {
  follow();
  document.dispatchEvent(new CustomEvent("vadum:calling"));
}

function follow() {
  const said = JSON.parse(document.getElementById("calling").textContent);
  const fresh = said && (!series || series.path !== said.path);
  series = said;
  document.body.classList.toggle("calling", Boolean(series)); // on a phone the call has the screen to itself
  if (!series) {
    panel.hidden = true;
    delete desk.dataset.calling;
    local = new Map();
    return;
  }
  if (fresh) {
    local = fromDevice();
    back = null;
    at = series.at;
  }
  for (const row of local.keys()) {
    const told = series.rows[row];
    if (told && (told.read || told.missed)) local.delete(row);
  }
  at = nextCall();
  lastStroke = Math.max(series.lastMs, local.size ? lastStroke : 0);
  const opened = panel.hidden;
  panel.hidden = false;
  desk.dataset.calling = series.path;
  draw();
  // A field in which the hands are is never left for them: digits would land under another name.
  const active = document.activeElement;
  const busy = active.matches("input, textarea, select") && (active.id !== "holding" || active.value);
  if ((opened || fresh) && !busy && !document.querySelector("dialog[open]")) input.focus({ preventScroll: true });
}

const nextCall = () => Math.max(series.at, ...[...local.keys()].map((row) => row + 1));

// Readings of this series that the device still holds: typed before this page was opened, without a network.
function fromDevice() {
  const found = new Map();
  for (const { path, value } of held(desk.dataset.code)) {
    const [, rows, row, field] = /^(.+)\[(\d+)\]\.(\w+)$/.exec(path) || [];
    if (rows !== series.path || !(field === series.field || field === series.missedField)) continue;
    found.set(Number(row), field === series.missedField ? { missed: true, read: "" } : { read: value, missed: false });
  }
  return found;
}

function draw() {
  const over = at >= series.called.length;
  const row = back ?? Math.min(at, series.called.length - 1);
  panel.classList.toggle("back", back !== null);
  pick("at").textContent = series.called[row];
  pick("unit").textContent = ` ${series.unit}`;
  pick("at-head").textContent = series.unit;
  pick("read-head").textContent = series.reads;
  pick("shows-head").textContent = series.shows;
  pick("words").textContent =
    back !== null
      ? "correct the reading at"
      : over
        ? "the last call is read"
        : row
          ? `call the ${series.gauge} at`
          : "both gauges at zero: read, then start";
  pick("count").textContent = `${series.words}, ${Math.min(at + 1, series.called.length)} of ${series.called.length}`;
  const next = `${series.called[Math.min(at, series.called.length - 1)]} ${series.unit}`;
  const was = back === null ? "" : `: was ${shown(back).read || "empty"}; now calling ${next}`;
  pick("label").textContent = `${series.reads}${was}`;
  const asked = Boolean(series.beside) && back === null;
  pick("beside").hidden = !asked;
  pick("beside-label").textContent = series.besideReads;
  panel.querySelector(".callin").classList.toggle("two", asked);
  pick("miss").hidden = back !== null || !series.missedField;
  drawAlarm(series.alarm);
  drawPace(local.size > 1 ? null : series.pace); // strokes that wait to be sent have no pace yet
  drawRows();
  pick("happened").replaceChildren(
    ...series.stops.map((s) => button(s, () => send({ path: series.stop, value: s }))),
    ...series.notes.map((n) => button(n, () => note(n))),
  );
}

// What the readings say must be known at once: a ring at its limit, a vehicle that lifts.
function drawAlarm(words) {
  const line = pick("alarm");
  line.hidden = !words;
  line.classList.toggle("foreseen", !series.grave);
  if (words === alarmed) return;
  alarmed = words;
  line.textContent = words;
  if (!words) return;
  play("alarm");
  speak(words);
  panel.querySelector(".happened").open = true; // why the series is stopped is one touch away
}

function drawPace(pace) {
  const guide = panel.querySelector("[data-pace]");
  const stone = panel.querySelector("[data-pace-stone]");
  stone.hidden = !pace;
  guide.dataset.word = pace ? pace.word : "";
  if (pace) stone.style.left = `${100 * pace.place}%`;
  panel.querySelector("[data-pace-words]").textContent = pace
    ? `${pace.word} · ${pace.rate} ${series.unit}/min`
    : series.rate
      ? `${series.rate} ${series.unit}/min wanted`
      : "";
}

const shown = (i) => {
  const told = series.rows[i] || {
    at: series.called[i],
    read: "",
    shows: "",
    entry: "",
    missed: false,
    missedEntry: "",
    noted: "",
    by: "",
  };
  return local.has(i) ? { ...told, ...local.get(i), shows: "…", waits: true } : told;
};

function drawRows() {
  const many = Math.max(series.rows.length, ...[...local.keys()].map((k) => k + 1));
  const from = Math.max(0, Math.min(many - AWAITED, (back ?? many) - 2));
  const rows = [];
  for (let i = from; i < Math.min(many, from + AWAITED); i++) {
    const one = shown(i);
    const line = document.createElement("tr");
    line.className = `${one.missed ? "none" : ""} ${one.waits ? "wait" : ""} ${i === back ? "at" : ""}`;
    const cell = (text) => line.appendChild(document.createElement("td")).append(text);
    cell(`${one.at || series.called[i]}${one.noted ? ` · ${one.noted}` : ""}${one.by ? " · by the instrument" : ""}`);
    const correct = button(one.missed ? "missed" : one.read || "empty", () => goBack(i));
    correct.className = "";
    correct.title = "correct";
    cell(correct);
    cell(one.missed ? "" : one.shows);
    rows.push(line);
  }
  pick("rows").replaceChildren(...rows);
}

function send(entry) {
  return new Promise((done) => document.dispatchEvent(new CustomEvent("vadum:keep", { detail: { entry, done } })));
}

// What was already kept beside a call whose own figure was refused is not kept twice.
const keptBeside = new Map();

async function stroke(field, value, also) {
  const row = at;
  const read = now();
  local.set(row, field === series.missedField ? { missed: true, read: "" } : { read: value, missed: false });
  lastStroke = read;
  at = row + 1;
  input.value = "";
  second.value = "";
  slip("");
  draw();
  const path = also && `${series.path}[${row}].${series.beside}`;
  const answered = send({
    path: `${series.path}[${row}].${field}`,
    value,
    read_at: frozen ? undefined : iso(read, true),
  });
  if (also && keptBeside.get(path) !== also) {
    keptBeside.set(path, also);
    send({ path, value: also });
  }
  const answer = await answered;
  if (answer && answer.refused) {
    local.delete(row);
    if (!series) return;
    at = nextCall(); // nothing stands there: it is called again
    draw();
    slip(`${series.called[row]} ${series.unit}: ${answer.refused}`);
    document.dispatchEvent(new CustomEvent("vadum:refresh"));
  }
}

const unsent = (row) => {
  const fields = [series.field, series.missedField].map((field) => `${series.path}[${row}].${field}`);
  return held(desk.dataset.code)
    .filter(({ path, value }) => fields.includes(path) && value !== null)
    .pop();
};

async function mend(value) {
  const row = back;
  const one = shown(row);
  const waits = local.has(row) ? unsent(row) : null;
  const struck = waits ? [waits.id] : [one.entry, one.missed ? one.missedEntry : ""].filter(Boolean);
  back = null;
  input.value = "";
  if (waits && value !== one.read) local.set(row, { read: value, missed: false });
  if (value !== one.read) {
    const entry = { path: `${series.path}[${row}].${series.field}`, value };
    const reason = "slip, corrected while reading";
    draw();
    await send(struck.length ? { ...entry, strikes: struck, reason } : entry);
  } else draw();
}

// Readings that wait on this device are gone through like the others: what strikes one is sent after it.
const readSoFar = () => Math.max(series.rows.length, ...[...local.keys()].map((row) => row + 1));

function goBack(row) {
  if (local.has(row) && !unsent(row)) return slip("Still being sent: correct it when it has landed.");
  if (row < 0 || row >= readSoFar()) return leave();
  back = row;
  input.value = "";
  slip("");
  draw();
  input.focus();
}

function leave() {
  back = null;
  input.value = "";
  draw();
  input.focus();
}

const note = (words) =>
  series.rows.length && send({ path: `${series.path}[${series.rows.length - 1}].${series.noteField}`, value: words });
const miss = () => {
  if (back === null && at < series.called.length) stroke(series.missedField, "missed");
  input.focus();
};

function keep() {
  const typed = input.value.trim();
  if (!typed) return back !== null ? leave() : slip("Nothing typed. m: missed it.");
  if (!NUMBER.test(typed)) {
    input.select();
    return slip(`${typed} is not a number.`);
  }
  const also = second.value.trim();
  if (back === null && series.beside && !also && document.activeElement === input) return second.focus();
  if (also && !SIGNED.test(also)) {
    second.select();
    return slip(`${also} is not a number.`);
  }
  if (back !== null) mend(typed);
  else if (at < series.called.length) stroke(series.field, typed, series.beside && also);
  input.focus();
}

input.addEventListener("keydown", (event) => {
  const empty = !input.value;
  if (event.key === "Enter") keep();
  else if (empty && (event.key === "m" || event.key === "-")) miss();
  else if (event.key === "ArrowUp" || (empty && event.key === "Backspace")) goBack((back ?? readSoFar()) - 1);
  else if (event.key === "ArrowDown" && back !== null) goBack(back + 1);
  else if (event.key === "Escape" && back !== null) leave();
  else return;
  event.preventDefault();
  event.stopPropagation();
});
second.addEventListener("keydown", (event) => {
  if (event.key === "Enter") keep();
  else if (event.key === "Escape" || (event.key === "Backspace" && !second.value)) input.focus();
  else return;
  event.preventDefault();
  event.stopPropagation();
});
pick("keep").addEventListener("click", keep);
pick("miss").addEventListener("click", miss);
pick("back").addEventListener("click", () => goBack(readSoFar() - 1));
document.addEventListener("vadum:shown", take);
// A digit typed anywhere while it travels belongs to the call.
document.addEventListener("keydown", (event) => {
  if (
    !series ||
    panel.hidden ||
    document.querySelector("dialog[open]") ||
    event.ctrlKey ||
    event.metaKey ||
    event.altKey
  )
    return;
  if (event.target.matches("input, textarea, select")) return;
  if (/^[0-9]$/.test(event.key) || (event.key === "m" && event.target === document.body)) input.focus();
});
document.addEventListener("vadum:read", () => series && !panel.hidden && input.focus());
// The gauge's own pace, where an instrument is heard, goes before the pace of the hand's strokes.
document.addEventListener("vadum:pace", (event) => series && drawPace(event.detail));

// What stands in the panel's fields as the page ends is saved for the call that it was typed at.
const typed = () => [input, second].filter((field) => field.value.trim()).length;
guard({
  count: () => (series ? typed() : 0),
  save: () => input.value.trim() && keep(),
  writeDown: () => {
    const value = input.value.trim();
    if (!series || !value) return;
    if (back !== null) mend(value);
    else if (at < series.called.length) stroke(series.field, value, series.beside && second.value.trim());
  },
});

// Between strokes: how long until the next call, by the pace the school wants.
function tick() {
  if (!series || frozen || at === 0 || at >= series.called.length || !lastStroke || back !== null) return;
  const left = (lastStroke + 1000 * series.waits[at] - now()) / 1000;
  pick("words").textContent =
    left > 0
      ? `call the ${series.gauge} at, in ${Math.ceil(left)} s`
      : left > -8
        ? `call the ${series.gauge} at: now`
        : `call the ${series.gauge} at`;
  if (left <= 0 && left > -2 && sounded !== at) {
    sounded = at;
    play("due");
    speak(`${series.called[at]}`);
  }
}
setInterval(tick, 200);

take();
