// The line to an instrument: what is heard, its live figure, who takes the readings. Hand entry is never touched.
import { get } from "./ask.js";
import { button } from "./button.js";
import { post } from "./send.js";

const desk = document.getElementById("desk");
const bar = document.getElementById("listening");
const choose = desk.querySelector("[data-listen]");
const api = `/api/v1/runs/${desk.dataset.code}/instrument`;
const WORDS = {
  connecting: "looking for it …",
  connected: "heard",
  silent: "silent: nothing comes",
  lost: "line lost, looking for it",
};
let line = null;
let figures = {};

const part = (name) => bar.querySelector(`[data-line-${name}]`);

function act(words, key, what) {
  return button([words, ...(key ? [Object.assign(document.createElement("kbd"), { textContent: key })] : [])], () =>
    what()
      .catch((error) => (part("state").textContent = error.message))
      .finally(() => document.dispatchEvent(new CustomEvent("vadum:read"))),
  );
}

const order = (command) => () => post(`${api}/command`, { command }).then(tell);
const starts = () => line.commands.includes("start");

// What a person may do with an instrument: a frame takes the called readings, others give their figure to a field.
function actsOf(heard) {
  if (line.kind !== "frame" && !line.samples) {
    return [
      ...(heard && starts() ? [act("Start", "", order("start"))] : []),
      ...(heard ? [act("Take ", "i", async () => take())] : []),
    ];
  }
  if (line.takes) {
    // A jack is pumped on, step after step, and topped up; anything else is only stopped.
    const pumps = line.commands.includes("top");
    const more = pumps ? [act("Pump on", "", order("start")), act("Top up", "", order("top"))] : [];
    return [...(heard ? more : []), act("Stop", "", order("stop"))];
  }
  if (!heard || !(desk.dataset.calling || line.samples)) return [];
  return [starts() ? act("Start, take readings", "", order("start")) : act("Take readings from it", "", order("take"))];
}

function show() {
  const on = Boolean(line && line.instrument);
  bar.hidden = !on;
  choose.hidden = on;
  if (!on) return;
  const heard = line.state === "connected";
  bar.classList.toggle("lost", !heard && line.state !== "connecting");
  part("name").textContent = line.instrument;
  const by =
    line.kind !== "frame" && !line.samples ? "" : line.takes && heard ? ", it takes the readings" : ", read by hand";
  part("state").textContent =
    `${line.simulated ? "simulated, " : ""}${WORDS[line.state]}${by}${line.why ? ` (${line.why})` : ""}`;
  if (!heard) part("figures").textContent = "";
  const acts = heard || line.takes ? actsOf(heard) : [];
  acts.push(act("Leave", "", () => post(api, { instrument: "" }).then(tell)));
  part("acts").replaceChildren(...acts);
}

function tell(said) {
  line = said && said.instrument ? said : null;
  show();
}

function live(said) {
  if (!line) return; // whose figure it is comes first: until then no key would take it
  figures = said.values;
  part("figures").textContent = Object.values(figures)
    .map(([value, unit]) => `${value} ${unit}`)
    .join(" · ");
  bar.dataset.seq = said.seq ?? "";
  if (said.pace) document.dispatchEvent(new CustomEvent("vadum:pace", { detail: said.pace }));
  if (line.state !== "connected") {
    line.state = "connected";
    show();
  }
}

// The figure goes into the field that has the focus, or the first open one, where the unit is the same.
function take() {
  const fits = (i) => Object.values(figures).find(([, unit]) => i.dataset.unit === unit);
  const open = [...desk.querySelectorAll("[data-fields] input")].filter((i) => !i.value && fits(i));
  const first = open.find((i) => i === document.activeElement) || open[0];
  if (!first) return;
  [first.value] = fits(first);
  first.dataset.taken = first.value;
  first.dataset.instrument = line.instrument;
  first.focus();
}

if (bar) {
  document.addEventListener("vadum:live", (event) => live(event.detail));
  document.addEventListener("vadum:line", (event) => tell(event.detail));
  document.addEventListener("vadum:shown", show);
  document.addEventListener("vadum:calling", show);
  document.addEventListener("keydown", (event) => {
    const typing =
      event.target.matches("input, textarea, select") &&
      (event.target.value || !/decimal|numeric/.test(event.target.inputMode));
    if (event.key !== "i" || !line || line.kind === "frame" || typing || event.ctrlKey || event.metaKey || event.altKey)
      return;
    event.preventDefault();
    take();
  });
  choose.addEventListener("click", (event) => {
    const asked = event.target.closest("[data-listen-to]");
    if (!asked) return;
    choose.open = false;
    tell({ instrument: asked.dataset.listenTo, state: "connecting", kind: "", commands: [] });
    post(api, { instrument: asked.dataset.listenTo })
      .then(tell)
      .catch((error) => {
        tell(null);
        document.getElementById("slip").textContent = error.message;
      });
  });
  const ask = async () => {
    const answer = await get(api);
    if (!answer.ok) return;
    const said = await answer.json();
    tell(said);
    if (said.live) live(said.live);
  };
  const asked = () => ask().catch(() => {}); // no network: the hand goes on, and it is asked again when it is back
  addEventListener("online", asked);
  asked();
}
