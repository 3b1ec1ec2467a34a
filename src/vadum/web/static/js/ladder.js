// The load ladder's entry: several gauges in one go, the load of the next step, one key for topping up. It goes on without
// a network: the steps to come and the times of the readings are known beforehand; what a reading comes to is told back.
import { button } from "./button.js";
import { call } from "./calls.js";
import { countdown, frozen, iso, now } from "./clock.js";
import { held } from "./send.js";
import { play } from "./sounds.js";
import { guard } from "./unsaved.js";

const desk = document.getElementById("desk");
const panel = document.getElementById("ladpanel");
const load = document.getElementById("lad-load");
const pick = (name) => panel.querySelector(`[data-lad-${name}]`);
const NUMBER = /^[+-]?\d+([.,]\d+)?$/;

let said = null; // what the program last said of the ladder
const nothing = () => ({ loads: 0, readings: 0, beganMs: 0, marks: [] });
let local = nothing(); // entered here and not confirmed yet; `marks` are seconds and the gauges' mean
let firstKey = 0; // when the first digit of these readings was pressed
let path = "";

const slip = (text) => (pick("slip").textContent = text);
const gauges = () => [...pick("gauges").querySelectorAll("input")];
const step = () => said.step + local.loads;
const began = () => local.beganMs || said.beganMs;
const elapsed = () => (began() ? (now() - began()) / 1000 : 0);
const holds = () => said.held || local.loads > 0;
const nextIndex = () => (local.loads ? 0 : said.readings) + local.readings;
const coming = () => said.coming[local.loads];
// How the step in hand is held: as the server said, or, of a step loaded without a network, as it was to come.
const inHand = () => (local.loads ? said.coming[local.loads - 1] || said : said);
const figure = (text) => Number(String(text).replace(",", "."));
const meanOf = (values) => values.reduce((sum, one) => sum + one, 0) / values.length;

// Whether the step in hand may end: its time is over, or its rate has fallen to the limit. The clock and the gauges of
// this page say so without the server, and ask for the same as it would.
function isOver() {
  const step = inHand();
  if (step.byTime) return nextIndex() >= step.timesS.length;
  if (!local.marks.length) return !said.held && !local.loads;
  const marks = [...(local.loads ? [] : said.marks), ...local.marks];
  const last = marks.at(-1);
  if (!said.rest || last[0] < said.rest.share * step.leastS) return false;
  const far = marks.filter((one) => last[0] - one[0] >= said.rest.overS).at(-1);
  return Boolean(far) && (60 * (last[1] - far[1])) / (last[0] - far[0]) <= said.rest.mmMin;
}

function take() {
  said = JSON.parse(document.getElementById("ladder")?.textContent || "null");
  panel.hidden = !said;
  document.body.classList.toggle("calling", Boolean(said)); // on a phone the ladder has the screen to itself
  if (!said) {
    delete desk.dataset.calling;
    return;
  }
  local = fromDevice();
  desk.dataset.calling = "steps";
  const fresh = path !== `${step()} ${said.gauges.length}`;
  path = `${step()} ${said.gauges.length}`;
  if (fresh) build();
  draw();
}

// What this device still holds of the ladder, typed before this page was told of it.
function fromDevice() {
  const found = nothing();
  for (const { path: at, read_at: read, value } of held(desk.dataset.code)) {
    const loaded = new RegExp(`^steps\\[(\\d+)\\]\\.${said.load}$`).exec(at);
    if (loaded && Number(loaded[1]) > said.step) {
      found.loads = Number(loaded[1]) - said.step;
      found.readings = 0;
      found.marks = [];
      found.beganMs = Date.parse(read) || now();
    }
    const row = /^steps\[(\d+)\]\.readings\[\]$/.exec(at);
    if (!row || Number(row[1]) !== said.step + found.loads) continue;
    found.readings += 1;
    mark(found, value, Date.parse(read) || now());
  }
  return found;
}

function mark(found, value, ms) {
  const since = found.beganMs || said.beganMs;
  const shown = said.gauges.map((g) => figure(value[g.field])).filter(Number.isFinite);
  if (since && shown.length) found.marks.push([(ms - since) / 1000, meanOf(shown)]);
}

function build() {
  pick("gauges").replaceChildren(
    ...said.gauges.map((g) => {
      const box = document.createElement("div");
      const label = Object.assign(document.createElement("label"), { htmlFor: `lad-${g.field}` });
      const was = document.createElement("small");
      was.dataset.was = g.field;
      label.append(Object.assign(document.createElement("b"), { textContent: g.letter }), " ", was);
      const input = Object.assign(document.createElement("input"), { id: `lad-${g.field}`, autocomplete: "off" });
      input.inputMode = "decimal";
      input.enterKeyHint = "next";
      input.dataset.gauge = g.field;
      input.setAttribute("aria-label", `gauge ${g.letter}, mm`);
      box.append(label, input);
      return box;
    }),
  );
}

