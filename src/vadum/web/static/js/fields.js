// The form of a desk: its boxes, one a reading; where the hands are among them; and how a form that comes anew is merged
// around what is typed. Every box carries the path of its reading, so no answer can put digits under another name.
const desk = document.getElementById("desk");
export const form = () => desk.querySelector("[data-fields]");
export const boxes = () => [...form().querySelectorAll("[data-box]")];
export const inputs = () => [...form().querySelectorAll("input")];
export const boxOf = (path) => boxes().find((box) => box.dataset.box === path);
export const inputOf = (box) => box?.querySelector("input");
const choicesOf = (box) => box.querySelector(".choices");
export const label = (input) => {
  const words = input?.labels?.[0]?.cloneNode(true);
  words?.querySelector(".need")?.remove();
  return words ? words.textContent.trim().replace(/\s+/g, " ") : "";
};

// What was passed by with an empty Enter stays passed by, also when the form comes anew.
const skipped = new Set();
export const skip = (path) => skipped.add(path);

const isShown = (box) => !box.hidden && !form().hidden && form().offsetParent !== null;
const isOptional = (box) => box.classList.contains("opt");
export const isSent = (box) => Boolean((inputOf(box) || choicesOf(box))?.dataset.sent);
export const isAsked = (box) => Boolean(box.dataset.question);
// A field whose figure comes from the register with the number that was just entered; it can still be typed.
export function awaitRegister(box, words) {
  box.dataset.awaits = "1";
  state(box, words, "sent");
}
// Another way of giving the same figure closes a field: it is passed by, and can still be typed.
export function closeOthers(box) {
  for (const path of (box.dataset.closes || "").split(" ").filter(Boolean)) {
    const other = boxOf(path);
    if (!other || !isEmpty(other)) continue;
    skip(path);
    state(other, `not needed: ${label(inputOf(box)).toLowerCase()} entered`, "closed");
  }
}
// What closed them was not saved: they are asked again.
export function openOthers(box) {
  for (const path of (box.dataset.closes || "").split(" ").filter(Boolean)) {
    skipped.delete(path);
    if (boxOf(path)?.dataset.stands === "closed") state(boxOf(path), "");
  }
}
const isEmpty = (box) => {
  const input = inputOf(box);
  if (input) return !isSent(box) && (!input.value || input.dataset.suggested === input.value);
  return Boolean(choicesOf(box)) && !isSent(box);
};
export const isOpen = (box) => isShown(box) && isEmpty(box);
export const hasText = (box) => {
  const input = inputOf(box);
  return Boolean(input?.value) && !isSent(box) && input.dataset.suggested !== input.value;
};
export const withText = () => boxes().filter(hasText);
export const questions = () => boxes().filter((box) => isShown(box) && isAsked(box));

// The next reading of the work after a box: asked, open, and not passed by. The order of the form is the order of work;
// a choice that the work can do without waits until the figures are in.
const isRequired = (box) => Boolean(box.querySelector(".need"));
const isWanted = (box) => isOpen(box) && !box.dataset.awaits && !isOptional(box) && !skipped.has(box.dataset.box);
export function nextOf(box) {
  const all = boxes();
  const after = box ? all.slice(all.indexOf(box) + 1) : all;
  return after.find((one) => isWanted(one) && (inputOf(one) || isRequired(one))) || null;
}
export const openChoice = () => boxes().find((box) => isWanted(box) && choicesOf(box)) || null;
export const besideOpen = () => boxes().filter((box) => !box.dataset.group && isOptional(box) && isEmpty(box));

export function focusBox(box) {
  const at = inputOf(box) || choicesOf(box) || box.querySelector("button");
  at?.focus();
  if (at?.dataset.suggested && at.value === at.dataset.suggested) at.select(); // what is typed takes its place
  return Boolean(at);
}

export function state(box, words, kind = "") {
  const line = box?.querySelector("[data-state]");
  if (!line) return;
  line.textContent = words;
  box.dataset.stands = kind;
}

