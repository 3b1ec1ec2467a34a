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

export async function feed(data) {
  if (!view) return;
  for (const [name, rows] of Object.entries(data)) {
    try {
      view.data(name, rows);
    } catch {
      // a series that this picture does not draw
    }
  }
  await view.resize().runAsync();
}
