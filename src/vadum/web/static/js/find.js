// The find box, and the scanner that types from anywhere: what it types is told from a hand by its speed.
import { get, person } from "./ask.js";
import { say } from "./notice.js";

export const find = () => ({
  text: "",
  rows: [],
  open: false,
  at: 0,
  asked: 0,
  async look() {
    const asked = ++this.asked;
    const text = this.text.trim();
    const rows = text ? await asking(text) : [];
    if (asked !== this.asked) return;
    this.rows = rows;
    this.open = rows.length > 0;
    this.at = Math.max(
      0,
      rows.findIndex((row) => row.go),
    );
  },
  async go() {
    await this.look();
    const row = this.rows[this.at];
    if (row?.go && row.kind !== "make") location.href = row.go;
    else if (row?.go && this.chosen) location.href = row.go;
    else this.chosen = true; // nothing was found: what could be made is offered, and made by a second Enter
  },
  chosen: false,
  down() {
    this.at = Math.min(this.at + 1, this.rows.length - 1);
    this.chosen = true;
  },
  up() {
    this.at = Math.max(this.at - 1, 0);
  },
  leave() {
    this.open = false;
  },
});

async function asking(text, more = "") {
  try {
    const answer = await get(`/api/v1/find?q=${encodeURIComponent(text)}${more}`);
    return answer.ok ? await answer.json() : [];
  } catch {
    return [];
  }
}

// A hand takes longer from key to key than any scanner; two figures and Enter within so little are no hand's.
const FASTEST_HAND_MS = 35;
const LEAST = 2;
let typed = "";
let before = 0;
let held = null; // the field the scanner typed into, and what stood there

const scans = () => localStorage.getItem("vadum-scan") !== "off";
// No secret is ever taken for a code: where somebody signs in, or beside a pass-phrase, no scanner is listened to.
const secret = (target) =>
  !person || target.type === "password" || Boolean(target.closest?.("form")?.querySelector("[type=password]"));

function listen(event) {
  if (!scans() || secret(event.target) || event.ctrlKey || event.metaKey || event.altKey || !event.isTrusted) return;
  const quick = event.timeStamp - before < FASTEST_HAND_MS;
  before = event.timeStamp;
  if (event.key === "Enter") {
    const code = quick ? typed : "";
    typed = "";
    if (code.length < LEAST || event.target.id === "find") return;
    event.preventDefault();
    event.stopImmediatePropagation();
    scanned(code, held);
    return;
  }
  if (event.key.length !== 1) return;
  if (!quick) {
    typed = "";
    const field = event.target.matches?.("input:not([type=checkbox]), textarea") ? event.target : null;
    held = field && { field, value: field.value };
  }
  typed += event.key;
}

// The code goes where it belongs: into the field that asks for such a thing, to where the thing waits, or, when nothing
// is called so, into the field as the figure it then was (a balance that types).
async function scanned(code, was) {
  if (was) set(was.field, was.value);
  const rows = (await asking(code, "&exact=true")).filter((row) => row.exact);
  const wanted = was?.field.dataset.kit;
  const fits = rows.find((row) => row.kind === wanted);
  if (fits) return enter(was.field, fits.code);
  if (rows.length) {
    say(`${rows[0].words}: ${rows[0].note}`);
    location.href = rows[0].go;
    return;
  }
  if (was && /^[-+]?\d+([.,]\d+)?$/.test(code)) return enter(was.field, code);
  say(`Nothing is called ${code}.`, `/kit?new=tin&code=${encodeURIComponent(code)}`, "Register it");
}

function set(field, value) {
  field.value = value;
  field.dispatchEvent(new Event("input", { bubbles: true }));
}

function enter(field, value) {
  set(field, value);
  field.focus();
  field.dispatchEvent(new KeyboardEvent("keydown", { key: "Enter", bubbles: true, cancelable: true }));
}

document.addEventListener("keydown", listen, true);
