// A copy of a school: the settings as they stand in the table, tried and kept by the program.
import { post } from "./send.js";

const its = document.querySelector("[data-school]");
const value = (id) => document.getElementById(id).value;

document.querySelector("[data-copy]")?.addEventListener("click", async () => {
  const slip = document.getElementById("c-slip");
  slip.textContent = "";
  const typed = [...document.querySelectorAll("[data-setting]")].map((box) => [box.dataset.setting, box.value]);
  try {
    const answer = await post(`/api/v1/schools/${its.dataset.method}`, {
      based_on: its.dataset.school,
      name: value("c-name"),
      title: value("c-title"),
      about: value("c-about"),
      settings: Object.fromEntries(typed),
    });
    location.href = answer.go;
  } catch (error) {
    const box = document.querySelector(`[data-setting="${CSS.escape(error.field || "")}"]`);
    const called = box?.labels?.[0]?.textContent.trim();
    slip.textContent = called ? `${called}: ${error.message}` : error.message;
    box?.focus();
  }
});
