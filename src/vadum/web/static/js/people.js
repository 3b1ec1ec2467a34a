// Accounts: roles, closing, sessions, and the link that lets a person choose a new pass-phrase.
import { post } from "./send.js";

const url = (row, tail) => `/api/v1/people/${encodeURIComponent(row.dataset.login)}/${tail}`;

async function act(row, tail, body = {}) {
  const slip = row.querySelector(".slip");
  slip.textContent = "";
  try {
    const answer = await post(url(row, tail), body);
    if (answer.link) showLink(row, answer);
    else location.href = answer.go;
  } catch (error) {
    slip.textContent = error.message || "It could not be sent.";
  }
}

function showLink(row, { link, hours }) {
  const dialog = document.getElementById("resetlink");
  dialog.querySelector("[data-reset-who]").textContent = row.querySelector("b").textContent;
  dialog.querySelector("[data-reset-hours]").textContent = hours;
  const text = document.getElementById("resetlink-text");
  text.value = link;
  dialog.onclose = () => location.reload();
  dialog.showModal();
  text.select();
}

document.addEventListener("click", (event) => {
  const button = event.target.closest("button");
  const row = button?.closest("[data-login]");
  if (!row) return;
  if (button.dataset.do) act(row, button.dataset.do);
  else if (button.dataset.active) act(row, "active", { active: button.dataset.active === "true" });
});
document.addEventListener("change", (event) => {
  const row = event.target.closest("[data-login]");
  if (row && "role" in event.target.dataset) act(row, "role", { role: event.target.value });
});
