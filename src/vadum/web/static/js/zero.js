// The zero of a curve is drawn by dragging its mark, or typed; with a reason, beside the computed one.
const desk = document.getElementById("desk");
const send = (entry) =>
  new Promise((done) => document.dispatchEvent(new CustomEvent("vadum:keep", { detail: { entry, done } })));

const zeroDialog = document.getElementById("zero");
function drawZero(zero, mm) {
  document.getElementById("zero-what").textContent =
    `${zero.words}: computed ${zero.computed} mm. Both stay on the tape.`;
  const typed = document.getElementById("zero-mm");
  const why = document.getElementById("zero-why");
  typed.value = mm ?? zero.shown;
  why.value = "";
  zeroDialog.returnValue = "";
  zeroDialog.onclose = async () => {
    document.dispatchEvent(new CustomEvent("vadum:refresh"));
    if (zeroDialog.returnValue !== "keep") return;
    const [before, because] = zero.entries;
    const again = (id) => (id ? { strikes: [id], reason: why.value } : { reason: why.value });
    await send({ path: zero.path, value: typed.value.trim(), ...again(before) });
    await send({ path: zero.because, value: why.value.trim(), ...again(because) });
  };
  zeroDialog.showModal();
  (mm ? why : typed).focus();
}
const zeros = () => JSON.parse(desk.querySelector("[data-zeros]").textContent);
desk.addEventListener("click", (event) => {
  const drawn = event.target.closest("[data-draw-zero]");
  if (drawn) drawZero(zeros()[Number(drawn.dataset.drawZero)]);
});
document.addEventListener("vadum:dragged", (event) => {
  const zero = zeros().find((z) => z.path === event.detail.path);
  if (zero) drawZero(zero, event.detail.value.toFixed(2));
});
