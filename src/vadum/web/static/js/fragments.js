// The one way that a page's moving parts are changed: by name, and only those that differ.
export function swap(root, fragments) {
  for (const [name, html] of Object.entries(fragments)) {
    const part = root.querySelector(`[data-fragment="${name}"]`);
    if (part && part.dataset.shown !== html) part.innerHTML = part.dataset.shown = html;
  }
}
