// What this device holds: readings that wait to be sent, and those that were refused and wait for a person.
import { button } from "./button.js";
import { again, letGo, outbox, refused, waiting } from "./send.js";

const who = document.body.dataset.who || "";
const dialog = document.getElementById("outbox");

// What the waterline says of it, what it adds where there is room, and whether a person should look.
export function saved() {
  const mine = waiting();
  const bad = refused().length;
  const others = outbox().length - mine;
  if (mine) return [`${mine} waiting`, " to be sent", true];
  if (bad) return [`${bad} refused`, ", kept here", true];
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
  const waits = item.who === who ? "waits for the network" : `waits for ${item.who} to sign in`;
  const why = item.message ? `refused: ${item.message}` : waits;
  state.textContent = `${read ? `read at ${read.slice(11, 19)}; ` : ""}${why}`;
  line.append(what, state);
  if (item.message) {
    const acts = document.createElement("span");
    acts.className = "acts";
    const away = button("Let it go", () =>
      away.dataset.sure
        ? letGo(id)
        : Object.assign(away, { textContent: "Let it go for good" }).setAttribute("data-sure", "1"),
    );
    const why = item.asksWhy
      ? Object.assign(document.createElement("input"), { placeholder: "why all the same?", maxLength: 400 })
      : null;
    why?.setAttribute("aria-label", "why all the same?");
    const send = item.slip
      ? button("Keep it as it is", () => (why && !why.value.trim() ? why.focus() : again(id, true, why?.value.trim())))
      : button("Send it again", () => again(id));
    acts.append(...(why ? [why] : []), send, away);
    line.append(acts);
  }
  return line;
}

function fill() {
  const items = [...refused(), ...outbox()];
  const list = document.createElement("ol");
  list.className = "held";
  list.append(...items.map(row));
  dialog
    .querySelector("[data-outbox]")
    .replaceChildren(
      items.length ? list : Object.assign(document.createElement("p"), { textContent: "Nothing: all is saved." }),
    );
}

export function openOutbox() {
  fill();
  dialog.showModal();
}

document.addEventListener("vadum:queue", () => dialog?.open && fill());
