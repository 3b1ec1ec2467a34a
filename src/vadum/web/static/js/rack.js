// The rack: counts the next call down, takes reading and temperature, and goes to the next cylinder by itself.
import { swap } from "./fragments.js";
import { call, ranOut } from "./calls.js";
import { countdown, frozen, iso, moment, now } from "./clock.js";
import { get } from "./ask.js";
import { claim, postEntry, Refusal, Troubled, Waiting, write } from "./send.js";

const rack = document.getElementById("rack");
const title = document.body.dataset.title;
let pick = rack.dataset.pick;
let chain = Promise.resolve();

const inputs = () => [...rack.querySelectorAll(".callfields input")];
const slip = (text) => (document.getElementById("slip").textContent = text);

async function refresh(focus = false) {
  let answer;
  try {
    answer = await get(`/rack/live?pick=${encodeURIComponent(pick)}`);
  } catch {
    return; // no network: the clock goes on, the next refresh tells more
  }
  if (!answer.ok) return;
  const { fragments } = await answer.json();
  const typing = inputs().find((i) => i === document.activeElement);
  const typed = inputs().map((i) => [i.dataset.path, i.value]);
  swap(rack, fragments);
  for (const input of inputs()) {
    const before = typed.find(([path, value]) => path === input.dataset.path && value);
    if (before && !focus) input.value = before[1];
  }
  const back = typing && inputs().find((i) => i.dataset.path === typing.dataset.path);
  if (focus) inputs()[0]?.focus();
  else back?.focus();
  beat();
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

// Readings go one after the other. A reading's own time is that of its first key, when the eye had just left the stem.
function keep(run, entry, { insist = false, input = null } = {}) {
  const release = claim(run, entry);
  if (!release) return;
  const words = input?.labels?.[0]?.textContent.trim();
  const letter = write(`/runs/${run}/entries`, entry, { insist, words });
  const kept = chain.then(async () => {
    try {
      slip("");
      const parts = await postEntry(letter);
      if (parts.broken) slip(`Kept. ${parts.broken}`);
      // What still stands behind it in the form belongs to the same vessel: it comes next.
      pick = input && inputs().indexOf(input) < inputs().length - 1 ? input.form.dataset.pick : "";
      await refresh(true);
    } catch (error) {
      if (error instanceof Waiting || error instanceof Troubled) {
        slip(error.message);
        if (input) input.value = "";
        inputs()[inputs().indexOf(input) + 1]?.focus();
      } else if (error instanceof Refusal) {
        slip(error.slip ? `${error.message}. Enter again saves it as typed.` : error.message);
        if (input) input.dataset.insist = error.slip ? input.value : "";
        input?.select();
      } else throw error;
    }
  });
  chain = kept.finally(release);
}

function step(input, by) {
  const size = Number(input.dataset.step);
  if (!size || !input.dataset.last) return;
  const digits = (input.dataset.step.split(".")[1] || "").length;
  const from = input.value ? Number(input.value.replace(",", ".")) + by * size : Number(input.dataset.last);
  input.value = from.toFixed(digits);
  input.dataset.touched ||= String(now());
}

rack.addEventListener("input", (event) => {
  if (event.target.matches(".callfields input")) event.target.dataset.touched ||= String(now());
});

rack.addEventListener("keydown", (event) => {
  const input = event.target.closest(".callfields input");
  if (!input) return;
  if (event.key === "ArrowUp" || event.key === "ArrowDown") {
    event.preventDefault();
    step(input, event.key === "ArrowUp" ? 1 : -1);
  } else if (event.key === "Enter") {
    event.preventDefault();
    if (!input.value.trim()) return; // an event is recorded by its own key, never by an Enter carried over
    const value = input.dataset.kind === "moment" ? moment(input.value) : input.value.trim();
    const entry = { path: input.dataset.path, value };
    if (input.dataset.touched && !frozen) entry.read_at = iso(Number(input.dataset.touched));
    const insist = Boolean(input.value) && input.dataset.insist === input.value;
    keep(input.form.dataset.run, entry, { insist, input });
  }
});
rack.addEventListener("submit", (event) => event.target.matches(".callfields") && event.preventDefault());

const nowInto = (field) =>
  keep(field.form.dataset.run, { path: field.dataset.path, value: iso(now()) }, { input: field });

function isIn() {
  const button = document.getElementById("insert");
  if (button) keep(button.dataset.run, { path: button.dataset.path, value: iso(now()) }, { input: inputs()[0] });
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
