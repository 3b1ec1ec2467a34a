// The waterline: clock, find box, save state, sound, sunlight, and the keys that work everywhere.
import { frozen, hms, now } from "./clock.js";
import { find } from "./find.js";
import { openAsked } from "./forms.js";
import { forget, register } from "./kept.js";
import { openOutbox, saved, showWaitingHere } from "./outbox.js";
import "./readable.js";
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
  Alpine.data("find", find);
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

// What a browser does on its own account: whether a scanner types here (unless told otherwise), whether calls are spoken.
const SWITCHES = { scan: "on", voice: "off" };
const switched = (name) => localStorage.getItem(`vadum-${name}`) || SWITCHES[name];

for (const button of document.querySelectorAll("[data-switch]")) {
  const show = () => button.setAttribute("aria-pressed", String(switched(button.dataset.switch) === "on"));
  button.addEventListener("click", () => {
    const on = switched(button.dataset.switch) === "on";
    localStorage.setItem(`vadum-${button.dataset.switch}`, on ? "off" : "on");
    show();
  });
  show();
}

openAsked();

document.addEventListener("click", (event) => {
  if (event.target.closest("[data-sun]")) sun();
  for (const menu of document.querySelectorAll("details.who[open]"))
    if (!menu.contains(event.target)) menu.open = false;
});

register();
if (document.querySelector("[data-signs-in]")) {
  forget().catch(() => {});
  showWaitingHere(document.querySelector("[data-waiting-here]"));
}

// What a person was told stays away from this browser once they have seen it here.
for (const told of document.querySelectorAll("[data-told]")) {
  const seen = () => localStorage.getItem("vadum-told") === told.dataset.told;
  told.hidden = seen();
  told.querySelector("button").addEventListener("click", () => {
    localStorage.setItem("vadum-told", told.dataset.told);
    told.hidden = seen();
  });
}
