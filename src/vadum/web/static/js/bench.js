// The bench: the count-down, the calls, the river's flow, and fresh parts from the server.
import { countdown, frozen, now } from "./clock.js";
import { play } from "./sounds.js";

const bench = document.getElementById("bench");
const zoom = bench.dataset.zoom;
const title = document.body.dataset.title;
let drawnAt = now();
let called = {};

async function refresh() {
  let answer;
  try {
    answer = await fetch(`/bench/live?zoom=${encodeURIComponent(zoom)}`);
  } catch {
    return; // no network: the clock goes on, the next refresh tells more
  }
  if (!answer.ok) return;
  const { fragments } = await answer.json();
  const focused = document.activeElement?.id === "next";
  for (const [name, html] of Object.entries(fragments)) {
    const part = bench.querySelector(`[data-fragment="${name}"]`);
    if (part && part.dataset.shown !== html) part.innerHTML = part.dataset.shown = html;
  }
  if (focused) document.getElementById("next")?.focus();
  drawnAt = now();
}

function beat() {
  const el = bench.querySelector("[data-counts-to]");
  if (el) {
    const left = Number(el.dataset.countsTo) - now();
    if (left < 600 * 60000) el.textContent = countdown(left);
    document.title = left < 3600000 ? `${countdown(left)} · ${title}` : title;
    call(el.dataset.countsTo, left);
    if (left <= 0 && !called.refreshed) {
      called.refreshed = true;
      refresh();
    }
  } else document.title = title;
  const flow = bench.querySelector(".flow");
  const river = bench.querySelector(".riversvg");
  if (flow && !frozen) flow.setAttribute("transform", `translate(${(-(now() - drawnAt) / 1000) * Number(river.dataset.pps)} 0)`);
}

// 30 s and 5 s before: soft; at the time: the other call. Once each.
function call(key, left) {
  if (called.key !== key) called = { key };
  for (const [name, at, sound] of [["thirty", 30000, "soft"], ["five", 5000, "soft"], ["due", 0, "due"]]) {
    if (left <= at && left > at - 4000 && !called[name]) {
      called[name] = true;
      play(sound);
    }
  }
}

beat();
if (!frozen) setInterval(beat, 250);
setInterval(refresh, 15000);

document.addEventListener("keydown", (event) => {
  if (event.target.matches("input, select, a, button, summary") || document.querySelector("dialog[open]")) return;
  if (event.key === "Enter") document.getElementById("next")?.click();
  const zooms = bench.querySelectorAll(".zoom a");
  if (zooms[Number(event.key) - 1]) zooms[Number(event.key) - 1].click();
});
