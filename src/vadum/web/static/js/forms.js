// Plain forms: sent as JSON, the answer says where to go, a refusal stands beside its field.
import { say } from "./notice.js";
import { post } from "./send.js";
import { guard } from "./unsaved.js";

const base64 = (file) =>
  new Promise((done, failed) => {
    const reader = new FileReader();
    reader.onload = () => done(String(reader.result).split(",")[1] || "");
    reader.onerror = () => failed(new Error("The file could not be read."));
    reader.readAsDataURL(file);
  });

async function valueOf(field) {
  if (field.type === "checkbox") return "yes" in field.dataset ? field.checked : field.checked ? field.value : "";
  if (field.type === "file") return field.files[0] ? base64(field.files[0]) : "";
  return "number" in field.dataset && field.value !== "" ? Number(field.value.replace(",", ".")) : field.value;
}

// What is left empty is not sent: the program's own default stands for it. A list is what stands in its fields of one name.
async function bodyOf(form) {
  const body = {};
  for (const field of form.elements) {
    if (!field.name || (field.type === "radio" && !field.checked)) continue;
    const value = await valueOf(field);
    if ("list" in field.dataset) body[field.name] = [...(body[field.name] || []), ...(value === "" ? [] : [value])];
    else if (value !== "") body[field.name] = value;
    if (field.type === "file" && field.files[0] && field.dataset.named) body[field.dataset.named] = field.files[0].name;
  }
  return body;
}

function refused(form, slip, error) {
  const name = error.field || "";
  const field = name && form.elements[name];
  const label = field?.labels?.[0]?.textContent.trim().split("\n")[0];
  slip.textContent = label ? `${label}: ${error.message}` : error.message || "It could not be sent.";
  if (field?.focus) {
    field.focus();
    field.setAttribute("aria-invalid", "true");
  }
}

document.addEventListener("submit", async (event) => {
  const form = event.target;
  if (!form.matches("[data-send]")) return;
  event.preventDefault();
  const slip = form.querySelector(".slip");
  if (slip) slip.textContent = "";
  for (const field of form.elements) field.removeAttribute?.("aria-invalid");
  try {
    const answer = await post(form.getAttribute("action"), await bodyOf(form));
    for (const one of forms()) delete one.dataset.typed;
    remember({ said: form.dataset.said ?? "Saved.", ...answer });
    go(answer.go);
  } catch (error) {
    refused(form, slip || document.createElement("p"), error);
  }
});

// What was typed into a form and not sent yet: counted, sent by the one key, and asked about when the page is left.
const forms = () => [...document.querySelectorAll("form[data-send][data-typed]")];
const noteTyped = ({ target }) => {
  const form = target.closest?.("form[data-send]");
  if (form && target.type !== "password") form.dataset.typed = "1";
};
document.addEventListener("input", noteTyped, true);
document.addEventListener("reset", ({ target }) => delete target.dataset.typed);
guard({ count: () => forms().length, save: () => forms()[0]?.requestSubmit(), writeDown: () => {} });
addEventListener("beforeunload", (event) => forms().length && event.preventDefault());

// A form that opens puts the hands into its first field.
document.addEventListener(
  "toggle",
  // What was open when the page came is no wish of the hands.
  ({ target: part }) =>
    part.open && navigator.userActivation.hasBeenActive && !part.querySelector("form :focus") && first(part)?.focus(),
  true,
);
const first = (part) => part.querySelector("form[data-send] :is(input:not([type=hidden]), select, textarea)");

// What is asked for by the address opens at once.
export function openAsked() {
  const asked = new URLSearchParams(location.search);
  const part = asked.has("new") && document.querySelector(`details[data-new="${CSS.escape(asked.get("new"))}"]`);
  const one = part || (asked.has("new") && document.querySelector("details[data-new]"));
  if (one) {
    one.open = true;
    const code = one.querySelector("[name=code]");
    if (code && asked.get("code")) code.value = asked.get("code");
    first(one)?.focus();
  }
  const { said, undo } = JSON.parse(sessionStorage.getItem("vadum-said") || "{}");
  sessionStorage.removeItem("vadum-said");
  if (said && undo) say(said, () => takeBack(undo), "Undo");
  else if (said) say(said);
}

// What was done is said on the page that follows, with its undo where there is one.
export const remember = ({ said, undo }) => sessionStorage.setItem("vadum-said", JSON.stringify({ said, undo }));
export function go(address) {
  const [path] = address.split("#");
  if (path === location.pathname + location.search) location.reload();
  else location.href = address;
}
async function takeBack({ url, body, go: address }) {
  try {
    const answer = await post(url, body);
    remember({ said: "Undone.", ...answer, undo: undefined });
    go(address || answer.go || location.pathname + location.search);
  } catch (error) {
    say(`Not undone: ${error.message || "no network"}.`);
  }
}

// A part's share of its line, where the page says it: the content policy lets no style stand in the page itself.
for (const part of document.querySelectorAll("[data-share]")) part.style.flexGrow = part.dataset.share;
