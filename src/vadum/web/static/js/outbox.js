// What this device holds: readings that wait to be sent, and those that were refused and wait for a person.
import { button } from "./button.js";
import { who } from "./ask.js";
import { again, letGo, onTheirWay, outbox, refused, waiting } from "./send.js";
import { saveAll, unsaved } from "./unsaved.js";

const dialog = document.getElementById("outbox");

// What the status bar says of it, what it adds where there is room, and whether a person should look.
export function saved() {
  const mine = waiting();
  const bad = refused().filter((item) => item.who === who).length;
  const open = unsaved();
  const flying = onTheirWay();
  const others = outbox().filter((item) => item.who !== who).length;
  const notYet = open ? ` · ${open} not saved` : "";
  if (mine) return [`${mine} waiting`, ` to be sent${notYet}`, true];
  if (open) return [`${open} not saved`, flying ? ` · ${flying} on their way` : "", true];
  if (bad) return [`${bad} refused`, ", stored here", true];
  if (flying) return [`${flying} on ${flying > 1 ? "their" : "its"} way`, "", false];
  return others ? [`${others} of others`, " wait here", false] : ["all saved", "", false];
}

const figure = (value) =>
  value === null
    ? "struck"
    : value.jpeg
      ? `a photograph ${value.caption}`
      : typeof value === "object"
        ? Object.values(value).join(", ")
        : String(value);

function row(item) {
  const { id, value, read_at: read } = item.body.entry;
  const line = document.createElement("li");
  const what = document.createElement("span");
  what.append(
    `${item.url.split("/")[2]} · ${item.words ? `${item.words}: ` : ""}`,
    Object.assign(document.createElement("b"), { textContent: figure(value) }),
  );
  const state = document.createElement("span");
  state.className = "q";
  const why = item.message ? `refused: ${item.message}` : "waits for the network";
  state.textContent = `${read ? `read at ${read.slice(11, 19)}; ` : ""}${why}`;
  line.append(what, state);
  if (item.message) {
    const acts = document.createElement("span");
    acts.className = "acts";
    const away = button("Discard", () =>
      away.dataset.sure
        ? letGo(id)
        : Object.assign(away, { textContent: "Discard for good" }).setAttribute("data-sure", "1"),
    );
    const why = item.asksWhy
      ? Object.assign(document.createElement("input"), { placeholder: "reason", maxLength: 400 })
      : null;
    why?.setAttribute("aria-label", "reason");
    const send = item.slip
      ? button("Save as it is", () => (why && !why.value.trim() ? why.focus() : again(id, true, why?.value.trim())))
      : button("Send again", () => again(id));
    acts.append(...(why ? [why] : []), send, away);
    line.append(acts);
  }
  return line;
}

const namesOf = (items) => [...new Set(items.map((item) => item.who))];

// On the sign-in page: whose readings wait on this device, by name alone.
export function showWaitingHere(line) {
  const items = [...refused(), ...outbox()];
  line.hidden = !items.length;
  line.textContent = namesOf(items)
    .map((name) => {
      const many = items.filter((item) => item.who === name).length;
      return `${many} reading${many > 1 ? "s" : ""} by ${name} ${many > 1 ? "wait" : "waits"} on this device.`;
    })
    .join(" ");
}

function fill() {
  // Another person's readings are named, never shown: they are sent when that person signs in.
  const items = [...refused(), ...outbox()].filter((item) => item.who === who);
  const list = document.createElement("ol");
  list.className = "held";
  list.append(...items.map(row));
  const line = (textContent) => Object.assign(document.createElement("p"), { textContent });
  const theirs = [...refused(), ...outbox()].filter((item) => item.who !== who);
  const others = namesOf(theirs).map((name) => {
    const many = theirs.filter((item) => item.who === name).length;
    return line(`${many} by ${name}: sent when ${name} signs in on this device.`);
  });
  const own = items.length ? list : line("Nothing: all readings are saved.");
  const open = unsaved();
  const save = open ? [button(`Save ${open} that ${open > 1 ? "stand" : "stands"} unsaved`, saveAll)] : [];
  dialog.querySelector("[data-outbox]").replaceChildren(...save, own, ...others);
}

export function openOutbox() {
  fill();
  dialog.showModal();
}

document.addEventListener("vadum:queue", () => dialog?.open && fill());