function draw() {
  for (const g of said.gauges) {
    const was = panel.querySelector(`[data-was="${g.field}"]`);
    if (was) was.textContent = local.loads || !g.was ? "" : `was ${g.was}`;
  }
  const next = coming();
  pick("load-words").textContent = next ? `${said.loadWords}: bring it to ${next.says}` : said.loadWords;
  pick("top").hidden = !said.holds && !local.loads;
  pick("happened").replaceChildren(
    ...(said.stop ? said.stops : []).map((s) => button(s, () => send({ path: said.stop, value: s }))),
    ...said.notes.map((n) => button(n, () => note(n))),
  );
  tick();
  aim();
}

// The field whose turn it is: the gauges while the load is held, the load once it may be changed.
function aim() {
  const held = local.loads || said.holds;
  panel.dataset.turn = held && !isOver() ? "gauges" : "load";
  const active = document.activeElement;
  const typing = panel.contains(active) && active.matches("input") && active.offsetParent;
  if (typing && (active.value || (active === load) === (panel.dataset.turn === "load"))) return;
  // A field in which the hands are is never left for them: digits would land under another name.
  const elsewhere = !typing && active.matches("input, textarea, select") && (active.id !== "holding" || active.value);
  if (document.querySelector("dialog[open]") || elsewhere) return;
  first()?.focus({ preventScroll: true });
}

const first = () => (panel.dataset.turn === "gauges" ? gauges().find((i) => !i.value) || gauges()[0] : load);

const words = (due) => (due === undefined ? "" : due < 60 ? `${due} s` : `${Math.round(due / 6) / 10} min`);

// What is asked now, and when: the gauges at their time, or the load of the next step.
function title(due, left) {
  const next = coming();
  if (panel.dataset.turn === "load") {
    pick("title").textContent = next ? `Bring the load to ${next.says}` : "The last step is read";
    pick("note").textContent = next ? `${next.stress} ${said.stressUnit} ${next.part}` : "";
    return;
  }
  pick("title").textContent = `Gauges at ${words(due)}, mm`;
  const late = left < -15 ? "due now: read them" : "now";
  pick("note").textContent = left > 0 ? `in ${countdown(1000 * left)}` : late;
}

// What Enter does where the hand stands.
function keys() {
  const at = document.activeElement;
  const onward = at?.dataset?.gauge && at !== gauges().at(-1);
  const letter = onward ? said.gauges[gauges().indexOf(at) + 1].letter : "";
  const does = at === load ? "load is on" : onward ? `on to ${letter}` : "save";
  pick("pad-go").textContent = does;
  pick("go").firstChild.textContent = `${does[0].toUpperCase()}${does.slice(1)} `;
}

function tick() {
  if (!said) return;
  const seconds = elapsed();
  const clock = document.querySelector("[data-lad-clock]");
  if (clock && began()) clock.textContent = countdown(1000 * seconds);
  const water = document.querySelector("[data-lad-water]");
  const { leastS } = inHand();
  if (water && leastS) water.style.height = `${Math.min(100, (100 * seconds) / leastS)}%`;
  const { timesS } = inHand();
  const due = timesS[Math.min(nextIndex(), timesS.length - 1)];
  const left = began() && due !== undefined ? due - seconds : 0;
  title(due, left);
  keys();
  if (!frozen && holds() && began()) call(`${step()} ${nextIndex()}`, 1000 * left);
}

const send = (entry) =>
  new Promise((done) => document.dispatchEvent(new CustomEvent("vadum:keep", { detail: { entry, done } })));
const readAt = (ms) => (frozen ? undefined : iso(ms, true));

async function told(answer) {
  if (!answer || !answer.refused) return true;
  slip(answer.refused);
  local = fromDevice();
  document.dispatchEvent(new CustomEvent("vadum:refresh"));
  return false;
}

const filledIn = () => gauges().filter((i) => i.value.trim());

// A page that ends asks nothing: what is no number is written down as it stands, and asked about from the outbox.
async function keepGauges({ asks = true } = {}) {
  const filled = filledIn();
  if (!filled.length) return slip("Nothing typed. m: missed it.");
  const wrong = asks && filled.find((i) => !NUMBER.test(i.value.trim()));
  if (wrong) {
    wrong.select();
    return slip(`${wrong.value} is not a number.`);
  }
  const value = Object.fromEntries(filled.map((i) => [i.dataset.gauge, i.value.trim()]));
  for (const input of gauges()) input.value = "";
  slip("");
  const at = firstKey || now();
  firstKey = 0;
  const to = `steps[${step()}].readings[]`;
  local.readings += 1;
  mark(local, value, at);
  aim();
  first()?.focus();
  tick();
  await told(await send({ path: to, value, read_at: readAt(at) }));
}

