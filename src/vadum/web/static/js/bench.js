// The bench: the count-down, the calls, the river's flow, and fresh parts from the server.
import { get } from "./ask.js";
import { swap } from "./fragments.js";
import { call, ranOut } from "./calls.js";
import { countdown, frozen, now } from "./clock.js";

const bench = document.getElementById("bench");
const zoom = bench.dataset.zoom;
const title = document.body.dataset.title;
let drawnAt = now();

async function refresh() {
  let answer;
  try {
    answer = await get(`/bench/live?zoom=${encodeURIComponent(zoom)}`);
  } catch {
    return; // no network: the clock goes on, the next refresh tells more
  }
  if (!answer.ok) return;
  const { fragments } = await answer.json();
  const focused = document.activeElement?.id === "next";
  swap(bench, fragments);
  if (focused) document.getElementById("next")?.focus();
  drawnAt = now();
  openOnNow();
  document.dispatchEvent(new CustomEvent("vadum:shown"));
}

// Where the river is wider than the screen, it opens on now: a little of what was, then what comes.
function openOnNow() {
  const box = bench.querySelector(".riverbox");
  const river = box?.querySelector(".riversvg");
  if (!river || box.scrollWidth <= box.clientWidth) return;
  const scale = river.getBoundingClientRect().width / river.viewBox.baseVal.width;
  box.scrollLeft = Number(river.dataset.now) * scale - box.clientWidth * 0.3;
}
openOnNow();

function beat() {
  const el = bench.querySelector("[data-counts-to]");
  if (el) {
    const left = Number(el.dataset.countsTo) - now();
    if (left < 600 * 60000) el.textContent = countdown(left);
    document.title = left < 3600000 ? `${countdown(left)} · ${title}` : title;
    call(el.dataset.countsTo, left, bench.querySelector(".act")?.textContent);
    if (ranOut(el.dataset.countsTo, left)) refresh();
  } else document.title = title;
  const flow = bench.querySelector(".flow");
  const river = bench.querySelector(".riversvg");
  if (flow && !frozen)
    flow.setAttribute("transform", `translate(${(-(now() - drawnAt) / 1000) * Number(river.dataset.pps)} 0)`);
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
