// A photograph of a specimen, on its sample's page: made small on this device and sent.
import { small } from "./picture.js";
import { post } from "./send.js";

document.addEventListener("change", async (event) => {
  const form = event.target.closest("[data-specimen-photo]");
  if (!form || !event.target.matches("[data-photo-file]") || !event.target.files.length) return;
  const field = (name) => form.querySelector(`[data-photo-${name}]`);
  const across = field("across").value.trim().replace(",", ".");
  const body = { caption: field("caption").value.trim() };
  if (across) body.across_mm = Number(across);
  try {
    body.jpeg = await small(event.target.files[0]);
    location.href = (await post(form.dataset.url, body)).go;
  } catch (error) {
    field("slip").textContent = error.status ? error.message : "This is no picture that can be read, or no network.";
  }
});
