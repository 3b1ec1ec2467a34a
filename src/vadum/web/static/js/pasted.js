// A list that is pasted: what each line would register is shown as it is typed; registered whole, and undone whole.
import { go, remember } from "./forms.js";
import { post } from "./send.js";
import { guard } from "./unsaved.js";

const form = document.getElementById("pasting");
const text = document.getElementById("pasted");
const due = document.getElementById("due");
const make = document.getElementById("make");
const units = document.getElementById("units");
const preview = document.getElementById("preview");
const api = `/api/v1/pasted/${form.dataset.name}`;
const said = {}; // the unit of a column, where a person has said it
const slip = (words) => (document.getElementById("slip").textContent = words);
let looks = 0;
let timer = 0;
let sent = false;

const asked = () => ({
  pasted: text.value,
  job: form.dataset.job,
  units: said,
  ...(due?.value ? { due_on: due.value } : {}),
});

function showUnits(asks) {
  units.hidden = !Object.keys(asks).length;
  units.replaceChildren(
    ...Object.entries(asks).map(([key, unit]) => {
      const label = Object.assign(document.createElement("label"), {
        textContent: `unit of ${key.replace(/_\w+$/, "")}`,
      });
      const input = Object.assign(document.createElement("input"), { placeholder: unit, value: said[key] || "" });
      input.addEventListener("change", () => {
        said[key] = input.value.trim() || unit;
        look();
      });
      label.append(" ", input);
      return label;
    }),
  );
}

async function look() {
  const mine = ++looks;
  slip("");
  make.hidden = true;
  if (!text.value.trim()) return preview.replaceChildren();
  try {
    const found = await post(`${api}/preview`, asked());
    if (mine !== looks) return; // a newer look is under way
    preview.innerHTML = found.html;
    showUnits(found.asks);
    const open = found.problems || Object.keys(found.asks).length;
    make.hidden = Boolean(open);
    make.textContent = found.words;
    if (found.problems) slip(`${found.problems} of ${found.lines} lines cannot be taken: correct them here.`);
  } catch (error) {
    if (mine !== looks) return;
    preview.replaceChildren();
    slip(error.message || "No network: try again.");
  }
}

function later() {
  make.hidden = true;
  clearTimeout(timer);
  timer = setTimeout(look, 350);
}
text.addEventListener("input", later);
due?.addEventListener("change", look);

form.addEventListener("submit", async (event) => {
  event.preventDefault();
  if (make.hidden) return;
  make.disabled = true;
  try {
    const answer = await post(api, asked());
    sent = true;
    remember(answer);
    go(answer.go);
  } catch (error) {
    slip(error.message || "No network: try again.");
  }
  make.disabled = false;
});
const isOpen = () => !sent && Boolean(text.value.trim());
guard({ count: () => (isOpen() ? 1 : 0), save: () => form.requestSubmit(), writeDown: () => {} });
addEventListener("beforeunload", (event) => isOpen() && event.preventDefault());
document.body.dataset.ready = "1";
