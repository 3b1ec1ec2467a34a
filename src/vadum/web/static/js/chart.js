// The live pictures: drawn once, fed by name; a click on a point asks to leave it out, a handle is drawn along its axis.
let views = [];

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

// One lonely point is no chart: its picture comes with the reading that makes it one.
function shownOnlyIfWorthIt(view, { series, least, words } = {}) {
  const place = view.container();
  const lacking = Boolean(least) && view.data(series).length < least;
  place.classList.toggle("lacking", lacking);
  place.dataset.lacking = lacking ? words : "";
}
let metas = [];

export async function draw(onPick) {
  const scripts = [...document.querySelectorAll("script[data-draws]")];
  const specs = scripts.map((script) => JSON.parse(script.textContent));
  metas = specs.map((spec) => spec.usermeta);
  const drawn = scripts.map((script, i) => embed(`#${script.dataset.draws}`, specs[i]));
  views = (await Promise.all(drawn)).map((one) => one.view);
  views.forEach((view, i) => shownOnlyIfWorthIt(view, metas[i]));
  for (const view of views) {
    view.addEventListener("click", (event, item) => {
      if (item && item.datum && item.datum.trial) onPick(item.datum.trial - 1);
    });
  }
}

let dragging = null;
const THUMB_PX = 24;
const HANDLES = "handles"; // rows of {path, at, ...}: `at` lies on the axis, `power` makes the reading of it
const handlesOf = (view) => {
  try {
    return view.data(HANDLES);
  } catch {
    return []; // a picture without judgements to draw
  }
};
const reading = (row, at) => at ** (row.power || 1);
const said = (row, at) => row.words.replace("{}", reading(row, at).toFixed(row.digits ?? 2));

// A mark that carries the path of a judgement can be dragged along the axis; what was drawn is told when it is let go.
function handles(view, onDrop) {
  const place = view.container();
  const inside = (event) => {
    const box = place.querySelector("svg").getBoundingClientRect();
    return [event.clientX - box.left - view.origin()[0], event.clientY - box.top - view.origin()[1]];
  };
  const along = (event) => Math.max(0, view.scale("x").invert(inside(event)[0]));
  // The mark is smaller than a thumb: a finger beside it means it too.
  const meant = (event) => {
    const [x, y] = inside(event);
    const away = (row) => Math.hypot(view.scale("x")(row.at) - x, view.scale("y")(row.high) - y);
    const [nearest] = handlesOf(view)
      .filter((row) => row.path)
      .sort((a, b) => away(a) - away(b));
    return nearest && away(nearest) <= THUMB_PX ? nearest : null;
  };
  view.addEventListener("pointerdown", (event, item) => {
    const datum = item?.datum?.path ? item.datum : event.pointerType === "touch" ? meant(event) : null;
    if (!datum) return;
    event.preventDefault();
    dragging = { view, along, onDrop, datum, rows: handlesOf(view) };
  });
  // While a mark is drawn the page does not scroll away under the finger.
  place.addEventListener("touchmove", (event) => dragging && event.preventDefault(), { passive: false });
}

export function drags(onDrop) {
  for (const view of views) handles(view, onDrop);
  addEventListener("pointermove", (event) => {
    if (!dragging) return;
    const at = dragging.along(event);
    dragging.at = at;
    const moved = (row) => (row.path === dragging.datum.path ? { ...row, at, label: said(row, at) } : row);
    dragging.view.data(HANDLES, dragging.rows.map(moved));
    dragging.view.runAsync();
  });
  addEventListener("pointerup", () => {
    const done = dragging;
    dragging = null;
    if (done && done.at !== undefined) onDrop({ path: done.datum.path, value: reading(done.datum, done.at) });
  });
  // A finger that the browser took for scrolling has drawn nothing: the mark goes back, the picture lives on.
  addEventListener("pointercancel", () => {
    if (!dragging) return;
    dragging.view.data(HANDLES, dragging.rows);
    dragging.view.runAsync();
    dragging = null;
  });
}

export async function feed(data) {
  if (!views.length || dragging) return;
  for (const view of views) {
    for (const [name, rows] of Object.entries(data)) {
      try {
        view.data(name, rows);
      } catch {
        // a series that this picture does not draw
      }
    }
  }
  views.forEach((view, i) => shownOnlyIfWorthIt(view, metas[i]));
  await Promise.all(views.map((view) => view.resize().runAsync()));
}
