// The weighing round: tin after tin, one figure and Enter; the balance's figure by one key.
import { get } from "./ask.js";
import { claim, postEntry, Refusal, Troubled, Waiting, write } from "./send.js";
import { guard } from "./unsaved.js";

const round = document.getElementById("round");
const tins = [...round.querySelectorAll("[data-tin]")];
const stones = [...round.querySelectorAll("[data-stone]")];
const balance = round.querySelector("[data-balance]");
let at = -1;
let left = 0;
let chain = Promise.resolve();

const fieldOf = (tin) => tin?.querySelector("input");
const input = () => fieldOf(tins[at]);
const slip = (text, tin = tins[at]) => (tin.querySelector(".slip").textContent = text);
const isSent = (tin) => "sent" in tin.dataset;
const hasText = (tin) => Boolean(fieldOf(tin).value.trim()) && !isSent(tin);

function go(next) {
  if (tins[at]) tins[at].hidden = true;
  stones[at]?.removeAttribute("aria-current");
  at = next;
  round.querySelector("[data-end]").hidden = at < tins.length;
  round.querySelector(".roundacts").hidden = at >= tins.length;
  if (at >= tins.length) return end();
  tins[at].hidden = false;
  stones[at].setAttribute("aria-current", "step");
  input().focus();
}

// The round ends when no tin is left that the program has a question about.
function end() {
  const asked = tins.findIndex((tin) => tin.querySelector(".slip").textContent && !isSent(tin));
  if (asked >= 0) return go(asked);
  const last = round.querySelector("[data-end]");
  last.querySelector("[data-left]").textContent = left ? `${left} left in: they stay in the oven's list.` : "";
  last.querySelector("a").focus();
}

// The hands go on to the next tin at once; what is refused is shown at its own tin, which comes back.
function keep(tin) {
  const field = fieldOf(tin);
  const entry = { path: field.dataset.path, value: field.value.trim() };
  const insist = field.dataset.insist === field.value;
  const taken = field.dataset.taken === field.value ? balance.value : "";
  const release = claim(tin.dataset.run, entry);
  if (!release) return;
  const mine = tins.indexOf(tin);
  const words = tin.querySelector("label").textContent;
  const letter = write(`/runs/${tin.dataset.run}/entries`, entry, { insist, takenFrom: taken, words });
  tin.dataset.sent = "1";
  field.readOnly = true;
  slip("", tin);
  stones[mine].classList.remove("asked");
  if (mine === at) go(mine + 1);
  const kept = chain.then(async () => {
    try {
      await postEntry(letter);
    } catch (error) {
      if (error instanceof Refusal) return refused(tin, error);
      if (!(error instanceof Waiting || error instanceof Troubled)) throw error;
    }
    stones[mine].classList.add("done");
    round.querySelector("[data-done]").textContent = round.querySelectorAll("[data-stone].done").length;
  });
  chain = kept.finally(release);
}

function refused(tin, error) {
  const field = fieldOf(tin);
  delete tin.dataset.sent;
  field.readOnly = false;
  field.dataset.insist = error.slip ? field.value : "";
  slip(error.slip ? `${error.message}. Enter again saves it as typed.` : error.message, tin);
  stones[tins.indexOf(tin)].classList.add("asked");
  if (input()?.value)
    return slip(`${tin.querySelector(".bigtin").textContent.trim()}: ${error.message}. You return to it at the end.`);
  go(tins.indexOf(tin));
  field.select();
}
guard({ count: () => tins.filter(hasText).length, save: () => tins.filter(hasText).forEach(keep) });

async function take() {
  if (!balance?.value || !input()) return;
  const field = input();
  const answer = await get(`/api/v1/instruments/${encodeURIComponent(balance.value)}/figure`).catch(() => null);
  const said = answer ? await answer.json() : { message: "No network: type the figure." };
  const found = Object.values(said.values || {}).find(([, unit]) => unit === "g");
  if (!found) return slip(said.message || "It shows no mass.");
  [field.value] = found;
  [field.dataset.taken] = found;
  field.focus();
}

function leave() {
  const field = input();
  if (field.value && field.dataset.insist === field.value) {
    field.value = ""; // the figure was asked about, and is not saved
    slip("");
    stones[at].classList.remove("asked");
  }
  if (hasText(tins[at])) return slip(`${input().value} is not saved: Enter saves it, or clear it first.`);
  left += 1;
  go(at + 1);
}

round.addEventListener("submit", (event) => event.preventDefault());
round.addEventListener("keydown", (event) => {
  const field = event.target.closest("[data-tin] input");
  if (!field) return;
  if (event.key === "Enter") {
    event.preventDefault();
    if (hasText(tins[at])) keep(tins[at]);
  } else if (event.key === "ArrowDown") {
    event.preventDefault();
    leave();
  } else if (event.key === "i" && !field.value) {
    event.preventDefault();
    take();
  }
});
// Leaving a field saves what stands in it; the buttons of the round are no leaving.
round.addEventListener("focusout", ({ target, relatedTarget }) => {
  const tin = target.closest("[data-tin]");
  if (!tin || !target.matches("input") || !document.hasFocus() || relatedTarget?.closest(".roundacts")) return;
  if (hasText(tin) && !fieldOf(tin).dataset.insist) keep(tin);
});
round.querySelector("[data-leave]")?.addEventListener("click", leave);
round.querySelector("[data-take]")?.addEventListener("click", take);
balance?.addEventListener("change", () => {
  localStorage.setItem("vadum-balance", balance.value);
  input()?.focus();
});
if (balance) balance.value = localStorage.getItem("vadum-balance") || "";
if (tins.length) go(0);
document.body.dataset.ready = "1";
