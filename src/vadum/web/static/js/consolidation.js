// t90 on the root-time picture is dragged, or moved by the arrow keys, and kept when it is let go.
const desk = document.getElementById("desk");
let dragging = false;

const picture = () => desk.querySelector("[data-settled]");
const mark = () => picture()?.querySelector("[data-t90]");

function move(x) {
  const { wide, mostRoot } = picture().dataset;
  const at = Math.min(Number(wide), Math.max(1, x));
  const minutes = ((at / wide) * mostRoot) ** 2;
  mark().setAttribute("transform", `translate(${at} 0)`);
  mark().querySelector("[data-t90-words]").textContent = `t90 ${minutes.toPrecision(3)} min`;
  mark().querySelector("[data-t90-handle]").setAttribute("aria-valuenow", at.toFixed(1));
  picture().dataset.minutes = minutes.toPrecision(4);
  picture().dataset.at = at;
}

function keep() {
  const { path, entry, minutes } = picture().dataset;
  if (!minutes) return;
  const again = entry ? { strikes: [entry], reason: "drawn again" } : {};
  const taken = { path, value: minutes, ...again };
  document.dispatchEvent(new CustomEvent("vadum:keep", { detail: { entry: taken, done: () => {} } }));
}

function xOf(event) {
  const svg = picture();
  return new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse()).x;
}

desk.addEventListener("pointerdown", (event) => {
  if (!event.target.closest("[data-t90-handle]")) return;
  dragging = true;
  event.preventDefault();
});
document.addEventListener("pointermove", (event) => dragging && mark() && move(xOf(event)));
document.addEventListener("pointerup", () => {
  if (!dragging) return;
  dragging = false;
  if (mark()) keep();
});
desk.addEventListener("keydown", (event) => {
  if (!event.target.closest("[data-t90-handle]")) return;
  const here = Number(picture().dataset.at ?? event.target.getAttribute("aria-valuenow"));
  const step = { ArrowRight: 2, ArrowLeft: -2 }[event.key];
  if (step) move(here + step);
  else if (event.key === "Enter") keep();
  else return;
  event.preventDefault();
});
