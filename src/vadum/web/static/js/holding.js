// Keys typed while the next field is not known yet: shown, and delivered there one text at a time, never saved unseen.
import { frozen, now } from "./clock.js";

export const AHEAD = "Typed ahead. Enter saves it here.";

// `page` has the part that shows them. `next()` gives the input that is asked now, or null; `mark(input)` says at it that
// its text was typed ahead; `focus(input)` puts the hands there; `goOn()` is an empty Enter.
export function typedAhead(page, name, { next, mark = () => {}, focus = (field) => field.focus(), goOn = () => {} }) {
  const part = page.querySelector("[data-holding]");
  const input = document.getElementById("holding");
  const store = `vadum-typed-ahead-${document.body.dataset.person}-${name}`;
  // Each text with the time of its first key: a reading by the clock was read then, whenever its field came.
  const texts = JSON.parse(localStorage.getItem(store) || "[]");
  let firstKey = 0;

  const isHolding = () => document.activeElement === input;
  const heldTexts = () => texts.length + (input.value ? 1 : 0);

  function draw() {
    part
      .querySelector("[data-held-texts]")
      .replaceChildren(...texts.map(({ text }) => Object.assign(document.createElement("li"), { textContent: text })));
    part.hidden = !texts.length && !input.value && !isHolding();
    if (texts.length) localStorage.setItem(store, JSON.stringify(texts));
    else localStorage.removeItem(store);
    document.dispatchEvent(new CustomEvent("vadum:queue"));
  }

  function hold() {
    part.hidden = false;
    input.focus();
  }

  // Gives the first of what was typed ahead to the field that is asked now. What is still being typed follows with its
  // caret, so that a figure is never split between two fields.
  function deliver() {
    const field = next();
    if (!field) return draw();
    const typing = isHolding();
    const { text, at } = texts.length ? texts.shift() : { text: input.value, at: firstKey };
    if (!text) {
      if (typing) focus(field);
      return draw();
    }
    const last = text === input.value && !texts.length;
    if (last) take();
    field.value = text;
    if (at && !frozen) field.dataset.touched = String(at);
    field.dispatchEvent(new Event("input", { bubbles: true }));
    if (!last) mark(field);
    if (!typing || !input.value) {
      field.focus();
      if (field.type !== "date") field.setSelectionRange(text.length, text.length);
    }
    draw();
  }

  function take() {
    const held = { text: input.value, at: firstKey };
    input.value = "";
    firstKey = 0;
    return held;
  }
  function writeDown() {
    if (!input.value) return;
    texts.push(take());
    draw();
  }

  input.addEventListener("keydown", (event) => {
    event.stopPropagation();
    if (event.key === "Enter") {
      event.preventDefault();
      if (input.value.trim()) writeDown();
      else goOn();
    } else if (event.key === "Backspace" && !input.value && texts.length) {
      event.preventDefault();
      const back = texts.pop();
      input.value = back.text;
      firstKey = back.at;
      draw();
    } else if (event.key === "Escape") {
      event.preventDefault();
      input.blur();
    }
  });
  input.addEventListener("input", () => {
    firstKey ||= now();
    draw();
  });
  input.addEventListener("blur", draw);
  draw();
  return { isHolding, heldTexts, hold, deliver, writeDown };
}
