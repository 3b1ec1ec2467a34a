// Practice: the dials move with the hidden ground; the motor or the crank, the clock and the end of it.
import { post } from "./send.js";
import { sure } from "./sure.js";

const ENDS = "Its soil is shown, and no reading can be added any more.";

const desk = document.getElementById("desk");
const api = `/api/v1/practice/${desk.dataset.code}`;
let moving = false;

const dials = () => document.getElementById("dials");

// A needle at a figure: one turn is what its dial says, the small hand counts the turns.
function turn(needle, value) {
  const whole = Number(needle.dataset.aTurn);
  needle.setAttribute("transform", `rotate(${(360 * (value % whole)) / whole})`);
  const turns = dials().querySelector(`[data-turns="${needle.dataset.needle}"]`);
  turns.setAttribute("transform", `rotate(${(36 * value) / whole})`);
}
const needles = () => dials()?.querySelectorAll("[data-needle]") ?? [];

function rest() {
  const motor = desk.querySelector("[data-motor]");
  const winding = desk.querySelector("[data-winding]");
  if (dials()) dials().hidden = !desk.dataset.calling;
  desk.classList.toggle("practising", Boolean(desk.dataset.calling));
  desk.classList.toggle("moving", moving);
  if (winding) winding.hidden = !moving;
  if (!motor) return;
  motor.hidden = moving && !motor.hasAttribute("data-pumps");
  if (moving) return;
  for (const needle of needles()) turn(needle, Number(needle.dataset.at));
}

document.addEventListener("vadum:live", ({ detail: { values, pace } }) => {
  if (!moving) {
    moving = true;
    rest();
  }
  for (const needle of needles()) {
    const shown = values[needle.dataset.needle];
    if (shown) turn(needle, Number(shown[0]));
  }
  if (pace) document.dispatchEvent(new CustomEvent("vadum:pace", { detail: pace }));
});
document.addEventListener("vadum:line", ({ detail }) => {
  moving = Boolean(detail.instrument);
  rest();
});
let path = "";
document.addEventListener("vadum:calling", () => {
  if (desk.dataset.calling !== path) moving = false;
  path = desk.dataset.calling;
  rest();
});

const told = (text) => (desk.querySelector("#call-slip, [data-lad-slip]").textContent = text);
async function push() {
  const gear = desk.querySelector("[data-motor-rate]");
  if (gear && !gear.value) {
    gear.focus();
    return told("Set the motor's rate first: the school says which.");
  }
  await post(`${api}/push`, { speed: 1, ...(gear ? { rate_mm_min: Number(gear.value) } : {}) });
  told("");
  moving = true;
  rest();
  document.dispatchEvent(new CustomEvent("vadum:read"));
}
const wind = (pace) => post(`${api}/wind`, { pace }).catch((error) => told(error.message));

desk.addEventListener("click", async (event) => {
  const asked = event.target.closest("[data-practice], [data-wind]");
  if (!asked) return;
  if (asked.dataset.wind) {
    await wind(asked.dataset.wind);
    document.dispatchEvent(new CustomEvent("vadum:read"));
  } else if (asked.dataset.practice === "push") await push();
  else {
    if (asked.dataset.practice === "reveal" && !(await sure("Finish this practice?", ENDS, "Finish: show the soil")))
      return;
    const body = asked.dataset.practice === "pass" ? { seconds: Number(asked.dataset.seconds) } : {};
    location.href = (await post(`${api}/${asked.dataset.practice}`, body)).go;
  }
});
// One hand on the crank, one on the keys: neither letter can be part of a reading.
document.addEventListener(
  "keydown",
  (event) => {
    const pace = { s: "slower", f: "faster" }[event.key];
    if (!pace || !moving || !desk.querySelector("[data-winding]") || document.querySelector("dialog[open]")) return;
    if (
      event.ctrlKey ||
      event.metaKey ||
      event.altKey ||
      (event.target.matches("input, textarea, select") && event.target.id !== "call-div")
    )
      return;
    event.preventDefault();
    event.stopPropagation();
    wind(pace);
  },
  true,
);
path = desk.dataset.calling;
rest();
