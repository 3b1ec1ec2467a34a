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
// Rows of {path, at, ...}: `at` is a stored figure, `power` makes the reading of it; an axis may show another unit.
const HANDLES = "handles";
const handlesOf = (view) => {
  try {
    return view.data(HANDLES);
  } catch {
    return []; // a picture without judgements to draw
  }
};
const reading = (row, at) => at ** (row.power || 1);
const STORED = [1, 0];
const axis = (view, name) => metas[views.indexOf(view)]?.axes?.[name] ?? STORED;
const placed = (view, name, stored) => view.scale(name)(stored * axis(view, name)[0] + axis(view, name)[1]);
function stored(view, name, pixel) {
  const [slope, start] = axis(view, name);
  return (view.scale(name).invert(pixel) - start) / slope;
}

function said(row, at) {
  const shown = reading(row, at) * (row.slope ?? 1) + (row.start ?? 0);
  const step = 10 ** -(row.digits ?? 2);
  const figure = (Math.round(shown / step) * step).toFixed(Math.max(row.digits ?? 2, 0));
  return row.words.replace("{}", figure.replace(".", row.decimal ?? "."));
}

// The row is changed where it is: its mark stays the same one, which a finger still holds.
const put = (view, { path }, change) =>
  view
    .change(
      HANDLES,
      Object.entries(change).reduce(
        (set, [name, value]) => set.modify((row) => row.path === path, name, value),
        vega.changeset(),
      ),
    )
    .runAsync();

// A mark that carries the path of a judgement can be dragged along the axis; what was drawn is told when it is let go.
function handles(view, onDrop) {
  const place = view.container();
  const inside = (event) => {
    const box = place.querySelector("svg").getBoundingClientRect();
    const [[x, y], around] = [view.origin(), view.padding()];
    return [event.clientX - box.left - around.left - x, event.clientY - box.top - around.top - y];
  };
  const along = (event) => Math.max(0, stored(view, "x", inside(event)[0]));
  // The mark is smaller than a thumb: a finger beside it means it too.
  const meant = (event) => {
    const [x, y] = inside(event);
    const away = (row) => Math.hypot(placed(view, "x", row.at) - x, placed(view, "y", row.high) - y);
    const [nearest] = handlesOf(view)
      .filter((row) => row.path)
      .sort((a, b) => away(a) - away(b));
    return nearest && away(nearest) <= THUMB_PX ? nearest : null;
  };
  view.addEventListener("pointerdown", (event, item) => {
    const datum = item?.datum?.path ? item.datum : event.pointerType === "touch" ? meant(event) : null;
    if (!datum) return;
    event.preventDefault();
    const row = handlesOf(view).find(({ path }) => path === datum.path);
    dragging = { view, along, onDrop, row, began: { at: row.at, label: row.label } };
  });
  // While a mark is drawn the page does not scroll away under the finger.
  place.addEventListener("touchmove", (event) => dragging && event.preventDefault(), { passive: false });
}

export function drags(onDrop) {
  for (const view of views) handles(view, onDrop);
  addEventListener("pointermove", (event) => {
    if (!dragging) return;
    const { view, row, along } = dragging;
    dragging.at = along(event);
    put(view, row, { at: dragging.at, label: said(row, dragging.at) });
  });
  addEventListener("pointerup", () => {
    const done = dragging;
    dragging = null;
    if (done && done.at !== undefined) done.onDrop({ path: done.row.path, value: reading(done.row, done.at) });
  });
  // A finger that the browser took for scrolling has drawn nothing: the mark goes back, the picture lives on.
  addEventListener("pointercancel", () => {
    if (!dragging) return;
    put(dragging.view, dragging.row, dragging.began);
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
