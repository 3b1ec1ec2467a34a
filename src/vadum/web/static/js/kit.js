// Registering a piece: one key opens the form, which asks only what its kind is asked for.
const part = document.getElementById("register");
const form = part.querySelector("[data-kind-form]");
const kind = form.elements.kind;

function ask() {
  for (const field of form.querySelectorAll("[data-for], [data-not-for]")) {
    const only = field.dataset.for;
    field.hidden = only ? only !== kind.value : field.dataset.notFor === kind.value;
    for (const input of field.querySelectorAll("input")) input.disabled = field.hidden;
  }
}

kind.addEventListener("change", () => {
  ask();
  localStorage.setItem("vadum-kind", kind.value);
});

const asked = new URLSearchParams(location.search);
const wanted = asked.get("new") || localStorage.getItem("vadum-kind");
if ([...kind.options].some((o) => o.value === wanted)) kind.value = wanted;
ask();
if (asked.has("new")) {
  part.open = true;
  form.elements.code.value = asked.get("code") || "";
  // The kind is known: the hands go on at the number, or at the mass where the number came from a scanner.
  (asked.get("code") ? form.querySelector('[data-for="tin"] input:enabled') : form.elements.code)?.focus();
}

document.addEventListener("keydown", (event) => {
  if (event.key !== "n" || event.ctrlKey || event.metaKey || event.altKey) return;
  if (event.target.matches("input, select, textarea") || document.querySelector("dialog[open]")) return;
  event.preventDefault();
  part.open = true;
  kind.focus();
});
