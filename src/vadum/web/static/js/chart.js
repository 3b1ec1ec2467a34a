// The live picture: drawn once, fed by name; a click on a point asks to leave it out.
let view = null;

export const embed = (place, spec) =>
  vegaEmbed(place, spec, {
    mode: "vega-lite",
    ast: true,
    actions: false,
    defaultStyle: false,
    renderer: "svg",
    logLevel: vega.Error, // an empty picture is no fault
    tooltip: { disableDefaultStyle: true },
  });

export async function draw(onPick) {
  const spec = JSON.parse(document.getElementById("spec").textContent);
  view = (await embed("#drawn", spec)).view;
  view.addEventListener("click", (event, item) => {
    if (item && item.datum && item.datum.trial) onPick(item.datum.trial - 1);
  });
}

let dragging = null;
const THUMB_PX = 24;
const drawsZeros = () => {
  try {
    return Boolean(view.data("zeros"));
  } catch {
    return false; // a picture without judgements to draw
  }
};
// A mark that carries the path of a judgement can be dragged along the axis; what was drawn is told when it is let go.
export function drags(onDrop) {
  const place = document.getElementById("drawn");
  const inside = (event) => {
    const box = place.querySelector("svg").getBoundingClientRect();
    return [event.clientX - box.left - view.origin()[0], event.clientY - box.top - view.origin()[1]];
  };
  const along = (event) => Math.max(0, view.scale("x").invert(inside(event)[0]));
  const rows = () => (drawsZeros() ? view.data("zeros").filter((row) => row.path) : []);
  // The mark is smaller than a thumb: a finger beside it means it too.
  const meant = (event) => {
    const [x, y] = inside(event);
    const away = (row) => Math.hypot(view.scale("x")(row.penetration_mm) - x, view.scale("y")(row.force_kn) - y);
    const [nearest] = rows().sort((a, b) => away(a) - away(b));
    return nearest && away(nearest) <= THUMB_PX ? nearest : null;
  };
  view.addEventListener("pointerdown", (event, item) => {
    const datum = item?.datum?.path ? item.datum : event.pointerType === "touch" ? meant(event) : null;
    if (!datum) return;
    event.preventDefault();
    dragging = { datum, rows: view.data("zeros") };
  });
  // While a mark is drawn the page does not scroll away under the finger.
  place.addEventListener("touchmove", (event) => dragging && event.preventDefault(), { passive: false });
  addEventListener("pointermove", (event) => {
    if (!dragging) return;
    const value = along(event);
    dragging.value = value;
    view.data(
      "zeros",
      dragging.rows.map((row) =>
        row.path === dragging.datum.path
          ? { ...row, penetration_mm: value, label: `zero at ${value.toFixed(2)} mm` }
          : row,
      ),
    );
    view.runAsync();
  });
  addEventListener("pointerup", () => {
    const done = dragging;
    dragging = null;
    if (done && done.value !== undefined) onDrop({ path: done.datum.path, value: done.value });
  });
  // A finger that the browser took for scrolling has drawn nothing: the mark goes back, the picture lives on.
  addEventListener("pointercancel", () => {
    if (!dragging) return;
    view.data("zeros", dragging.rows);
    dragging = null;
    view.runAsync();
  });
}

export async function feed(data) {
  if (!view || dragging) return;
  for (const [name, rows] of Object.entries(data)) {
    try {
      view.data(name, rows);
    } catch {
      // a series that this picture does not draw
    }
  }
  await view.resize().runAsync();
}
