// The fields of a desk, and where the hands are among them: held while a colleague enters, then on at the next one.
const desk = document.getElementById("desk");
export const form = () => desk.querySelector("[data-fields]");
export const inputs = () => [...form().querySelectorAll("input")];
export const label = (input) => input?.labels?.[0]?.textContent.trim() || "";
export const nextAfter = (input) => inputs()[inputs().indexOf(input) + 1];

// A field that somebody is at, as it stands: its box, its place, what is marked in it.
export function holdField(input) {
  const box = input.closest(".fld");
  const place = [...form().querySelectorAll(".fld")].indexOf(box);
  return { input, box, place, from: input.selectionStart, to: input.selectionEnd };
}

export function putBack({ input, box, place, from, to }, say) {
  const same = inputs().find((i) => i.dataset.path === input.dataset.path);
  const boxes = [...form().querySelectorAll(".fld")];
  if (same) same.closest(".fld").replaceWith(box);
  else if (boxes[place]) boxes[place].before(box);
  else form().append(box);
  if (!same) say(`${label(input)}: a colleague has entered it meanwhile. Yours is kept beside it if you go on.`);
  input.focus({ preventScroll: true });
  if (from !== null && input.type !== "date") input.setSelectionRange(from, to);
}

// The hands go on at the field they were at, else at the first that is empty; never away from another place of work.
export function focusNext(active, lingered = false) {
  const now = document.activeElement;
  const elsewhere = now && now !== document.body && now.isConnected && !form().contains(now);
  if (elsewhere || document.querySelector("dialog[open]")) return;
  focusWork(active, lingered);
}

// Where the work is: the field of before, else the first open one; the sheet when all is done.
export function focusWork(active = "", lingered = false) {
  const open = inputs().filter((i) => !i.value);
  const next =
    inputs().find((i) => i.dataset.path === active && !i.dataset.sent) ||
    (lingered && open.find((i) => "lingers" in i.dataset)) ||
    open[0];
  (next || desk.querySelector('[data-sign="ready"]') || form().querySelector("button"))?.focus();
}
