// Text that stands in fields of this page and is not saved: counted for the status bar, saved by one key, and written
// down when the page ends.
const counters = [];

// Each module with fields of its own counts its unsaved texts, saves them, and writes them down as the page ends.
export function guard({ count, save, writeDown = save }) {
  counters.push({ count, save, writeDown });
}
export const unsaved = () => counters.reduce((many, one) => many + one.count(), 0);
export const saveAll = () => counters.forEach((one) => one.save());

addEventListener("pagehide", () => counters.forEach((one) => one.writeDown()));
document.addEventListener("keydown", (event) => {
  if (event.key !== "Enter" || !(event.ctrlKey || event.metaKey) || document.querySelector("dialog[open]")) return;
  event.preventDefault();
  event.stopPropagation();
  saveAll();
});
document.addEventListener("input", () => document.dispatchEvent(new CustomEvent("vadum:queue")));
