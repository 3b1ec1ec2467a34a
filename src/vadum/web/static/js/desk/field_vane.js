// The vane's turns: a clock for the slow turn, a count for the full ones; stone, sand and fissures by one key.
import { play } from "../sounds.js";

const desk = document.getElementById("desk");
const STORE = `vadum.turning.${desk.dataset.code}`;
const TOUCH = 500; // a touch and the key's repeat never make two turns of one

let state = read();
let lastTurn = -TOUCH;

const board = () => desk.querySelector("[data-vane]");
const at = (name) => desk.querySelector(`[data-${name}]`);
const field = (pattern) =>
  [...desk.querySelectorAll("[data-fields] input")].find((input) => pattern.test(input.dataset.path) && !input.value);

function read() {
  try {
    return JSON.parse(sessionStorage.getItem(STORE)) || {};
  } catch {
    return {};
  }
}

function store() {
  sessionStorage.setItem(STORE, JSON.stringify(state));
}

// What the hand does now: the fields that the program asks for say it.
function phase() {
  const asked = desk.dataset.asks.split(" ");
  if (asked.includes("turns_count")) return "turns";
  if (asked.some((name) => /^(peak|remoulded)_/.test(name))) return "slow";
  return "";
}

function follow() {
  const its = board();
  const panel = at("turning");
  if (!its || !panel) return;
  const doing = phase();
  const here = `${its.dataset.row} ${doing}`;
  if (state.here !== here) {
    state = { here, turns: 0, began: 0, took: 0 };
    store();
  }
  panel.hidden = !doing;
  panel.dataset.phase = doing;
  draw();
}

function minutes() {
  if (state.took) return state.took;
  return state.began ? (Date.now() - state.began) / 60000 : 0;
}

function draw() {
  const its = board();
  if (!its || !at("turning")) return;
  const many = Number(its.dataset.turns);
  at("turn-count").textContent = state.turns;
  [...at("turn-ring").children].forEach((mark, i) => {
    mark.setAttribute("class", i < state.turns ? "done" : i === state.turns ? "next" : "");
  });
  const took = minutes();
  const seconds = Math.floor(took * 60);
  at("slow-time").textContent = `${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, "0")}`;
  const most = Number(its.dataset.most) * 1.25;
  at("slow-stone").style.left = `${Math.min(100, (100 * took) / most)}%`;
  at("turning").style.setProperty("--least", `${(100 * its.dataset.least) / most}%`);
  at("turning").style.setProperty("--most", `${(100 * its.dataset.most) / most}%`);
  const counting = phase() === "turns";
  at("turn-back").hidden = !counting && !state.began;
  at("turn-back").textContent = counting ? "strike one" : "again";
  const slow = !state.began ? "Start the slow turn" : state.took ? "Read the torque" : "Greatest now";
  const words = counting ? (state.turns >= many ? "Save the turns" : "One more turn") : slow;
  at("turn-go").firstChild.textContent = `${words} `;
}

function go() {
  if (phase() === "turns") return oneMore();
  if (!state.began) {
    state.began = Date.now();
    play("tick");
  } else if (!state.took) {
    state.took = Math.max(0.1, Math.round(minutes() * 10) / 10);
    const input = field(/\.peak_min$/);
    if (input) fill(input, state.took);
  }
  field(/\.(peak|remoulded)_(n_m|kg|div)$/)?.focus();
  store();
  draw();
}

function oneMore() {
  const many = Number(board().dataset.turns);
  const input = field(/\.turns_count$/) || desk.querySelector('[data-fields] input[data-path$=".turns_count"]');
  if (state.turns >= many) {
    if (input) input.dispatchEvent(new KeyboardEvent("keydown", { key: "Enter", bubbles: true, cancelable: true }));
    return;
  }
  if (performance.now() - lastTurn < TOUCH) return;
  lastTurn = performance.now();
  state.turns += 1;
  play(state.turns === many ? "due" : "tock");
  if (input && state.turns === many) fill(input, state.turns);
  store();
  draw();
}

function fill(input, value) {
  input.value = value;
  input.dispatchEvent(new Event("input", { bubbles: true }));
}

function back() {
  if (phase() === "turns") state.turns = Math.max(0, state.turns - 1);
  else state = { ...state, began: 0, took: 0 };
  store();
  draw();
}

function note(button) {
  const its = board();
  const path = `depths[${its.dataset.row}].noted`;
  const noted = its.dataset.noted ? { strikes: [its.dataset.noted], reason: "noted anew" } : {};
  const entry = { path, value: button.dataset.note, ...noted };
  document.dispatchEvent(new CustomEvent("vadum:keep", { detail: { entry, done: () => {} } }));
}

desk.addEventListener("click", (event) => {
  const button = event.target.closest("button");
  if (!button) return;
  if ("turnGo" in button.dataset) go();
  else if ("turnBack" in button.dataset) back();
  else if (button.dataset.note) note(button);
});

const busy = (event) =>
  event.ctrlKey || event.metaKey || event.altKey || Boolean(document.querySelector("dialog[open]"));
const isNumeric = (input) => /^(number|count)$/.test(input.dataset.kind) && Boolean(input.closest("[data-fields]"));

// What a key does here; null where it means nothing to the vane.
function meant(event, input) {
  const counting = phase() === "turns";
  const empty = !input || !input.value;
  if (event.key === " ") return phase() && !event.repeat && (input || !event.target.closest("button, a")) ? go : null;
  if (event.key === "Backspace") return counting && state.turns && empty ? back : null;
  const button = (empty || counting) && desk.querySelector(`[data-note-key="${CSS.escape(event.key)}"]`);
  return button ? () => note(button) : null;
}

// Before the fields hear it: an empty field of a number takes no letter, so a letter is a note.
function pressed(event) {
  const input = event.target.closest("input, textarea, select");
  if (busy(event) || (input && !isNumeric(input))) return;
  const does = meant(event, input);
  if (!does) return;
  does();
  event.preventDefault();
  event.stopPropagation();
}
document.addEventListener("keydown", pressed, true);

setInterval(() => state.began && !state.took && draw(), 250);
document.addEventListener("vadum:shown", follow);
follow();
