// The one way that a page's moving parts are changed: by name, and only those that differ. What a finger or a key is
// pressing stays until it is released: an answer that came in between would take the button from under it, and the
// browser would report no click.
let pressed = null;
let begun = null; // where the last press of a pointer began
let later = [];
let timer = 0;
const CLICK_MS = 300; // a tap's click comes in a task of its own, soon after the finger is lifted

const press = (event) => {
  if (event.type === "pointerdown") begun = event.target;
  if (event.type !== "keydown" || (event.key === " " && event.target.matches("button, summary")))
    pressed = event.target;
};
function release() {
  clearTimeout(timer);
  pressed = null;
  const waiting = later;
  later = [];
  for (const { change } of waiting) change();
}
const releaseIn = (ms) => () => {
  if (!pressed && !later.length) return;
  clearTimeout(timer);
  timer = setTimeout(release, ms);
};
const listen = (types, listener) => types.forEach((type) => addEventListener(type, listener, true));
listen(["pointerdown", "keydown"], press);
listen(["pointerup", "keyup"], releaseIn(CLICK_MS));
listen(["pointercancel"], release);
addEventListener("blur", (event) => event.target === window && release());
// A click belongs to what its press began on. Where the page has moved meanwhile, on a phone that is slow to make the
// click of a tap, another thing lies under the finger, and nobody meant that. A key's click has no press of a pointer.
const strays = ({ isTrusted, detail, target }, from) =>
  isTrusted && detail > 0 && from?.isConnected && !target.contains(from) && !from.contains(target);
// Whoever answers the click changes the page at once.
listen(["click"], (event) => {
  if (strays(event, begun)) {
    event.preventDefault();
    event.stopImmediatePropagation();
  }
  begun = null;
  pressed = null;
  releaseIn(0)();
});

// Runs a change of a part of the page: at once, or when what is being pressed in it is released. The changes
// of one part keep their order.
export function whenReleased(part, change) {
  const waits = later.some((one) => one.part === part);
  if (waits || (pressed && part.contains(pressed))) later.push({ part, change });
  else change();
}

export function swap(root, fragments) {
  for (const [name, html] of Object.entries(fragments)) {
    const part = root.querySelector(`[data-fragment="${name}"]`);
    if (!part || part.dataset.shown === html) continue;
    part.dataset.shown = html;
    whenReleased(part, () => (part.innerHTML = html));
  }
}
