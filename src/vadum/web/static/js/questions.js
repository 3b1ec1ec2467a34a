// A question stands at its field before the figure is saved: what speaks against it comes with the field, as bounds and
// their words; here they are only compared. A second Enter saves the figure as typed.
import { inputOf, nextOf, focusBox, state } from "./fields.js";
import { play } from "./sounds.js";

const PASSES_ON_MS = 500; // a key so soon after the question was not typed in answer to it
const NUMBER = /^[+-]?(\d+\.?\d*|\.\d+)(e[+-]?\d{1,3})?$|^nan$/i;
const plain = (text) =>
  text
    .trim()
    .replace(/[\s\u00a0]/g, "")
    .replace("−", "-")
    .replace(",", ".");
export const figure = (text) => (NUMBER.test(plain(text)) ? Number(plain(text)) : null);

// Why a text cannot be saved at all, or an empty text.
export function cannotBe(input) {
  const { kind } = input.dataset;
  if (!/^(number|count)$/.test(kind)) return "";
  if (/,/.test(input.value) && /\./.test(input.value)) return "Two decimal signs: leave thousands unseparated.";
  return figure(input.value) === null ? `${input.value.trim()} is not a number.` : "";
}

// What speaks against a figure, or an empty text.
export function question(input) {
  const typed = figure(input.value);
  if (typed === null || Number.isNaN(typed) || !input.dataset.asks) return "";
  const found = JSON.parse(input.dataset.asks).find(({ low, high }) => typed < low || typed > high);
  return found ? found.words.replace("{}", `${input.value.trim()} ${input.dataset.unit}`.trim()) : "";
}

const askedAt = new WeakMap();
const savesAsTyped = () =>
  document.body.classList.contains("padded") ? "Correct it, or tap Save as typed." : "Enter saves it as typed.";

export function ask(box, words, why = false) {
  const input = inputOf(box);
  box.dataset.question = input.value;
  if (why) box.dataset.asksWhy = words;
  askedAt.set(box, performance.now());
  state(box, `${words} ${why ? "Enter: use it anyway, with a reason." : savesAsTyped()}`, "asked");
  input.setAttribute("aria-invalid", "true");
  play("alarm");
}
export function answered(box) {
  delete box.dataset.question;
  delete box.dataset.asksWhy;
  inputOf(box)?.removeAttribute("aria-invalid");
  state(box, "");
}
export const insists = (box) => box.dataset.question !== undefined && box.dataset.question === inputOf(box).value;

// A figure typed at a question takes the place of the one asked about; one that was already on its way to the next field
// when the question came goes there.
export function typedAtQuestion(event, box) {
  if (event.key.length !== 1 || event.ctrlKey || event.metaKey || event.altKey) return;
  if (event.timeStamp - askedAt.get(box) < PASSES_ON_MS) {
    const next = nextOf(box);
    if (next) focusBox(next);
  } else inputOf(box).select();
}
