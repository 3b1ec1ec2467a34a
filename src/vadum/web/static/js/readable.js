// Letters in a drawing shrink with it: none is drawn smaller than can be read, whatever the width of the screen.
const LEAST_PX = 12;

export function readable(root = document) {
  for (const drawing of root.querySelectorAll("svg[viewBox]")) {
    if (!drawing.checkVisibility() || drawing.closest(".a4, #chart, .drawn")) continue;
    for (const text of drawing.querySelectorAll("text")) {
      text.style.fontSize = "";
      const turned = text.getScreenCTM();
      const scale = turned ? Math.hypot(turned.a, turned.b) : 0;
      if (!scale) continue;
      const size = parseFloat(getComputedStyle(text).fontSize);
      if (size * scale < LEAST_PX - 0.05) text.style.fontSize = `${LEAST_PX / scale}px`;
    }
  }
}

let waiting = 0;
const later = () => {
  cancelAnimationFrame(waiting);
  waiting = requestAnimationFrame(() => readable());
};
document.fonts.ready.then(later);
addEventListener("resize", later);
document.addEventListener("vadum:shown", later);
document.addEventListener("toggle", later, true);
