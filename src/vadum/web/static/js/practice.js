// Practice: the dials move with the hidden ground; the motor, the clock and the end of it.
import { post } from "./send.js";

const desk = document.getElementById("desk");
const dials = document.getElementById("dials");
const api = `/api/v1/practice/${desk.dataset.code}`;
let moving = false;

function turn(name, value, whole) {
  const needle = dials.querySelector(`[data-needle="${name}"]`);
  needle.setAttribute("transform", `rotate(${(360 * (value % whole)) / whole})`);
  dials.querySelector(`[data-turns="${name}"]`).setAttribute("transform", `rotate(${(36 * value) / whole})`);
}

function rest() {
  const motor = desk.querySelector('[data-practice="push"]');
  dials.hidden = !desk.dataset.calling;
  desk.classList.toggle("practising", Boolean(desk.dataset.calling));
  if (!motor) return;
  motor.hidden = moving;
  if (moving) return;
  turn("penetration", 0, 1);
  turn("ring", Number(motor.dataset.seated), 100);
}

document.addEventListener("vadum:live", ({ detail: { values } }) => {
  moving = true;
  if (values.penetration) turn("penetration", Number(values.penetration[0]), 1);
  if (values.ring) turn("ring", Number(values.ring[0]), 100);
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
desk.addEventListener("click", async (event) => {
  const asked = event.target.closest("[data-practice]");
  if (!asked) return;
  const body = { push: { speed: 1 }, pass: { seconds: Number(asked.dataset.seconds) }, reveal: {} }[asked.dataset.practice];
  const answer = await post(`${api}/${asked.dataset.practice}`, body);
  if (asked.dataset.practice === "push") {
    moving = true;
    rest();
    document.dispatchEvent(new CustomEvent("vadum:read"));
  } else location.href = answer.go;
});
path = desk.dataset.calling;
rest();