// A reading on its way: its box shows what was entered and takes no key until the answer has come.
export function lock(box, words) {
  const input = inputOf(box);
  const at = input || choicesOf(box);
  if (!at) return;
  at.dataset.sent = "1";
  if (input) input.readOnly = true;
  for (const button of box.querySelectorAll(".choices button, .nowkey")) button.disabled = true;
  state(box, words, "sent");
}
export function unlock(box) {
  const input = inputOf(box);
  const at = input || choicesOf(box);
  if (!at) return;
  delete at.dataset.sent;
  if (input) input.readOnly = false;
  for (const button of box.querySelectorAll(".choices button, .nowkey")) button.disabled = false;
}

// A later piece of work, known from the declared order alone, is opened before the answer has come.
export function reveal() {
  const next = boxes().find((box) => box.dataset.group && box.hidden);
  if (!next) return null;
  const { group } = next.dataset;
  for (const part of form().querySelectorAll(`[data-group="${group}"]`)) part.hidden = false;
  const following = [...form().querySelectorAll(".follows")].find((line) => line.hidden);
  const words = form().querySelector("[data-onward-words]");
  if (words) words.textContent = following ? following.querySelector("b").textContent : "";
  return next;
}

const isAlive = (box) => {
  const at = document.activeElement;
  const inside = box.contains(at) && at.matches("input, .choices, .choices button");
  const input = inputOf(box);
  const waits = (input || choicesOf(box))?.dataset.sent && !box.dataset.saved;
  return Boolean(inside || hasText(box) || waits);
};

let arranging = false;
export const isArranging = () => arranging;

// The nodes in their order, around the one that has the focus: that one is never moved, so that no key goes astray.
function arrange(parent, nodes) {
  arranging = true;
  const keep = new Set(nodes);
  for (const old of [...parent.childNodes]) if (!keep.has(old)) old.remove();
  const fixed = nodes.findIndex((node) => node.contains?.(document.activeElement));
  if (fixed < 0) parent.append(...nodes);
  else {
    nodes[fixed].before(...nodes.slice(0, fixed));
    nodes[fixed].after(...nodes.slice(fixed + 1));
  }
  arranging = false;
}

// The form as the server gives it now. A box that has the focus, text or a reading on its way stays as it is, in its
// place; `say` is told where a colleague has entered the same meanwhile.
export function merge(html, say) {
  const holder = document.createElement("template");
  holder.innerHTML = html;
  const fresh = holder.content.querySelector("[data-fields]");
  const old = form();
  const before = boxes();
  const alive = before.filter(isAlive);
  const opened = new Set(alive.map((box) => box.dataset.box));
  const unfolded = old.classList.contains("unfolded");
  const nodes = [];
  for (const node of [...fresh.children]) {
    const path = node.dataset.box;
    const mine = path && alive.find((box) => box.dataset.box === path);
    if (!mine) {
      nodes.push(node);
      continue;
    }
    if (node.querySelector(".kept") && hasText(mine))
      say(`${label(inputOf(mine))}: someone else has entered it meanwhile. Yours is recorded as well if you save it.`);
    for (const name of ["opt", "first"]) mine.classList.toggle(name, node.classList.contains(name));
    if (node.dataset.group) mine.dataset.group = node.dataset.group;
    else delete mine.dataset.group;
    nodes.push(mine);
  }
  // What is typed in a box that the form has no more stays behind the box that it stood behind.
  for (const box of alive) {
    if (nodes.includes(box)) continue;
    const earlier = before.slice(0, before.indexOf(box)).reverse();
    const behind = earlier.map((one) => nodes.findIndex((n) => n.dataset?.box === one.dataset.box)).find((i) => i >= 0);
    delete box.dataset.group;
    nodes.splice(behind === undefined ? 0 : behind + 1, 0, box);
  }
  // A later piece of work in which the hand is already stays open.
  const groups = new Set(
    nodes.filter((n) => opened.has(n.dataset?.box) && n.dataset.group).map((n) => n.dataset.group),
  );
  for (const node of nodes)
    if (node.dataset?.group) {
      const most = Math.max(0, ...[...groups].map(Number));
      if (Number(node.dataset.group) <= most) node.hidden = false;
    }
  old.toggleAttribute("data-stays", fresh.hasAttribute("data-stays"));
  arrange(old, nodes);
  if (unfolded) unfold();
}

export function unfold() {
  form().classList.add("unfolded");
  for (const box of form().querySelectorAll("[data-folded]")) box.hidden = false;
  form().querySelector("[data-more]")?.setAttribute("aria-expanded", "true");
}
