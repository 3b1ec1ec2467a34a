// A photograph is made small on this device and sent like a reading: without a network it waits in the outbox.
import { small } from "./picture.js";
import { post, postEntry, Waiting, write } from "./send.js";

const desk = document.getElementById("desk");
const url = `/runs/${encodeURIComponent(desk.dataset.code)}/photographs`;
const form = () => desk.querySelector("[data-photo-form]");
const field = (name) => form().querySelector(`[data-photo-${name}]`);
const slip = (text) => (field("slip").textContent = text);

async function take(file) {
  slip("");
  let jpeg;
  try {
    jpeg = await small(file);
  } catch {
    return slip("This is no picture that can be read: JPEG, PNG or WebP.");
  }
  const across = field("across").value.trim().replace(",", ".");
  if (across && !(Number(across) > 0)) return slip(`${across} is no width in mm.`);
  const value = { jpeg, place: field("place").value, caption: field("caption").value.trim() };
  if (across) value.across_mm = Number(across);
  try {
    await postEntry(write(url, { path: "@photograph", value }));
    document.dispatchEvent(new CustomEvent("vadum:refresh"));
  } catch (error) {
    slip(error instanceof Waiting ? error.message : error.message || "It could not be kept.");
  }
}

desk.addEventListener("change", (event) => {
  if (!event.target.matches("[data-photo-file]") || !event.target.files.length) return;
  take(event.target.files[0]);
  event.target.value = "";
});

// A second touch leaves it out: the first one asks why.
desk.addEventListener("click", async (event) => {
  const button = event.target.closest("[data-photo-out]");
  if (!button) return;
  const asked = button.parentElement.querySelector("[data-photo-why]");
  if (!asked) {
    const why = document.createElement("input");
    Object.assign(why, { maxLength: 400, placeholder: "why?" });
    why.dataset.photoWhy = "";
    button.before(why);
    return why.focus();
  }
  if (!asked.value.trim()) return asked.focus();
  await post(`${url}/${button.dataset.photoOut}/out`, { reason: asked.value.trim() });
  document.dispatchEvent(new CustomEvent("vadum:refresh"));
});
