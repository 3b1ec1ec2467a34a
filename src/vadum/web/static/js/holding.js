// Keys typed while the next field is not known yet: shown, and delivered there one text at a time, never saved unseen.
import { boxes, focusBox, inputOf, isOpen, nextOf, state } from "./fields.js";

const desk = document.getElementById("desk");
const part = desk.querySelector("[data-holding]");
const input = document.getElementById("holding");
const STORE = `vadum-typed-ahead-${document.body.dataset.person}-${desk.dataset.code}`;
const AHEAD = "Typed ahead. Enter saves it here.";
const texts = JSON.parse(localStorage.getItem(STORE) || "[]");

export const isHolding = () => document.activeElement === input;
export const heldTexts = () => texts.length + (input.value ? 1 : 0);

function draw() {
  part
    .querySelector("[data-held-texts]")
    .replaceChildren(...texts.map((text) => Object.assign(document.createElement("li"), { textContent: text })));
  part.hidden = !texts.length && !input.value && !isHolding();
  if (texts.length) localStorage.setItem(STORE, JSON.stringify(texts));
  else localStorage.removeItem(STORE);
  document.dispatchEvent(new CustomEvent("vadum:queue"));
}

export function hold() {
  part.hidden = false;
  input.focus();
}

// Gives the first of what was typed ahead to the field that is asked now. What is still being typed follows with its
// caret, so that a figure is never split between two fields.
export function deliver() {
  const box = boxes().find((one) => one === nextOf(null)) || null;
  const field = inputOf(box);
  if (!field || !isOpen(box) || field.dataset.kind === "moment") return draw();
  const typing = isHolding();
  const text = texts.length ? texts.shift() : input.value;
  if (!text) {
    if (typing) focusBox(box);
    return draw();
  }
  const last = text === input.value && !texts.length;
  if (last) input.value = "";
  field.value = text;
  field.dispatchEvent(new Event("input", { bubbles: true }));
  if (!last) state(box, AHEAD, "ahead");
  if (!typing || !input.value) {
    field.focus();
    if (field.type !== "date") field.setSelectionRange(text.length, text.length);
  }
  draw();
}

export function writeDown() {
  if (!input.value) return;
  texts.push(input.value);
  input.value = "";
  draw();
}

input.addEventListener("keydown", (event) => {
  event.stopPropagation();
  if (event.key === "Enter") {
    event.preventDefault();
    if (input.value.trim()) writeDown();
    else document.dispatchEvent(new CustomEvent("vadum:goon"));
  } else if (event.key === "Backspace" && !input.value && texts.length) {
    event.preventDefault();
    input.value = texts.pop();
    draw();
  } else if (event.key === "Escape") {
    event.preventDefault();
    input.blur();
  }
});
input.addEventListener("input", draw);
input.addEventListener("blur", draw);
draw();
