// A broken run: a reading is struck with a reason, and the run is tried again.
import { post } from "./send.js";

const code = document.querySelector("[data-run]").dataset.run;

document.addEventListener("submit", async (event) => {
  const form = event.target;
  if (!form.matches("[data-strike]")) return;
  event.preventDefault();
  const { strike, path } = form.dataset;
  const entry = { id: crypto.randomUUID(), path, value: null, strikes: [strike], reason: form.elements.reason.value };
  try {
    await post(`/api/v1/runs/${encodeURIComponent(code)}/entries`, { entry, insist: false });
    location.reload();
  } catch (error) {
    form.querySelector(".slip").textContent = error.message || "It could not be sent.";
  }
});
