// The waterline: clock, find box, save state, sound, sunlight, and the keys that work everywhere.
import { frozen, hms, now } from "./clock.js";
import { register } from "./kept.js";
import { openOutbox, saved } from "./outbox.js";
import { post } from "./send.js";
import { sounding, switchSound } from "./sounds.js";

if (localStorage.getItem("vadum-sun") === "on") document.documentElement.classList.add("sun");

function sun() {
  const sunny = document.documentElement.classList.toggle("sun");
  localStorage.setItem("vadum-sun", sunny ? "on" : "off");
  return sunny;
}

document.addEventListener("alpine:init", () => {
  Alpine.data("waterline", () => ({
    time: hms(now()),
    troubled: false,
    saved: "all saved",
    savedMore: "",
    sounding: sounding(),
    soundWord: sounding() ? "sound on" : "sound off",
    sunny: document.documentElement.classList.contains("sun"),
    init() {
      this.count();
      document.addEventListener("vadum:queue", () => this.count());
      if (!frozen) setInterval(() => (this.time = hms(now())), 250);
    },
    count() {
      [this.saved, this.savedMore, this.troubled] = saved();
    },
    outbox() {
      openOutbox();
    },
    sound() {
      this.sounding = switchSound();
      this.soundWord = this.sounding ? "sound on" : "sound off";
    },
    sun() {
      this.sunny = sun();
    },
  }));
  Alpine.data("find", () => ({
    text: "",
    rows: [],
    open: false,
    at: 0,
    asked: 0,
    async look() {
      const asked = ++this.asked;
      const text = this.text.trim();
      const answer = text ? await fetch(`/api/v1/find?q=${encodeURIComponent(text)}`) : null;
      const rows = answer && answer.ok ? await answer.json() : [];
      if (asked !== this.asked) return;
      this.rows = rows;
      this.open = rows.length > 0;
      this.at = 0;
    },
    async go() {
      await this.look();
      if (this.rows[this.at]) location.href = this.rows[this.at].go;
    },
    down() {
      this.at = Math.min(this.at + 1, this.rows.length - 1);
    },
    up() {
      this.at = Math.max(this.at - 1, 0);
    },
    leave() {
      this.open = false;
    },
  }));
});

const typing = (el) => el && (el.matches("input, select, textarea") || el.isContentEditable);

document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || typing(event.target) || document.querySelector("dialog[open]"))
    return;
  if (event.key === "/") {
    event.preventDefault();
    document.getElementById("find")?.focus();
  } else if (event.key === "?") document.getElementById("keys").showModal();
  else if (event.key === "s") location.href = "/start";
  else if (event.key === "b") location.href = "/bench";
});

// Plain forms: sent as JSON, the answer says where to go, a refusal stands beside its field.
document.addEventListener("submit", async (event) => {
  const form = event.target;
  if (!form.matches("[data-send]")) return;
  event.preventDefault();
  const slip = form.querySelector(".slip");
  slip.textContent = "";
  const body = {};
  for (const field of form.elements) {
    if (!field.name || field.value === "") continue;
    body[field.name] = "number" in field.dataset ? Number(field.value.replace(",", ".")) : field.value;
  }
  try {
    const answer = await post(form.getAttribute("action"), body);
    location.href = answer.go;
  } catch (error) {
    const field = error.field && form.elements[error.field];
    slip.textContent =
      (field ? "" : error.field ? `${error.field}: ` : "") + (error.message || "It could not be sent.");
    if (field) field.focus();
  }
});

document.addEventListener("click", (event) => {
  if (event.target.closest("[data-sun]")) sun();
  for (const menu of document.querySelectorAll("details.who[open]"))
    if (!menu.contains(event.target)) menu.open = false;
});

register();