async function keepLoad({ asks = true } = {}) {
  const typed = load.value.trim();
  if (asks && !NUMBER.test(typed)) return slip(typed ? `${typed} is not a number.` : "What does the gauge show?");
  load.value = "";
  slip("");
  const to = `steps[${said.steps + local.loads}].${said.load}`;
  const at = now();
  local = { ...nothing(), loads: local.loads + 1, beganMs: at };
  firstKey = 0;
  draw();
  first()?.focus();
  await told(await send({ path: to, value: typed, read_at: readAt(at) }));
}

// One key: topped up now; a figure in the load's field is what it had fallen to.
function topUp() {
  const from = load.value.trim();
  if (from && !NUMBER.test(from)) return slip(`${from} is not a number.`);
  load.value = "";
  const value = from ? { [said.from]: from } : { topped_at: iso(now()) };
  play("soft");
  send({ path: `steps[${step()}].top_ups[]`, value, read_at: readAt(now()) }).then(told);
}

function miss() {
  const to = `steps[${step()}].readings[]`;
  local.readings += 1;
  send({ path: to, value: { missed: "missed" }, read_at: readAt(now()) }).then(told);
  tick();
}

const note = (words) => {
  const row = nextIndex() - 1;
  return row < 0
    ? slip("Read the gauges first: it is noted at a reading.")
    : send({ path: `steps[${step()}].readings[${row}].noted`, value: words }).then(told);
};

function go(input) {
  if (input === load) return load.value.trim() ? keepLoad() : slip("What does the gauge show?");
  const all = gauges();
  const i = all.indexOf(input);
  if (i >= 0 && i < all.length - 1) return all[i + 1].focus();
  return keepGauges();
}

panel.addEventListener("input", (event) => {
  if (event.target.dataset.gauge && !firstKey) firstKey = now();
});
panel.addEventListener("focusin", tick);
panel.addEventListener("keydown", (event) => {
  if (!event.target.matches("input") || event.ctrlKey || event.metaKey) return;
  if (event.key === "Enter") go(event.target);
  else if (event.key === "p" || event.key === "P") topUp();
  else if (event.key === "m" && !event.target.value) miss();
  else return;
  event.preventDefault();
  event.stopPropagation();
});
pick("go").addEventListener("click", () => go(panel.dataset.turn === "load" || load.value ? load : gauges().at(-1)));
pick("top").addEventListener("click", topUp);
pick("miss").addEventListener("click", miss);

// A gloved thumb: keys of the page's own, which leave the field its place.
panel.querySelector(".ladpad").addEventListener("pointerdown", (event) => {
  const key = event.target.closest("[data-pad]")?.dataset.pad;
  if (!key) return;
  event.preventDefault();
  const input =
    panel.contains(document.activeElement) && document.activeElement.matches("input")
      ? document.activeElement
      : first();
  input.focus({ preventScroll: true });
  if (key === "go") go(input);
  else if (key === "missed") miss();
  else {
    input.value = key === "back" ? input.value.slice(0, -1) : input.value + key;
    input.dispatchEvent(new Event("input", { bubbles: true }));
  }
});
const hands = matchMedia("(max-width: 600px)");
const mode = () => {
  for (const input of [...gauges(), load]) input.inputMode = hands.matches ? "none" : "decimal";
};
hands.addEventListener("change", mode);
document.addEventListener("vadum:shown", () => {
  take();
  mode();
  document.dispatchEvent(new CustomEvent("vadum:calling"));
});
document.addEventListener("vadum:read", () => said && first()?.focus());
document.addEventListener("keydown", (event) => {
  if (!said || panel.hidden || document.querySelector("dialog[open]") || event.ctrlKey || event.metaKey || event.altKey)
    return;
  if (event.target.matches("input, textarea, select")) return;
  if (/^[0-9]$/.test(event.key)) first()?.focus();
  else if (event.key === "p" && holds()) topUp();
});
const saveTyped = (how) => {
  if (!said) return;
  if (filledIn().length) keepGauges(how);
  if (load.value.trim()) keepLoad(how);
};
guard({
  count: () => (said ? filledIn().length + (load.value.trim() ? 1 : 0) : 0),
  save: () => saveTyped({}),
  writeDown: () => saveTyped({ asks: false }),
});
// An ultimate that was drawn by hand on the curve: kept beside what the rules read off, a former one struck.
document.addEventListener("vadum:dragged", ({ detail: { path: drawn, value } }) => {
  const before = document.getElementById("ladder")?.dataset.hand;
  const again = before ? { strikes: [before], reason: "drawn again" } : {};
  send({ path: drawn, value: value.toFixed(0), ...again }).then(() =>
    document.dispatchEvent(new CustomEvent("vadum:refresh")),
  );
});
setInterval(tick, 200);
take();
mode();
