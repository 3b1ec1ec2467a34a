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
// A mark that carries the path of a judgement can be dragged along the axis; what was drawn is told when it is let go.
export function drags(onDrop) {
  const place = document.getElementById("drawn");
  const along = (event) => {
    const box = place.querySelector("svg").getBoundingClientRect();
    return Math.max(0, view.scale("x").invert(event.clientX - box.left - view.origin()[0]));
  };
  view.addEventListener("pointerdown", (event, item) => {
    if (!item?.datum?.path) return;
    event.preventDefault();
    dragging = { datum: item.datum, rows: view.data("zeros") };
  });
  addEventListener("pointermove", (event) => {
    if (!dragging) return;
    const value = along(event);
    dragging.value = value;
    view.data("zeros", dragging.rows.map((row) => (row.path === dragging.datum.path ? { ...row, penetration_mm: value, label: `zero at ${value.toFixed(2)} mm` } : row)));
    view.runAsync();
  });
  addEventListener("pointerup", () => {
    const done = dragging;
    dragging = null;
    if (done && done.value !== undefined) onDrop({ path: done.datum.path, value: done.value });
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
