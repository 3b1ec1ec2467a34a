// Where something stands, by this device, when the person asks for it: kept as readings, with how well it is known.
const desk = document.getElementById("desk");
const DIGITS = 6;
const PATIENCE_MS = 20000;

function keep(path, value) {
  document.dispatchEvent(new CustomEvent("vadum:keep", { detail: { entry: { path, value }, done: () => {} } }));
}

function found(prefix, { latitude, longitude, accuracy }) {
  keep(`${prefix}.latitude_degrees`, latitude.toFixed(DIGITS));
  keep(`${prefix}.longitude_degrees`, longitude.toFixed(DIGITS));
  keep(`${prefix}.position_within_m`, accuracy.toFixed(0));
  keep(`${prefix}.position_by`, "the device");
}

desk.addEventListener("click", (event) => {
  const button = event.target.closest("[data-locate]");
  if (!button) return;
  const says = button.nextElementSibling;
  if (!navigator.geolocation) {
    says.textContent = "This device does not say where it is: type the position.";
    return;
  }
  says.textContent = "asking the device …";
  navigator.geolocation.getCurrentPosition(
    ({ coords }) => found(button.dataset.locate, coords),
    () => (says.textContent = "Not allowed, or not found: type the position."),
    { enableHighAccuracy: true, timeout: PATIENCE_MS },
  );
});
