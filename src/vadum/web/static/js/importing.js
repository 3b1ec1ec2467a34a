// A table of readings: looked at, its columns matched, every wrong cell shown; kept whole or not at all.
import { remember } from "./forms.js";
import { post, Refusal } from "./send.js";

const box = document.getElementById("importing");
const base = `/api/v1/runs/${box.dataset.code}/import`;
const at = (id) => document.getElementById(id);
let source = "pasted";
let insist = false;
const said = []; // the unit of each column, where a person has said it
let open = []; // what has to be confirmed before the table is imported

const asked = (columns) => ({
  rows: at("rows").value,
  text: at("text").value,
  source,
  insist,
  ...(columns ? { columns } : {}),
  ...(said.length ? { units: said } : {}),
});
const chosen = () => {
  const all = [...at("table").querySelectorAll("select")].map((s) => s.value);
  return all.length ? all : null;
};

function element(name, words, className = "") {
  const made = document.createElement(name);
  made.textContent = words;
  made.className = className;
  return made;
}

function show(found) {
  const table = element("table", "", "sheetin");
  const head = table.createTHead().insertRow();
  head.append(element("th", "line"));
  found.heads.forEach((words, i) => {
    const cell = element("th", "");
    const select = document.createElement("select");
    select.setAttribute("aria-label", `column ${words} is`);
    select.append(new Option("not used", ""));
    for (const { field, title } of found.choices) select.append(new Option(title, field));
    select.value = found.fields[i];
    select.addEventListener("change", () => look(chosen()));
    cell.append(element("span", words, "head"), select, unitOf(found.units[i], i));
    head.append(cell);
  });
  const body = table.createTBody();
  for (const { line, cells } of found.rows) {
    const row = body.insertRow();
    row.append(element("td", line, "n"));
    const width = Math.max(cells.length, found.heads.length);
    for (let i = 0; i < width; i++) {
      const bad = found.wrong.some((w) => w.line === line && w.column === (found.heads[i] || `column ${i + 1}`));
      row.append(element("td", cells[i] ?? "", bad ? "bad" : found.fields[i] ? "" : "unused"));
    }
  }
  at("table").replaceChildren(table);
  if (found.more) at("table").append(element("p", `and ${found.more} more rows`, "q"));
  wrongs(found.wrong);
  at("keepbox").hidden = found.wrong.length > 0;
  open = found.units.map((u, i) => u.asks && `${found.heads[i]}: ${u.asks}`).filter(Boolean);
  const many = `${found.entries} ${found.entries === 1 ? "row" : "rows"}`;
  at("keep").textContent = open.length ? `Import ${many}, units as assumed` : `Import ${many}`;
  at("keepnote").textContent = open.join(" · ");
}

// The unit of a column: as its head says it, what it becomes, or a field where it has to be said.
function unitOf({ said: written, unit, changes, asks }, i) {
  if (!unit) return element("span", "");
  if (!asks) return element("span", changes ? `${written} → ${unit}` : unit, "unit");
  const input = Object.assign(document.createElement("input"), { placeholder: `unit: ${unit}?`, value: said[i] || "" });
  input.setAttribute("aria-label", `unit of column ${i + 1}`);
  input.className = "unit";
  input.addEventListener("change", () => {
    said[i] = input.value.trim();
    for (let k = 0; k < i; k++) said[k] ||= "";
    look(chosen());
  });
  return input;
}

function wrongs(list) {
  at("wrongs").replaceChildren(...list.map((w) => element("li", `line ${w.line}, ${w.column}: ${w.problem}`)));
}

let looks = 0;
async function look(columns = null) {
  const mine = ++looks;
  at("slip").textContent = "";
  insist = false;
  try {
    const found = await post(`${base}/preview`, asked(columns));
    if (mine === looks) show(found); // else a newer look is under way, and its answer counts
  } catch (error) {
    if (mine !== looks) return;
    at("keepbox").hidden = true;
    at("table").replaceChildren();
    wrongs([]);
    at("slip").textContent = error.message || "It could not be sent.";
  }
}

async function keep() {
  at("slip").textContent = "";
  try {
    const answer = await post(base, asked(chosen()));
    remember(answer);
    location.href = answer.go;
  } catch (error) {
    if (!(error instanceof Refusal)) throw error;
    at("slip").textContent = error.message;
    at("keepnote").textContent = "Import again to bring it in as it is.";
    insist = true;
  }
}

at("look").addEventListener("click", () => look());
at("keep").addEventListener("click", keep);
at("rows").addEventListener("change", () => at("text").value.trim() && look());
at("text").addEventListener("paste", () => setTimeout(look, 0));
at("file").addEventListener("change", async () => {
  const file = at("file").files[0];
  if (!file) return;
  source = file.name.slice(0, 40);
  at("text").value = await file.text();
  look();
});
document.body.dataset.ready = "1";
