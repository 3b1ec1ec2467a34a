// The plane a core failed on: dragged on the drawing to its angle, or turned by the arrow keys; kept when let go.
const desk = document.getElementById("desk");
const LEAST = 0;
const MOST = 90;

const group = () => desk.querySelector("[data-plane]");
let dragging = false;

function turn(degrees) {
  const its = group();
  const { x, y, reach } = its.dataset;
  const angle = Math.min(MOST, Math.max(LEAST, Math.round(degrees)));
  const dx = reach * Math.cos((angle * Math.PI) / 180);
  const dy = reach * Math.sin((angle * Math.PI) / 180);
  const [cx, cy] = [Number(x), Number(y)];
  const place = (node, at) => Object.entries(at).forEach(([name, value]) => node.setAttribute(name, value));
  const mirror = its.querySelector("[data-plane-mirror]");
  if (mirror) place(mirror, { x1: cx - dx, y1: cy - dy, x2: cx + dx, y2: cy + dy });
  place(its.querySelector("[data-plane-line]"), { x1: cx - dx, y1: cy + dy, x2: cx + dx, y2: cy - dy });
  const handle = its.querySelector("[data-plane-handle]");
  if (handle) place(handle, { cx: cx + dx, cy: cy - dy, "aria-valuenow": angle });
  its.querySelector("[data-plane-words]").textContent = `${angle}°`;
  its.dataset.degrees = angle;
}

function keep() {
  const { entry, degrees } = group().dataset;
  const taken = { path: "plane_degrees", value: degrees };
  const again = entry ? { strikes: [entry], reason: "sketched again" } : {};
  document.dispatchEvent(new CustomEvent("vadum:keep", { detail: { entry: { ...taken, ...again }, done: () => {} } }));
}

function angleAt(event) {
  const its = group();
  const point = new DOMPoint(event.clientX, event.clientY).matrixTransform(
    desk.querySelector("[data-core]").getScreenCTM().inverse(),
  );
  const across = Math.abs(point.x - its.dataset.x);
  return (Math.atan2(Math.max(0, its.dataset.y - point.y), across) * 180) / Math.PI;
}

desk.addEventListener("pointerdown", (event) => {
  if (!event.target.closest("[data-plane-handle]")) return;
  dragging = true;
  event.preventDefault();
});
document.addEventListener("pointermove", (event) => dragging && group() && turn(angleAt(event)));
document.addEventListener("pointerup", () => {
  if (!dragging) return;
  dragging = false;
  if (group()) keep();
});
desk.addEventListener("keydown", (event) => {
  if (!event.target.closest("[data-plane-handle]")) return;
  const step = { ArrowUp: 1, ArrowDown: -1, PageUp: 10, PageDown: -10 }[event.key];
  if (step) turn(Number(group().dataset.degrees) + step);
  else if (event.key === "Enter") keep();
  else return;
  event.preventDefault();
});

function lay() {
  if (group()) turn(Number(group().dataset.degrees));
}
document.addEventListener("vadum:shown", lay);
lay();
