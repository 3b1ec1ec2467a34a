// The weighing round: tin after tin, one figure and Enter; the balance's figure by one key.
import { get } from "./ask.js";
import { claim, postEntry, Refusal, Troubled, Waiting, write } from "./send.js";

const round = document.getElementById("round");
const tins = [...round.querySelectorAll("[data-tin]")];
const stones = [...round.querySelectorAll("[data-stone]")];
const balance = round.querySelector("[data-balance]");
let at = -1;
let left = 0;
let chain = Promise.resolve();

const input = () => tins[at]?.querySelector("input");
const slip = (text, tin = tins[at]) => (tin.querySelector(".slip").textContent = text);

function go(next) {
  if (tins[at]) tins[at].hidden = true;
  stones[at]?.removeAttribute("aria-current");
  at = next;
  if (at >= tins.length) return end();
  tins[at].hidden = false;
  stones[at].setAttribute("aria-current", "step");
  input().focus();
}

function end() {
  round.querySelector(".roundacts").hidden = true;
  const last = round.querySelector("[data-end]");
  last.hidden = false;
  last.querySelector("[data-left]").textContent = left ? `${left} left in: they stand in the oven's list.` : "";
  last.querySelector("a").focus();
}

function keep(tin, field) {
  const entry = { path: field.dataset.path, value: field.value.trim() };
  const insist = field.dataset.insist === field.value;
  const taken = field.dataset.taken === field.value ? balance.value : "";
  const release = claim(tin.dataset.run, entry);
  if (!release) return;
  const mine = at;
  const words = tin.querySelector("label").textContent;
  const letter = write(`/runs/${tin.dataset.run}/entries`, entry, { insist, takenFrom: taken, words });
  const kept = chain.then(async () => {
    try {
      slip("", tin);
      await postEntry(letter);
    } catch (error) {
      if (error instanceof Refusal) {
        slip(error.slip ? `${error.message}. Enter again saves it as typed.` : error.message, tin);
        field.dataset.insist = error.slip ? field.value : "";
        field.select();
        return;
      }
      if (!(error instanceof Waiting || error instanceof Troubled)) throw error;
    }
    stones[mine].classList.add("done");
    round.querySelector("[data-done]").textContent = round.querySelectorAll("[data-stone].done").length;
    go(mine + 1);
  });
  chain = kept.finally(release);
}

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
  left += 1;
  go(at + 1);
}

round.addEventListener("submit", (event) => event.preventDefault());
round.addEventListener("keydown", (event) => {
  const field = event.target.closest("[data-tin] input");
  if (!field) return;
  if (event.key === "Enter") {
    event.preventDefault();
    if (field.value.trim()) keep(tins[at], field);
  } else if (event.key === "ArrowDown") {
    event.preventDefault();
    leave();
  } else if (event.key === "i" && !field.value) {
    event.preventDefault();
    take();
  }
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
